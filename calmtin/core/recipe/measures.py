"""What people measure with at home, turned into grams with the range that leaves.

pint knows the units and their sizes; this module knows the materials: a liquid
by its density, a solid by the form it was measured in, a scent by its drops.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Literal, get_args

import pint

from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words
from calmtin.core.quantities import Between, Volume

Unit = Literal[
    "g",
    "kg",
    "mg",
    "oz",
    "lb",
    "stick",
    "ml",
    "cl",
    "dl",
    "l",
    "fl_oz",
    "imperial_fl_oz",
    "pint",
    "imperial_pint",
    "quart",
    "cup",
    "imperial_cup",
    "metric_cup",
    "tbsp",
    "imperial_tbsp",
    "metric_tbsp",
    "australian_tbsp",
    "dessertspoon",
    "tsp",
    "imperial_tsp",
    "metric_tsp",
    "pinch",
    "drop",
    "squeeze",
    "dropper",
    "capsule",
    "part",
    "percent",
]
UNITS: tuple[Unit, ...] = get_args(Unit)
UNIT_NAMES: dict[Unit, str] = {
    "g": "grams",
    "kg": "kilograms",
    "mg": "milligrams",
    "oz": "ounces by weight",
    "lb": "pounds",
    "stick": "sticks of 4 oz",
    "ml": "millilitres",
    "cl": "centilitres",
    "dl": "decilitres",
    "l": "litres",
    "fl_oz": "fluid ounces (US)",
    "imperial_fl_oz": "fluid ounces (imperial)",
    "pint": "pints (US)",
    "imperial_pint": "pints (imperial)",
    "quart": "quarts (US)",
    "cup": "cups (US)",
    "imperial_cup": "cups (imperial, half a pint)",
    "imperial_tbsp": "tablespoons (imperial)",
    "dessertspoon": "dessertspoons (10 ml)",
    "imperial_tsp": "teaspoons (imperial)",
    "squeeze": "squeezes of a dropper",
    "metric_cup": "cups (metric, 250 ml)",
    "tbsp": "tablespoons (US)",
    "metric_tbsp": "tablespoons (metric, 15 ml)",
    "australian_tbsp": "tablespoons (Australian, 20 ml)",
    "tsp": "teaspoons (US)",
    "metric_tsp": "teaspoons (metric, 5 ml)",
    "pinch": "pinches",
    "drop": "drops",
    "dropper": "droppers",
    "capsule": "capsules",
    "part": "parts",
    "percent": "percent",
}

Form = Literal["melted", "pellets", "shavings", "chopped", "packed", "powder", "liquid"]
FORMS: tuple[Form, ...] = ("melted", "pellets", "shavings", "chopped", "packed")

# The part of a measured volume that is solid: usual, least, most. Beeswax pellets at 140 g
# a US cup give 0.60; grated wax 0.30-0.42 (materials.csv); a packed scoop of shea 0.98.
_FILLED: dict[Form, tuple[float, float, float]] = {
    "pellets": (0.60, 0.55, 0.65),
    "shavings": (0.36, 0.30, 0.42),
    "chopped": (0.65, 0.55, 0.75),
    "packed": (0.97, 0.90, 1.00),
}
# What a solid was most likely measured as when nobody says, and the loosest it may have been.
_GUESS: dict[str, tuple[Form, Form]] = {
    "wax": ("pellets", "shavings"),
    "butter": ("chopped", "chopped"),
    "soft_fat": ("packed", "packed"),
}
# Spread of a poured or scooped measure itself: liquids to a line, loose powder to a scoop.
_LIQUID_SPREAD, _POWDER_SPREAD = 0.02, 0.15
_LOOSE_POWDER = 0.35  # bulk over true density where no bulk density is known
USUAL_DROPS = (20.0, 18.0, 40.0)  # drops a ml of a thin oil: usual, least, most
_DROPPER_ML = (1.0, 0.7, 1.1)  # a full squeeze of a 30 ml bottle's dropper
# A soft capsule of vitamin E in oil holds 0.25 to 0.6 ml, one of seed oil about twice that.
_CAPSULE_ML, _OIL_CAPSULE_ML = (0.4, 0.25, 0.6), (0.9, 0.5, 1.3)
_SQUEEZE_ML = (0.7, 0.4, 1.0)  # one squeeze of a dropper's bulb seldom fills it
_HANDFULS_ML: dict[Unit, tuple[float, float, float]] = {
    "dropper": _DROPPER_ML,
    "capsule": _CAPSULE_ML,
    "squeeze": _SQUEEZE_ML,
}


@dataclass(frozen=True, slots=True)
class Weight:
    """A weight in grams with the range that the measure leaves, and how it was found.

    `form` is the form it was taken in; `is_guess` whether that form was guessed.
    """

    grams: float
    low: float
    high: float
    form: Form | None
    is_guess: bool
    how: Words


@cache
def registry() -> pint.UnitRegistry[float]:
    """Return pint's units, with the metric spoons and cups added."""
    units: pint.UnitRegistry[float] = pint.UnitRegistry(cache_folder=None)
    units.define("kitchen_metric_cup = 250 * milliliter")
    units.define("kitchen_metric_tablespoon = 15 * milliliter")
    units.define("kitchen_australian_tablespoon = 20 * milliliter")
    units.define("kitchen_metric_teaspoon = 5 * milliliter")
    units.define("kitchen_pinch = teaspoon / 16")
    units.define("kitchen_imperial_cup = 284.13 * milliliter")
    units.define("kitchen_imperial_tablespoon = 17.758 * milliliter")
    units.define("kitchen_imperial_teaspoon = 5.9194 * milliliter")
    units.define("kitchen_dessertspoon = 10 * milliliter")
    units.define("kitchen_stick = 4 * ounce")
    return units


