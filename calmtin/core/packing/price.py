"""What a piece costs its maker, and what to ask for it at a stall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_UP, Decimal

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

CENT = Decimal("0.01")
HUNDRED = Decimal(100)


@dataclass(frozen=True, slots=True)
class Price:
    """The cost of one piece by part, and its price; a refill goes without its container and packing."""

    parts: tuple[tuple[str, Decimal], ...]
    costs: Decimal
    asked: Decimal
    refill: Decimal
    margin_pct: float


def price_of(
    *,
    materials: Decimal,
    share: Decimal,
    container: Decimal | None = None,
    label: Decimal | None = None,
    packing: Decimal | None = None,
    hours: float | None = None,
    hour_costs: Decimal | None = None,
    margin_pct: float = 0.0,
    pieces: int,
) -> Price:
    """Return the price of one of `pieces` pieces of a pour.

    `materials` is what the whole pot cost, `share` the part of it (0 to 1) that one piece holds;
    container, label and packing are of each, `hours` of the whole pour and shared by count. The margin is
    a share of the price, not of the cost: asked = costs / (1 - margin), rounded up to the cent.
    Raises `CalmTinError` for a margin that leaves nothing of the price for the cost.

    >>> p = price_of(materials=Decimal(12), share=Decimal("0.1"), container=Decimal("0.80"),
    ...              label=Decimal("0.20"), hours=2.0, hour_costs=Decimal(15), margin_pct=40.0, pieces=10)
    >>> p.costs, p.asked, p.refill
    (Decimal('5.20'), Decimal('8.67'), Decimal('7.34'))
    """
    if not 0.0 <= margin_pct < 100.0:
        raise CalmTinError(said("The margin must be from 0 to 95 %."), field="margin_pct")
    told: Sequence[tuple[str, Decimal | None]] = (
        ("materials", materials * share),
        ("container", container),
        (said("label and packing"), label),
        (said("packing items"), packing),
        (
            "work",
            None
            if hours is None or hour_costs is None
            else Decimal(repr(hours)) * hour_costs / max(pieces, 1),
        ),
    )
    parts = tuple((name, cost) for name, cost in told if cost is not None)
    costs = sum((cost for _, cost in parts), Decimal(0))
    rest = 1 - Decimal(repr(margin_pct)) / HUNDRED
    without = costs - (container or 0) - (packing or 0)
    return Price(
        parts,
        costs.quantize(CENT),
        (costs / rest).quantize(CENT, ROUND_UP),
        (without / rest).quantize(CENT, ROUND_UP),
        margin_pct,
    )
