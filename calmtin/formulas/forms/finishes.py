"""Parse a finish."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django import forms

from calmtin.common.fields import NumberField
from calmtin.core.materials import Shelf


class FinishForm(forms.Form):
    """A finish: its name, and up to three materials in percent of the base; none for a clear one."""

    PLACES = range(3)

    name = forms.CharField(
        max_length=40, error_messages={"required": "Give the finish a name, such as clear or tinted."}
    )

    def __init__(self, shelf: Shelf, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for place in self.PLACES:
            self.fields[f"material_{place}"] = forms.ChoiceField(
                choices=[("", "nothing"), *((slug, m.label) for slug, m in shelf.items())], required=False
            )
            self.fields[f"percent_{place}"] = NumberField(
                low=0.001, high=30.0, unit="%", required=False, label="The share of the base"
            )

    def clean(self) -> dict[str, Any]:
        """Ask for the percent of each material that was chosen."""
        data = super().clean() or {}
        for place in self.PLACES:
            chosen, percent = data.get(f"material_{place}"), data.get(f"percent_{place}")
            if chosen and percent is None and f"percent_{place}" not in self.errors:
                self.add_error(f"percent_{place}", "Say how much of it, in % of the base.")
            if percent is not None and not chosen:
                self.add_error(f"material_{place}", "Choose a material for this percentage.")
        return data

    @property
    def parts(self) -> list[tuple[str, Decimal]]:
        """The materials chosen with their percent of the base."""
        data = self.cleaned_data
        return [(data[f"material_{n}"], data[f"percent_{n}"]) for n in self.PLACES if data[f"material_{n}"]]

    @property
    def rows(self) -> list[tuple[Any, Any]]:
        """The boxes of each place."""
        return [(self[f"material_{n}"], self[f"percent_{n}"]) for n in self.PLACES]
