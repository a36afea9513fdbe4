"""Parse all lines in one unit, and new lines."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext

from calmtin.core.cached import cached_property
from calmtin.core.composition import WHOLE, Part
from calmtin.core.data.loader import drops_per_ml
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import WEIGHT_G
from calmtin.core.materials import Material, Shelf
from calmtin.core.measured import Measured
from calmtin.core.messages import digits, notation_in_force, said
from calmtin.core.notation import Notation
from calmtin.core.quantities import OUNCE_G
from calmtin.core.recipe.boxes import read_measured
from calmtin.core.units import read_number
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.queries.typed import material_named

THOUSANDTH = Decimal("0.001")
CENT = Decimal("0.01")
_SHARE = re.compile(r" ?(?:%|per ?cent|parts?)$", re.IGNORECASE)


class AmountsForm(forms.Form):
    """All lines in one unit. A box left unchanged keeps its exact value.

    Amounts are grams where the unit weighs, else parts or percent. In another unit the boxes
    show what was typed, worked out for it.
    """

    UNITS = {"g": "grams", "oz": "ounces", "part": "parts", "percent": "percent"}
    SPARE, SPARE_OF_EMPTY = 2, 6

    def __init__(self, version: Version, shelf: Shelf, data: Any) -> None:
        self.version, self.shelf = version, shelf
        usual = notation_in_force().scale_unit
        self.unit = data.get("unit", usual) if data.get("unit") in self.UNITS else usual
        was = data.get("was") if data.get("was") in self.UNITS else self.unit
        self.composition = composition_of(version, shelf)
        self.spare = range(self.SPARE if len(self.composition) else self.SPARE_OF_EMPTY)
        self.exact = {part.key: self._of_line(part, self.unit) for part in self.composition}
        self.shown = {key: self._written(exact, self.unit) for key, exact in self.exact.items()}
        super().__init__(self._boxes(data, was))
        for part in self.composition:
            self.fields[f"amount_{part.key}"] = forms.CharField(required=False, label=part.material.label)
        for place in self.spare:
            self.fields[f"material_{place}"] = forms.CharField(required=False, max_length=120)
            self.fields[f"amount_{place}"] = forms.CharField(required=False)

    @property
    def is_weighed(self) -> bool:
        """Whether the unit weighs."""
        return self.unit in ("g", "oz")

    def _boxes(self, data: Any, was: str) -> dict[str, str]:
        """Return the text of the boxes: as shown, as typed, or converted from the previous unit."""
        start = {f"amount_{key}": shown for key, shown in self.shown.items()}
        start |= {f"{box}_{place}": "" for place in self.spare for box in ("material", "amount")}
        if "was" not in data:
            return start
        typed = {box: data.get(box, shown) for box, shown in start.items()}
        return typed if was == self.unit else typed | self._turned(typed, was)

    def _turned(self, typed: dict[str, str], was: str) -> dict[str, str]:
        """Return amounts that were typed in one unit, as far as they can be read, in the present one."""
        read: dict[str, Decimal] = {}
        for box, text in typed.items():
            try:
                if box.startswith("amount_") and text.strip():
                    read[box] = self._read(text, self._material_of(box, typed), was)[0]
            except CalmTinError:
                continue
        for part in self.composition:
            if typed.get(f"amount_{part.key}") == self._written(self._of_line(part, was), was):
                read[f"amount_{part.key}"] = self._of_line(part, was)
        total = sum(read.values(), Decimal(0))
        if total <= 0:
            return {}
        # Weights are kept; parts and percent are shares of the batch, parts of ten.
        whole = total if was in ("g", "oz") else self.version.batch_g
        to = {"g": whole, "oz": whole, "part": Decimal(10), "percent": WHOLE}[self.unit]
        return {box: self._written(amount * to / total, self.unit) for box, amount in read.items()}

    def _of_line(self, part: Part, unit: str) -> Decimal:
        """Return a line's amount: grams of the batch, parts of ten, or percent."""
        if unit in ("g", "oz"):
            return part.grams_in(self.version.batch_g)
        return part.percent / 10 if unit == "part" else part.percent

    @staticmethod
    def _written(amount: Decimal, unit: str) -> str:
        told = (amount / OUNCE_G).quantize(THOUSANDTH) if unit == "oz" else amount.quantize(CENT)
        return digits(told.normalize(), "f")

    def _material_of(self, box: str, typed: dict[str, str]) -> Material | None:
        key = box.removeprefix("amount_")
        if name := typed.get(f"material_{key}", "").strip():
            return material_named(name, self.shelf)
        return next((part.material for part in self.composition if part.key == key), None)

    def _read(self, text: str, material: Material | None, unit: str) -> tuple[Decimal, Measured | None]:
        """Return an amount as typed in a unit, with its words where it is a measure of its own."""
        name, notation = material.label if material else "This", notation_in_force()
        if unit not in ("g", "oz"):
            number = _SHARE.sub("", text.strip())
            return read_number(number, name=name, high=100_000.0, places=4, notation=notation), None
        measured = read_measured(
            text,
            name=name,
            high=WEIGHT_G[1],
            material=material,
            drops_per_ml=drops_per_ml().get(material.slug) if material else None,
            notation=Notation(notation.decimal_comma, notation.system, "oz" if unit == "oz" else "g"),
        )
        return measured.grams, measured if measured.words else None

    def clean(self) -> dict[str, Any]:
        """Parse every box; report what cannot be read next to it."""
        data = super().clean() or {}
        typed = {name: str(value) for name, value in data.items()}
        self.added: list[tuple[Material, Decimal, Measured | None]] = []
        self.measured: dict[str, Measured | None] = {}
        for part in self.composition:
            box = f"amount_{part.key}"
            if typed.get(box, "").strip() == self.shown[part.key]:
                data[box] = self.exact[part.key]
                continue
            try:
                data[box], self.measured[part.key] = self._read(
                    typed.get(box, ""), part.material, self.unit
                )
            except CalmTinError as refused:
                self.add_error(box, str(refused))
        for place in self.spare:
            self._clean_spare(place, typed)
        return data

    def _clean_spare(self, place: int, typed: dict[str, str]) -> None:
        name, text = (typed.get(f"{box}_{place}", "").strip() for box in ("material", "amount"))
        box = f"material_{place}"
        try:
            if text and not name:
                self.add_error(box, gettext("Type a material from your shelf."))
            elif name:
                material = material_named(name, self.shelf)
                if material in [m for m, *_ in self.added] or material in self.composition.materials:
                    self.add_error(
                        box,
                        said("{label} is already in the formula. Change its line.", label=material.label),
                    )
                    return
                box = f"amount_{place}"
                self.added.append((material, *self._read(text or "0", material, self.unit)))
        except CalmTinError as refused:
            self.add_error(box, str(refused))

    @cached_property
    def amounts(self) -> dict[str, Decimal]:
        """The amounts by line key, as far as they can be read."""
        self.is_valid()
        return {
            part.key: self.cleaned_data[f"amount_{part.key}"]
            for part in self.composition
            if isinstance(self.cleaned_data.get(f"amount_{part.key}"), Decimal)
        }

    @property
    def rows(self) -> list[dict[str, Any]]:
        """The lines with their boxes and resulting percentages."""
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
    def spare_rows(self) -> list[tuple[Any, Any]]:
        """The boxes of lines that are new."""
        return [(self[f"material_{place}"], self[f"amount_{place}"]) for place in self.spare]

    @property
    def weighed(self) -> list[tuple[Part, Decimal]]:
        """The lines whose amount can be read, with it."""
        amounts = self.amounts
        known = [(part, amounts[part.key]) for part in self.composition if part.key in amounts]
        return known + [(Part(f"+{m.slug}", m, Decimal(0)), amount) for m, amount, _ in self.added]

    @property
    def total(self) -> Decimal:
        """What the amounts add up to."""
        return sum(self.amounts.values(), Decimal(0)) + sum((a for _, a, _ in self.added), Decimal(0))
