"""Percentages of a formula: held at 100 by one line, exact to a thousandth."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from calmtin.core.errors import DoesNotAddUp
from calmtin.core.process.weighing import share_out

WHOLE = Decimal("100.000")
THOUSANDTH = Decimal("0.001")
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


def of_total(on_top: Sequence[Decimal]) -> list[Decimal]:
    """Return the percent of the total of parts that were given in percent of the base.

    100 b / (100 + sum of b), to a thousandth: 3 % on top of a base is 2.913 % of it all.

    >>> of_total([Decimal(3)])
    [Decimal('2.913')]
    """
    whole = WHOLE + sum(on_top, Decimal(0))
    return [(100 * part / whole).quantize(THOUSANDTH) for part in on_top]


def of_base(percent: Decimal, on_top_total: Decimal) -> Decimal:
    """Return what `percent` of the total is in percent of the base beneath all that is on top.

    `on_top_total` is the percent of the total of everything on top of the base.

    >>> of_base(Decimal("2.913"), Decimal("2.913")).quantize(Decimal("0.01"))
    Decimal('3.00')
    """
    return 100 * percent / (WHOLE - on_top_total)


def scaled_to(percents: Sequence[Decimal], total: Decimal) -> list[Decimal]:
    """Return `percents` in the same proportions, to a thousandth, summing to exactly `total`.

    Raises `DoesNotAddUp` when there is nothing to scale.
    """
    was = sum(percents, Decimal(0))
    if was <= 0:
        raise DoesNotAddUp("There is nothing here that could give way. Unlock a line first.")
    return share_out([percent * total / was for percent in percents], THOUSANDTH)


def masses(percents: Sequence[Decimal], batch_g: Decimal) -> list[Decimal]:
    """Return each line's grams in a batch, not rounded to any scale."""
    return [batch_g * percent / WHOLE for percent in percents]
