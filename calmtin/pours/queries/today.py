"""What waits for the maker, and all pours in a list."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone

from calmtin.core.materials import Shelf
from calmtin.formulas.models import Version
from calmtin.formulas.queries.lists import small_section
from calmtin.pictures.section import TinSection
from calmtin.pours.adapters import newest_grams
from calmtin.pours.models import Pour
from calmtin.pours.queries.record import verdict_of

FIRST_CHECK = timedelta(days=1)


@dataclass(frozen=True)
class Setting:
    """A pour that is setting, and when to look at it first."""

    pour: Pour
    tin: TinSection
    due: datetime
    is_due: bool


@dataclass(frozen=True)
class Today:
    """The home page: what is on the scale, setting, due and recent."""

    weighing: list[tuple[Pour, TinSection, int, int]]
    setting: list[Setting]


def today(user: Any, shelf: Shelf) -> Today:
    """Return what waits for the maker."""
    pours = (
        Pour.objects.of(user)
        .filter(called_off_at=None)
        .select_related("version__formula")
        .prefetch_related("lines__weigh_ins", "checks", "version__lines")
    )
    weighing, setting = [], []
    for pour in pours:
        if pour.poured_at is None:
            done = sum(newest_grams(line) is not None for line in pour.lines.all())
            tin = small_section(pour.version, shelf)
            weighing.append((pour, tin, done, len(pour.lines.all())))
        elif all(check.set_test for check in pour.checks.all()):
            due = pour.poured_at + FIRST_CHECK
            tin = small_section(pour.version, shelf)
            setting.append(Setting(pour, tin, due, due <= timezone.now()))
    return Today(weighing, sorted(setting, key=lambda s: s.due))


def pours_of(user: Any, shelf: Shelf) -> list[tuple[Pour, TinSection, str]]:
    """Return all pours of the maker, newest first."""
    pours = (
        Pour.objects.of(user)
        .select_related("version__formula")
        .prefetch_related("version__lines", "checks", "fillings")
    )
    return [(pour, small_section(pour.version, shelf), verdict_of(pour)) for pour in pours]


def rehearsals_of(user: Any) -> list[Pour]:
    """Return the rehearsals that were not thrown away, newest first."""
    return list(Pour.every().of(user).filter(stove__isnull=False).select_related("version__formula"))


def pourable(version: Version) -> bool:
    """Return whether a version has anything to pour."""
    return any(line.percent > 0 for line in version.lines.all())
