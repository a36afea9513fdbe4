"""Parse what the pour pages send."""

from __future__ import annotations

from typing import Any

from django import forms

from calmtin.common.fields import NumberField, offer
from calmtin.core.process.fill import MOST_CONTAINERS
from calmtin.pours.models import Check


class FillForm(forms.Form):
    """Which container, how many, how full, and what stays in the pot."""

    container = forms.ChoiceField(error_messages={"invalid_choice": "Choose a container from the list."})
    count = NumberField(low=1, high=MOST_CONTAINERS, places=0, label="The count")
    level = NumberField(low=5, high=100, unit="%", places=1, label="The fill level")
    loss = NumberField(low=0, high=50, unit="%", places=1, label="The pot loss")

    def __init__(self, *args: Any, containers: dict[str, Any], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        groups: dict[str, list[tuple[str, str]]] = {}
        for container in containers.values():
            size = (
                f"{container.volume_ml:g} ml"
                if container.volume_ml % 1 == 0
                else f"{container.volume_ml:.1f} ml"
            )
            label = container.name if "ml" in container.name else f"{container.name}, {size}"
            groups.setdefault(container.kind.replace("_", " ").capitalize(), []).append(
                (container.slug, label)
            )
        offer(self, "container", list(groups.items()))
        for name, field in self.fields.items():
            field.widget.attrs["class"] = "form-select" if name == "container" else "form-control box"


class GramsForm(forms.Form):
    """What the scale said."""

    grams = NumberField(high=50_000, unit="g", places=2)

    def __init__(self, *args: Any, name: str, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["grams"].label = name


class CheckForm(forms.Form):
    """A result: temperature, felt rung, verdict and notes."""

    temp = NumberField(low=-40, high=180, places=1, label="The temperature")
    felt_rung = forms.TypedChoiceField(
        coerce=str, required=False, empty_value=None, label="How firm it feels"
    )
    verdict = forms.ChoiceField(choices=Check.Verdict.choices, required=False, widget=forms.RadioSelect)
    notes = forms.CharField(required=False, max_length=4000, widget=forms.Textarea)
    overrun = NumberField(high=300.0, unit="%", places=0, required=False, label="The gain in volume")
    jar_ml = NumberField(low=1.0, high=20_000.0, unit="ml", places=1, required=False, label="The jar")
    jar_g = NumberField(low=0.5, high=20_000.0, unit="g", places=2, required=False, label="What is in it")

    def __init__(self, *args: Any, rungs: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offer(self, "felt_rung", [("", "not felt yet"), *rungs])

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
