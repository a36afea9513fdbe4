"""Parse what the formula pages send."""

from __future__ import annotations

from decimal import Decimal
from functools import cached_property
from typing import Any

from django import forms

from calmtin.common.fields import NumberField
from calmtin.common.templatetags.calm import temp
from calmtin.core.limits import DOSE_CHARS, RECIPE_CHARS
from calmtin.core.materials import Material, Shelf
from calmtin.core.targets import Target
from calmtin.core.units import fahrenheit_to_celsius
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Audience, Formula, Line, Version, cooling_choices, kind_choices
from calmtin.formulas.solving import MOVED
from calmtin.pantry.queries import FREE_FROM

CENT = Decimal("0.01")


class FormulaForm(forms.Form):
    """A formula's name and kind."""

    name = forms.CharField(
        max_length=80,
        error_messages={"required": "Give the formula a name, so that you find it again."},
    )
    kind = forms.ChoiceField(choices=kind_choices, widget=forms.RadioSelect, label="What is it?")

    audience = forms.ChoiceField(
        choices=[("", "as usual for the kind"), *Audience.choices], required=False, label="For whom?"
    )
    sees_sun = forms.BooleanField(required=False, label="For skin that sees the sun")
    notes = forms.CharField(required=False, max_length=2000)

    free = forms.MultipleChoiceField(choices=list(FREE_FROM.items()), required=False)
    place = forms.ChoiceField(
        choices=[
            ("", "as usual for the kind"),
            ("room", "a room"),
            ("hot", "a hot place"),
            ("cold", "a cold one"),
        ],
        required=False,
    )
    use_stock = forms.BooleanField(required=False)

    @classmethod
    def of(cls, formula: Formula) -> FormulaForm:
        """Return the form filled in with `formula`."""
        fields = ("name", "kind", "audience", "sees_sun", "notes")
        return cls(initial={name: getattr(formula, name) for name in fields})


class DoseForm(forms.Form):
    """What is typed into a line: percent, "+3" on top of the base, or any measure."""

    percent = forms.CharField(
        max_length=DOSE_CHARS,
        required=False,
        error_messages={"max_length": "That is too long for an amount. Type it like 4.5, 12 g or ½ tsp."},
    )


class PercentForm(forms.Form):
    """A percentage of all."""

    percent = NumberField(high=100.0, unit="%", label="The percentage")


class AddLineForm(forms.Form):
    """A material by any of its names, and its first dose; empty means 0."""

    material = forms.CharField(
        max_length=120, error_messages={"required": "Type or choose a material of your shelf."}
    )
    percent = forms.CharField(max_length=DOSE_CHARS, required=False)


class AmountsForm(forms.Form):
    """All lines at once, in one unit. A box that is left as it was shown counts to the letter."""

    UNITS = {"g": "grams", "part": "parts", "percent": "percent"}

    def __init__(self, version: Version, shelf: Shelf, data: Any) -> None:
        self.unit = data.get("unit", "g") if data.get("unit") in self.UNITS else "g"
        # Another unit asks for the boxes anew.
        typed = data if data.get("was") == self.unit else {}
        pairs = lines_with_materials(version, shelf)
        self.exact = {line.key: self._exact(line.percent, version.batch_g) for line, _ in pairs}
        self.shown = {key: f"{exact.quantize(CENT).normalize():f}" for key, exact in self.exact.items()}
        super().__init__(
            {
                f"amount_{line.key}": typed.get(f"amount_{line.key}", self.shown[line.key])
                for line, _ in pairs
            }
        )
        self.pairs = pairs
        for line, material in pairs:
            self.fields[f"amount_{line.key}"] = NumberField(
                high=100_000.0,
                places=4,
                label=material.label,
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
                "line": line,
                "material": material,
                "box": self[f"amount_{line.key}"],
                "percent": 100 * amounts[line.key] / total if line.key in amounts and total else None,
            }
            for line, material in self.pairs
        ]

    @property
    def weighed(self) -> list[tuple[Line, Material, Decimal]]:
        """The lines whose amount can be read, with it."""
        amounts = self.amounts
        return [(line, material, amounts[line.key]) for line, material in self.pairs if line.key in amounts]

    @property
    def total(self) -> Decimal:
        """What the amounts add up to."""
        return sum(self.amounts.values(), Decimal(0))


