"""What waits for the maker, and all pours in a list."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.utils import timezone

from calmtin.core.finish.keeping import SMELLS
from calmtin.core.materials import Shelf
from calmtin.formulas.models import Version
from calmtin.formulas.queries.lists import small_section
from calmtin.pictures.section import TinSection
from calmtin.pours.adapters import newest_grams
from calmtin.pours.models import Pour
from calmtin.pours.queries.looks import Due, dues, in_question, wants_skin_test

USE_UP = timedelta(days=30)  # before and after a pour is past its life
MOST_WAITING = 6  # of what is due and of what is to come, on the home page


@dataclass(frozen=True)
class Today:
    """The home page: what is on the scale, due for a look, and to come; `more` are due beside those."""

    weighing: list[tuple[Pour, TinSection, int, int]]
    due: list[tuple[Due, TinSection]]
    coming: list[tuple[Due, TinSection]]
    more: int
    skin: Pour | None
    use_up: list[Pour]
    day: date
    smells: str = SMELLS


def today(user: Any, shelf: Shelf) -> Today:
    """Return what waits for the maker."""
    open_sheets = (
        Pour.objects.of(user)
        .filter(called_off_at=None, poured_at=None)
        .select_related("version__formula")
        .prefetch_related("lines__weigh_ins", "version__lines")
    )
    weighing = []
    for pour in open_sheets:
        done = sum(newest_grams(line) is not None for line in pour.lines.all())
        weighing.append((pour, small_section(pour.version, shelf), done, len(pour.lines.all())))
    now = timezone.now()
    young = in_question(user, now)
    looks = dues(young, now)
    due, coming = [d for d in looks if d.is_due], [d for d in looks if not d.is_due]
    return Today(
        weighing,
        [(d, small_section(d.pour.version, shelf)) for d in due[:MOST_WAITING]],
        [(d, small_section(d.pour.version, shelf)) for d in coming[:MOST_WAITING]],
        max(len(due) - MOST_WAITING, 0),
        wants_skin_test(young, now),
        sorted(
            (p for p in young if p.use_by and abs(p.use_by - now.date()) <= USE_UP),
            key=lambda pour: pour.use_by or now.date(),
        )[:MOST_WAITING],
        timezone.localdate(now),
    )


def rehearsals_of(user: Any) -> list[Pour]:
    """Return the rehearsals that were not thrown away, newest first."""
    return list(Pour.every().of(user).filter(stove__isnull=False).select_related("version__formula"))


def pourable(version: Version) -> bool:
    """Return whether a version has anything to pour."""
    return any(line.percent > 0 for line in version.lines.all())
