"""Lots that are what was left of a pot, or all of it, kept as a base."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from calmtin.pantry.models import Lot
from calmtin.pours.models import Leftover


def lot_panel(lot: Lot) -> dict[str, Any]:
    """Return where a lot that came out of a pot is melted and filled; nothing for any other lot."""
    kept = (
        Leftover.objects.filter(lot=lot, pour__owner=lot.owner_id)
        .select_related("pour__version__formula")
        .first()
    )
    if kept is None or lot.voided_at is not None:
        return {}
    version = kept.pour.version
    address = reverse("plans:fill", args=[version.formula_id, version.number])
    return {"fill": f"{address}?base={lot.pk}", "pour": kept.pour}