class TargetForm(forms.Form):
    """A target in the maker's own temperature unit, and ranges for lines and groups."""

    rung = NumberField(high=10.0, label="The rung")
    min_rung = NumberField(high=10.0, required=False, label="The rung on the hot day")
    hot = NumberField(high=230.0, places=1, required=False, label="The hot day")
    skin_melt = NumberField(high=100.0, unit="%", required=False, label="The share that melts")
    usual = forms.BooleanField(required=False)

    def __init__(self, version: Version, unit: str, data: Any) -> None:
        self.unit, self.kind = unit, version.formula.kind_facts
        kind = self.kind
        hot = "" if kind.hold_c is None else temp(kind.hold_c, unit).removesuffix("°")
        usual = {
            "rung": f"{sum(kind.target) / 2:.1f}",
            "min_rung": "" if kind.hold_rung is None else f"{kind.hold_rung:g}",
            "hot": hot,
        }
        super().__init__({**usual, **data.dict()})
        self.keys = [*MOVED, *(line.key for line in version.lines.all())]
        for key in self.keys:
            for end in ("low", "high"):
                self.fields[f"{end}_{key}"] = NumberField(
                    high=100.0, unit="%", required=False, label="The limit"
                )

    def clean(self) -> dict[str, Any]:
        """Ask for both or neither of the hot day's rung and temperature."""
        data = super().clean() or {}
        for field, other, words in (
            ("min_rung", "hot", "Say which rung it should keep on the hot day."),
            ("hot", "min_rung", "Say how hot the hot day is."),
        ):
            if not self.errors and data.get(field) is None and data.get(other) is not None:
                self.add_error(field, words)
        return data

    def target(self, at_c: float) -> Target:
        """Return what was asked for, the rung being that at `at_c`, C."""
        numbers = ("min_rung", "hot", "skin_melt")
        data = {name: None if (n := self.cleaned_data[name]) is None else float(n) for name in numbers}
        hot = data["hot"]
        return Target(
            rung=float(self.cleaned_data["rung"]),
            at_c=at_c,
            min_rung=data["min_rung"],
            hot_c=fahrenheit_to_celsius(hot) if hot is not None and self.unit == "F" else hot,
            skin_melt=None if data["skin_melt"] is None else data["skin_melt"] / 100.0,
        )

    @property
    def spans(self) -> dict[str, tuple[float, float]]:
        """The ranges by line key or layer, %: as typed, open where an end is empty, or the kind's usual."""
        usual = self.cleaned_data["usual"]
        found = {layer: self.kind.ranges[layer] for layer in MOVED if usual and layer in self.kind.ranges}
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


class BranchForm(forms.Form):
    """What a copy will be called."""

    name = forms.CharField(max_length=80, error_messages={"required": "Give the copy a name of its own."})


class ProcessForm(forms.Form):
    """How it is cooled and whipped."""

    cooling = forms.ChoiceField(choices=cooling_choices)
    overrun = NumberField(high=300.0, unit="%", places=0, label="The gain in volume")


class StrengthForm(forms.Form):
    """A tincture's strength, in percent by volume or US proof."""

    strength = NumberField(high=200.0, places=1, label="The strength")
    scale = forms.ChoiceField(choices=[("percent", "% by volume"), ("proof", "proof (US)")])


class PasteForm(forms.Form):
    """A recipe as text, and what the formula will be called."""

    text = forms.CharField(
        max_length=RECIPE_CHARS,
        widget=forms.Textarea,
        error_messages={"required": "Paste the recipe, one material a line."},
    )
    name = forms.CharField(max_length=80, required=False)
    kind = forms.ChoiceField(choices=kind_choices, required=False)


class BatchForm(forms.Form):
    """The batch size in grams."""

    batch_g = NumberField(low=1.0, high=50_000.0, unit="g", places=2, label="The batch")
