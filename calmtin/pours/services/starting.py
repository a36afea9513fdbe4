"""Start a pour: freeze the version and lay out its weigh sheet."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from itertools import count
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import sent_once
from calmtin.common.numbers import CENT
from calmtin.common.owned import read_again
from calmtin.core.codes import codes_for
from calmtin.core.composition import Composition, Part
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.limits import check_text
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.process.fill import FillPlan
from calmtin.core.process.tincture import TINCTURE
from calmtin.core.process.weighing import weighing_order
from calmtin.devices.models import Stove
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.queries.stops import refuse_open_stops, with_finishes
from calmtin.formulas.services import EditedElsewhere, freeze, thaw
from calmtin.pantry.adapters import container_columns, shelf_for
from calmtin.pantry.models import Lot
from calmtin.pours.models import Pour
from calmtin.pours.services.closing import keep_closing
from calmtin.pours.services.weighing import undo_weight


@sent_once
@transaction.atomic
def start_pour(
    user: Any,
    version: Version,
    plan: FillPlan,
    *,
    scale_step_g: Decimal,
    weights: Sequence[tuple[Part, Decimal]] | None = None,
    finish_parts: Sequence[tuple[str, Material, Decimal, Decimal]] = (),
    lots: Mapping[str, int] | None = None,
    seen: int | None = None,
    started_at: datetime | None = None,
    stove: Stove | None = None,
    is_history: bool = False,
    in_the_pot: Collection[str] = (),
) -> Pour:
    """Freeze the version and lay out its weigh sheet for `plan`; on a `stove` it is a rehearsal.

    `weights` are the parts with their grams on their scales, all on one of `scale_step_g` unless
    told; `finish_parts` hold the finish, a material, its percent of the base and its grams;
    `lots` the lot to use first, by the key of a line; `in_the_pot` the keys of those that are in it
    already.
    `seen` is the revision that the plan was worked out for; a later one is refused
    with `EditedElsewhere`. Raises `StopFirst` for a stop that was not acknowledged, except for what
    was poured long ago (`is_history`).
    """
    read_again(user, version, stove)
    if seen is not None and seen != version.revision:
        raise EditedElsewhere(
            gettext(
                "The formula has changed since this plan was calculated. You now see the new plan; check "
                "it and start again."
            ),
            field="revision",
        )
    if not plan.fillings:
        raise DoesNotFit(
            gettext("The batch is too small to fill one container. Make it larger."), field="pot"
        )
    composition = composition_of(version, shelf_for(user))
    if stove is None:
        if not is_history:
            _refuse_stops(user, version, composition, finish_parts)
        freeze(user, version)
    sheet = list(weights if weights is not None else composition.weighed(plan.batch_g, scale_step_g))
    # As the run sheet wants them: a tincture before the wax, what melts last first, the late ones last.
    wet = any(part.material.slug == TINCTURE for part, _ in sheet)
    sheet.sort(
        key=lambda line: (
            line[0].key not in in_the_pot,
            weighing_order(line[0].material, pour_c=plan.melt.pour_c, with_tincture=wet),
        )
    )
    first, bench = plan.fillings[0], bench_of(user)
    last = Pour.objects.filter(version__formula=version.formula).aggregate(last=Max("number"))["last"]
    number = 0 if stove else (last or 0) + 1
    pour = Pour.objects.create(
        owner=user,
        version=version,
        number=number,
        code=_rehearsal_code(user) if stove else _code(user, version.formula, number),
        stove=stove,
        weighed_into=bench.weighed_into or Pour.Weighing.POT,
        melting=bench.melting or Pour.Melting.STAGED,
        **container_columns(first.container),
        container_name=first.container.name,
        container_ml=first.container.volume_ml,
        count=plan.count,
        level=min(first.level, 1.0),
        loss=plan.clung_g / float(plan.batch_g),
        batch_g=sum((grams for _, grams in sheet), Decimal(0)),
        scale_step_g=scale_step_g,
        pour_c=plan.melt.pour_c,
        clung_g=_cents(plan.clung_g),
        test_g=_cents(plan.test_g),
        driven_off_g=_cents(plan.driven_off_g),
        powder_g=_cents(plan.powder_g),
        started_at=started_at or timezone.now(),
    )
    for place, filling in enumerate(plan.fillings):
        pour.fillings.create(
            position=place,
            **container_columns(filling.container),
            container_name=filling.container.name,
            container_ml=filling.container.volume_ml,
            count=filling.count,
            each_ml=filling.each_ml,
            each_g=_cents(plan.each_g(filling)),
            finish=filling.finish,
        )
    for finish, material, percent, grams in finish_parts:
        pour.finish_parts.create(finish=finish, material=material.slug, percent=percent, planned_g=grams)
    for position, (part, grams) in enumerate(sheet):
        pour.lines.create(
            position=position,
            key=part.key,
            material=part.material.slug,
            percent=part.percent,
            planned_g=grams,
            is_from_pot=part.key in in_the_pot,
            lot=Lot.objects.of(user)
            .filter(pk=(lots or {}).get(part.key, 0), material=part.material.slug, voided_at=None)
            .first()
            if lots
            else None,
        )
    return pour


def _refuse_stops(
    user: Any,
    version: Version,
    composition: Composition,
    finish_parts: Sequence[tuple[str, Material, Decimal, Decimal]],
) -> None:
    """Raise `StopFirst` for a stop about the pot, or about what one of its finishes makes of it."""
    bench = bench_of(user)
    finishes: dict[str, list[tuple[Material, Decimal]]] = defaultdict(list)
    for finish, material, percent, _ in finish_parts:
        finishes[finish].append((material, percent))
    for parts in with_finishes(composition.masses, finishes.values()):
        refuse_open_stops(version, parts, bench)


def _cents(grams: float) -> Decimal:
    return Decimal(repr(grams)).quantize(CENT)


def _code(user: Any, formula: Formula, number: int) -> str:
    """Return a code that no other pour on the bench has; the formula keeps its letters."""
    if not formula.code:
        taken = set(Formula.objects.of(user).exclude(code="").values_list("code", flat=True))
        formula.code = next(code for code in codes_for(formula.name) if code not in taken)
        formula.save(update_fields=["code"])
    codes = (f"{formula.code}-{n:02d}" for n in count(number))
    return next(code for code in codes if not Pour.every().of(user).filter(code=code).exists())


def _rehearsal_code(user: Any) -> str:
    """Return a code that no pour on the bench has, and that uses up none of a formula's own."""
    codes = (said("rehearsal {n}", n=n) for n in count(1))
    return next(code for code in codes if not Pour.every().of(user).filter(code=code).exists())


@transaction.atomic
def cancel_pour(user: Any, pour: Pour, *, reason: str) -> Pour:
    """Call off a pour that was started by mistake: it stays as cancelled, and its stock is put back.

    The version is a draft again where nothing else was poured from it. Raises
    `CalmTinError` once the sheet is closed, or without a reason.
    """
    read_again(user, pour)
    if not pour.is_weighing:
        raise CalmTinError(
            gettext("Only a pour that is still being weighed can be cancelled."), field="reason"
        )
    if pour.is_rehearsal:
        raise CalmTinError(gettext("Delete a rehearsal instead of cancelling it."), field="reason")
    if not reason.strip():
        raise CalmTinError(gettext("Give a reason: the wrong formula, started twice."), field="reason")
    check_text(reason, 200, name=gettext("The reason"), field="reason")
    while undo_weight(user, pour):
        pass
    pour.called_off_at, pour.called_off_why = timezone.now(), reason.strip()
    pour.save(update_fields=["called_off_at", "called_off_why"])
    if not Pour.objects.filter(version_id=pour.version_id, called_off_at=None).exists():
        thaw(user, pour.version)
    keep_closing(user, pour)
    return pour
