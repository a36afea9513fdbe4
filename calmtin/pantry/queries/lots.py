"""Lots, what is left of them, and what things cost."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from calmtin.common.numbers import SumGrams
from calmtin.pantry.models import Lot, Movement

SOON = timedelta(days=45)

LOW_SHARE = Decimal("0.15")


@dataclass(frozen=True)
class LotView:
    """A lot, what is left of it, and whether it goes off soon."""

    lot: Lot
    left_g: Decimal
    is_late: bool
    is_soon: bool

    @property
    def is_low(self) -> bool:
        """Whether little of it is left."""
        return 0 < self.left_g < self.lot.amount_g * LOW_SHARE


def lots_of(
    user: Any, today: date, material: str | None = None, *, voided_too: bool = False
) -> list[LotView]:
    """Return lots with their balances, first to expire first; those off the shelf only if asked."""
    # Grouping drops the model's own ordering, so it is said again.
    lots = Lot.objects.of(user).annotate(left=SumGrams("movements__grams")).order_by(*Lot._meta.ordering)
    if not voided_too:
        lots = lots.filter(voided_at=None)
    if material is not None:
        lots = lots.filter(material=material)
    found = []
    for lot in lots:
        late = lot.best_before is not None and lot.best_before < today
        soon = lot.best_before is not None and not late and lot.best_before <= today + SOON
        found.append(LotView(lot, lot.left, late, soon))
    return found


def costs_of(user: Any, today: date) -> dict[str, Decimal]:
    """Return the cost of a gram of each material, by the lot that is used next."""
    costs: dict[str, Decimal] = {}
    for view in lots_of(user, today):
        if view.left_g > 0 and view.lot.cost_per_g is not None:
            costs.setdefault(view.lot.material, view.lot.cost_per_g)
    return costs


def cost_of_100_g(costs: dict[str, Decimal], lines: list[tuple[str, Decimal]]) -> Decimal | None:
    """Return what 100 g of `lines` (slug, percent) cost at `costs` a gram; None unless all are known."""
    if any(slug not in costs for slug, _ in lines):
        return None
    return sum((costs[slug] * percent for slug, percent in lines), Decimal(0))


def cost_of(user: Any, sources: list[str]) -> tuple[Decimal, bool] | None:
    """Return what `sources` took from stock cost, and whether every lot had a price.

    None when nothing was taken, or nothing that was has a price.
    """
    taken = Movement.objects.of(user).filter(source__in=sources).select_related("lot")
    net: dict[Lot, Decimal] = defaultdict(Decimal)
    for movement in taken:
        net[movement.lot] -= movement.grams
    used = {lot: grams for lot, grams in net.items() if grams > 0}
    priced = [grams * lot.cost_per_g for lot, grams in used.items() if lot.cost_per_g is not None]
    return (sum(priced, Decimal(0)), len(priced) == len(used)) if priced else None
