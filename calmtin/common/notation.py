"""Boxes of pages that are worked out as they are typed: what they show before, and what was meant."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from functools import partial
from typing import Any

from calmtin.common.numbers import read_box
from calmtin.core.messages import notation_in_force
from calmtin.core.quantities import Mass, Quantity
from calmtin.core.recipe.boxes import read_grams
from calmtin.core.units import read_number


def scale_weight(grams: Decimal | float) -> str:
    """Write grams in the unit of the bench's scale: in the steps they came in, or in ounces.

    >>> scale_weight(Decimal("4.80")), scale_weight(250.0)
    ('4.8', '250')
    """
    return Mass(grams).number(notation_in_force())


class Boxes(dict[str, str]):
    """What stands in each box: as typed, else its usual quantity in the bench's unit.

    A box that holds what it was shown with means that quantity to the letter: 1 g, shown as 0.04 oz, is not
    1.13 g.
    """

    def __init__(self, usual: Mapping[str, Quantity], typed: Mapping[str, str]) -> None:
        self.usual, notation = usual, notation_in_force()
        super().__init__({name: typed.get(name, value.number(notation)) for name, value in usual.items()})

    def grams(self, problems: dict[str, str], box: str, name: str, **limits: Any) -> Decimal:
        """Return the grams in a box; 0, with the reason in `problems`, where it cannot be read."""
        notation, usual = notation_in_force(), self.usual.get(box)
        if isinstance(usual, Mass) and self[box] == usual.number(notation):
            return Decimal(str(usual.g))
        return read_box(
            problems, box, partial(read_grams, self[box], name=name, notation=notation, **limits)
        )

    def percent(self, problems: dict[str, str], box: str, name: str, **limits: Any) -> Decimal:
        """Return the percentage in a box; 0, with the reason in `problems`, where it cannot be read."""
        notation = notation_in_force()
        return read_box(
            problems, box, partial(read_number, self[box], name=name, unit="%", notation=notation, **limits)
        )
