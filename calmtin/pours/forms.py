"""Parse what the pour pages send."""

from __future__ import annotations

from decimal import Decimal
from typing import Any, cast

from django import forms

from calmtin.accounts.models import Bench
from calmtin.common.fields import NumberField, Styled, VolumeField, WeightField, offer, weighs
from calmtin.core.engine.ladder import LADDER
from calmtin.core.materials import Material
from calmtin.core.process.fill import MOST_CONTAINERS
from calmtin.core.units import celsius_to_fahrenheit, fahrenheit_to_celsius
from calmtin.pours.models import Check, Pour


class GramsForm(forms.Form):
    """What the scale said."""

    grams = WeightField(high=50_000)

    def __init__(self, *args: Any, material: Material, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        weighs(self, "grams", material)
        cast(WeightField, self.fields["grams"]).subject = material.label


class CorrectWeightForm(Styled, forms.Form):
    """What a weight of a closed sheet should have said, and why."""

    line = forms.ChoiceField(label="Of")
    grams = WeightField(high=50_000, label="It was", subject="A weight")
    reason = forms.CharField(
        label="Why",
        max_length=200,
        error_messages={"required": "Say why: misread, typed into the wrong line."},
    )

    def __init__(self, *args: Any, lines: list[tuple[int, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offer(self, "line", lines)


class PotTempForm(Styled, forms.Form):
    """What the thermometer in the pot says, in the bench's unit."""

    temp = NumberField(low=-40, high=230, places=1, label="It says", subject="The temperature")

    def __init__(self, *args: Any, bench: Bench, **kwargs: Any) -> None:
        self.unit = bench.temperature_unit
        super().__init__(*args, **kwargs)
        self.fields["temp"].label = f"It says, °{self.unit}"

    @property
    def temp_c(self) -> float:
        """The temperature, C, in whichever unit it was typed."""
        typed = float(self.cleaned_data["temp"])
        return fahrenheit_to_celsius(typed) if self.unit == "F" else typed


class YieldForm(Styled, forms.Form):
    """What a pour gave: how many of each container, what one weighs, what is left."""

    left_g = WeightField(high=50_000, label="Left in the pot", subject="What is left")
    to_pantry = forms.BooleanField(required=False, initial=True, label="Put what is left into the pantry")

    def __init__(self, *args: Any, pour: Pour, **kwargs: Any) -> None:
        self.fillings = list(pour.fillings.all())
        super().__init__(*args, **kwargs)
        for filling in self.fillings:
            self.fields[f"count_{filling.position}"] = NumberField(
                high=MOST_CONTAINERS,
                places=0,
                label=f"{filling.container_name}, filled",
                initial=filling.count,
                subject="The count",
            )
            each = WeightField(high=20_000, label="each", subject="One of them")
            each.keep(filling.each_g)
            each.initial = filling.each_g
            self.fields[f"each_{filling.position}"] = each
            for name in (f"count_{filling.position}", f"each_{filling.position}"):
                self.fields[name].widget.attrs.update({"class": "form-control box", "autocomplete": "off"})

    @property
    def rows(self) -> list[tuple[Any, Any]]:
        """The boxes of each kind of container."""
        return [(self[f"count_{f.position}"], self[f"each_{f.position}"]) for f in self.fillings]

    @property
    def filled_g(self) -> Decimal:
        """What the containers hold together, g."""
        data = self.cleaned_data
        return sum(
            (data[f"count_{f.position}"] * data[f"each_{f.position}"] for f in self.fillings), Decimal(0)
        )


def rung_choices() -> list[tuple[str, str]]:
    """Return the ladder in half rungs; the halves lie between two words."""
    steps = [("", "not felt yet")]
    for half in range(21):
        rung = half / 2
        words = LADDER[half // 2] if half % 2 == 0 else f"between {half // 2} and {half // 2 + 1}"
        steps.append((f"{rung:g}", f"{rung:g}  {words}"))
    return steps


class CheckForm(Styled, forms.Form):
    """A result: temperature, felt rung, verdict and notes."""

    temp = NumberField(low=-40, high=180, places=1, label="It was at", subject="The temperature")
    felt_rung = forms.TypedChoiceField(
        coerce=Decimal,
        required=False,
        empty_value=None,
        choices=rung_choices,
        label="Pressed with a thumb it",
    )
    verdict = forms.ChoiceField(choices=Check.Verdict.choices, required=False, widget=forms.RadioSelect)
    notes = forms.CharField(required=False, max_length=4000, widget=forms.Textarea(attrs={"rows": 4}))
    overrun = NumberField(
        high=300.0, unit="%", places=0, required=False, label="% more volume", subject="The gain in volume"
    )
    jar_ml = VolumeField(
        low=1.0,
        high=20_000.0,
        required=False,
        label="Jar holds, ml",
        subject="The jar",
    )
    jar_g = WeightField(
        low=0.5,
        high=20_000.0,
        required=False,
        label="Filling",
        subject="The filling",
    )

    def __init__(self, *args: Any, bench: Bench, **kwargs: Any) -> None:
        self.unit = bench.temperature_unit
        room = celsius_to_fahrenheit(bench.room_c) if self.unit == "F" else bench.room_c
        super().__init__(*args, initial={"temp": f"{room:g}"}, **kwargs)
        self.fields["temp"].label = f"It was at, °{self.unit}"

    @property
    def temp_c(self) -> float:
        """The temperature, C, in whichever unit it was typed."""
        typed = float(self.cleaned_data["temp"])
        return fahrenheit_to_celsius(typed) if self.unit == "F" else typed

    def clean(self) -> dict[str, Any]:
        """Refuse a result that says nothing."""
        data = super().clean() or {}
        if not self.errors and (data["jar_ml"] is None) != (data["jar_g"] is None):
            self.add_error("jar_g", "Give both: what the jar holds, and what its filling weighs.")
        told = ("felt_rung", "verdict", "notes", "overrun", "jar_g")
        if not self.errors and all(data.get(name) in (None, "") for name in told):
            self.add_error(
                "felt_rung", "Choose a rung, a verdict, or write a note: there is nothing to keep yet."
            )
        return data
