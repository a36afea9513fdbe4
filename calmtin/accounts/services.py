"""What a maker does about their account."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.utils.translation import gettext

from calmtin.accounts.models import Bench, FineScale, User
from calmtin.accounts.queries import nobody_yet
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

DEMO_USER = "tern_quay"


@transaction.atomic
def open_first_account(username: str, password: str) -> User:
    """Create the first account of this installation, and its bench.

    Raises `CalmTinError` when there already is one: further accounts are made by
    whoever made this one, on the household page, or by `script/manage makers`.
    """
    if not nobody_yet():
        raise CalmTinError(gettext("Calm Tin already has an account. Sign in instead."), field="username")
    user = User.objects.create_user(username=username, password=password, is_staff=True)
    Bench.objects.create(user=user)
    return user


@transaction.atomic
def add_maker(by: User | None, username: str, password: str) -> User:
    """Add a maker with a bench and records of their own.

    `by` is who manages the household; None is whoever runs this installation, by command. Raises
    `PermissionDenied` for anybody else, and `CalmTinError` for a name that is taken or a password that
    is too easy.
    """
    _refuse_others(by)
    if User.objects.filter(username__iexact=username).exists():
        raise CalmTinError(gettext("That name is taken. Choose another."), field="username")
    user = User(username=username)
    _set_password(user, password)
    user.save()
    Bench.objects.create(user=user)
    return user


@transaction.atomic
def give_password(by: User | None, user: User, password: str) -> None:
    """Give a maker who forgot theirs a new password, which ends their sessions; `by` as in `add_maker`."""
    _refuse_others(by)
    _set_password(user, password)
    user.save(update_fields=["password"])


@transaction.atomic
def set_active(by: User | None, user: User, *, active: bool) -> None:
    """Let a maker in, or keep them out; their records stay either way. For `by` see `add_maker`.

    Raises `CalmTinError` for the last one who manages the household.
    """
    _refuse_others(by)
    others = User.objects.filter(is_active=True, is_staff=True).exclude(pk=user.pk)
    if not active and user.is_staff and not others.exists():
        raise CalmTinError(gettext("At least one maker must be able to manage the household."))
    user.is_active = active
    user.save(update_fields=["is_active"])


@transaction.atomic
def add_scale(
    user: User, *, name: str, step: str, capacity_g: Decimal, least_g: Decimal | None = None
) -> FineScale:
    """Keep another scale of the bench.

    Raises `CalmTinError` for a name that is taken, or one that takes less than it is dependable from.
    """
    if FineScale.objects.of(user).filter(name__iexact=name).exists():
        raise CalmTinError(
            said("You already have a scale called {name}. Choose another name.", name=name), field="name"
        )
    if least_g is not None and least_g >= capacity_g:
        raise CalmTinError(
            gettext("The maximum must be above the weight it is accurate from. Check both."),
            field="least_g",
        )
    return FineScale.objects.create(
        owner=user, name=name, step=step, capacity_g=capacity_g, least_g=least_g
    )


@transaction.atomic
def remove_scale(user: User, scale: FineScale) -> None:
    """Take a scale off the bench; pours that were planned on it keep their weights."""
    FineScale.objects.of(user).filter(pk=scale.pk).delete()


@transaction.atomic
def set_on_bench(user: User, **facts: Any) -> None:
    """Keep something about a maker's bench, also for whoever holds the maker already."""
    user.bench, _ = Bench.objects.update_or_create(user=user, defaults=facts)


def _refuse_others(by: User | None) -> None:
    """Refuse a maker who does not manage the household, as the database has it now."""
    if by is not None and not User.objects.filter(pk=by.pk, is_active=True, is_staff=True).exists():
        raise PermissionDenied(gettext("Only a maker who manages the household can do this."))


def _set_password(user: User, password: str) -> None:
    try:
        user.full_clean(exclude=["password"])
        validate_password(password, user)
    except ValidationError as error:
        raise CalmTinError(" ".join(error.messages), field="password1") from None
    user.set_password(password)
