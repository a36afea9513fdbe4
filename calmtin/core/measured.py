"""An amount as it was measured: its words, its grams, and the range that the measure leaves."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

THOUSANDTH_G = Decimal("0.001")
# What is stored in thousandths of a percent comes back a little off; more than this is another amount.
NEAR = Decimal("0.002")
LEAST_G = Decimal("0.01")


@dataclass(frozen=True, slots=True)
class Measured:
    """A measure: its `words` as written ("½ cup"), its weight in g, and the lowest and highest it may be.

    >>> cup = Measured("½ cup", Decimal(69), Decimal(34), Decimal(99))
    >>> cup.is_sure, cup.says(Decimal("69.01")), cup.says(Decimal(70))
    (False, True, False)
    """

    words: str
    grams: Decimal
    low: Decimal
    high: Decimal

    @classmethod
    def of(cls, words: str, grams: float, low: float, high: float) -> Measured:
        """Return it from the floats of a reading, to a thousandth of a gram."""
        exact = (Decimal(repr(value)).quantize(THOUSANDTH_G) for value in (grams, low, high))
        return cls(words, *exact)

    @property
    def is_sure(self) -> bool:
        """Whether the measure leaves no range: it was a weight, or was confirmed."""
        return self.low == self.high

    def says(self, grams: Decimal) -> bool:
        """Return whether the measure still matches a weight, g."""
        return abs(grams - self.grams) <= max(LEAST_G, NEAR * self.grams)

    def scaled(self, factor: Decimal) -> Measured:
        """Return it for a pot `factor` times as large; the words no longer apply."""
        grams, low, high = (
            (value * factor).quantize(THOUSANDTH_G) for value in (self.grams, self.low, self.high)
        )
        return Measured("", grams, low, high)