_PINT: dict[Unit, str] = {
    "g": "gram",
    "kg": "kilogram",
    "mg": "milligram",
    "oz": "ounce",
    "lb": "pound",
    "stick": "kitchen_stick",
    "ml": "milliliter",
    "cl": "centiliter",
    "dl": "deciliter",
    "l": "liter",
    "fl_oz": "US_fluid_ounce",
    "imperial_fl_oz": "imperial_fluid_ounce",
    "pint": "pint",
    "imperial_pint": "imperial_pint",
    "quart": "quart",
    "cup": "cup",
    "imperial_cup": "kitchen_imperial_cup",
    "imperial_tbsp": "kitchen_imperial_tablespoon",
    "imperial_tsp": "kitchen_imperial_teaspoon",
    "dessertspoon": "kitchen_dessertspoon",
    "metric_cup": "kitchen_metric_cup",
    "tbsp": "tablespoon",
    "metric_tbsp": "kitchen_metric_tablespoon",
    "australian_tbsp": "kitchen_australian_tablespoon",
    "tsp": "teaspoon",
    "metric_tsp": "kitchen_metric_teaspoon",
    "pinch": "kitchen_pinch",
}


@cache
def size_of(unit: Unit) -> tuple[float, bool]:
    """Return the size of a unit: g (True) for a weight or ml (False) for a volume.

    >>> [round(v, 3) for v in (size_of("cup")[0], size_of("fl_oz")[0], size_of("oz")[0])]
    [236.588, 29.574, 28.35]
    """
    quantity = registry().Quantity(1.0, _PINT[unit])
    if quantity.check("[mass]"):
        return float(quantity.to("gram").magnitude), True
    return float(quantity.to("milliliter").magnitude), False


def is_weight(unit: Unit) -> bool:
    """Return whether a unit weighs, so that density and form do not matter."""
    return unit in ("g", "kg", "mg", "oz", "lb", "stick")


def to_weight(
    material: Material,
    amount: float,
    unit: Unit,
    *,
    form: Form | None = None,
    drops_per_ml: tuple[float, float, float] | None = None,
    low: float | None = None,
    high: float | None = None,
) -> Weight:
    """Return the weight of `amount` of a material in any unit but parts and percent.

    `low` and `high` widen a range of amounts ("12 to 16 drops"). `drops_per_ml`
    is (usual, least, most) where it is known for a scent. A solid in a volume
    unit without a `form` gets the likeliest one and the range of all of them.
    Raises `CalmTinError` for a negative amount and for parts or percent, which
    need the whole recipe.

    >>> from calmtin.core.data.loader import library
    >>> cup = to_weight(library()["beeswax_yellow"], 1.0, "cup")
    >>> round(cup.grams), round(cup.low), round(cup.high), cup.form
    (137, 68, 199, 'pellets')
    """
    if unit in ("part", "percent"):
        raise CalmTinError("Parts and percent need the whole recipe.", field="unit")
    least, most = amount if low is None else low, amount if high is None else high
    if not 0.0 <= least <= amount <= most < 1e9:
        raise CalmTinError("Type an amount of 0 or more.", field="amount")
    if is_weight(unit):
        size, _ = size_of(unit)
        return Weight(amount * size, least * size, most * size, None, False, "by weight")
    ml, ml_low, ml_high, words = _volume(unit, drops_per_ml)
    if unit == "capsule" and material.group == "oil":
        ml, ml_low, ml_high = _OIL_CAPSULE_ML
        words = Message(
            "a capsule of oil holds about {usual} ({span})",
            usual=Volume(ml),
            span=Between(Volume(ml_low), Volume(ml_high), " to "),
        )
    per_ml, per_low, per_high, taken, is_guess, how = _grams_per_ml(material, form, unit)
    return Weight(
        amount * ml * per_ml,
        least * ml_low * per_low,
        most * ml_high * per_high,
        taken,
        is_guess,
        Message("{words}; {how}", words=words, how=how),
    )


