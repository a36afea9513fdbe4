"""The due checks of a maker's pours, and the page of a check."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from statistics import median
from typing import Any
from urllib.parse import urlencode

from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.core.engine.firmness import rung_at
from calmtin.core.engine.ladder import rung_word
from calmtin.core.engine.press import RODS_MM, press_grams, press_rung, rod_for
from calmtin.core.materials import Shelf
from calmtin.core.process.checks import NO_LONGER, SKIN_EVERY, TESTS, Look
from calmtin.pours.adapters import actual_parts, overrun_of
from calmtin.pours.models import Pour
from calmtin.pours.queries.looks import OF_A_POUR, SEEN, Poured, poured_of

ENDS_SOON = timedelta(days=30)


@dataclass(frozen=True)
class Due:
    """A check that is due: which, and when."""

    pour: int
    look: Look
    at: datetime
    is_due: bool


def in_question(user: Any, now: datetime, **narrowed: Any) -> list[Poured]:
    """Return the pours that may be due for a look: young ones, and those near the end of their life."""
    soon = now.date() + ENDS_SOON
    young, ending = Q(poured_at__gte=now - NO_LONGER), Q(use_by__range=(soon - 2 * ENDS_SOON, soon))
    pours = Pour.objects.of(user).filter(young | ending, poured_at__isnull=False, called_off_at=None)
    rows = pours.filter(**narrowed).order_by("-started_at", "-pk", "checks__pk")
    found: dict[tuple[Any, ...], list[Any]] = {}
    for row in rows.values_list(*OF_A_POUR, *(f"checks__{name}" for name in SEEN)):
        pour, check = row[: len(OF_A_POUR)], row[len(OF_A_POUR) :]
        checks = found.setdefault(pour, [])
        if check[1] is not None:
            checks.append(check)
    return [
        Poured(pk, formula, at, use_by, bool(overrun), tuple(seen))
        for (pk, formula, at, use_by, overrun), seen in found.items()
    ]


def dues(pours: Iterable[Poured], now: datetime) -> list[Due]:
    """Return the due and next checks of each pour that was not dropped, soonest first."""
    found = []
    for pour in pours:
        if pour.is_dropped:
            continue
        schedule = pour.schedule
        if told := schedule.due(now):
            found.append(Due(pour.pk, *told, is_due=True))
        elif told := schedule.coming(now):
            found.append(Due(pour.pk, *told, is_due=False))
    return sorted(found, key=lambda due: (not due.is_due, due.at))


def due_of_formulas(user: Any, formulas: Sequence[int]) -> dict[int, tuple[str, str]]:
    """Return the first due check of each of `formulas`: its name and address."""
    now = timezone.now()
    pours = in_question(user, now, version__formula__in=formulas)
    formula_of = {pour.pk: pour.formula for pour in pours}
    found: dict[int, tuple[str, str]] = {}
    for due in dues(pours, now):
        if due.is_due:
            where = f"{reverse('checks:check', args=[due.pour])}?{urlencode({'look': due.look.slug})}"
            found.setdefault(formula_of[due.pour], (due.look.due_words, where))
    return found


def wants_skin_test(pours: Iterable[Poured], now: datetime) -> int | None:
    """Return the pour to ask for a thumb test at skin warmth, one in three."""
    set_by_now = [pour for pour in pours if now - pour.poured_at > timedelta(days=1)]
    last = sorted(set_by_now, key=lambda pour: pour.poured_at)[-SKIN_EVERY:]
    felt_warm = any(pour.was_felt_warm for pour in last)
    return last[-1].pk if len(last) == SKIN_EVERY and not felt_warm else None


@dataclass(frozen=True)
class LookView:
    """The page of a check: the pour, and whether its volume gain is still unknown."""

    pour: Pour
    look: Look
    asks_overrun: bool


def look_view(pour: Pour, look: Look) -> LookView:
    """Return the page on which a look at a pour is answered."""
    is_measured = any(check.overrun_pct is not None for check in pour.checks.all())
    asks_overrun = bool(pour.version.overrun_pct) and not is_measured
    return LookView(pour, look, asks_overrun)


@dataclass(frozen=True)
class PressView:
    """The page of the press test: the suggested rod, and the result of the typed readings."""

    pour: Pour
    expected: float | None
    rod_mm: float
    rods: list[tuple[float, float]]
    rung: float | None = None
    low: float = 0.0
    high: float = 0.0
    words: str = ""
    spread: float = 0.0


def press_view(
    pour: Pour, shelf: Shelf, bench: Bench, grams: list[float], rod_mm: float | None
) -> PressView:
    """Return the press test of a pour; with readings, the firmness of their median."""
    age = timezone.now() - (pour.poured_at or pour.started_at)
    expected = rung_at(
        actual_parts(pour, shelf),
        bench.room_c,
        overrun=overrun_of(pour),
        age_days=max(age / timedelta(days=1), 0.0),
        prior=bench.prior,
    )
    best = rod_for(5.0 if expected is None else expected)
    rods = [(rod, _about(press_grams(5.0 if expected is None else expected, rod))) for rod in RODS_MM]
    if not grams or rod_mm is None:
        return PressView(pour, expected, best, rods)
    rung, low, high = press_rung(median(grams), rod_mm)
    spread = press_rung(max(grams), rod_mm)[0] - press_rung(min(grams), rod_mm)[0]
    return PressView(pour, expected, best, rods, rung, low, high, rung_word(rung), spread)


def _about(grams: float) -> float:
    """Return grams as one says them: two figures are more than a hand repeats."""
    return round(grams, -1) if grams >= 100.0 else round(grams)


def tests_of_their_own() -> list[tuple[str, str]]:
    """Return the looks that a maker sets up, by slug and name."""
    return [(look.slug, look.name) for look in TESTS]


def next_look(pour: Pour) -> str:
    """Return the slug of the look that a pour is due for; nothing where none is."""
    if pour.poured_at is None or pour.is_rehearsal:
        return ""
    due = poured_of(pour).schedule.due(timezone.now())
    return due[0].slug if due else ""


def checks_panel(pour: Pour) -> dict[str, Any]:
    """Return what the page of a pour says about checking it: what is due, and whether it is final."""
    return {
        "pour": pour,
        "is_checked": bool(pour.checks.all()),
        "next_look": next_look(pour),
        "tests": tests_of_their_own(),
        "kept": max(pour.kept.all(), key=lambda entry: entry.pk, default=None),
    }
