"""Parse what the pantry's pages send."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from calmtin.common.fields import (
    MoneyField,
    NumberField,
    Styled,
    TemperatureField,
    VolumeField,
    WeightField,
    date_field,
    offer,
    weighs,
)
from calmtin.core import limits
from calmtin.core.allergens import Allergen, allergen_words
from calmtin.core.data.loader import library
from calmtin.core.limits import MELT_C
from calmtin.core.materials import FORM_NAMES, Material
from calmtin.core.recipe.measures import FORMS
from calmtin.pantry.models import GROUP_CHOICES, Lot, OwnContainer, OwnMaterial, Vessel
from calmtin.pantry.queries.shelf import avoidable

WATER_G_ML = Decimal("0.998")  # at room temperature


class SearchForm(forms.Form):
    """What the shelf is narrowed to."""

    q = forms.CharField(required=False, max_length=80)
    group = forms.ChoiceField(required=False, choices=[("", gettext_lazy("all groups")), *GROUP_CHOICES])
    free = forms.MultipleChoiceField(required=False, choices=lambda: list(avoidable().items()))
    mine = forms.BooleanField(required=False)


class MaterialForm(Styled, forms.Form):
    """A material that the library lacks."""

    name = forms.CharField(
        max_length=80, error_messages={"required": gettext_lazy("Give the material a name.")}
    )
    group = forms.ChoiceField(choices=GROUP_CHOICES, initial="wax")
    behaves_like = forms.ChoiceField(
        label=gettext_lazy("Behaves like"),
        help_text=gettext_lazy("Its crystals are moved to the melting range you give."),
    )
    melt_low = TemperatureField(
        label=gettext_lazy("Melts from"),
        low=MELT_C[0],
        high=MELT_C[1],
        required=False,
        subject=gettext_lazy("The lower melting temperature"),
    )
    melt_high = TemperatureField(
        label=gettext_lazy("Melts to"),
        low=MELT_C[0],
        high=MELT_C[1],
        required=False,
        subject=gettext_lazy("The upper melting temperature"),
    )
    density = NumberField(label=gettext_lazy("Density, g/ml"), low=0.5, high=8, places=3, required=False)
    strength_pct = NumberField(
        label=gettext_lazy("Strength beside it, %"),
        low=10,
        high=400,
        places=0,
        required=False,
        help_text=gettext_lazy("100 is as firm as its model."),
    )
    limit = NumberField(
        label=gettext_lazy("Maximum, %"),
        high=100,
        places=3,
        required=False,
        help_text=gettext_lazy("Its supplier’s own limit."),
    )
    inci = forms.CharField(label=gettext_lazy("INCI name"), max_length=120, required=False)
    allergens = forms.MultipleChoiceField(
        label=gettext_lazy("Contains"),
        choices=lambda: [(flag.value, allergen_words(flag)) for flag in Allergen],
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )
    vegan = forms.BooleanField(label=gettext_lazy("No animal products"), required=False, initial=True)
    grain_prone = forms.BooleanField(label=gettext_lazy("Goes grainy when cooled wrongly"), required=False)
    notes = forms.CharField(required=False, max_length=2000, widget=forms.Textarea(attrs={"rows": 3}))

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        groups: dict[str, list[tuple[str, str]]] = {}
        for slug, material in library().items():
            groups.setdefault(dict(GROUP_CHOICES)[material.group], []).append((slug, material.label))
        offer(self, "behaves_like", list(groups.items()))

    def clean(self) -> dict[str, Any]:
        """Ask for both ends of the melting range or neither."""
        data = super().clean() or {}
        if not self.errors and (data["melt_low"] is None) != (data["melt_high"] is None):
            self.add_error("melt_high", gettext("Give both ends of the melting range, or neither."))
        return data

    @staticmethod
    def told(row: OwnMaterial) -> dict[str, Any]:
        """Return the form's initial values for an existing material."""
        names = ("name", "group", "behaves_like", "density", "inci", "vegan", "grain_prone", "notes")
        return {
            **{name: getattr(row, name) for name in names},
            "melt_low": row.melt_low_c,
            "melt_high": row.melt_high_c,
            "strength_pct": row.strength_pct,
            "limit": row.limit_pct,
            "allergens": [a for a in row.allergens.split(";") if a],
        }

    def facts(self) -> dict[str, Any]:
        """Return the cleaned fields as `services.add_material` takes them."""
        data = self.cleaned_data
        numbers = {
            "melt_low_c": data["melt_low"],
            "melt_high_c": data["melt_high"],
            "density": data["density"],
            "limit_pct": data["limit"],
        }
        return {
            "name": data["name"],
            "group": data["group"],
            "behaves_like": data["behaves_like"],
            "inci": data["inci"],
            "allergens": ";".join(data["allergens"]),
            "vegan": data["vegan"],
            "grain_prone": data["grain_prone"],
            "notes": data["notes"],
            "strength_pct": float(data["strength_pct"] or 100),
            **{name: None if value is None else float(value) for name, value in numbers.items()},
        }


