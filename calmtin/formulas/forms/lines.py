"""Parse the input to a draft: doses, strengths, batch, cooling."""

from __future__ import annotations

from django import forms
from django.utils.translation import gettext_lazy

from calmtin.common.fields import NumberField, WeightField
from calmtin.core.limits import DOSE_CHARS
from calmtin.core.process.tincture import strength_pct
from calmtin.formulas.models import cooling_choices


class DoseForm(forms.Form):
    """The input to a line: percent, "+3" on top of the base, or any measure."""

    percent = forms.CharField(
        max_length=DOSE_CHARS,
        required=False,
        error_messages={
            "max_length": gettext_lazy("That is too long. Type an amount such as 4.5, 12 g or ½ tsp.")
        },
    )


class PercentForm(forms.Form):
    """A percentage of all."""

    percent = NumberField(high=100.0, unit="%", label=gettext_lazy("The percentage"))


class AddLineForm(forms.Form):
    """A material by any of its names, and its first dose; empty means 0."""

    material = forms.CharField(
        max_length=120, error_messages={"required": gettext_lazy("Type or choose a material.")}
    )
    percent = forms.CharField(max_length=DOSE_CHARS, required=False)


class ProcessForm(forms.Form):
    """How it is cooled and whipped."""

    cooling = forms.ChoiceField(choices=cooling_choices)
    overrun = NumberField(high=300.0, unit="%", places=0, label=gettext_lazy("The volume gain"))


class StrengthForm(forms.Form):
    """A tincture's strength, in percent by volume or US proof."""

    strength = NumberField(high=200.0, places=1, label=gettext_lazy("The strength"))
    scale = forms.ChoiceField(
        choices=[("percent", gettext_lazy("% by volume")), ("proof", gettext_lazy("proof (US)"))]
    )

    @property
    def alcohol_pct(self) -> float:
        """The strength in percent by volume; raises `CalmTinError` for more than pure alcohol."""
        data = self.cleaned_data
        return strength_pct(float(data["strength"]), is_proof=data["scale"] == "proof")

    @property
    def typed(self) -> str:
        """The strength as it was written."""
        unit = "proof" if self.cleaned_data["scale"] == "proof" else "%"
        return f"{self.cleaned_data['strength'].normalize():f} {unit}"


class BatchForm(forms.Form):
    """The batch size in grams."""

    batch_g = WeightField(low=1.0, high=50_000.0, label=gettext_lazy("The batch"))
