"""Read-only questions about makers and their benches."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.db.models import QuerySet

from calmtin.accounts.models import Bench, User
from calmtin.common.registry import Sources

# Apps above this one say what the settings page shows of the installation.
settings_notes: Sources[Callable[[], list[str]]] = Sources()


@dataclass(frozen=True)
class Held:
    """Settings that a higher app keeps for a bench: a heading, the rows, and where they are changed."""

    title: str
    rows: list[str]
    view: str
    anchor: str = ""


settings_lists: Sources[Callable[[Any], Held]] = Sources()


def bench_of(user: Any) -> Bench:
    """Return the maker's bench, with the usual temperatures until they set their own."""
    try:
        bench: Bench = user.bench
    except Bench.DoesNotExist:
        return Bench(user=user)
    return bench


def nobody_yet() -> bool:
    """Return whether the first account is still to be made."""
    return not User.objects.exists()


def keeps_household(user: Any) -> bool:
    """Return whether a maker may add others; never in the demo."""
    return bool(user.is_staff) and not settings.DEMO


def makers() -> QuerySet[User]:
    """Return the makers of this installation, by name."""
    return User.objects.order_by("username")


# Where a browser's language comes from, and what kitchens there are likely to use.
_PLACES: dict[str, dict[str, str]] = {
    "us": {"temperature_unit": "F", "cups": "us", "currency": "$"},
    "gb": {"cups": "imperial", "currency": "£"},
    "ca": {"cups": "metric", "currency": "$"},
    "au": {"cups": "metric", "currency": "$"},
    "nz": {"cups": "metric", "currency": "$"},
}
_ELSEWHERE = {"cups": "metric"}
_EURO = {"de", "fr", "es", "it", "nl", "pt", "fi", "el", "et", "lv", "lt", "sk", "sl", "ga", "mt", "hr"}


def likely_settings(accept_language: str) -> dict[str, str]:
    """Return what a bench is likely to use, by the first language of its browser.

    >>> likely_settings("en-US,en;q=0.9")["temperature_unit"], likely_settings("de-AT")["currency"]
    ('F', '€')
    """
    language, _, place = accept_language.split(",")[0].split(";")[0].strip().lower().partition("-")
    if place in _PLACES:
        return _PLACES[place]
    return _ELSEWHERE | ({"currency": "€"} if language in _EURO else {}) if language else {}
