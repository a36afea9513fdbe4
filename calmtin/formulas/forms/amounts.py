"""Parse all lines at once, in one unit."""

from __future__ import annotations

from decimal import Decimal
from functools import cached_property
from typing import Any

from django import forms

from calmtin.common.fields import NumberField
from calmtin.core.composition import Part
from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version

CENT = Decimal("0.01")


class AmountsForm(forms.Form):
    """All lines at once, in one unit. A box that is left as it was shown counts to the letter."""

    UNITS = {"g": "grams", "part": "parts", "percent": "percent"}

    def __init__(self, version: Version, shelf: Shelf, data: Any) -> None:
        self.unit = data.get("unit", "g") if data.get("unit") in self.UNITS else "g"
        # Another unit asks for the boxes anew.
        typed = data if data.get("was") == self.unit else {}
        self.composition = composition_of(version, shelf)
        self.exact = {part.key: self._exact(part.percent, version.batch_g) for part in self.composition}
        self.shown = {key: f"{exact.quantize(CENT).normalize():f}" for key, exact in self.exact.items()}
        super().__init__(
            {f"amount_{k}": typed.get(f"amount_{k}", shown) for k, shown in self.shown.items()}
        )
        for part in self.composition:
            self.fields[f"amount_{part.key}"] = NumberField(
                high=100_000.0,
                places=4,
                label=part.material.label,
                unit="" if self.unit == "part" else self.unit,
            )

    def _exact(self, percent: Decimal, batch_g: Decimal) -> Decimal:
        """Return a line's amount: grams of the batch, parts of ten, or percent."""
        return {"g": percent * batch_g / 100, "part": percent / 10, "percent": percent}[self.unit]

    @cached_property
    def amounts(self) -> dict[str, Decimal]:
        """The amounts by line key, as far as they can be read."""
        self.is_valid()
        found = {}
        for key, shown in self.shown.items():
            field = f"amount_{key}"
            if field in self.cleaned_data:
                left_alone = self.data[field].strip() == shown
                found[key] = self.exact[key] if left_alone else self.cleaned_data[field]
        return found

    @property
    def rows(self) -> list[dict[str, Any]]:
        """The lines with their boxes and what they come to, %."""
        amounts, total = self.amounts, self.total
        return [
            {
                "part": part,
                "box": self[f"amount_{part.key}"],
                "percent": 100 * amounts[part.key] / total if part.key in amounts and total else None,
            }
            for part in self.composition
        ]

    @property
    def weighed(self) -> list[tuple[Part, Decimal]]:
        """The lines whose amount can be read, with it."""
        amounts = self.amounts
        return [(part, amounts[part.key]) for part in self.composition if part.key in amounts]

    @property
    def total(self) -> Decimal:
        """What the amounts add up to."""
        return sum(self.amounts.values(), Decimal(0))
