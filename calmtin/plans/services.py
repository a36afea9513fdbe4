"""What a plan changes before anything is weighed."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db import transaction

from calmtin.common.owned import read_again
from calmtin.core.composition import THOUSANDTH
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.services import apply_lines
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import keep_blend


@transaction.atomic
def dilute(user: Any, version: Version, *, key: str, oil: str, share: Decimal, seen: int) -> Version:
    """Put a line into the formula as a dilution, `share` of it in `oil`, which gives way for that.

    What the product is made of stays the same; the dilution is a material of the pantry from now
    on. Raises `CalmTinError` where there is too little of the oil, or a lock is in the way.
    """
    read_again(user, version)
    shelf = shelf_for(user)
    composition = composition_of(version, shelf)
    part = composition[key]
    carrier = next(p for p in composition if p.material.slug == oil)
    taken = (part.percent / share).quantize(THOUSANDTH)
    left = carrier.percent - (taken - part.percent)
    if left < 0:
        raise CalmTinError(
            said("There is too little {in_words} to dilute it in.", in_words=carrier.material.in_words)
        )
    blend = keep_blend(
        user,
        name=f"{part.material.label} {100 * share:.0f} % in {carrier.material.in_words}"[:80],
        parts=[(part.material.slug, share), (carrier.material.slug, 1 - share)],
    )
    percents = [
        (
            p.key,
            blend.slug if p is part else p.material.slug,
            taken if p is part else left if p is carrier else p.percent,
        )
        for p in composition
    ]
    return apply_lines(user, version, percents=percents, seen=seen)
