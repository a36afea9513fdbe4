"""How often anybody may try a password: by name and address together, by address, and by name."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from axes.exceptions import AxesBackendPermissionDenied
from axes.helpers import get_client_ip_address, get_cool_off
from axes.models import AccessAttempt
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone
from django.utils.translation import gettext

# django-axes counts eight failures by one name from one address. A name alone is given more, or a
# stranger could lock its maker out; an address alone too, since a household may share one.
MOST_BY_ADDRESS, MOST_BY_NAME = 24, 60


class KnockingBackend:
    """Refuses a sign-in after too many failed attempts, before a password is hashed."""

    def authenticate(self, request: HttpRequest | None, username: str | None = None, **_: Any) -> None:
        """Raise `PermissionDenied` for an address or a name with too many failures of late."""
        if request is None:
            return
        since = timezone.now() - (get_cool_off() or timedelta())
        attempts = AccessAttempt.objects.filter(attempt_time__gte=since)
        for most, field, value in (
            (MOST_BY_ADDRESS, "ip_address", get_client_ip_address(request)),
            (MOST_BY_NAME, "username", username),
        ):
            failed = attempts.filter(**{field: value}).aggregate(n=Sum("failures_since_start"))["n"]
            if failed is not None and failed >= most:
                request.axes_locked_out = True  # type: ignore[attr-defined]  # its middleware reads it
                raise AxesBackendPermissionDenied(gettext("Too many failed attempts."))
