"""Read a file in a process of its own, as the maker who sent it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django.utils import timezone

from calmtin.accounts.models import User
from calmtin.common.subprocess_work import SMALL, run_apart
from calmtin.common.zones import zone_of
from calmtin.core.messages import notation_in_force, notation_of
from calmtin.core.notation import Notation

T = TypeVar("T")


def run_for(work: Callable[..., T], user: Any, *args: Any, size: int) -> T:
    """Return what `work(user, *args)` returns, as `run_apart` does, in the maker's notation and time."""
    if size <= SMALL:
        return work(user, *args)
    zone = timezone.get_current_timezone_name()
    return run_apart(_as_maker, work, user.pk, args, notation_in_force(), zone, size=size)


def _as_maker(
    work: Callable[..., T], maker: int, args: tuple[Any, ...], notation: Notation, zone: str
) -> T:
    with notation_of(lambda: notation), timezone.override(zone_of(zone)):
        return work(User.objects.get(pk=maker), *args)
