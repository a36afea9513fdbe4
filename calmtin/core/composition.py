"""Percentages of a formula: held at 100 by one line, exact to a thousandth."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from calmtin.core.errors import DoesNotAddUp

WHOLE = Decimal("100.000")
MOST_LINES = 40


def balancing_percent(others: Sequence[Decimal], *, name: str) -> Decimal:
    """Return what is left of 100 for the balancing line beside `others`.

    Raises `DoesNotAddUp` when the others already make more than 100.

    >>> balancing_percent([Decimal("22"), Decimal("30.5")], name="olive oil")
    Decimal('47.500')
    """
    left = WHOLE - sum(others, Decimal(0))
    if left < 0:
        raise DoesNotAddUp(
            f"That makes {(WHOLE - left).normalize():f} % without {name}, which balances the total. "
            f"Take {-left.normalize():f} off this line or another one first.",
            field="percent",
            limit=float(WHOLE),
            unit="%",
        )
    return left.quantize(WHOLE)


def masses(percents: Sequence[Decimal], batch_g: Decimal) -> list[Decimal]:
    """Return each line's grams in a batch, not rounded to any scale."""
    return [batch_g * percent / WHOLE for percent in percents]
