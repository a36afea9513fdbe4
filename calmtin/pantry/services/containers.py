"""Containers of the maker's own."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from calmtin.common.once import sent_once
from calmtin.core import limits
from calmtin.core.limits import check, check_text
from calmtin.pantry.models import OwnContainer


@sent_once
@transaction.atomic
def add_container(user: Any, *, name: str, brim_ml: float, **facts: Any) -> OwnContainer:
    """Add a container or mould of the maker's own."""
    check_text(name, 80, name="The name", field="name")
    check(brim_ml, limits.BRIM_ML, name="To the brim it", field="brim_ml", unit="ml")
    for field, span in {
        "usual_level_pct": limits.FILL_PCT,
        "cavities": limits.CAVITIES,
        "on_hand": limits.ON_HAND,
        "price": limits.PRICE,
        "tare_g": limits.WEIGHT_G,
    }.items():
        if facts.get(field) is not None:
            check(facts[field], span, name="This", field=field)
    return OwnContainer.objects.create(owner=user, name=name, brim_ml=brim_ml, **facts)
