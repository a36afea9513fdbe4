"""What the pour pages show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.core.firmness import rung_at, rung_word
from calmtin.core.materials import Material, Shelf
from calmtin.core.trio import trio_of
from calmtin.core.weighing import too_small
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.queries import small_section
from calmtin.formulas.readings import Firmness, Unpredicted, firmness_of
from calmtin.pantry.queries import cost_of
from calmtin.pictures.ladder import Pin
from calmtin.pictures.section import TinSection, tin_section
from calmtin.pictures.trio import Mark
from calmtin.pours.models import Check, Pour, WeighLine

# A felt result belongs on the room's ladder when it was felt about there.
NEAR_ROOM_C = 3.0
FIRST_CHECK = timedelta(days=1)


@dataclass(frozen=True)
class WeighRow:
    """A line of the weigh sheet with its newest reading."""

    line: WeighLine
    material: Material
    actual_g: Decimal | None
    is_next: bool
    is_small: bool

    @property
    def difference(self) -> Decimal | None:
        """Grams over (or under) the plan."""
        return None if self.actual_g is None else self.actual_g - self.line.planned_g


@dataclass(frozen=True)
class PourView:
    """A pour, on the scale or done."""

    pour: Pour
    rows: list[WeighRow]
    next_row: WeighRow | None
    in_pot_g: Decimal
    pot: TinSection
    planned: Firmness | Unpredicted
    so_far: Firmness | Unpredicted
    checks: list[CheckView]
    verdict: str
    cost: tuple[Decimal, bool] | None

    @property
    def weighed(self) -> int:
        """How many lines have a weight."""
        return sum(row.actual_g is not None for row in self.rows)

    @property
    def cost_each(self) -> Decimal | None:
        """What one container's content cost."""
        return None if self.cost is None else self.cost[0] / self.pour.count

    @property
    def shift(self) -> float:
        """Rungs by which the weights so far move the prediction at room temperature."""
        if not self.planned or not self.so_far:
            return 0.0
        return self.so_far.room.rung - self.planned.room.rung


@dataclass(frozen=True)
class CheckView:
    """A result beside what was planned and what was really weighed, at its temperature."""

    check: Check
    planned_rung: float | None
    actual_rung: float | None
    felt_words: str
    after: timedelta

    @property
    def off(self) -> float | None:
        """Rungs by which the felt result lies above the prediction."""
        if self.check.felt_rung is None or self.actual_rung is None:
            return None
        return float(self.check.felt_rung) - self.actual_rung


@dataclass(frozen=True)
class HistoryRow:
    """A pour in the formula's history, at one temperature."""

    pour: Pour
    temp_c: float
    planned_rung: float | None
    actual_rung: float | None
    latest: Check | None
    verdict: str


def newest_grams(line: WeighLine) -> Decimal | None:
    """Return the reading that counts for a line."""
    weigh_ins = list(line.weigh_ins.all())
    return weigh_ins[-1].grams if weigh_ins else None


def pour_with_lines(user: Any, **lookup: Any) -> Pour:
    """Return the maker's own pour with all that its page reads, or 404."""
    return (
        Pour.objects.select_related("version__formula")
        .prefetch_related("lines__weigh_ins", "checks")
        .own_or_404(user, **lookup)
    )


def planned_parts(pour: Pour, shelf: Shelf) -> list[tuple[Material, float]]:
    """Return what was to be weighed, as the engine takes it."""
    return [(shelf[line.material], float(line.planned_g)) for line in pour.lines.all()]


def actual_parts(pour: Pour, shelf: Shelf) -> list[tuple[Material, float]]:
    """Return what was weighed, and the plan where nothing was weighed yet."""
    parts = []
    for line in pour.lines.all():
        grams = newest_grams(line)
        parts.append((shelf[line.material], float(line.planned_g if grams is None else grams)))
    return parts


def pour_view(pour: Pour, shelf: Shelf, bench: Bench) -> PourView:
    """Return the page of one pour."""
    rows: list[WeighRow] = []
    waiting = True
    for line in pour.lines.all():
        grams = newest_grams(line)
        is_next = waiting and grams is None and pour.is_weighing
        waiting = waiting and not is_next
        small = too_small(line.planned_g, pour.scale_step_g)
        rows.append(WeighRow(line, shelf[line.material], grams, is_next, small))
    in_pot = [(row, row.actual_g) for row in rows if row.actual_g]
    weight = sum((grams for _, grams in in_pot), Decimal(0))
    planned = planned_parts(pour, shelf)
    formula = pour.version.formula
    checks = check_views(pour, shelf)
    return PourView(
        pour=pour,
        rows=rows,
        next_row=next((row for row in rows if row.is_next), None),
        in_pot_g=weight,
        pot=_pot(in_pot, pour.batch_g),
        planned=firmness_of(planned, formula, bench),
        so_far=firmness_of(actual_parts(pour, shelf), formula, bench),
        checks=checks,
        verdict=verdict_of(pour),
        cost=cost_of(
            pour.owner, [w.ledger_source for line in pour.lines.all() for w in line.weigh_ins.all()]
        ),
    )


