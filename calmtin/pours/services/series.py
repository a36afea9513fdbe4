"""Start a series of small pours that differ in one thing."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_text
from calmtin.core.process.fill import Container, melt_of
from calmtin.core.process.losses import Losses
from calmtin.core.process.scales import Scale, weigh_on
from calmtin.core.process.uneven import whole_pot
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.services import apply_lines, set_process, start_next_version
from calmtin.pantry.adapters import shelf_for
from calmtin.plans.adapters import Variant
from calmtin.pours.models import Pour, Series
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
) -> Series:
    """Start a pour for each of `variants`: a version of its own, a sheet of its own sample.

    `varies` says in words what differs. Raises `CalmTinError` where the container is too small,
    or a locked line would move; nothing is started then.
    """
    read_again(user, version)
    check_text(varies, 200, name=gettext("What differs"), field="varies")
    if not len(variants) >= 2:
        raise CalmTinError(gettext("A series needs two pours or more."), field="varies")
    series = Series.objects.create(owner=user, varies=varies)
    for variant in variants:
        pour = _sample(user, version, variant, sample_g, container, scales)
        Pour.objects.filter(pk=pour.pk).update(series=series)
    return series


def _sample(
    user: Any,
    version: Version,
    variant: Variant,
    sample_g: Decimal,
    container: Container,
    scales: Sequence[Scale],
) -> Pour:
    draft = version if variant.is_as_it_is else start_next_version(user, version)
    if variant.rows:
        draft = apply_lines(user, draft, percents=list(variant.rows), seen=draft.revision)
    if variant.cooling:
        draft = set_process(
            user, draft, cooling=variant.cooling, overrun_pct=draft.overrun_pct, seen=draft.revision
        )
    composition = composition_of(draft, shelf_for(user))
    parts = [p for p in composition if p.percent > 0]
    rows_on_scale, batch = weigh_on([p.percent for p in parts], sample_g, scales)
    masses = composition.masses
    melt = melt_of(masses, set_point_c=set_point_c(blend(masses)), overrun=draft.overrun)
    return start_pour(
        user,
        draft,
        whole_pot(melt, container, Losses(), batch_g=batch),
        scale_step_g=scales[0].step_g,
        weights=[(p, row.grams) for p, row in zip(parts, rows_on_scale, strict=True)],
    )