class ReasonForm(Styled, forms.Form):
    """The reason for a correction."""

    reason = forms.CharField(
        label=gettext_lazy("Why"),
        max_length=200,
        error_messages={"required": gettext_lazy("Give a reason: a slip, measured again.")},
    )


class OwnFiguresForm(Styled, forms.Form):
    """What a maker knows better about a library material."""

    density = NumberField(label=gettext_lazy("Density, g/ml"), low=0.5, high=8, places=3, required=False)
    strength_pct = NumberField(
        label=gettext_lazy("Strength, % of ours"), low=10, high=400, places=0, required=False
    )
    typical_low_pct = NumberField(label=gettext_lazy("Use from, %"), high=100, places=2, required=False)
    typical_high_pct = NumberField(label=gettext_lazy("Use to, %"), high=100, places=2, required=False)
    limit_pct = NumberField(label=gettext_lazy("Supplier’s limit, %"), high=100, places=3, required=False)
    inci = forms.CharField(
        label=gettext_lazy("Ingredients on the bottle, by INCI"),
        required=False,
        max_length=200,
        help_text=gettext_lazy("A (and) B, as on the bottle; labels and lists take it from here"),
    )
    form = forms.ChoiceField(
        label=gettext_lazy("It comes as"),
        choices=[("", gettext_lazy("as usual")), *FORM_NAMES.items()],
        required=False,
        help_text=gettext_lazy("Melting times follow it"),
    )
    notes = forms.CharField(required=False, max_length=2000, widget=forms.Textarea(attrs={"rows": 2}))

    def figures(self) -> dict[str, Any]:
        """Return the cleaned fields as the override keeps them."""
        return {
            name: value if name in ("notes", "inci", "form") or value is None else float(value)
            for name, value in self.cleaned_data.items()
        }


class LotForm(Styled, forms.Form):
    """A purchase, its amount typed in any unit."""

    amount = forms.CharField(
        label=gettext_lazy("Amount"),
        max_length=60,
        help_text=gettext_lazy("500 g, 1 lb, 16 oz wt, 8 fl oz, 2 cups…"),
        error_messages={"required": gettext_lazy("Type an amount with its unit, such as “500 g”.")},
        widget=forms.TextInput(attrs={"data-keypad": True}),
    )
    form = forms.ChoiceField(
        label=gettext_lazy("Measured as"),
        required=False,
        choices=[("", gettext_lazy("by weight, or as usual")), *((f, f) for f in FORMS)],
    )
    price = MoneyField(label=gettext_lazy("Price"), high=100_000, required=False)
    bought_on = date_field(gettext_lazy("Bought on"), required=True)
    best_before = date_field(gettext_lazy("Best before"))
    opened_on = date_field(gettext_lazy("Opened on"))
    note = forms.CharField(max_length=200, required=False)

    def clean(self) -> dict[str, Any]:
        """Refuse a lot that went off before it was bought."""
        data = super().clean() or {}
        if data.get("best_before") and data.get("bought_on") and data["best_before"] < data["bought_on"]:
            self.add_error("best_before", gettext("The best-before date is before the day you bought it."))
        return data


class CorrectLotForm(Styled, forms.Form):
    """A correction of a purchase, with its reason."""

    amount_g = WeightField(label=gettext_lazy("Bought"), low=0.01, high=1_000_000)
    price = MoneyField(label=gettext_lazy("Price"), high=100_000, required=False)
    bought_on = date_field(gettext_lazy("Bought on"), required=True)
    best_before = date_field(gettext_lazy("Best before"))
    opened_on = date_field(gettext_lazy("Opened on"))
    note = forms.CharField(max_length=200, required=False)
    reason = forms.CharField(
        label=gettext_lazy("Why"),
        max_length=100,
        error_messages={"required": gettext_lazy("Give a reason: a slip, the wrong unit.")},
    )

    def __init__(self, data: Any, *, lot: Lot, material: Material) -> None:
        names = [name for name in self.base_fields if name != "reason"]
        super().__init__(data, initial={name: getattr(lot, name) for name in names}, prefix="fix")
        weighs(self, "amount_g", material)


