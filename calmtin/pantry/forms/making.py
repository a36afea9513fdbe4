"""Parse the input of infusions and renderings."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy

from calmtin.common.fields import Styled, WeightField, date_field, offer
from calmtin.core.materials import Shelf
from calmtin.pantry.models import Infusion, Rendering

HERB = "dried_petals"  # whose weight of a cup is taken for any dried herb


class InfusionForm(Styled, forms.Form):
    """A dried herb in oil."""

    herb = forms.CharField(
        label=gettext_lazy("Dried herb"),
        max_length=80,
        error_messages={"required": gettext_lazy("Which herb?")},
    )
    herb_g = WeightField(label=gettext_lazy("Herb"), low=0.1, high=10_000)
    oil = forms.ChoiceField()
    oil_g = WeightField(label=gettext_lazy("Oil"), low=1, high=50_000)
    method = forms.ChoiceField(choices=Infusion.Method.choices, widget=forms.RadioSelect, initial="cold")
    started_on = date_field(gettext_lazy("Started on"), required=True)
    is_dried = forms.BooleanField(
        label=gettext_lazy("The herb is fully dried (it snaps)"),
        error_messages={
            "required": gettext_lazy(
                "Use only dried herbs. Fresh leaves bring water into the oil, where mould and "
                "bacteria can grow."
            )
        },
    )

    def __init__(self, *args: Any, shelf: Shelf, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offer(self, "oil", [(slug, m.label) for slug, m in shelf.items() if m.layer == "oil"])
        self.fields["herb_g"].material = shelf[HERB]  # type: ignore[attr-defined]
        picked = str(self["oil"].value() or "")
        self.fields["oil_g"].material = shelf.get(picked)  # type: ignore[attr-defined]


class StrainForm(Styled, forms.Form):
    """The yield of an infusion."""

    recovered_g = WeightField(label=gettext_lazy("Oil recovered"), low=0.1, high=50_000, is_reading=True)
    strained_on = date_field(gettext_lazy("Strained on"), required=True)


class RenderForm(Styled, forms.Form):
    """What is rendered or clarified, and what came of it where that is weighed already."""

    kind = forms.ChoiceField(
        choices=Rendering.Kind.choices, widget=forms.RadioSelect, initial=Rendering.Kind.COMB
    )
    material = forms.ChoiceField(
        label=gettext_lazy("Butter or fat"),
        required=False,
        help_text=gettext_lazy("For a raw butter only."),
    )
    raw_g = WeightField(label=gettext_lazy("Raw weight"), low=0.1, high=100_000, is_reading=True)
    started_on = date_field(gettext_lazy("Started on"), required=True)
    clean_g = WeightField(
        label=gettext_lazy("Clean weight, if it is done already"),
        low=0.1,
        high=100_000,
        is_reading=True,
        required=False,
    )

    def __init__(self, *args: Any, shelf: Shelf, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        fats = [(slug, m.label) for slug, m in shelf.items() if m.group in ("butter", "soft_fat")]
        offer(self, "material", [("", "–"), *fats])


class CleanForm(Styled, forms.Form):
    """The weight of what was rendered."""

    clean_g = WeightField(label=gettext_lazy("Clean weight"), low=0.1, high=100_000, is_reading=True)
    done_on = date_field(gettext_lazy("Done on"), required=True)


class CleanAgainForm(Styled, forms.Form):
    """The right weight of what was strained or rendered, and why."""

    weight_g = WeightField(label=gettext_lazy("Right weight"), low=0.1, high=100_000, is_reading=True)
    reason = forms.CharField(
        label=gettext_lazy("Reason"),
        max_length=200,
        error_messages={"required": gettext_lazy("Give a reason: misread, typed with the jar.")},
    )
