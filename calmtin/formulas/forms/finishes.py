"""Parse a finish."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import DOSE_CHARS, ON_TOP_PCT
from calmtin.core.materials import Shelf
from calmtin.core.units import in_span
from calmtin.formulas.queries.typed import dose_typed


class FinishForm(forms.Form):
    """A finish: its name, and up to three materials for the base; none for a clear one.

    A bare number is percent of the base. A measure is what goes into a pot of `base_g` of base.
    """

    PLACES = range(3)

    name = forms.CharField(
        max_length=40,
        error_messages={"required": gettext_lazy("Give the finish a name, such as clear or tinted.")},
    )

    def __init__(self, shelf: Shelf, base_g: Decimal, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.shelf, self.base_g = shelf, base_g
        for place in self.PLACES:
            self.fields[f"material_{place}"] = forms.ChoiceField(
                choices=[("", "nothing"), *((slug, m.label) for slug, m in shelf.items())], required=False
            )
            self.fields[f"percent_{place}"] = forms.CharField(max_length=DOSE_CHARS, required=False)

    def clean(self) -> dict[str, Any]:
        """Ask for the dose of each material that was chosen, and read it."""
        data = super().clean() or {}
        for place in self.PLACES:
            chosen, typed = data.get(f"material_{place}"), data.get(f"percent_{place}", "")
            if chosen and not typed:
                self.add_error(f"percent_{place}", gettext("Type how much, in % of the base."))
            elif typed and not chosen:
                self.add_error(f"material_{place}", gettext("Choose a material for this percentage."))
            elif chosen:
                try:
                    data[f"percent_{place}"] = self._percent(chosen, typed)
                except CalmTinError as refused:
                    self.add_error(f"percent_{place}", str(refused))
        return data

    def _percent(self, slug: str, typed: str) -> Decimal:
        """Return a dose in percent of the base; raises `CalmTinError` for what does not go on top."""
        dose = dose_typed(self.shelf[slug], typed)
        percent = dose.percent
        if dose.measured is not None:
            percent = dose.measured.grams * WHOLE / self.base_g
        return in_span(
            percent or Decimal(0),
            name="The share of the base",
            span=(float(THOUSANDTH), ON_TOP_PCT[1]),
            unit="%",
            places=3,
            field="percent",
        )

    @property
    def parts(self) -> list[tuple[str, Decimal]]:
        """The materials chosen with their percent of the base."""
        data = self.cleaned_data
        return [(data[f"material_{n}"], data[f"percent_{n}"]) for n in self.PLACES if data[f"material_{n}"]]

    @property
    def rows(self) -> list[tuple[Any, Any]]:
        """The boxes of each place."""
        return [(self[f"material_{n}"], self[f"percent_{n}"]) for n in self.PLACES]