def _pot(in_pot: Sequence[tuple[WeighRow, Decimal]], batch_g: Decimal) -> TinSection:
    """Return the pot with what is in it, its height being the planned batch."""
    layers = [
        (row.line.key, row.material.label, row.material.layer, float(grams / batch_g * 100))
        for row, grams in in_pot
    ]
    filled = min(1.0, sum(layer[3] for layer in layers) / 100.0)
    return tin_section(layers, width=170.0, height=230.0, filled=filled)


def check_views(pour: Pour, shelf: Shelf) -> list[CheckView]:
    """Return a pour's results, oldest first, each beside its predictions."""
    checks = list(pour.checks.all())
    if not checks:
        return []
    planned, actual = planned_parts(pour, shelf), actual_parts(pour, shelf)
    return [
        CheckView(
            check=check,
            planned_rung=rung_at(planned, check.temp_c),
            actual_rung=rung_at(actual, check.temp_c),
            felt_words=rung_word(float(check.felt_rung)) if check.felt_rung is not None else "",
            after=check.made_at - (pour.poured_at or pour.started_at),
        )
        for check in checks
    ]


def verdict_of(pour: Pour) -> str:
    """Return the newest verdict on a pour, or nothing."""
    return next((check.verdict for check in reversed(list(pour.checks.all())) if check.verdict), "")


def history(formula: Formula, shelf: Shelf, bench: Bench) -> list[HistoryRow]:
    """Return the formula's pours, newest first: planned, actual and felt at one temperature."""
    pours = (
        Pour.objects.filter(version__formula=formula)
        .select_related("version__formula")
        .prefetch_related("lines__weigh_ins", "checks")
    )
    rows = []
    for pour in pours:
        felt = [check for check in pour.checks.all() if check.felt_rung is not None]
        latest = felt[-1] if felt else None
        temp_c = latest.temp_c if latest else bench.room_c
        actual = None if pour.is_weighing else rung_at(actual_parts(pour, shelf), temp_c)
        rows.append(
            HistoryRow(
                pour=pour,
                temp_c=temp_c,
                planned_rung=rung_at(planned_parts(pour, shelf), temp_c),
                actual_rung=actual,
                latest=latest,
                verdict=verdict_of(pour),
            )
        )
    return rows


def pins_for(formula: Formula) -> list[Pin]:
    """Return what was felt near room temperature, for the formula's ladder."""
    from calmtin.accounts.queries import bench_of

    room_c = bench_of(formula.owner).room_c
    pins = []
    for pour in Pour.objects.filter(version__formula=formula).prefetch_related("checks"):
        for check in pour.checks.all():
            if check.felt_rung is None or abs(check.temp_c - room_c) > NEAR_ROOM_C:
                continue
            label = f"{pour.code} felt {check.felt_rung} at {check.temp_c:g} °C"
            pins.append(Pin(float(check.felt_rung), check.verdict, label))
    return pins


def marks_for(formula: Formula, shelf: Shelf) -> list[Mark]:
    """Return the formula's pours by what was really weighed, for its trio map."""
    marks = []
    pours = Pour.objects.filter(version__formula=formula).select_related("version__formula")
    for pour in pours.prefetch_related("lines__weigh_ins", "checks"):
        parts = actual_parts(pour, shelf)
        if pour.is_weighing or not any(mass > 0 for _, mass in parts):
            continue
        wax, butter, oil = (float(share) for share in trio_of(parts).here)
        verdict = verdict_of(pour)
        marks.append(Mark((wax, butter, oil), verdict, f"{pour.code}, {verdict or 'not judged'}"))
    return marks


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
        .select_related("version__formula")
        .prefetch_related("lines__weigh_ins", "checks", "version__lines")
    )
    weighing, setting = [], []
    for pour in pours:
        if pour.poured_at is None:
            done = sum(newest_grams(line) is not None for line in pour.lines.all())
            tin = small_section(pour.version, shelf)
            weighing.append((pour, tin, done, len(pour.lines.all())))
        elif not pour.checks.all():
            due = pour.poured_at + FIRST_CHECK
            tin = small_section(pour.version, shelf)
            setting.append(Setting(pour, tin, due, due <= timezone.now()))
    return Today(weighing, sorted(setting, key=lambda s: s.due))


def pours_of(user: Any, shelf: Shelf) -> list[tuple[Pour, TinSection, str]]:
    """Return all pours of the maker, newest first."""
    pours = (
        Pour.objects.of(user)
        .select_related("version__formula")
        .prefetch_related("version__lines", "checks")
    )
    return [(pour, small_section(pour.version, shelf), verdict_of(pour)) for pour in pours]


def pourable(version: Version) -> bool:
    """Return whether a version has anything to pour."""
    return any(line.percent > 0 for line in version.lines.all())
