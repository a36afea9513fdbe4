"""Rows of pours to the core's masses of materials."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any, cast, overload

from django.utils import timezone

from calmtin.core.containers import container_kind
from calmtin.core.data.loader import scent_facts
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.materials import Material, Shelf, pure
from calmtin.core.packing.keeping import Keeping, Storage, keeping
from calmtin.core.process.grain import Cooling
from calmtin.core.process.route import OwnStep, arranged
from calmtin.core.process.run_sheet import run_sheet
from calmtin.core.process.steps import Batch, Finish, Melting, Step
from calmtin.core.process.tincture import TINCTURE, Drying, driven_off, tincture
from calmtin.core.process.weighing import place_of
from calmtin.devices.adapters import SimulatedBench
from calmtin.formulas.adapters import alcohol_pct_of
from calmtin.pantry.adapters import containers_for
from calmtin.pantry.models import Lot, Movement
from calmtin.pours.models import (
    Check,
    FinishWeighIn,
    Pour,
    PourFinishPart,
    Replan,
    Route,
    StepDone,
    WeighIn,
    WeighLine,
    Yield,
)


def now_of(pour: Pour) -> datetime:
    """Return what the clock of a pour says: that of its stove where it is a rehearsal."""
    return timezone.now() if pour.stove is None else SimulatedBench(pour.stove).now


NEAR_ROOM_C = 3.0  # from room temperature, within which a thumb test speaks for the room
MANY_WITHDRAWALS = 500  # from which one reading of the ledger is quicker than naming each entry

# What reads what is in a pot needs these at hand.
IN_THE_POT = ("lines__weigh_ins", "replans", "additions")


@overload
def newest_reading(line: WeighLine) -> WeighIn | None: ...
@overload
def newest_reading(line: PourFinishPart) -> FinishWeighIn | None: ...
def newest_reading(line: Any) -> Any:
    """Return the newest reading of a line, or of a part of a finish, whose readings are at hand.

    It is the one that counts.
    """
    return max(line.weigh_ins.all(), key=lambda weigh_in: weigh_in.pk, default=None)


def newest_grams(line: WeighLine | PourFinishPart) -> Decimal | None:
    """Return what the reading that counts says, g; None without one, or where it was taken back."""
    newest = newest_reading(line)
    return newest.grams if newest else None


def standing_readings(line: WeighLine) -> list[WeighIn]:
    """Return the readings of a line that were not undone, oldest first."""
    standing: list[WeighIn] = []
    for reading in sorted(line.weigh_ins.all(), key=lambda reading: reading.pk):
        if reading.undoes_id is not None:
            standing = [earlier for earlier in standing if earlier.pk != reading.undoes_id]
        elif reading.grams is None:  # taken back by version 1.0, to nothing
            standing = []
        else:
            standing.append(reading)
    return standing


def scale_before_g(line: WeighLine, shelf: Shelf) -> Decimal:
    """Return what the scale shows before any of a line is on it, g: nothing unless it runs on.

    What is weighed into a cup of its own is tared, and is not in the pot that the scale runs on with.
    """
    pour_c = line.pour.pour_c
    if (
        line.pour.weighed_into != Pour.Weighing.RUN
        or place_of(shelf[line.material], pour_c=pour_c) == "cup"
    ):
        return Decimal(0)
    others = [
        other
        for other in line.pour.lines.prefetch_related("weigh_ins")
        if other.pk != line.pk and place_of(shelf[other.material], pour_c=pour_c) != "cup"
    ]
    return sum((newest_grams(other) or Decimal(0) for other in others), Decimal(0))


def _newest_replan(pour: Pour) -> Replan | None:
    return max(pour.replans.all(), key=lambda replan: replan.pk, default=None)


def targets_of(pour: Pour) -> dict[int, Decimal]:
    """Return what each line of a sheet comes to, g, by its position: as planned, or scaled up since."""
    newest = _newest_replan(pour)
    since = {int(place): Decimal(grams) for place, grams in newest.targets.items()} if newest else {}
    return {line.position: since.get(line.position, line.planned_g) for line in pour.lines.all()}


def lacking_g(pour: Pour, line: WeighLine, target_g: Decimal) -> Decimal:
    """Return the grams still to add to a weighed line after its sheet was scaled up.

    A line that was weighed since may be a step of the scale off, as any line may.
    """
    reading, newest = newest_reading(line), _newest_replan(pour)
    if newest is None or reading is None or reading.grams is None:
        return Decimal(0)
    lacking, step = target_g - reading.grams, pour.scale_step_g
    least = step if reading.at < newest.at else 2 * step
    return lacking if lacking >= least else Decimal(0)


def next_line(pour: Pour) -> WeighLine | None:
    """Return the line to be weighed next: without a weight, or lacking some since it was scaled up."""
    targets = targets_of(pour)
    return next(
        (
            line
            for line in pour.lines.all()
            if newest_grams(line) is None or lacking_g(pour, line, targets[line.position])
        ),
        None,
    )


def planned_parts(pour: Pour, shelf: Shelf) -> list[tuple[Material, float]]:
    """Return the planned weights as parts for the engine."""
    return [(shelf[line.material], float(line.planned_g)) for line in pour.lines.all()]


def actual_parts(pour: Pour, shelf: Shelf, *, at: datetime | None = None) -> list[tuple[Material, float]]:
    """Return the actual weights with later additions, or the plan before anything was weighed.

    `at` leaves out what was added later.
    """
    parts: dict[str, float] = {}
    targets = targets_of(pour)
    for line in pour.lines.all():
        grams = newest_grams(line)
        held = float(targets[line.position] if grams is None else grams)
        parts[line.material] = parts.get(line.material, 0.0) + held
    for addition in pour.additions.all():
        if at is None or addition.at <= at:
            parts[addition.material] = parts.get(addition.material, 0.0) + float(addition.grams)
    return [(shelf[slug], grams) for slug, grams in parts.items()]


def dry_parts(pour: Pour, shelf: Shelf, *, at: datetime | None = None) -> list[tuple[Material, float]]:
    """Return the pure parts of a pot, g, after a tincture's alcohol and water were driven off.

    `at` leaves out what was added later.
    """
    return boiled_down(pour, pure(actual_parts(pour, shelf, at=at)))


def boiled_down(pour: Pour, parts: Sequence[tuple[Material, float]]) -> list[tuple[Material, float]]:
    """Return parts, g, as a tincture among them is by now: by the pot's weight, else as planned."""
    return driven_off(parts, alcohol_pct=alcohol_pct_of(pour.version), drying=drying_of(pour))


