"""Sent once: a service that makes something never makes it twice for one form."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar
from uuid import UUID

from django.apps import apps
from django.db import models, transaction
from django.http import HttpRequest
from django.utils.translation import gettext

from calmtin.common.models import Sent
from calmtin.core.errors import CalmTinError

P = ParamSpec("P")
R = TypeVar("R")


class SentAlready(CalmTinError):
    """The key of this form was used for another action, or by another maker."""


def sent_once(service: Callable[P, R]) -> Callable[..., R]:
    """Let `service(user, ...)` take a `request_key`; the same key is acted on once.

    The whole service becomes atomic. Sent again, it returns the row that it made,
    or None where it made none. A key that was used otherwise raises `SentAlready`
    and changes nothing.
    """
    name = f"{service.__module__}.{service.__name__}".removeprefix("calmtin.")

    @wraps(service)
    @transaction.atomic
    def once(user: Any, *args: Any, request_key: UUID | None = None, **kwargs: Any) -> Any:
        if request_key is None:
            return service(user, *args, **kwargs)
        before = Sent.objects.filter(key=request_key).first()
        if before is not None:
            return _made_before(user, before, name)
        made = service(user, *args, **kwargs)
        row = made if isinstance(made, models.Model) else None
        Sent.objects.create(
            owner=user,
            key=request_key,
            what=name,
            made="" if row is None else row._meta.label,
            made_pk=None if row is None else row.pk,
        )
        return made

    return once


def _made_before(user: Any, before: Sent, name: str) -> Any:
    if before.owner_id != user.pk or before.what != name:
        raise SentAlready(gettext("This form was already sent. Reload the page and fill it in again."))
    if not before.made:
        return None
    return apps.get_model(before.made).objects.of(user).filter(pk=before.made_pk).first()


def key_of(request: HttpRequest) -> UUID | None:
    """Return the key that a form was sent with; None where it is missing or unreadable."""
    try:
        return UUID(request.POST.get("request_key", ""))
    except ValueError:
        return None
