"""Boxes that are recalculated while typed: the value they show first and the value that was meant."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from functools import partial
from typing import Any

from calmtin.common.numbers import read_box
from calmtin.common.signed_boxes import sealed, unsealed
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
    """The text of each box: as typed, else its usual quantity in the bench's unit.

    A box that holds what it was shown with means that quantity to the letter: `shown` goes along with the
    form, signed.
    """

    def __init__(self, usual: Mapping[str, Quantity], typed: Mapping[str, str]) -> None:
        notation = notation_in_force()
        self.exact = unsealed(typed.get("shown"))
        as_usual = {name: (value.number(notation), value) for name, value in usual.items()}
        super().__init__({name: typed.get(name, text) for name, (text, _) in as_usual.items()})
        for name, (text, value) in as_usual.items():
            if isinstance(value, Mass) and text == self[name]:
                self.exact.setdefault(name, (text, Decimal(str(value.g))))

    @property
    def shown(self) -> str:
        """What its boxes stand for, signed."""
        return sealed({name: exact for name, exact in self.exact.items() if self.get(name) == exact[0]})

    def grams(self, problems: dict[str, str], box: str, name: str, **limits: Any) -> Decimal:
        """Return the grams in a box; 0, with the reason in `problems`, where it cannot be read."""
        text, exact = self.exact.get(box, ("", Decimal(0)))
        if text and text == self[box]:
            return exact
        notation = notation_in_force()
        return read_box(
            problems, box, partial(read_grams, self[box], name=name, notation=notation, **limits)
        )

    def percent(self, problems: dict[str, str], box: str, name: str, **limits: Any) -> Decimal:
        """Return the percentage in a box; 0, with the reason in `problems`, where it cannot be read."""
        notation = notation_in_force()
        return read_box(
            problems, box, partial(read_number, self[box], name=name, unit="%", notation=notation, **limits)
        )
