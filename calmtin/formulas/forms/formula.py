"""Parse a formula's name, kind and audience, a pasted recipe, the name of a copy."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy

from calmtin.accounts.models import Bench
from calmtin.common.fields import Styled, TemperatureField
from calmtin.core.limits import RECIPE_CHARS, ROOM_C
from calmtin.formulas.models import Audience, Formula, Season, SeasonPair, kind_choices
from calmtin.pantry.queries.shelf import avoidable

SUMMER_ABOVE_C = 3.0  # the room as it is, where nobody said yet from when summer counts


class FormulaForm(Styled, forms.Form):
    """A formula's name and kind."""

    name = forms.CharField(
        label=gettext_lazy("Name"),
        max_length=80,
        error_messages={"required": gettext_lazy("Give the formula a name.")},
    )
    kind = forms.ChoiceField(
        choices=kind_choices, widget=forms.RadioSelect(attrs={"class": ""}), label=gettext_lazy("Kind")
    )

    audience = forms.ChoiceField(
        choices=[("", gettext_lazy("usual for the kind")), *Audience.choices],
        required=False,
        label=gettext_lazy("Who is it for?"),
    )
    sees_sun = forms.BooleanField(required=False, label=gettext_lazy("Used on skin exposed to sun"))
    notes = forms.CharField(required=False, max_length=2000)

    free = forms.MultipleChoiceField(choices=lambda: list(avoidable().items()), required=False)
    place = forms.ChoiceField(
        choices=[
            ("", gettext_lazy("usual for the kind")),
            ("room", "a room"),
            ("hot", gettext_lazy("a hot place")),
            ("cold", gettext_lazy("a cold one")),
        ],
        required=False,
    )
    use_stock = forms.BooleanField(required=False)

    @classmethod
    def of(cls, formula: Formula) -> FormulaForm:
        """Return the form filled in with `formula`."""
        fields = ("name", "kind", "audience", "sees_sun", "notes")
        return cls(initial={name: getattr(formula, name) for name in fields})


class BranchForm(Styled, forms.Form):
    """What a copy will be called."""

    name = forms.CharField(
        label=gettext_lazy("Name"),
        max_length=80,
        error_messages={"required": gettext_lazy("Give the copy a different name.")},
    )


class SeasonForm(Styled, forms.Form):
    """Which season a formula is for, and from which temperature of the room summer counts."""

    season = forms.ChoiceField(choices=Season.choices, widget=forms.RadioSelect, initial=Season.WINTER)
    summer_from = TemperatureField(
        low=ROOM_C[0],
        high=ROOM_C[1],
        label=gettext_lazy("Summer from a room of"),
        subject=gettext_lazy("The temperature"),
    )

    def __init__(self, *args: Any, pair: SeasonPair | None, bench: Bench, **kwargs: Any) -> None:
        from_c = pair.summer_from_c if pair else min(bench.room_c + SUMMER_ABOVE_C, ROOM_C[1])
        super().__init__(*args, initial={"summer_from": from_c}, **kwargs)
        if pair is not None:
            del self.fields["season"]


class PasteForm(Styled, forms.Form):
    """A recipe as text, and what the formula will be called."""

    text = forms.CharField(
        max_length=RECIPE_CHARS,
        label=gettext_lazy("One material per line, in any unit"),
        widget=forms.Textarea(
            attrs={
                "rows": 14,
                "placeholder": "2/3 cup mango butter\n45 g beeswax\n12-16 drops lavender",
            }
        ),
        error_messages={"required": gettext_lazy("Paste the recipe, one material per line.")},
    )
    name = forms.CharField(max_length=80, required=False)
    kind = forms.ChoiceField(choices=kind_choices, required=False)
