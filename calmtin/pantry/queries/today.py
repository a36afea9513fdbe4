"""What the pantry has to say today."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

from calmtin.core.materials import Material, Shelf
from calmtin.pantry.models import Infusion
from calmtin.pantry.queries.lots import LotView, lots_of


@dataclass(frozen=True)
class PantryToday:
    """What the pantry has to say today."""

    infusions: list[Infusion]
    expiring: list[tuple[LotView, Material]]
    low: list[tuple[LotView, Material]]


def pantry_today(user: Any, shelf: Shelf, today: date) -> PantryToday:
    """Return infusions to strain, lots that go off and lots that run low."""
    lots = [(view, shelf[view.lot.material]) for view in lots_of(user, today) if view.left_g > 0]
    return PantryToday(
        infusions=list(Infusion.objects.of(user).filter(strained_on=None, due_on__lte=today)),
        expiring=[pair for pair in lots if pair[0].is_late or pair[0].is_soon],
        low=[pair for pair in lots if pair[0].is_low],
    )
