"""What the pantry has to say today."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from calmtin.core.materials import Material, Shelf
from calmtin.pantry.models import Infusion
from calmtin.pantry.queries.lots import LotView, in_stock

MOST_LOTS = 6


@dataclass(frozen=True)
class PantryToday:
    """What the pantry has to say today."""

    infusions: list[Infusion]
    expiring: list[tuple[LotView, Material]]
    low: list[tuple[LotView, Material]]
    more: int  # lots that go off or run low beside those


def infusions_of(user: Any) -> list[Infusion]:
    """Return all infusions that a maker made, with the lots that came of them."""
    return list(Infusion.objects.of(user).select_related("lot"))


def pantry_today(user: Any, shelf: Shelf, today: date, infusions: Iterable[Infusion]) -> PantryToday:
    """Return those of the infusions that are to be strained, lots that go off and lots that run low."""
    lots = [(view, shelf[view.lot.material]) for view in in_stock(user, today)]
    expiring = [pair for pair in lots if pair[0].is_late or pair[0].is_soon]
    low = [pair for pair in lots if pair[0].is_low]
    return PantryToday(
        infusions=[i for i in infusions if i.strained_on is None and i.due_on <= today],
        expiring=expiring[:MOST_LOTS],
        low=low[:MOST_LOTS],
        more=sum(max(len(found) - MOST_LOTS, 0) for found in (expiring, low)),
    )