class VoidLotForm(Styled, forms.Form):
    """Why a lot goes off the shelf."""

    reason = forms.CharField(
        label=gettext_lazy("Why"),
        max_length=200,
        error_messages={"required": gettext_lazy("Give a reason: entered twice, thrown away, given away.")},
    )


class ReweighForm(Styled, forms.Form):
    """What the scale says is left of a lot, and why it differs."""

    actual = WeightField(label=gettext_lazy("Weight left"), high=1_000_000, is_reading=True)
    reason = forms.CharField(
        max_length=200,
        error_messages={"required": gettext_lazy("Give a reason: spilled, given away, inaccurate scale.")},
    )

    def __init__(self, *args: Any, material: Material, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        weighs(self, "actual", material)


class BoughtForm(Styled, forms.Form):
    """How many more of a container were bought."""

    bought = NumberField(
        label=gettext_lazy("Number bought"), low=limits.BOUGHT[0], high=limits.BOUGHT[1], places=0
    )


class ContainerForm(Styled, forms.Form):
    """A container of the maker's own, its size typed or weighed with water."""

    name = forms.CharField(
        max_length=80, error_messages={"required": gettext_lazy("Give the container a name.")}
    )
    brim_ml = VolumeField(label=gettext_lazy("Volume to the brim"), low=0.1, high=20_000, required=False)
    empty_g = WeightField(
        label=gettext_lazy("Weight when empty"), high=20_000, required=False, is_reading=True
    )
    full_g = WeightField(
        label=gettext_lazy("Weight full of water"), high=40_000, required=False, is_reading=True
    )
    usual_level_pct = NumberField(
        label=gettext_lazy("Usually filled to, %"), low=5, high=100, places=1, initial="95"
    )
    cavities = NumberField(
        label=gettext_lazy("Cavities, for a mould"), low=1, high=200, places=0, initial="1"
    )
    uses = NumberField(
        label=gettext_lazy("Used how many times, for a mould"),
        low=limits.USES[0],
        high=limits.USES[1],
        places=0,
        required=False,
        help_text=gettext_lazy("Spreads its price over the pieces. Left empty, it costs nothing a piece."),
    )
    on_hand = NumberField(label=gettext_lazy("On hand"), high=100_000, places=0, required=False)
    price = MoneyField(label=gettext_lazy("Price each, with its label"), high=10_000, required=False)

    def clean(self) -> dict[str, Any]:
        """Work the brim out from the water where it was not typed."""
        data = super().clean() or {}
        if self.errors:
            return data
        if data["brim_ml"] is None:
            if data["empty_g"] is None or data["full_g"] is None:
                self.add_error("brim_ml", gettext("Enter the volume, or weigh it empty and full of water."))
            elif data["full_g"] <= data["empty_g"]:
                self.add_error("full_g", gettext("It must weigh more full of water than empty."))
            else:
                # Water at room temperature: 0.998 g/ml. A mould is weighed with every cavity full.
                data["brim_ml"] = (data["full_g"] - data["empty_g"]) / WATER_G_ML / data["cavities"]
        return data

    @staticmethod
    def told(row: OwnContainer) -> dict[str, Any]:
        """Return the form's initial values for an existing container."""
        names = ("name", "brim_ml", "usual_level_pct", "cavities", "uses", "on_hand", "price")
        return {**{name: getattr(row, name) for name in names}, "empty_g": row.tare_g}

    def facts(self) -> dict[str, Any]:
        """Return the cleaned fields as the services take them."""
        data = self.cleaned_data
        return {
            "name": data["name"],
            "brim_ml": float(data["brim_ml"]),
            "usual_level_pct": float(data["usual_level_pct"]),
            "cavities": int(data["cavities"]),
            "uses": None if data["uses"] is None else int(data["uses"]),
            "tare_g": data["empty_g"],
            "on_hand": None if data["on_hand"] is None else int(data["on_hand"]),
            "price": data["price"],
        }


class VesselForm(Styled, forms.Form):
    """A pot, a bowl or a jug."""

    vessel_name = forms.CharField(
        label=gettext_lazy("Name"),
        max_length=60,
        error_messages={"required": gettext_lazy("Give it a name, such as “small pot”.")},
    )
    use = forms.ChoiceField(label=gettext_lazy("Kind"), choices=Vessel.Use.choices)
    vessel_ml = VolumeField(label=gettext_lazy("Volume to the brim"), low=1, high=20_000)
