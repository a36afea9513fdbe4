"""Lots, their balances, and costs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from calmtin.common.numbers import SumGrams
from calmtin.pantry.models import Lot, Movement, with_left

SOON = timedelta(days=45)

LOW_SHARE = Decimal("0.15")


@dataclass(frozen=True)
class LotView:
    """A lot, its balance, and whether it expires soon."""

    lot: Lot
    left_g: Decimal
    is_late: bool
    is_soon: bool

    @property
    def is_there(self) -> bool:
        """Whether it is on the shelf, with something left or something amiss."""
        return self.lot.voided_at is None and self.left_g != 0

    @property
    def is_low(self) -> bool:
        """Whether little of it is left."""
        return 0 < self.left_g < self.lot.amount_g * LOW_SHARE


def lots_of(
    user: Any, today: date, material: str | None = None, *, voided_too: bool = False
) -> list[LotView]:
    """Return lots with their balances, first to expire first; those off the shelf only if asked."""
    lots = with_left(Lot.objects.of(user))
    if not voided_too:
        lots = lots.filter(voided_at=None)
    if material is not None:
        lots = lots.filter(material=material)
    return [_view(lot, today) for lot in lots]


def in_stock(user: Any, today: date, material: str | None = None) -> list[LotView]:
    """Return the lots on the shelf that have something left, first to expire first."""
    # The ledgers are summed from their index alone; only lots that have something left are read.
    ledgers = Movement.objects.of(user).order_by().values("lot").annotate(left=SumGrams("grams"))
    lots = with_left(
        Lot.objects.of(user).filter(voided_at=None, pk__in=ledgers.filter(left__gt=0).values("lot"))
    )
    if material is not None:
        lots = lots.filter(material=material)
    # The database's own sum has crumbs: what it takes for more than nothing is looked at once more.
    return [_view(lot, today) for lot in lots if lot.left > 0]


def _view(lot: Any, today: date) -> LotView:
    late = lot.best_before is not None and lot.best_before < today
    soon = lot.best_before is not None and not late and lot.best_before <= today + SOON
    return LotView(lot, lot.left, late, soon)


def costs_of(user: Any, today: date) -> dict[str, Decimal]:
    """Return the cost of a gram of each material, by the lot that is used next."""
    costs: dict[str, Decimal] = {}
    for view in in_stock(user, today):
        if view.lot.cost_per_g is not None:
            costs.setdefault(view.lot.material, view.lot.cost_per_g)
    return costs


def cost_of_100_g(costs: Mapping[str, Decimal], lines: list[tuple[str, Decimal]]) -> Decimal | None:
    """Return what 100 g of `lines` (slug, percent) cost at `costs` a gram; None unless all are known."""
    if any(slug not in costs for slug, _ in lines):
        return None
    return sum((costs[slug] * percent for slug, percent in lines), Decimal(0))


def left_of(user: Any) -> dict[str, Decimal]:
    """Return the grams that are left of each material that has a lot on the shelf."""
    lots = Lot.objects.of(user).filter(voided_at=None).order_by()
    return dict(
        lots.values("material").annotate(left=SumGrams("movements__grams")).values_list("material", "left")
    )


@dataclass(frozen=True)
class Cost:
    """The cost by the price of each lot; grams with a price, and grams booked in all.

    `taken` is what was read for it, with its lots.
    """

    total: Decimal
    priced_g: dict[str, Decimal]
    booked_g: dict[str, Decimal]
    taken: list[Movement]


def cost_of(withdrawals: Iterable[int], costs_per_g: Mapping[int, Decimal | None] | None = None) -> Cost:
    """Return the cost of withdrawals, given by their keys.

    `costs_per_g` are those that count for some lots, by key, in place of what they cost by now.
    """
    told = costs_per_g or {}
    taken = list(Movement.objects.filter(withdrawal__in=list(withdrawals)).select_related("lot"))
    total = Decimal(0)
    priced: dict[str, Decimal] = defaultdict(Decimal)
    booked: dict[str, Decimal] = defaultdict(Decimal)
    for movement in taken:
        slug = movement.lot.material
        booked[slug] -= movement.grams
        each = told.get(movement.lot_id, movement.lot.cost_per_g)
        if each is not None:
            total -= movement.grams * each
            priced[slug] -= movement.grams
    return Cost(total, {slug: g for slug, g in priced.items() if g > 0}, dict(booked), taken)
