"""The words of recipes: units and whose they are, heaps, forms, and what says nothing."""

from __future__ import annotations

from calmtin.core.recipe.measures import Form, Unit


def _each(**words: str) -> dict[str, Unit]:
    return {word: unit for unit, row in words.items() for word in row.split()}  # type: ignore[misc]


UNIT_WORDS: dict[str, Unit] = _each(
    g="g gr gm gms gram grams gramme grammes gr",
    kg="kg kgs kilo kilos kilogram kilograms kilogramme kilogrammes",
    mg="mg milligram milligrams",
    oz="oz ozs ounce ounces",
    lb="lb lbs pound pounds",
    ml="ml mls cc millilitre millilitres milliliter milliliters",
    cl="cl centilitre centilitres centiliter centiliters",
    dl="dl decilitre decilitres deciliter deciliters",
    l="l litre litres liter liters",
    fl_oz="floz",
    cup="cup cups c cupful cupfuls",
    pint="pint pints",
    quart="quart quarts qt",
    stick="stick sticks",
    tbsp="tbsp tbsps tbs tbl tblsp tablespoon tablespoons tablespoonful tablespoonfuls",
    dessertspoon="dessertspoon dessertspoons dsp dstsp",
    tsp="tsp tsps teaspoon teaspoons teaspoonful teaspoonfuls",
    pinch="pinch pinches dash dashes smidgen",
    drop="drop drops gtt gtts",
    squeeze="squeeze squeezes squirt squirts",
    dropper="dropper droppers dropperful dropperfuls droppersful pipette pipettes",
    capsule="capsule capsules cap caps softgel softgels",
    part="part parts pt pts",
    percent="% percent pct",
)

# Written in two words.
SPOONS: dict[str, Unit] = {"tea": "tsp", "table": "tbsp", "dessert": "dessertspoon"}

# Said without a number: one of it, or a few.
ONE_OF: dict[str, tuple[Unit, float, float]] = {
    "pinch": ("pinch", 1.0, 1.0), "dash": ("pinch", 1.0, 2.0), "smidgen": ("pinch", 0.5, 1.0),
    "squeeze": ("squeeze", 1.0, 1.0), "squirt": ("squeeze", 1.0, 1.0), "pinches": ("pinch", 2.0, 4.0),
}  # fmt: skip

SYSTEMS = {
    "us": "us", "american": "us", "imperial": "imperial", "uk": "uk", "british": "uk",
    "metric": "metric", "australian": "australian", "aus": "australian", "aussie": "australian",
}  # fmt: skip

_IN_SYSTEM: dict[str, dict[Unit, Unit]] = {
    "us": {},
    "metric": {"cup": "metric_cup", "tbsp": "metric_tbsp", "tsp": "metric_tsp"},
    # A British spoon of today is a metric one; its cup and its pint are not.
    "uk": {
        "cup": "imperial_cup",
        "tbsp": "metric_tbsp",
        "tsp": "metric_tsp",
        "pint": "imperial_pint",
        "fl_oz": "imperial_fl_oz",
    },
    "australian": {"cup": "metric_cup", "tbsp": "australian_tbsp", "tsp": "metric_tsp"},
    "imperial": {
        "cup": "imperial_cup",
        "tbsp": "imperial_tbsp",
        "tsp": "imperial_tsp",
        "pint": "imperial_pint",
        "fl_oz": "imperial_fl_oz",
    },
}


def in_system(unit: Unit, system: str) -> Unit:
    """Return whose cup or spoon it is."""
    return _IN_SYSTEM[system].get(unit, unit)


# So many times the amount that follows: "twice 50 g".
TIMES_OVER: dict[str, int] = {"twice": 2, "double": 2, "thrice": 3, "triple": 3, "treble": 3}

# How full a spoon or cup is, beside one that is level: usual, least, most.
HEAPS: dict[str, tuple[float, float, float]] = {
    "heaping": (1.5, 1.3, 1.8), "heaped": (1.5, 1.3, 1.8), "rounded": (1.25, 1.1, 1.5),
    "generous": (1.15, 1.0, 1.3), "big": (1.15, 1.0, 1.3), "good": (1.1, 1.0, 1.25),
    "scant": (0.9, 0.8, 0.97), "scanty": (0.9, 0.8, 0.97), "level": (1.0, 1.0, 1.0),
    "full": (1.0, 1.0, 1.0), "large": (1.0, 1.0, 1.0), "small": (0.9, 0.7, 1.0),
    "standard": (1.0, 1.0, 1.0),
}  # fmt: skip

TIMES = frozenset("minute minutes min mins hour hours hr hrs day days week weeks month months".split())  # noqa: SIM905

FORM_WORDS: dict[str, Form] = {
    "melted": "melted", "liquified": "melted", "liquefied": "melted", "pellets": "pellets",
    "pellet": "pellets", "pastilles": "pellets", "pearls": "pellets", "beads": "pellets",
    "pastille": "pellets",
    "shavings": "shavings", "shaved": "shavings", "grated": "shavings", "flakes": "shavings",
    "chopped": "chopped", "chunks": "chopped", "chips": "chopped", "wafers": "chopped", "cubed": "chopped",
    "packed": "packed", "solid": "packed", "scooped": "packed", "softened": "packed", "firmly": "packed",
}  # fmt: skip

# Words that say nothing about which material it is.
FILLER_WORDS = frozenset(
    """
    of the about approx approximately roughly around ca circa heaping scant level rounded generous
    large small organic raw pure natural good quality cosmetic grade cold pressed unscented essential
    oils eo optional your favourite favorite some plus or so each to taste if desired needed for extra
    add use another up this it its deodorised deodorized rbd fresh fine finely food expeller certified local
    i we have used maybe then also just that is which equals equal
    """.split()  # noqa: SIM905
)