def drying_of(pour: Pour) -> Drying | None:
    """Return how far a pour's tincture was boiled down; None where there is none or nobody weighed it."""
    wet = [newest_grams(line) or line.planned_g for line in pour.lines.all() if line.material == TINCTURE]
    newest = max(pour.pot_weights.all(), key=lambda weight: weight.pk, default=None) if wet else None
    if newest is None:
        return None
    held = tincture(float(sum(wet)), alcohol_pct_of(pour.version))
    return Drying(held.to_lose_g, float(newest.before_g - newest.grams), float(pour.scale_step_g))


def keeping_of(pour: Pour, shelf: Shelf, lots: Mapping[str, Lot] | None = None) -> Keeping | None:
    """Return how long a pour keeps, where it is kept and of the lots that went in.

    `lots` by material, where they are known already.
    """
    if lots is None:
        lots = lots_of_pours([pour]).get(pour.pk, {})
    return keeping(
        dry_parts(pour, shelf),
        timezone.localdate(pour.poured_at or pour.started_at),
        lots={slug: lot.best_before for slug, lot in lots.items()},
        storage=cast(Storage, pour.storage),
    )


def lots_of_pours(
    pours: Sequence[Pour], taken: Iterable[Movement] | None = None
) -> dict[int, dict[str, Lot]]:
    """Return, by pour and by material, the lot that most of a pour's weight of it was taken from.

    `taken` from stock by these pours, with its lots, where it was read already.
    """
    weighed = {
        reading.withdrawal_id: (pour.pk, line.material)
        for pour in pours
        for line in pour.lines.all()
        if (reading := newest_reading(line)) is not None and reading.withdrawal_id is not None
    }
    if not weighed:
        return {}
    if taken is None:
        rows = Movement.objects.filter(
            lot__owner=pours[0].owner_id, kind=Movement.Kind.WEIGHED, withdrawal__isnull=False
        )
        few = len(weighed) < MANY_WITHDRAWALS
        taken = (rows.filter(withdrawal__in=list(weighed)) if few else rows).select_related("lot")
    found: dict[int, dict[str, Lot]] = {}
    # The least is written first, so that the most has the last word.
    for movement in sorted(taken, key=lambda movement: -movement.grams):
        if movement.withdrawal_id in weighed and movement.kind == Movement.Kind.WEIGHED:
            pour_pk, slug = weighed[movement.withdrawal_id]
            found.setdefault(pour_pk, {})[slug] = movement.lot
    return found


def withdrawals_of(pour: Pour) -> list[int]:
    """Return the keys of what a pot's weigh-ins and additions took from the shelf."""
    weighed = [reading.withdrawal_id for line in pour.lines.all() for reading in line.weigh_ins.all()]
    added = [addition.withdrawal_id for addition in pour.additions.all()]
    return [key for key in (*weighed, *added) if key is not None]


