"""What a maker does on pour day and after: one function each, atomic.

Each reads its rows again inside the transaction, so that what it checks is what it
acts on: closing a sheet and weighing onto it cannot both win.
"""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from itertools import count
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from calmtin.common.once import sent_once
from calmtin.common.owned import read_again
from calmtin.core.codes import codes_for
from calmtin.core.composition import masses
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.fill import FillPlan
from calmtin.core.limits import CHECK_C, RUNG, WEIGHT_G, check, check_text
from calmtin.core.weighing import share_out
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.services import EditedElsewhere, freeze
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import put_back, take_from_stock
from calmtin.pours.models import Check, Pour, WeighIn, WeighLine

# A reading this far over its target is a slip of the finger, not an over-pour.
MOST_TIMES_TARGET = 20


@sent_once
@transaction.atomic
def start_pour(
    user: Any,
    version: Version,
    plan: FillPlan,
    *,
    scale_step_g: Decimal,
    seen: int | None = None,
    started_at: datetime | None = None,
) -> Pour:
    """Freeze the version and lay out its weigh sheet for `plan`.

    `seen` is the revision that the plan was worked out for; a later one is refused
    with `EditedElsewhere`.
    """
    read_again(user, version)
    if seen is not None and seen != version.revision:
        raise EditedElsewhere(
            "The formula was changed since this plan was worked out. "
            "You now see the plan for its latest state; look it over and start again.",
            field="revision",
        )
    freeze(user, version)
    last = Pour.objects.filter(version__formula=version.formula).aggregate(last=Max("number"))["last"]
    number = (last or 0) + 1
    pour = Pour.objects.create(
        owner=user,
        version=version,
        number=number,
        code=_code(user, version.formula, number),
        container=plan.container.slug,
        container_name=plan.container.name,
        container_ml=plan.container.volume_ml,
        count=plan.count,
        level=plan.level,
        loss=plan.loss,
        batch_g=plan.batch_g,
        scale_step_g=scale_step_g,
        pour_c=plan.pour_c,
        started_at=started_at or timezone.now(),
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


def _code(user: Any, formula: Formula, number: int) -> str:
    """Return a code that no other pour on the bench has; the formula keeps its letters."""
    if not formula.code:
        taken = set(Formula.objects.of(user).exclude(code="").values_list("code", flat=True))
        formula.code = next(code for code in codes_for(formula.name) if code not in taken)
        formula.save(update_fields=["code"])
    codes = (f"{formula.code}-{n:02d}" for n in count(number))
    return next(code for code in codes if not Pour.objects.of(user).filter(code=code).exists())


@transaction.atomic
def weigh(user: Any, line: WeighLine, grams: Decimal) -> None:
    """Record what the scale said for a line; saying the same again adds nothing."""
    read_again(user, line)
    _refuse_poured(line.pour)
    check(grams, WEIGHT_G, name="A weight", field="grams", unit="g")
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


@sent_once
@transaction.atomic
def take_back(user: Any, pour: Pour) -> WeighLine | None:
    """Take back the newest reading that still counts; return its line."""
    read_again(user, pour)
    _refuse_poured(pour)
    counting = [
        newest
        for line in pour.lines.prefetch_related("weigh_ins")
        if (newest := _newest(line)) is not None and newest.grams is not None
    ]
    if not counting:
        return None
    newest = max(counting, key=lambda weigh_in: weigh_in.pk)
    _put_back(user, newest)
    WeighIn.objects.create(line=newest.line, grams=None)
    return newest.line


@transaction.atomic
def finish_weighing(user: Any, pour: Pour, *, poured_at: datetime | None = None) -> Pour:
    """Close the weigh sheet: everything is in the pot and poured.

    Raises `CalmTinError` while a line has no weight, or when nothing has any.
    """
    read_again(user, pour)
    if not pour.is_weighing:
        return pour
    shelf = shelf_for(user)
    newest = {line: _newest(line) for line in pour.lines.prefetch_related("weigh_ins")}
    missing = [shelf[li.material].label for li, w in newest.items() if w is None or w.grams is None]
    if missing:
        raise CalmTinError(
            f"Not weighed yet: {', '.join(missing)}. Type 0 for what you left out.", field="grams"
        )
    if not any(w.grams for w in newest.values() if w):
        raise CalmTinError("Nothing is in the pot: every weight is 0.", field="grams")
    pour.poured_at = poured_at or timezone.now()
    pour.save(update_fields=["poured_at"])
    return pour


def _newest(line: WeighLine) -> WeighIn | None:
    """Return the newest reading of a line whose readings are at hand."""
    return max(line.weigh_ins.all(), key=lambda weigh_in: weigh_in.pk, default=None)


@sent_once
@transaction.atomic
def record_check(
    user: Any,
    pour: Pour,
    *,
    temp_c: float,
    felt_rung: Decimal | None,
    verdict: str = "",
    notes: str = "",
    made_at: datetime | None = None,
) -> Check:
    """Add a result to a pour; earlier results stay."""
    read_again(user, pour)
    if pour.is_weighing:
        raise CalmTinError("Finish weighing first; then there is something to judge.", field="verdict")
    check(temp_c, CHECK_C, name="The temperature", field="temp", unit="°C")
    if felt_rung is not None:
        check(felt_rung, RUNG, name="The rung", field="felt_rung")
    if verdict and verdict not in Check.Verdict.values:
        raise CalmTinError("Choose keep, tweak or drop.", field="verdict")
    check_text(notes, 4000, name="The note", field="notes")
    return Check.objects.create(
        pour=pour,
        temp_c=temp_c,
        felt_rung=felt_rung,
        verdict=verdict,
        notes=notes,
        made_at=made_at or timezone.now(),
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