def _volume(
    unit: Unit, drops_per_ml: tuple[float, float, float] | None
) -> tuple[float, float, float, Words]:
    """Return ml of one unit: usual, least, most, and the words for it."""
    if unit == "drop":
        usual, few, many = drops_per_ml or USUAL_DROPS
        return (
            1.0 / usual,
            1.0 / many,
            1.0 / few,
            Message("{usual:g} drops a ml ({few:g} to {many:g})", usual=usual, few=few, many=many),
        )
    if unit in _HANDFULS_ML:
        usual, least, most = _HANDFULS_ML[unit]
        holds = Message(
            "a {unit} holds about {usual} ({span})",
            unit=unit,
            usual=Volume(usual),
            span=Between(Volume(least), Volume(most), " to "),
        )
        return usual, least, most, holds
    size, _ = size_of(unit)
    return size, size, size, Message("{size} each", size=Volume(float(f"{size:.4g}")))


def _grams_per_ml(
    material: Material, form: Form | None, unit: Unit
) -> tuple[float, float, float, Form, bool, Words]:
    """Return g/ml as measured: usual, least, most; the form; whether guessed; the words."""
    if material.is_filler:
        bulk = material.bulk_density or material.density_solid * _LOOSE_POWDER
        return (
            bulk,
            bulk * (1.0 - _POWDER_SPREAD),
            bulk * (1.0 + _POWDER_SPREAD),
            "powder",
            False,
            Message("loose powder at {bulk:.2f} g/ml", bulk=bulk),
        )
    if material.group not in _GUESS or unit in ("drop", "squeeze", "dropper", "capsule"):
        density = material.density_solid
        spread = density * _LIQUID_SPREAD
        return (
            density,
            density - spread,
            density + spread,
            "liquid",
            False,
            Message("{density:.3f} g/ml", density=density),
        )
    if form is None:
        likely, loosest = _GUESS[material.group]
        usual = _in_form(material, likely)[0]
        least = _in_form(material, loosest)[1]
        most = max(_in_form(material, "melted")[0], usual)
        return (
            usual,
            least,
            most,
            likely,
            True,
            Message("taken as {likely} at {usual:.2f} g/ml", likely=likely, usual=usual),
        )
    usual, least, most = _in_form(material, form)
    return usual, least, most, form, False, Message("{form} at {usual:.2f} g/ml", form=form, usual=usual)


def _in_form(material: Material, form: Form) -> tuple[float, float, float]:
    """Return g/ml of a solid in a form: usual, least, most."""
    if form in ("melted", "liquid", "powder"):
        melt = material.density_melt
        return melt, melt * (1.0 - _LIQUID_SPREAD), melt * (1.0 + _LIQUID_SPREAD)
    usual, least, most = (material.density_solid * part for part in _FILLED[form])
    own = material.bulk_density
    measured_as = "pellets" if material.group == "wax" else "packed"
    if own is not None and form == measured_as:
        usual, least, most = own, min(least, own), max(most, own)
    return usual, least, most


def ounce_readings(material: Material, amount: float) -> tuple[Weight, Weight] | None:
    """Return "oz" read as weight and as fluid ounces, where both make sense; else None.

    Waxes, butters and powders are sold by weight. For what pours, a maker must say.
    """
    if material.group not in ("oil", "soft_fat", "antioxidant", "scent", "water_bearing", "other"):
        return None
    return to_weight(material, amount, "oz"), to_weight(material, amount, "fl_oz", form="melted")
