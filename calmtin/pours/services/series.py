"""Start a series of small pours from one formula."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from django.db import transaction

from calmtin.common.once import sent_once
from calmtin.common.owned import read_again
from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.process.fill import Container, Losses, melt_of, whole_pot
from calmtin.core.process.scales import Scale, weigh_on
from calmtin.core.process.weighing import share_out
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.services import apply_lines, start_next_version
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import at_share
from calmtin.pours.models import Pour
from calmtin.pours.services.starting import start_pour


@sent_once
@transaction.atomic
def start_series(
    user: Any,
    version: Version,
    *,
    key: str,
    shares: Sequence[Decimal],
    sample_g: Decimal,
    container: Container,
    scales: Sequence[Scale],
) -> Pour:
    """Start a pour for each share of one line: a version of its own, a sheet of its own sample.

    The rest of each keeps its proportions. Returns the first pour. Raises `CalmTinError` where
    the container is too small, or a locked line would move; nothing is started then.
    """
    read_again(user, version)
    pours = []
    for share in shares:
        pours.append(_sample(user, version, key, share, sample_g, container, scales))
    return pours[0]


def _sample(
    user: Any,
    version: Version,
    key: str,
    share: Decimal,
    sample_g: Decimal,
    container: Container,
    scales: Sequence[Scale],
) -> Pour:
    draft = start_next_version(user, version)
    shelf = shelf_for(user)
    composition = composition_of(draft, shelf)
    exact = at_share(composition.parts, composition[key], share)
    exact[-1] = WHOLE - sum(exact[:-1], Decimal(0))
    percents = share_out(exact, THOUSANDTH)
    rows = [(p.key, p.material.slug, percent) for p, percent in zip(composition, percents, strict=True)]
    draft = apply_lines(user, draft, percents=rows, seen=draft.revision)
    composition = composition_of(draft, shelf)
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
