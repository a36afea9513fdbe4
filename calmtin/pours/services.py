"""What a maker does on pour day and after: one function each, atomic."""

from __future__ import annotations

from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from calmtin.core.composition import masses
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.fill import FillPlan
from calmtin.core.weighing import share_out
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Version
from calmtin.formulas.services import freeze
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import put_back, take_from_stock
from calmtin.pours.models import Check, Pour, WeighIn, WeighLine

# A reading this far over its target is a slip of the finger, not an over-pour.
MOST_TIMES_TARGET = 20


@transaction.atomic
def start_pour(
    user: Any, version: Version, plan: FillPlan, *, scale_step_g: Decimal, request_key: UUID | None = None
) -> Pour:
    """Freeze the version and lay out its weigh sheet for `plan`.

    The same `request_key` never starts a second pour.
    """
    if request_key and (existing := Pour.objects.of(user).filter(request_key=request_key).first()):
        return existing
    freeze(version)
    last = Pour.objects.filter(version__formula=version.formula).aggregate(last=Max("number"))["last"]
    key = {"request_key": request_key} if request_key else {}
    pour = Pour.objects.create(
        owner=user,
        version=version,
        number=(last or 0) + 1,
        container=plan.container.slug,
        container_name=plan.container.name,
        container_ml=plan.container.volume_ml,
        count=plan.count,
        level=plan.level,
        loss=plan.loss,
        batch_g=plan.batch_g,
        scale_step_g=scale_step_g,
        pour_c=plan.pour_c,
        **key,
    )
    lines = [line for line, _ in lines_with_materials(version, shelf_for(user)) if line.percent > 0]
    planned = share_out(masses([line.percent for line in lines], plan.batch_g), scale_step_g)
    for position, (line, grams) in enumerate(zip(lines, planned, strict=True)):
        pour.lines.create(
            position=position,
            key=line.key,
            material=line.material,
            percent=line.percent,
            planned_g=grams,
        )
    return pour


@transaction.atomic
def weigh(user: Any, line: WeighLine, grams: Decimal) -> None:
    """Record what the scale said for a line; saying the same again adds nothing."""
    _refuse_poured(line.pour)
    most = max(line.planned_g * MOST_TIMES_TARGET, Decimal(20))
    if grams > most:
        raise DoesNotFit(
            f"{grams.normalize():f} g is far more than the {line.planned_g:f} g planned. "
            "Check the decimal point and the unit on the scale.",
            field="grams",
            limit=float(most),
            unit="g",
        )
    newest = line.weigh_ins.last()
    if newest is None or newest.grams != grams:
        _put_back(user, newest)
        reading = WeighIn.objects.create(line=line, grams=grams)
        take_from_stock(user, line.material, grams, source=reading.ledger_source)


@transaction.atomic
def take_back(user: Any, pour: Pour) -> WeighLine | None:
    """Take back the newest reading that still counts; return its line."""
    _refuse_poured(pour)
    counting = [
        newest
        for line in pour.lines.all()
        if (newest := line.weigh_ins.last()) is not None and newest.grams is not None
    ]
    if not counting:
        return None
    newest = max(counting, key=lambda weigh_in: weigh_in.pk)
    _put_back(user, newest)
    WeighIn.objects.create(line=newest.line, grams=None)
    return newest.line


@transaction.atomic
def finish_weighing(user: Any, pour: Pour) -> Pour:
    """Close the weigh sheet: everything is in the pot and poured.

    Raises `CalmTinError` while a line has no weight.
    """
    if not pour.is_weighing:
        return pour
    shelf = shelf_for(user)
    missing = [
        shelf[line.material].label
        for line in pour.lines.all()
        if (newest := line.weigh_ins.last()) is None or newest.grams is None
    ]
    if missing:
        raise CalmTinError(
            f"Not weighed yet: {', '.join(missing)}. Type 0 for what you left out.", field="grams"
        )
    pour.poured_at = timezone.now()
    pour.save(update_fields=["poured_at"])
    return pour


@transaction.atomic
def record_check(
    user: Any,
    pour: Pour,
    *,
    temp_c: float,
    felt_rung: Decimal | None,
    verdict: str = "",
    notes: str = "",
    request_key: UUID | None = None,
) -> Check:
    """Add a result to a pour; earlier results stay."""
    if pour.is_weighing:
        raise CalmTinError("Finish weighing first; then there is something to judge.", field="verdict")
    if request_key and (existing := Check.objects.of(user).filter(request_key=request_key).first()):
        return existing
    key = {"request_key": request_key} if request_key else {}
    return Check.objects.create(
        pour=pour, temp_c=temp_c, felt_rung=felt_rung, verdict=verdict, notes=notes, **key
    )


def _put_back(user: Any, reading: WeighIn | None) -> None:
    """Give the pantry back what an earlier reading took."""
    if reading is not None and reading.grams:
        put_back(user, source=reading.ledger_source)


def _refuse_poured(pour: Pour) -> None:
    if not pour.is_weighing:
        raise CalmTinError(
            "This pour is closed, so its weights stay as they are. Add a check with a note instead.",
            field="grams",
        )
