"""Parse what the pages of a pour day send."""

from __future__ import annotations

import re
from collections.abc import Mapping
from decimal import Decimal
from typing import Any, cast

from django import forms
from django.http import QueryDict
from django.utils.translation import gettext, gettext_lazy

from calmtin.common.fields import (
    LongSelect,
    NumberField,
    Styled,
    TemperatureField,
    WeightField,
    offer,
    weighs,
)
from calmtin.common.numbers import CENT
from calmtin.core.engine.firmness import SKIN_C
from calmtin.core.engine.ladder import LADDER
from calmtin.core.limits import CHECK_C, TIMER_MINUTES, WEIGHT_G
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import notation_in_force, said
from calmtin.core.process.fill import MOST_CONTAINERS
from calmtin.core.process.heat import FRIDGE_C
from calmtin.core.process.route import OWN, OwnStep, added, moved
from calmtin.core.process.weighing import MODES, Mode
from calmtin.pours.adapters import newest_yield
from calmtin.pours.models import Check, PotReading, Pour

# What a drop is taken to have where nobody measured it: it lay in the fridge, or on the lip.
GUESSED_C = {"lid": FRIDGE_C, "spoon": FRIDGE_C, "lip": SKIN_C}


class GramsForm(forms.Form):
    """What the scale said."""

    grams = WeightField(high=50_000, is_reading=True)

    def __init__(self, *args: Any, material: Material, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        weighs(self, "grams", material)
        cast(WeightField, self.fields["grams"]).subject = material.label

    @property
    def typed(self) -> str:
        """Return the weight as it was typed."""
        return str(self.data.get("grams", "")).strip()

    @property
    def mode(self) -> Mode:
        """Return what the weight is; with a plus sign it was added, whatever the page has chosen."""
        if self.typed.startswith("+"):
            return "add"
        return mode if (mode := self.data.get("mode", "shows")) in MODES else "shows"


class CorrectWeightForm(Styled, forms.Form):
    """What a weight of a closed sheet should have said, and why."""

    line = forms.ChoiceField(label=gettext_lazy("Of"))
    grams = WeightField(
        high=50_000, label=gettext_lazy("Actual weight"), subject="A weight", is_reading=True
    )
    reason = forms.CharField(
        label=gettext_lazy("Why"),
        max_length=200,
        error_messages={"required": gettext_lazy("Give a reason: misread, typed on the wrong line.")},
    )

    def __init__(self, *args: Any, pour: Pour, shelf: Shelf, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offer(self, "line", [(line.position, shelf[line.material].label) for line in pour.lines.all()])


class Stays(Styled):
    """One of several forms on a page: its input is kept while another is submitted."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            field.widget.attrs["data-was"] = self.get_initial_for_field(field, name) or ""


class PotWeightForm(Stays, forms.Form):
    """What the contents of the pot weigh after a tincture was boiled down."""

    pot_g = WeightField(
        high=WEIGHT_G[1],
        label=gettext_lazy("Contents of the pot weigh"),
        subject=gettext_lazy("The weight"),
        is_reading=True,
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["pot_g"].widget.attrs |= {"data-keypad": "", "inputmode": "decimal"}


class PotTempForm(Stays, forms.Form):
    """What the thermometer says, in the pot or in the room."""

    temp = TemperatureField(
        low=CHECK_C[0],
        high=CHECK_C[1],
        label=gettext_lazy("Thermometer"),
        subject=gettext_lazy("The temperature"),
    )
    place = forms.ChoiceField(label=gettext_lazy("Where"), choices=PotReading.Place.choices, required=False)

    def clean_place(self) -> str:
        """Return where it was measured: in the pot by default."""
        return self.cleaned_data["place"] or PotReading.Place.POT


def rung_choices() -> list[tuple[str, str]]:
    """Return the ladder in half rungs; the halves lie between two words."""
    steps = [("", gettext("not felt yet"))]
    for half in range(21):
        rung = half / 2
        words = (
            LADDER[half // 2]
            if half % 2 == 0
            else said("between {half} and {half2}", half=half // 2, half2=half // 2 + 1)
        )
        steps.append((f"{rung:g}", f"{rung:g}  {words}"))
    return steps


class SetTestForm(Stays, forms.Form):
    """What a drop on something cold said: where, how cold it was, and the word of the thumb."""

    set_test = forms.ChoiceField(label=gettext_lazy("A drop"), choices=Check.SetTest.choices)
    temp = TemperatureField(
        low=CHECK_C[0],
        high=CHECK_C[1],
        label=gettext_lazy("Temperature of the drop, if you measured it"),
        subject=gettext_lazy("The temperature"),
        required=False,
    )
    felt_rung = forms.TypedChoiceField(
        coerce=Decimal,
        choices=rung_choices,
        label=gettext_lazy("Under your thumb it"),
        error_messages={"required": gettext_lazy("Choose the word that fits best.")},
    )

    @property
    def temp_c(self) -> float:
        """Return the drop's temperature, C: as measured, else that of where it was tried."""
        typed = self.cleaned_data["temp"]
        return GUESSED_C[self.cleaned_data["set_test"]] if typed is None else float(typed)

    @property
    def is_temp_guessed(self) -> bool:
        """Whether nobody measured it."""
        return self.cleaned_data["temp"] is None


class MinutesForm(Stays, forms.Form):
    """For how long a step's clock runs."""

    minutes = NumberField(
        low=TIMER_MINUTES[0], high=TIMER_MINUTES[1], unit="minutes", places=1, subject="A timer"
    )


class FeelForm(Stays, forms.Form):
    """What went into the pot by feel: drops, spoons or grams of any one material, offered in groups."""

    material = forms.ChoiceField(label=gettext_lazy("Ingredient"), widget=LongSelect)
    amount = WeightField(
        low=0.01, high=5_000, label=gettext_lazy("Amount added"), subject=gettext_lazy("The amount")
    )

    def __init__(
        self,
        *args: Any,
        choices: list[tuple[str, list[tuple[str, str]]]],
        shelf: Shelf,
        typed: str = "",
        **kwargs: Any,
    ) -> None:
        super().__init__(*args, **kwargs)
        self.initial["amount"] = typed
        offer(self, "material", choices)
        self.fields["material"].widget.attrs["data-was"] = self.initial.get(
            "material", next((slug for _, group in choices for slug, _ in group), "")
        )
        self.fields["amount"].label = gettext("Amount added, such as 3 drops or ½ tsp")
        slug = self.data.get("material", "")
        if any(slug == offered for _, group in choices for offered, _ in group):
            weighs(self, "amount", shelf[slug])


class PiecesField(forms.CharField):
    """The weights of single pieces, one after the other; between them a space, a semicolon or a line."""

    widget = forms.TextInput(attrs={"inputmode": "text"})  # a keypad has no space

    def clean(self, value: Any) -> list[Decimal]:
        """Return the weights, g."""
        one = WeightField(low=0.01, high=20_000, subject=gettext("The weight of one"), is_reading=True)
        words = [word for word in re.split(r"[\s;]+", str(value or "").strip()) if word]
        return [cast(Decimal, one.clean(word)) for word in words]


SUCH_AS = {"g": "14.2 14.6 13.9", "oz": "0.50 0.52 0.49"}


class YieldForm(Styled, forms.Form):
    """The yield of a pour: count of each container, weight of one, and leftovers.

    It takes what is known: single weights without a count count for themselves, a count without weights
    is of planned ones, nothing said of leftovers means there are none. A second count starts from the
    first.
    """

    left_g = WeightField(
        high=50_000,
        label=gettext_lazy("Left over"),
        subject=gettext_lazy("Weight left"),
        is_reading=True,
        required=False,
    )
    to_pantry = forms.BooleanField(
        required=False, initial=True, label=gettext_lazy("Put leftovers into the pantry")
    )

    def __init__(self, *args: Any, pour: Pour, **kwargs: Any) -> None:
        self.fillings, unit = list(pour.fillings.all()), notation_in_force().scale_unit
        last = newest_yield(pour)
        counted = {place: int(count) for place, count in last.counts} if last else {}
        kwargs.setdefault("initial", {"left_g": last.left_g} if last and last.left_g else {})
        super().__init__(*args, **kwargs)
        for filling in self.fillings:
            self.fields[f"count_{filling.position}"] = NumberField(
                high=MOST_CONTAINERS,
                places=0,
                label=said("{container}, filled", container=filling.label),
                initial=counted.get(filling.position, filling.count),
                subject=gettext("The count"),
                required=False,
            )
            each = WeightField(
                high=20_000,
                label=gettext("each"),
                subject=gettext("One of them"),
                is_reading=True,
                required=False,
            )
            each.keep(filling.each_g)
            each.initial = filling.each_g
            self.fields[f"each_{filling.position}"] = each
            self.fields[f"pieces_{filling.position}"] = PiecesField(
                required=False,
                label=said(
                    "or weights of single pieces, {unit}, such as {such_as}",
                    unit=unit,
                    such_as=SUCH_AS[unit],
                ),
            )
            for name in (f"{word}_{filling.position}" for word in ("count", "each", "pieces")):
                self.fields[name].widget.attrs.update({"class": "form-control box", "autocomplete": "off"})

    @property
    def rows(self) -> list[tuple[Any, ...]]:
        """The boxes of each kind of container."""
        return [
            tuple(self[f"{word}_{f.position}"] for word in ("count", "each", "pieces"))
            for f in self.fillings
        ]

    @property
    def pieces(self) -> dict[int, list[Decimal]]:
        """The weights of single ones, g, by the position of their filling."""
        return {
            f.position: told for f in self.fillings if (told := self.cleaned_data[f"pieces_{f.position}"])
        }

    @property
    def counts(self) -> dict[int, int]:
        """How many were filled, by the position of their filling."""
        return {f.position: self._count(f.position) for f in self.fillings}

    @property
    def leftover_g(self) -> Decimal:
        """What is left over, g."""
        return self.cleaned_data["left_g"] or Decimal(0)

    def _count(self, position: int) -> int:
        typed = self.cleaned_data[f"count_{position}"]
        return len(self.pieces.get(position, [])) if typed is None else int(typed)

    @property
    def filled_g(self) -> Decimal:
        """What the containers hold together, g; where single ones were weighed, by their mean."""
        data, whole = self.cleaned_data, Decimal(0)
        for filling in self.fillings:
            weighed = self.pieces.get(filling.position)
            each = sum(weighed, Decimal(0)) / len(weighed) if weighed else data[f"each_{filling.position}"]
            whole += self._count(filling.position) * (filling.each_g if each is None else each)
        return whole.quantize(CENT)


def route_steps(data: QueryDict, usual: Mapping[str, str]) -> list[OwnStep]:
    """Return the steps of a route as sent by the page, after the pressed button.

    `usual` are the titles that the steps have by themselves. Raises `CalmTinError` for an added
    step without a title.
    """
    act, _, key = data.get("act", "").partition(":")
    if act == "reset":
        return []
    steps = []
    for name in data.getlist("key"):
        if name in usual:
            told = data.get(f"title_{name}", "").strip() or usual[name]
            is_usual = told == usual[name] and not name.startswith(OWN)
            steps.append(OwnStep(name, "" if is_usual else told, f"skip_{name}" in data))
    if act in ("up", "down"):
        return moved(steps, key, -1 if act == "up" else 1)
    if act == "drop":
        return [step for step in steps if step.key != key or not step.is_added]
    return added(steps, data.get("title", "")) if act == "add" else steps
