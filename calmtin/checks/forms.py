"""Parse the input of a check."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any, cast

from django import forms
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext, gettext_lazy

from calmtin.accounts.models import Bench
from calmtin.checks.models import PatchTest
from calmtin.common.fields import (
    NumberField,
    Styled,
    TemperatureField,
    VolumeField,
    WeightField,
    date_field,
)
from calmtin.core.engine.ladder import LADDER
from calmtin.core.limits import CHECK_C, PICTURE_BYTES, PRESS_G, ROD_MM
from calmtin.core.messages import said
from calmtin.core.process.checks import LOOKS, SIGN_GROUPS, SIGNS, Look, look_named
from calmtin.core.process.complaints import Complaint, Feels
from calmtin.core.process.moments import Moment
from calmtin.pours.adapters import now_of
from calmtin.pours.forms.day import rung_choices
from calmtin.pours.models import Check, Pour

PRESSES = 3  # readings of a press test
LOCAL_TIME = "%Y-%m-%dT%H:%M"


@dataclass(frozen=True)
class SignGroup:
    """Signs that a check lists together; `asked` are the names of those that it asks for."""

    name: str
    asked: list[str]
    boxes: list[Any]
    is_open: bool


class CheckForm(Styled, forms.Form):
    """A result: temperature, felt rung, press test, signs, verdict, notes, a picture."""

    temp = TemperatureField(
        low=CHECK_C[0],
        high=CHECK_C[1],
        label=gettext_lazy("Temperature of the sample"),
        subject=gettext_lazy("The temperature"),
    )
    # How warm it is likely to be at that moment; a temperature that was left so was not measured.
    guess = TemperatureField(
        low=CHECK_C[0],
        high=CHECK_C[1],
        required=False,
        subject=gettext_lazy("The temperature"),
        widget=forms.HiddenInput,
    )
    moment = forms.ChoiceField(
        required=False,
        choices=[(moment.value, moment.words) for moment in Moment],
        label=gettext_lazy("It is"),
    )
    look = forms.ChoiceField(required=False, choices=[("", "")] + [(s, k.name) for s, k in LOOKS.items()])
    felt_rung = forms.TypedChoiceField(
        coerce=Decimal,
        required=False,
        empty_value=None,
        choices=rung_choices,
        label=gettext_lazy("Under your thumb it"),
    )
    half = forms.BooleanField(required=False, label=gettext_lazy("a little firmer, halfway to the next"))
    rod = NumberField(
        low=ROD_MM[0], high=ROD_MM[1], unit="mm", places=1, required=False,
        label=gettext_lazy("Rod, mm across"),
        subject=gettext_lazy("The rod"),
    )  # fmt: skip
    verdict = forms.ChoiceField(choices=Check.Verdict.choices, required=False, widget=forms.RadioSelect)
    feels = forms.ChoiceField(
        choices=[(feels.value, feels.words) for feels in Feels],
        required=False,
        label=gettext_lazy("For what it is for, it is"),
    )
    complaints = forms.MultipleChoiceField(
        choices=[(complaint.value, complaint.words) for complaint in Complaint],
        required=False,
        label=gettext_lazy("What bothers you"),
    )
    made_at = forms.DateTimeField(
        required=False,
        label=gettext_lazy("Made earlier, at"),
        input_formats=[LOCAL_TIME],
        widget=forms.DateTimeInput(
            format=LOCAL_TIME, attrs={"type": "datetime-local", "class": "form-control"}
        ),
        error_messages={"invalid": gettext_lazy("Give the day and the time, such as 31 May 2026, 18:30.")},
    )
    who = forms.CharField(required=False, max_length=40, label=gettext_lazy("Tester, if not you"))
    notes = forms.CharField(required=False, max_length=4000, widget=forms.Textarea(attrs={"rows": 3}))
    photo = forms.FileField(required=False, label=gettext_lazy("Picture"))
    overrun = NumberField(
        high=300.0,
        unit="%",
        places=0,
        required=False,
        label=gettext_lazy("% more volume"),
        subject=gettext_lazy("The volume gain"),
    )
    jar_ml = VolumeField(
        low=1.0,
        high=20_000.0,
        required=False,
        label=gettext_lazy("Jar holds"),
        subject=gettext_lazy("The jar"),
    )
    jar_g = WeightField(
        low=0.5,
        high=20_000.0,
        required=False,
        label=gettext_lazy("Weight of its contents"),
        subject=gettext_lazy("The filling"),
        is_reading=True,
    )

    def __init__(
        self,
        *args: Any,
        bench: Bench,
        pour: Pour,
        look: str = "",
        moment: str = "",
        guess_c: float | None = None,
        **kwargs: Any,
    ) -> None:
        self.pour = pour
        place = LOOKS[look].place if look in LOOKS else ""
        at_c = {"skin": 33.0, "hot": bench.hot_c, "cold": bench.cold_c}.get(place, bench.room_c)
        temp_c = at_c if guess_c is None else guess_c
        initial = {"temp": temp_c, "guess": guess_c, "moment": moment, "look": look}
        super().__init__(*args, initial=initial, **kwargs)
        self.fields["look"].widget = forms.HiddenInput()
        self.fields["photo"].widget = forms.FileInput(
            attrs={"accept": "image/*", "class": "form-control", "data-most": PICTURE_BYTES}
        )
        for n in range(1, PRESSES + 1):
            box = WeightField(
                low=PRESS_G[0],
                high=PRESS_G[1],
                required=False,
                label=said("Reading {n}", n=n),
                subject="A reading",
                is_reading=True,
            )
            box.widget.attrs.update({"class": "form-control box", "autocomplete": "off"})
            self.fields[f"press_{n}"] = box
        for slug, sign in SIGNS.items():
            self.fields[f"sign_{slug}"] = forms.ChoiceField(
                required=False,
                label=sign.asks,
                choices=[(str(n), word) for n, word in enumerate(sign.words)],
                widget=forms.RadioSelect(attrs={"class": "form-check-input"}),
            )

    @property
    def is_temp_guessed(self) -> bool:
        """Whether the temperature is still the one that the moment suggested."""
        data = self.cleaned_data
        return bool(data["moment"]) and data["guess"] is not None and data["guess"] == data["temp"]

    @property
    def look_at(self) -> Look:
        """The look that is answered."""
        return look_named(str(self["look"].value() or ""))

    @property
    def ladder(self) -> list[tuple[str, str, bool]]:
        """The rungs from firm to soft: value, words, and whether it is the one that was picked."""
        picked = str(self["felt_rung"].value() or "").removesuffix(".5")
        return [(str(n), LADDER[n], str(n) == picked) for n in reversed(range(len(LADDER)))]

    @property
    def groups(self) -> list[SignGroup]:
        """The signs in their groups; what this check asks for comes first and is named."""
        asks = self.look_at.asks
        found = []
        for group, name in SIGN_GROUPS.items():
            signs = sorted(
                (s for s in SIGNS.values() if s.group == group), key=lambda s: s.slug not in asks
            )
            boxes = [self[f"sign_{sign.slug}"] for sign in signs]
            asked = [sign.asks for sign in signs if sign.slug in asks]
            is_open = any(box.value() or box.errors for box in boxes)
            found.append(SignGroup(name, asked, boxes, is_open))
        return sorted(found, key=lambda group: not group.asked)

    @property
    def presses(self) -> list[Any]:
        """The boxes of a press test."""
        return [self[f"press_{n}"] for n in range(1, PRESSES + 1)]

    @property
    def press_g(self) -> list[Decimal]:
        """The readings of a press test, g."""
        return [g for n in range(1, PRESSES + 1) if (g := self.cleaned_data[f"press_{n}"]) is not None]

    @property
    def signs(self) -> dict[str, str]:
        """The signs that were found."""
        return {slug: told for slug in SIGNS if (told := self.cleaned_data.get(f"sign_{slug}", ""))}

    def clean_photo(self) -> bytes | None:
        """Return the picture as it was sent; one that is far too large is not read at all."""
        sent = self.cleaned_data["photo"]
        if not sent:
            return None
        if sent.size > PICTURE_BYTES:
            raise forms.ValidationError(gettext("The picture is larger than 15 MB. Send a smaller one."))
        return cast(bytes, sent.read())

    def clean_made_at(self) -> datetime | None:
        """Refuse a time before it was poured, or one that is still to come."""
        at: datetime | None = self.cleaned_data["made_at"]
        begun = self.pour.poured_at or self.pour.started_at
        if at is not None and at < begun.replace(second=0, microsecond=0):
            told = date_format(timezone.localtime(begun), "j M Y, H:i")
            words = said("It was poured on {told}. Give a later time, or leave this empty.", told=told)
            raise forms.ValidationError(words)
        if at is not None and at > now_of(self.pour) + timedelta(minutes=1):
            raise forms.ValidationError(gettext("That is still to come. Leave it empty for now."))
        return at

    def clean(self) -> dict[str, Any]:
        """Refuse a result that says nothing, and half a press or jar test."""
        data = super().clean() or {}
        if self.errors:
            return data
        if data["half"] and data["felt_rung"] is not None:
            data["felt_rung"] = min(data["felt_rung"] + Decimal("0.5"), Decimal(10))
        if (data["jar_ml"] is None) != (data["jar_g"] is None):
            self.add_error("jar_g", gettext("Enter both the jar’s volume and the weight of its contents."))
        if self.press_g and data["rod"] is None:
            self.add_error("rod", gettext("Enter the width of the rod as well."))
        told = ("felt_rung", "feels", "complaints", "verdict", "notes", "overrun", "jar_g", "photo")
        said = self.signs or self.press_g or any(data.get(name) not in (None, "", []) for name in told)
        if not self.errors and not said:
            self.add_error(
                "felt_rung", gettext("Say how firm it is, what bothers you, or write a note first.")
            )
        return data


class PatchForm(Styled, forms.Form):
    """What one ingredient did on a patch of skin."""

    material = forms.SlugField(max_length=60)
    tried_on = date_field(gettext_lazy("Put on the skin on"), required=True)
    result = forms.ChoiceField(
        choices=PatchTest.Result.choices,
        error_messages={"required": gettext_lazy("Say whether it reacted.")},
    )
    notes = forms.CharField(required=False, max_length=300, label=gettext_lazy("Notes"))