def finish_withdrawals_of(pour: Pour) -> list[int]:
    """Return the keys of what the finishes of a pour took from the shelf."""
    weighed = [
        reading.withdrawal_id for part in pour.finish_parts.all() for reading in part.weigh_ins.all()
    ]
    return [key for key in weighed if key is not None]


def newest_yield(pour: Pour) -> Yield | None:
    """Return the count of a pour that counts: the newest."""
    return max(pour.yields.all(), key=lambda given: given.pk, default=None)


def weights_of(given: Yield) -> dict[int, list[float]]:
    """Return what single pieces weighed, g, by the position of their filling."""
    return {place: [float(grams) for grams in told] for place, told in given.pieces}


def newest_marks(pour: Pour) -> dict[str, StepDone]:
    """Return the mark of each step that counts, the newest, by its key: done, or not done after all."""
    return {mark.key: mark for mark in pour.steps_done.all()}


def weighed_g(pour: Pour) -> Decimal:
    """Return the grams weighed into a pot, later additions included."""
    sheet = sum((newest_grams(line) or Decimal(0) for line in pour.lines.all()), Decimal(0))
    return sheet + sum((addition.grams for addition in pour.additions.all()), Decimal(0))


def overrun_of(pour: Pour) -> float:
    """Return the gain in volume by whipping, as a share: as measured, else as planned."""
    measured = [check.overrun_pct for check in pour.checks.all() if check.overrun_pct is not None]
    return measured[-1] / 100.0 if measured else pour.version.overrun


def melted_at(pour: Pour, *, by: datetime | None = None) -> datetime:
    """Return when a pour was last melted: at first, or for what was added to it later.

    `by` leaves out what was done after that.
    """
    added = [addition.at for addition in pour.additions.all() if by is None or addition.at <= by]
    return max([pour.poured_at or pour.started_at, *added])


def age_days(pour: Pour, check: Check) -> float:
    """Return the age of a pour at a check, days: since it was last melted."""
    return max(0.0, (check.made_at - melted_at(pour, by=check.made_at)) / timedelta(days=1))


def is_near_room(check: Check, pour: Pour, room_c: float) -> bool:
    """Return whether a check speaks for a pour as it is now, in a room of `room_c`, C.

    It had set by then, was near room temperature, and was not melted again since.
    """
    return (
        not check.is_unset
        and abs(check.temp_c - room_c) <= NEAR_ROOM_C
        and check.made_at >= melted_at(pour)
    )


def own_route(pour: Pour, way: str) -> list[OwnStep]:
    """Return the maker's own route for a pour's kind; empty without one."""
    found = Route.objects.of(pour.owner).filter(kind=pour.version.formula.kind, way=way).first()
    return [OwnStep(key, title, is_skipped) for key, title, is_skipped in found.steps] if found else []


def sheet_of(pour: Pour, batch: Batch) -> list[Step]:
    """Return the run sheet of a pour as its maker wants it."""
    return arranged(run_sheet(batch), own_route(pour, batch.route))


def batch_of(pour: Pour, shelf: Shelf) -> Batch:
    """Return the batch that a run sheet is based on: actual weights, and the plan for the rest."""
    parts, version = actual_parts(pour, shelf), pour.version
    known = containers_for(pour.owner)
    into = [known[f.container_slug] for f in pour.fillings.all() if f.container_slug in known]
    if not into and pour.container_slug in known:
        into = [known[pour.container_slug]]
    return Batch(
        parts=pure(parts),
        kind=version.formula.kind,
        cooling=cast(Cooling, version.cooling),
        overrun=overrun_of(pour),
        set_c=set_point_c(blend(parts)) if any(grams > 0 for _, grams in parts) else None,
        scents=scent_facts(),
        alcohol_pct=alcohol_pct_of(version),
        is_mould=any(container.is_mould for container in into),
        is_tube=any(container_kind(container.kind).is_tube for container in into),
        finishes=_finishes(pour, shelf),
        melting=cast(Melting, pour.melting),
        each_g=max((float(filling.each_g) for filling in pour.fillings.all()), default=0.0),
    )


def _finishes(pour: Pour, shelf: Shelf) -> tuple[Finish, ...]:
    """Return the endings of a pot, in the order of its fillings: what each takes of it and gets."""
    fillings = [filling for filling in pour.fillings.all() if filling.finish]
    found = []
    for name in dict.fromkeys(filling.finish for filling in fillings):
        mine = [filling for filling in fillings if filling.finish == name]
        parts = tuple(
            (shelf[p.material], float(p.planned_g)) for p in pour.finish_parts.all() if p.finish == name
        )
        whole = sum(float(filling.each_g) * filling.count for filling in mine)
        into = " and ".join(str(filling) for filling in mine)
        found.append(Finish(name, whole - sum(grams for _, grams in parts), parts, into))
    return tuple(found)
