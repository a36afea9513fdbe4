"""The words of recipes: numbers, units, forms, and what says nothing."""

from __future__ import annotations

from fractions import Fraction

from calmtin.core.recipe.measures import Form, Unit

_WORD_NUMBERS = {
    "a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7,
    "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "fifteen": 15, "twenty": 20, "thirty": 30,
    "couple": 2, "dozen": 12,
}  # fmt: skip

_WORD_PARTS = {
    "half": Fraction(1, 2), "halves": Fraction(1, 2), "third": Fraction(1, 3), "thirds": Fraction(1, 3),
    "quarter": Fraction(1, 4), "quarters": Fraction(1, 4), "fourth": Fraction(1, 4),
    "eighth": Fraction(1, 8), "eighths": Fraction(1, 8),
}  # fmt: skip

_VULGAR = {
    "¼": "1/4", "½": "1/2", "¾": "3/4", "⅓": "1/3", "⅔": "2/3", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8",
    "⅞": "7/8", "⅕": "1/5", "⅖": "2/5", "⅗": "3/5", "⅘": "4/5", "⅙": "1/6", "⅚": "5/6",
}  # fmt: skip

_UNIT_WORDS: dict[str, Unit] = {
    "g": "g", "gr": "g", "gm": "g", "gms": "g", "gram": "g", "grams": "g", "gramme": "g", "grammes": "g",
    "kg": "kg", "kilo": "kg", "kilos": "kg", "kilogram": "kg", "kilograms": "kg",
    "oz": "oz", "ozs": "oz", "ounce": "oz", "ounces": "oz",
    "lb": "lb", "lbs": "lb", "pound": "lb", "pounds": "lb",
    "ml": "ml", "mls": "ml", "cc": "ml", "millilitre": "ml", "millilitres": "ml", "milliliter": "ml",
    "milliliters": "ml", "l": "l", "litre": "l", "litres": "l", "liter": "l", "liters": "l",
    "floz": "fl_oz", "cup": "cup", "cups": "cup", "c": "cup",
    "tbsp": "tbsp", "tbsps": "tbsp", "tbs": "tbsp", "tbl": "tbsp", "tablespoon": "tbsp",
    "tablespoons": "tbsp",
    "tsp": "tsp", "tsps": "tsp", "teaspoon": "tsp", "teaspoons": "tsp",
    "pinch": "pinch", "pinches": "pinch", "drop": "drop", "drops": "drop", "gtt": "drop", "gtts": "drop",
    "dropper": "dropper", "droppers": "dropper", "dropperful": "dropper", "dropperfuls": "dropper",
    "droppersful": "dropper", "capsule": "capsule", "capsules": "capsule", "cap": "capsule",
    "caps": "capsule", "softgel": "capsule", "softgels": "capsule",
    "part": "part", "parts": "part", "pt": "part", "%": "percent", "percent": "percent", "pct": "percent",
}  # fmt: skip

_METRIC: dict[Unit, Unit] = {"cup": "metric_cup", "tbsp": "metric_tbsp", "tsp": "metric_tsp"}

_FORM_WORDS: dict[str, Form] = {
    "melted": "melted", "liquified": "melted", "liquefied": "melted", "pellets": "pellets",
    "pellet": "pellets", "pastilles": "pellets", "pearls": "pellets", "beads": "pellets",
    "shavings": "shavings", "shaved": "shavings", "grated": "shavings", "flakes": "shavings",
    "chopped": "chopped", "chunks": "chopped", "chips": "chopped", "wafers": "chopped", "cubed": "chopped",
    "packed": "packed", "solid": "packed", "scooped": "packed", "softened": "packed", "firmly": "packed",
}  # fmt: skip

# Words that say nothing about which material it is.
_FILLER_WORDS = frozenset(
    """
    of the about approx approximately roughly around ca circa heaping scant level rounded generous
    large small organic raw pure natural good quality cosmetic grade cold pressed unscented essential
    oils eo optional your favourite favorite some plus or so each to taste if desired needed for extra
    """.split()  # noqa: SIM905
)
