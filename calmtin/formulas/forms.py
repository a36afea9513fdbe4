"""Parse what the formula pages send."""

from __future__ import annotations

from typing import Any

from django import forms

from calmtin.common.fields import NumberField
from calmtin.formulas.models import Audience, Formula, cooling_choices, kind_choices
from calmtin.pantry.queries import FREE_FROM


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
        fields = ("name", "kind", "audience", "sees_sun")
        return cls(initial={name: getattr(formula, name) for name in fields})


class RequestKeyForm(forms.Form):
    """The key that makes a form count once."""

    request_key = forms.UUIDField(required=False)


class PercentForm(forms.Form):
    """One line's percentage, under the name of its material in messages."""

    percent = NumberField(high=100.0, unit="%")

    def __init__(self, *args: Any, name: str = "The percentage", **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["percent"].label = name


class AddLineForm(forms.Form):
    """A material and its first percentage; empty means 0."""

    material = forms.SlugField(error_messages={"required": "Choose a material from the list."})
    percent = NumberField(high=100.0, unit="%", required=False, label="The percentage")


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
        max_length=20_000,
        widget=forms.Textarea,
        error_messages={"required": "Paste the recipe, one material a line."},
    )
    name = forms.CharField(max_length=80, required=False)
    kind = forms.ChoiceField(choices=kind_choices, required=False)


class BatchForm(forms.Form):
    """The batch size in grams."""

    batch_g = NumberField(low=1.0, high=50_000.0, unit="g", places=2, label="The batch")
