"""Parse a target and the ranges to keep within."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from calmtin.common.fields import NumberField, TemperatureField
from calmtin.core.limits import HOT_C
from calmtin.core.messages import digits, notation_in_force
from calmtin.core.quantities import Temperature
from calmtin.core.solver.problem import Target
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import MOVED


class TargetForm(forms.Form):
    """A target in the maker's own temperature unit, and ranges for lines and groups."""

    rung = NumberField(high=10.0, label=gettext_lazy("Firmness"))
    min_rung = NumberField(high=10.0, required=False, label=gettext_lazy("Firmness on the hot day"))
    hot = TemperatureField(low=HOT_C[0], high=HOT_C[1], required=False, label=gettext_lazy("The hot day"))
    skin_melt = NumberField(
        high=100.0, unit="%", required=False, label=gettext_lazy("The share that melts on skin")
    )
    usual = forms.BooleanField(required=False)

    def __init__(self, version: Version, data: Any) -> None:
        self.kind = version.formula.kind_facts
        kind = self.kind
        hot = "" if kind.hold_c is None else Temperature(kind.hold_c, 1).number(notation_in_force())
        usual = {
            "rung": digits(sum(kind.target) / 2, ".1f"),
            "min_rung": "" if kind.hold_rung is None else digits(kind.hold_rung, "g"),
            "hot": hot,
        }
        super().__init__({**usual, **data.dict()})
        self.keys = [*MOVED, *(line.key for line in version.lines.all())]
        for key in self.keys:
            for end in ("low", "high"):
                self.fields[f"{end}_{key}"] = NumberField(
                    high=100.0, unit="%", required=False, label=gettext("The limit")
                )

    def clean(self) -> dict[str, Any]:
        """Ask for both or neither of the hot day's rung and temperature."""
        data = super().clean() or {}
        for field, other, words in (
            ("min_rung", "hot", gettext("Give the firmness it should keep on the hot day.")),
            ("hot", "min_rung", gettext("Give the temperature of the hot day.")),
        ):
            if not self.errors and data.get(field) is None and data.get(other) is not None:
                self.add_error(field, words)
        return data

    def target(self, at_c: float) -> Target:
        """Return the target, with the firmness at `at_c`, C."""
        numbers = ("min_rung", "hot", "skin_melt")
        data = {name: None if (n := self.cleaned_data[name]) is None else float(n) for name in numbers}
        return Target(
            rung=float(self.cleaned_data["rung"]),
            at_c=at_c,
            min_rung=data["min_rung"],
            hot_c=data["hot"],
            skin_melt=None if data["skin_melt"] is None else data["skin_melt"] / 100.0,
        )

    @property
    def spans(self) -> dict[str, tuple[float, float]]:
        """The ranges by line key or layer, %: as typed, open where an end is empty, or the kind's usual."""
        usual = self.cleaned_data["usual"]
        found: dict[str, tuple[float, float]] = {
            layer: self.kind.ranges[layer] for layer in MOVED if usual and layer in self.kind.ranges
        }
        for key in self.keys:
            low, high = (self.cleaned_data[f"{end}_{key}"] for end in ("low", "high"))
            if low is not None or high is not None:
                found[key] = (float(low or 0), float(100 if high is None else high))
        return found

    @property
    def boxes(self) -> dict[str, list[tuple[str, Any]]]:
        """The two boxes of each line and group, with the word for each."""
        words = {"low": "from", "high": "to"}
        return {key: [(word, self[f"{end}_{key}"]) for end, word in words.items()] for key in self.keys}
