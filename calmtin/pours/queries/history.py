"""A formula's pours: side by side, as pins on its ladder, as marks on its trio map."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

from django.db.models import Q, QuerySet

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.engine.firmness import rung_at
from calmtin.core.engine.trio import trio_of
from calmtin.core.materials import Shelf
from calmtin.formulas.models import Formula
from calmtin.pictures.ladder import Pin
from calmtin.pictures.trio import Mark
from calmtin.pours.adapters import IN_THE_POT, actual_parts, age_days, overrun_of, planned_parts
from calmtin.pours.models import Check, Pour
from calmtin.pours.queries.record import verdict_of

# A felt result belongs on the room's ladder when it was felt about there.
NEAR_ROOM_C = 3.0


@dataclass(frozen=True)
class HistoryRow:
    """A pour in the formula's history, at one temperature."""

    pour: Pour
    temp_c: float
    planned_rung: float | None
    actual_rung: float | None
    latest: Check | None
    verdict: str


def _pours_of(formula: Formula) -> QuerySet[Pour]:
    """Return the pours of a formula that count: not those that were called off."""
    return Pour.objects.filter(version__formula=formula, called_off_at=None)


def history(formula: Formula, shelf: Shelf, bench: Bench) -> list[HistoryRow]:
    """Return the formula's pours, newest first: planned, actual and felt at one temperature."""
    pours = _pours_of(formula).select_related("version__formula").prefetch_related(*IN_THE_POT, "checks")
    rows = []
    for pour in pours:
        felt = [check for check in pour.checks.all() if check.felt_rung is not None]
        latest = felt[-1] if felt else None
        temp_c = latest.temp_c if latest else bench.room_c
        at = partial(
            rung_at,
            temp_c=temp_c,
            overrun=overrun_of(pour),
            age_days=age_days(pour, latest) if latest else None,
        )
        rows.append(
            HistoryRow(
                pour=pour,
                temp_c=temp_c,
                planned_rung=at(planned_parts(pour, shelf)),
                actual_rung=None if pour.is_weighing else at(actual_parts(pour, shelf)),
                latest=latest,
                verdict=verdict_of(pour),
            )
        )
    return rows


def pins_for(formula: Formula) -> list[Pin]:
    """Return what was felt near room temperature, for the formula's ladder."""
    from calmtin.accounts.queries import bench_of

    bench = bench_of(formula.owner)
    pins = []
    for pour in Pour.objects.filter(version__formula=formula, called_off_at=None).prefetch_related(
        "checks"
    ):
        for check in pour.checks.all():
            if check.felt_rung is None or abs(check.temp_c - bench.room_c) > NEAR_ROOM_C:
                continue
            at = temp(check.temp_c, bench.temperature_unit)
            label = f"{pour.code} felt {check.felt_rung} at {at}"
            pins.append(Pin(float(check.felt_rung), check.verdict, label))
    return pins


def marks_for(formula: Formula, shelf: Shelf) -> list[Mark]:
    """Return the formula's pours by what was really weighed, for its trio map."""
    marks = []
    pours = Pour.objects.filter(version__formula=formula, called_off_at=None).select_related(
        "version__formula"
    )
    for pour in pours.prefetch_related(*IN_THE_POT, "checks"):
        parts = actual_parts(pour, shelf)
        if pour.is_weighing or not any(mass > 0 for _, mass in parts):
            continue
        wax, butter, oil = (float(share) for share in trio_of(parts).here)
        verdict = verdict_of(pour)
        marks.append(Mark((wax, butter, oil), verdict, f"{pour.code}, {verdict or 'not judged'}"))
    return marks


def pours_into(user: Any, slug: str) -> list[str]:
    """Return the pours into a container of the maker's own, or with a material that no poured line holds.

    Those are what was added later or finishes a share, and all that a rehearsal plays with.
    """
    into = Q(container=slug) | Q(fillings__container=slug)
    into |= Q(additions__material=slug) | Q(finish_parts__material=slug)
    into |= Q(stove__isnull=False, lines__material=slug)
    return list(Pour.every().of(user).filter(into).values_list("code", flat=True).distinct())
