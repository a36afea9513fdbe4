"""Start a series of small pours that differ in one thing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from decimal import Decimal
from functools import partial
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.composition import WHOLE, Composition, Part
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_text
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.process.fill import Container, Filling, FillPlan, Melt, melt_of, plan_of
from calmtin.core.process.losses import Losses
from calmtin.core.process.scales import Scale, weigh_on
from calmtin.core.process.uneven import whole_pot
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.services import apply_lines, set_process, start_next_version
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.plans.adapters import OnePot, Variant, ladder_variants
from calmtin.pours.adapters import next_sample
from calmtin.pours.models import Pour, Series, WeighIn
from calmtin.pours.services.starting import start_pour


@sent_once
@transaction.atomic
def start_series(
    user: Any,
    version: Version,
    *,
    variants: Sequence[Variant],
    varies: str,
    sample_g: Decimal,
    container: Container,
    scales: Sequence[Scale],
    one_pot: OnePot | None = None,
) -> Series:
    """Start a pour for each of `variants`: a version of its own, a sheet of its own sample.

    From `one_pot` only the first is started, with all that is melted; the next is started once that
    is poured (`pour_next_sample`). `varies` says in words what differs. Raises `CalmTinError` where
    the container is too small, or a locked line would move; nothing is started then.
    """
    read_again(user, version)
    check_text(varies, 200, name=gettext("What differs"), field="varies")
    if not len(variants) >= 2:
        raise CalmTinError(gettext("A series needs two pours or more."), field="varies")
    series = Series.objects.create(owner=user, varies=varies, one_pot=_told(one_pot, sample_g))
    if one_pot is not None:
        lost_g = one_pot.lost_g
        pot = partial(_one_sample, container=container, sample_g=sample_g, lost_g=lost_g)
        pours = [_start(user, version, variants[0], one_pot.start_g, scales, pot)]
    else:
        alone = partial(whole_pot, container=container, losses=Losses())
        pours = [_start(user, version, variant, sample_g, scales, alone) for variant in variants]
    Pour.objects.filter(pk__in=[pour.pk for pour in pours]).update(series=series)
    return series


def _told(one_pot: OnePot | None, sample_g: Decimal) -> dict[str, Any] | None:
    """Return what a series keeps of its pot; nothing for pots of their own."""
    if one_pot is None:
        return None
    return {
        "key": one_pot.key,
        "shares": [f"{share:f}" for share in one_pot.shares],
        "sample_g": f"{sample_g:f}",
        "lost_g": f"{one_pot.lost_g:f}",
    }


def _start(
    user: Any,
    version: Version,
    variant: Variant,
    grams: Decimal,
    scales: Sequence[Scale],
    plan: Callable[..., FillPlan],
) -> Pour:
    """Start a pour of a variant, weighed to `grams` g on the scales, by what `plan` makes of its melt."""
    draft = _draft_of(user, version, variant)
    composition = composition_of(draft, shelf_for(user))
    parts = [p for p in composition if p.percent > 0]
    rows_on_scale, batch = weigh_on([p.percent for p in parts], grams, scales)
    return start_pour(
        user,
        draft,
        plan(_melt(composition, draft), batch_g=batch),
        scale_step_g=scales[0].step_g,
        weights=[(p, row.grams) for p, row in zip(parts, rows_on_scale, strict=True)],
    )


def _melt(composition: Composition, draft: Version) -> Melt:
    masses = composition.masses
    return melt_of(masses, set_point_c=set_point_c(blend(masses)), overrun=draft.overrun)


def _one_sample(
    melt: Melt, *, container: Container, sample_g: Decimal, lost_g: Decimal, batch_g: Decimal
) -> FillPlan:
    """Return the plan of a pot out of which one container is filled with a sample."""
    filling = Filling(container, 1, float(sample_g) / melt.density_pour)
    return plan_of(melt, [filling], Losses(test_g=float(lost_g)), batch_g)


@sent_once
@transaction.atomic
def pour_next_sample(user: Any, last: Pour) -> Pour:
    """Start the next sample of a series from what is left in the pot of `last`.

    What is in the pot is on its sheet already, by what was really weighed; only the addition is
    weighed. Raises `CalmTinError` where `last` is not poured, or no sample is left.
    """
    read_again(user, last)
    coming = next_sample(last, shelf_for(user))
    if coming is None:
        raise CalmTinError(gettext("No sample is left to pour from this pot."))
    if coming.problem:
        raise CalmTinError(coming.problem)
    if last.is_weighing:
        raise CalmTinError(said("Pour {code} first.", code=last.code))
    composition = composition_of(last.version, shelf_for(user))
    [variant], _ = ladder_variants(composition, composition[coming.key], [coming.share])
    draft = _draft_of(user, last.version, variant)
    composition = composition_of(draft, shelf_for(user))
    container = container_for(user, last.fillings.get().container_slug)
    batch_g = coming.rest_g + coming.add_g

    def line_of(key: str, material: Material, grams: Decimal) -> tuple[Part, Decimal]:
        return Part(key, material, round(WHOLE * grams / batch_g, 3)), grams

    rest = [
        line_of(f"in-pot-{n}", material, grams) for n, (material, grams) in enumerate(coming.rest) if grams
    ]
    pour = start_pour(
        user,
        draft,
        _one_sample(
            _melt(composition, draft),
            container=container,
            sample_g=coming.sample_g,
            lost_g=coming.lost_g,
            batch_g=batch_g,
        ),
        scale_step_g=last.scale_step_g,
        weights=[*rest, line_of(coming.key, coming.material, coming.add_g)],
        in_the_pot=[part.key for part, _ in rest],
    )
    for line in pour.lines.filter(is_from_pot=True):
        WeighIn.objects.create(line=line, grams=line.planned_g)
    Pour.objects.filter(pk=pour.pk).update(series=last.series, rest_of=last, melting=last.melting)
    pour.refresh_from_db()
    return pour


def _draft_of(user: Any, version: Version, variant: Variant) -> Version:
    """Return the version of a variant: as it is, or the next one with its lines or its cooling."""
    draft = version if variant.is_as_it_is else start_next_version(user, version)
    if variant.rows:
        draft = apply_lines(user, draft, percents=list(variant.rows), seen=draft.revision)
    if variant.cooling:
        draft = set_process(
            user, draft, cooling=variant.cooling, overrun_pct=draft.overrun_pct, seen=draft.revision
        )
    return draft
