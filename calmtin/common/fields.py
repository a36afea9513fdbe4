"""Form fields that read numbers the way people type them."""

from __future__ import annotations

from decimal import Decimal
from typing import Any, cast

from django import forms

from calmtin.core.errors import CalmTinError, UnreadableNumber
from calmtin.core.units import read_number


def refuse(form: forms.Form, refused: CalmTinError) -> None:
    """Say a service's refusal at the field that it is about, or above the form where there is none."""
    form.add_error(refused.field if refused.field in form.fields else None, refused.sentence)


def offer(form: forms.Form, name: str, choices: list[Any]) -> None:
    """Give the choice field `name` of a form what there is to choose from just now."""
    cast(forms.ChoiceField, form.fields[name]).choices = choices


class NumberField(forms.CharField):
    """A number with a point or a comma, within limits; refuses with what to type."""

    widget = forms.TextInput

    def __init__(
        self, *, low: float = 0.0, high: float, unit: str = "", places: int = 3, **kwargs: Any
    ) -> None:
        super().__init__(**kwargs)
        self.low, self.high, self.unit, self.places = low, high, unit, places
        self.widget.attrs.update({"inputmode": "decimal", "autocomplete": "off"})

    def clean(self, value: Any) -> Decimal | None:
        """Return the number as a Decimal, or None when an optional one is empty."""
        text = str(value if value is not None else "").strip()
        if not text and not self.required:
            return None
        try:
            return read_number(
                text,
                name=str(self.label or "This"),
                low=self.low,
                high=self.high,
                unit=self.unit,
                places=self.places,
            )
        except UnreadableNumber as refused:
            raise forms.ValidationError(refused.sentence) from refused
