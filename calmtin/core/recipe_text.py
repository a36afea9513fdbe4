"""Read a recipe as people write it down: one thing a line, in any measure.

Every line of the input comes back, as a line with a weight or as an unresolved
item with the reason; nothing is dropped. What is not sure says so.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from rapidfuzz import fuzz

from calmtin.core.errors import CalmTinError, UnknownMaterial
from calmtin.core.limits import RECIPE_CHARS, RECIPE_LINE_CHARS, check_text
from calmtin.core.materials import Material, Shelf
from calmtin.core.measures import Form, Unit, Weight, ounce_readings, to_weight

WHOLE_G = 100.0  # the batch that parts and percent are taken of
SURE, POSSIBLE = 0.86, 0.62
MOST_LINES = 200
TOO_LONG = f"This line is longer than {RECIPE_LINE_CHARS} characters. Put one material on each line."

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
_NUMBER = r"(?:\d+\s+\d+\s*/\s*\d+|\d+\s*/\s*\d+|\d*[.,]\d+|\d+)"
_TO = r"\s*(?:-|–|—|to|or|bis)\s*"
_AMOUNT = re.compile(rf"^\W*({_NUMBER})(?:{_TO}({_NUMBER}))?", re.IGNORECASE)
_TAIL = re.compile(
    rf"[\s:,(=–—-]+({_NUMBER})(?:{_TO}({_NUMBER}))?\s*([a-z%]+\.?(?:\s*oz\.?)?)\s*\)?\s*$", re.IGNORECASE
)
_BULLET = re.compile(r"^\s*(?:[-*•–—·]+|\(?\d{1,2}[.)](?=\s+\D*\d)|\[\s?[xX]?\s?\])\s*")


_LEAD = re.compile(
    r"^\W*(?:(?:about|approx|approximately|roughly|around|ca|circa|add|use|plus|another|up\s+to)\b\.?\s*)+",
    re.IGNORECASE,
)

MOST_OFFERS = 4  # of a name that may mean several
LIKELY = 0.7  # as sure as a guess must be to be offered


@dataclass(frozen=True, slots=True)
class Choice:
    """A material that the words may mean, with a confidence of 0 to 1."""

    slug: str
    confidence: float


@dataclass(frozen=True, slots=True)
class RecipeLine:
    """A line that was understood, by weight. `question` asks what is not sure."""

    text: str
    material: str
    confidence: float
    amount: float
    unit: Unit
    weight: Weight
    question: str = ""
    others: tuple[Choice, ...] = ()


@dataclass(frozen=True, slots=True)
class Unresolved:
    """A line that a person must settle: why, and what it may mean."""

    text: str
    reason: str
    choices: tuple[Choice, ...] = ()


@dataclass(frozen=True, slots=True)
class Recipe:
    """A read recipe: every non-blank line of the input, in its order."""

    items: tuple[RecipeLine | Unresolved, ...]

    @property
    def lines(self) -> list[RecipeLine]:
        """The lines that have a weight."""
        return [item for item in self.items if isinstance(item, RecipeLine)]

    @property
    def unresolved(self) -> list[Unresolved]:
        """The lines that are still to be settled."""
        return [item for item in self.items if isinstance(item, Unresolved)]

    def percent_ranges(self) -> list[tuple[float, float, float]]:
        """Return each line's percent of the whole: usual, least, most.

        Least is its low weight beside the others' high ones, and the other way.
        """
        total = sum(line.weight.grams for line in self.lines)
        low = sum(line.weight.low for line in self.lines)
        high = sum(line.weight.high for line in self.lines)
        found = []
        for line in self.lines:
            w = line.weight
            least = w.low / (w.low + high - w.high) if w.low else 0.0
            most = w.high / (w.high + low - w.low) if w.high else 0.0
            found.append((100.0 * w.grams / total if total else 0.0, 100.0 * least, 100.0 * most))
        return found


@dataclass(frozen=True, slots=True)
class _Measured:
    """A line with an amount and a material, before parts and percent are weighed."""

    text: str
    choice: Choice
    others: tuple[Choice, ...]
    amount: float
    low: float
    high: float
    unit: Unit
    form: Form | None


def read_recipe(
    text: str,
    shelf: Shelf,
    *,
    synonyms: Mapping[str, str],
    drops_per_ml: Mapping[str, tuple[float, float, float]],
) -> Recipe:
    """Return the recipe in `text`, its materials matched to `shelf`.

    `synonyms` maps other common names to slugs; `drops_per_ml` gives a scent's
    drops. Parts and percent are taken of 100 g and only where nothing but drops,
    droppers and capsules stands beside them. Raises `CalmTinError` when the
    text is longer than 200 lines.
    """
    if len(text) > RECIPE_CHARS:
        raise CalmTinError(f"Paste up to {RECIPE_CHARS:,} characters at once.", field="text")
    # White space is folded once, so that no pattern has to look for where it ends.
    rows = [folded for row in text.splitlines() if (folded := " ".join(row.split()))]
    if len(rows) > MOST_LINES:
        raise CalmTinError(
            f"That is {len(rows)} lines. Paste up to {MOST_LINES} at once.", field="text", limit=MOST_LINES
        )
    names = _names(shelf, synonyms)
    items: list[_Measured | Unresolved] = []
    for row in rows:
        if len(row) > RECIPE_LINE_CHARS:
            items.append(Unresolved(row[:RECIPE_LINE_CHARS] + "…", TOO_LONG))
        else:
            items += [_read_line(piece, shelf, names) for piece in _pieces(row)]
    return Recipe(tuple(_weigh(items, shelf, drops_per_ml)))


def weigh_as(
    text: str, material: Material, *, drops_per_ml: tuple[float, float, float] | None = None
) -> Weight | None:
    """Return the weight of a recipe line once a person has said which material it means.

    None when its own words give no amount with a unit that stands by itself.
    """
    if len(text) > RECIPE_LINE_CHARS:
        return None
    read = _amount(_expanded(_LEAD.sub("", _BULLET.sub("", " ".join(text.split())))))
    if read is None:
        return None
    amount, low, high, rest = read
    unit, rest = _unit(rest)
    if unit is None or unit in ("part", "percent"):
        return None
    form = _ingredient(rest)[1]
    return to_weight(material, amount, unit, form=form, drops_per_ml=drops_per_ml, low=low, high=high)


@dataclass(frozen=True, slots=True)
class Measure:
    """An amount with its unit, as typed; `form` where a word told it."""

    amount: float
    unit: Unit
    form: Form | None
    says_weight: bool


def read_measure(text: str) -> Measure:
    """Return the measure in a box such as "500 g", "1 1/2 cups melted" or "16 oz wt".

    Raises `CalmTinError` when there is no amount or no unit in it.

    >>> read_measure("1½ cups, melted").form
    'melted'
    """
    check_text(text, RECIPE_LINE_CHARS, name="The amount", field="amount")
    read = _amount(_expanded(" ".join(text.split())))
    if read is None:
        raise CalmTinError("Type an amount with its unit, such as 500 g or 2 cups.", field="amount")
    amount, _, _, rest = read
    unit, rest = _unit(rest)
    if unit is None or unit in ("part", "percent"):
        raise CalmTinError(
            "Which unit? Type g, kg, oz wt, fl oz, ml, cups, tbsp, tsp or drops.", field="amount"
        )
    says_weight = re.search(r"\b(?:wt|weight|avoirdupois)\b", rest, re.IGNORECASE) is not None
    return Measure(amount, unit, _ingredient(rest)[1], says_weight)


def weigh_typed(
    text: str, material: Material, *, drops_per_ml: tuple[float, float, float] | None = None
) -> Weight:
    """Return the weight of what was typed for one material; "oz" for what pours asks back."""
    measure = read_measure(text)
    if (
        measure.unit == "oz"
        and not measure.says_weight
        and (both := ounce_readings(material, measure.amount))
    ):
        raise CalmTinError(
            f"{measure.amount:g} oz by weight are {both[0].grams:.1f} g, {measure.amount:g} fluid ounces "
            f"{both[1].grams:.1f} g. Type “{measure.amount:g} oz wt” or “{measure.amount:g} fl oz”.",
            field="amount",
            material=material.slug,
        )
    return to_weight(material, measure.amount, measure.unit, form=measure.form, drops_per_ml=drops_per_ml)


def match(words: str, shelf: Shelf, synonyms: Mapping[str, str]) -> list[Choice]:
    """Return the materials that `words` may mean, the likeliest first."""
    return _match(words, _names(shelf, synonyms))


def name_material(words: str, shelf: Shelf, synonyms: Mapping[str, str]) -> Material:
    """Return the one material that `words` mean: its slug, a name it goes by, or a clear part of one.

    Raises `UnknownMaterial` with what it may be where that is not sure.
    """
    if words in shelf:
        return shelf[words]
    names = _names(shelf, synonyms)
    plain = _plain(words)
    # An INCI name may be that of several grades: then it does not say which.
    inci = {slug: _plain(material.inci) for slug, material in shelf.items()}
    if plain in names and list(inci.values()).count(plain) < 2:
        return shelf[names[plain]]
    known = [slug for name, slug in names.items() if plain and plain in name]
    held = list(dict.fromkeys([*known, *(slug for slug, name in inci.items() if plain and plain in name)]))
    if len(held) == 1:
        return shelf[held[0]]
    likely = held or [c.slug for c in _match(words, names) if c.confidence >= LIKELY]
    text = words.strip()[:40]
    if not likely:
        raise UnknownMaterial(
            f"There is no material called “{text}” on the shelf. "
            "Choose one from the list, or add it to the pantry first.",
            field="material",
            material=text,
        )
    offers = [shelf[slug].label for slug in likely[:MOST_OFFERS]]
    more = " or another one" if len(likely) > MOST_OFFERS else ""
    raise UnknownMaterial(
        f"“{text}” may be {' or '.join(offers)}{more}. Type or choose one of them.",
        field="material",
        material=text,
    )


def _names(shelf: Shelf, synonyms: Mapping[str, str]) -> dict[str, str]:
    """Return every name that a material of the shelf goes by."""
    names: dict[str, str] = {}
    for slug, material in shelf.items():
        for name in (material.name, material.label, slug.replace("_", " "), material.inci):
            names.setdefault(_plain(name), slug)
    names.update({_plain(name): slug for name, slug in synonyms.items() if slug in shelf})
    names.pop("", None)
    # A maker's own material is meant by its own name before anything else.
    names.update({_plain(m.name): slug for slug, m in shelf.items() if m.source == "the maker's own"})
    return names


def _plain(name: str) -> str:
    return " ".join(re.findall(r"[^\W_]+", name.lower().replace("’", "").replace("'", "")))


def _pieces(row: str) -> list[str]:
    """Split a row that lists several things, each with its own amount."""
    pieces = re.split(r"\s*(?:;|,(?=\s)|\s\+\s|\s&\s|\sand\s(?!(?:an?\s+)?(?:half|quarter|third)))\s*", row)
    whole = len(pieces) > 1 and all(_amount(_expanded(piece)) is not None for piece in pieces)
    return [piece for piece in pieces if piece] if whole else [row]


def _expanded(text: str) -> str:
    """Return the text with vulgar fractions and fraction words as digits."""
    for sign, digits in _VULGAR.items():
        text = re.sub(rf"(\d){sign}", rf"\1 {digits}", text).replace(sign, digits)
    text = text.replace("⁄", "/")
    number = "|".join(_WORD_NUMBERS)
    part = "|".join(_WORD_PARTS)

    def parted(found: re.Match[str]) -> str:
        share = _WORD_PARTS[found["part"].lower()]
        return str(_WORD_NUMBERS.get((found["n"] or "one").lower(), 1) * share)

    def mixed(found: re.Match[str]) -> str:
        share = _WORD_PARTS[found["part"].lower()]
        return f"{_WORD_NUMBERS[found['n'].lower()] + share}"

    # "one cup and a half" is one and a half cups.
    text = re.sub(
        rf"\b({number}|\d+)\s+([a-z]+)\s+and\s+an?\s+(half|quarter)\b", r"\1 and a \3 \2", text, flags=re.I
    )
    text = re.sub(
        r"\b(\d+)\s+and\s+an?\s+(half|quarter)\b",
        lambda found: f"{int(found[1]) + _WORD_PARTS[found[2].lower()]}",
        text,
        flags=re.I,
    )
    text = re.sub(
        rf"\b(?P<n>{number})\s+and\s+(?:an?\s+)?(?P<part>half|quarter)\b", mixed, text, flags=re.I
    )
    text = re.sub(
        rf"\b(?:(?P<n>{number})[\s-]+)?(?P<part>{part})\b(?:\s+of)?(?:\s+an?\b)?", parted, text, flags=re.I
    )
    return re.sub(
        rf"^(\W*)({number})\b(?:\s+(?:{number})\b)?(?:\s+of\b)?",
        lambda found: found[1] + _counted(found[0]),
        text,
        flags=re.I,
    )


def _counted(words: str) -> str:
    """Return "a dozen", "two", "a couple of" in digits."""
    numbers = [_WORD_NUMBERS[w] for w in re.findall(r"[a-z]+", words.lower()) if w in _WORD_NUMBERS]
    return str(max(numbers))


def _value(text: str) -> float:
    total = Fraction(0)
    for word in re.sub(r"\s*/\s*", "/", text.strip()).replace(",", ".").split():
        total += Fraction(word)
    return float(total)


def _amount(text: str) -> tuple[float, float, float, str] | None:
    """Return amount, least, most and the words after it, or None without a number."""
    found = _AMOUNT.match(text)
    if not found:
        return None
    try:
        first = _value(found[1])
        second = _value(found[2]) if found[2] else first
    except ZeroDivisionError:
        return None
    low, high = min(first, second), max(first, second)
    return (low + high) / 2.0, low, high, text[found.end() :]


def _unit(words: str) -> tuple[Unit | None, str]:
    """Take a unit off the front of `words`; return it and the rest."""
    metric = re.match(r"\s*metric\s+(?=[a-z])", words, re.IGNORECASE)
    rest = words[metric.end() :] if metric else words
    fluid = re.match(r"\s*(?:fl\.?|fluid)\s*(?:oz|ounces?)\b\.?", rest, re.IGNORECASE)
    if fluid:
        return "fl_oz", rest[fluid.end() :]
    found = re.match(r"\s*(%|[a-z]+\b)\.?", rest, re.IGNORECASE)
    if not found:
        return None, words
    word = found[1]
    # A lone capital T is a tablespoon and a small t a teaspoon, as cooks write them.
    unit: Unit | None = {"T": "tbsp", "t": "tsp"}.get(word) or _UNIT_WORDS.get(word.lower())  # type: ignore[assignment]
    if unit is None:
        return None, words
    if metric:
        unit = _METRIC.get(unit, unit)
    return unit, rest[found.end() :]


def _read_line(text: str, shelf: Shelf, names: Mapping[str, str]) -> _Measured | Unresolved:
    shown = text
    body = _expanded(_LEAD.sub("", _BULLET.sub("", text)))
    read = _amount(body)
    if read is None:
        tail = _TAIL.search(body)
        if not tail:
            choices = _match(_ingredient(body)[0], names)
            reason = "No amount here. Say how much, or leave it out if it is not a material."
            return Unresolved(shown, reason, tuple(c for c in choices[:3] if c.confidence >= POSSIBLE))
        body = f"{body[tail.start() :].strip(' :,(=)–—-')} {body[: tail.start()]}"
        read = _amount(body)
        if read is None:
            return Unresolved(shown, "This amount cannot be read.")
    amount, low, high, rest = read
    unit, rest = _unit(rest)
    words, form = _ingredient(rest)
    if not words:
        return Unresolved(shown, "An amount, but of what?")
    choices = _match(words, names)
    if not choices or choices[0].confidence < POSSIBLE:
        return Unresolved(shown, f"No material on the shelf is called “{words[:60]}”.", tuple(choices[:3]))
    best = choices[0]
    rivals = [c for c in choices[1:] if c.confidence > best.confidence - 0.02]
    if best.confidence < SURE or rivals:
        return Unresolved(shown, f"“{words[:60]}” may mean several things.", tuple(choices[:4]))
    if unit is None:
        return Unresolved(shown, "Which measure? Grams, cups, spoons, drops or parts.", tuple(choices[:1]))
    return _Measured(shown, best, tuple(choices[1:4]), amount, low, high, unit, form)


def _ingredient(words: str) -> tuple[str, Form | None]:
    """Return the words that name the material, and the form they tell."""
    form: Form | None = None
    kept = []
    for word in _plain(re.sub(r"\d[\d.,/\s]*\s*(?:g|ml|oz)\b", " ", words)).split():
        if word in _FORM_WORDS:
            form = form or _FORM_WORDS[word]
        elif word not in _FILLER_WORDS:
            kept.append(word)
    text = " ".join(kept)
    # "raw shea" and "cold pressed" lose a word that matters only for a few names.
    if re.search(r"\b(raw|unrefined)\b", words, re.IGNORECASE) and text and "raw" not in text:
        text = f"unrefined {text}" if "unrefined" not in text else text
    return text, form


def _match(words: str, names: Mapping[str, str]) -> list[Choice]:
    plain = _plain(words)
    if not plain:
        return []
    if plain in names:
        exact = names[plain]
        return [Choice(exact, 1.0)]
    best: dict[str, float] = {}
    for name, slug in names.items():
        ratio = fuzz.ratio(plain, name) / 100.0
        sorted_ratio = fuzz.token_sort_ratio(plain, name) / 100.0
        score = max(ratio, sorted_ratio)
        # All the words of a known name stand in the line: surer the more of it they are.
        inside = set(name.split())
        if inside <= set(plain.split()):
            score = max(score, 0.70 + 0.28 * len(name) / max(len(plain), 1))
        best[slug] = max(best.get(slug, 0.0), min(score, 0.99))
    ranked = sorted(best.items(), key=lambda pair: -pair[1])[:6]
    return [Choice(slug, round(score, 3)) for slug, score in ranked if score >= 0.45]


def _weigh(
    items: Sequence[_Measured | Unresolved],
    shelf: Shelf,
    drops_per_ml: Mapping[str, tuple[float, float, float]],
) -> list[RecipeLine | Unresolved]:
    """Give every measured line its weight; parts and percent share 100 g."""
    shares = [item for item in items if isinstance(item, _Measured) and item.unit in ("part", "percent")]
    kinds = {item.unit for item in shares}
    beside = [
        item
        for item in items
        if isinstance(item, _Measured)
        and item.unit not in ("part", "percent", "drop", "dropper", "capsule", "pinch")
    ]
    whole = sum(item.amount for item in shares)
    weighed: list[RecipeLine | Unresolved] = []
    for item in items:
        if isinstance(item, Unresolved):
            weighed.append(item)
        elif item.unit in ("part", "percent"):
            if len(kinds) > 1 or beside or whole <= 0:
                reason = "Parts or percent beside other measures: say what this one weighs."
                weighed.append(Unresolved(item.text, reason, (item.choice,)))
            else:
                weighed.append(_shared(item, WHOLE_G / whole))
        else:
            weighed.append(_one(item, shelf[item.choice.slug], drops_per_ml))
    return weighed


def _shared(item: _Measured, grams_each: float) -> RecipeLine:
    weight = Weight(
        item.amount * grams_each,
        item.low * grams_each,
        item.high * grams_each,
        None,
        False,
        f"of {WHOLE_G:g} g in all, by weight",
    )
    return RecipeLine(
        item.text, item.choice.slug, item.choice.confidence, item.amount, item.unit, weight, "", item.others
    )


def _one(
    item: _Measured, material: Material, drops_per_ml: Mapping[str, tuple[float, float, float]]
) -> RecipeLine | Unresolved:
    try:
        weight = to_weight(
            material,
            item.amount,
            item.unit,
            form=item.form,
            drops_per_ml=drops_per_ml.get(material.slug),
            low=item.low,
            high=item.high,
        )
    except CalmTinError as refused:
        return Unresolved(item.text, refused.sentence, (item.choice,))
    question = ""
    if item.unit == "oz" and (both := ounce_readings(material, item.amount)):
        by_weight, fluid = both
        weight = replace(weight, low=min(weight.low, fluid.grams), high=max(weight.high, fluid.grams))
        question = (
            f"Ounces by weight ({by_weight.grams:.1f} g) or fluid ounces ({fluid.grams:.1f} g)? "
            "Taken by weight."
        )
    elif weight.is_guess:
        question = f"Taken as {weight.form}. Melted, pellets, shavings, chopped or packed?"
    return RecipeLine(
        item.text,
        material.slug,
        item.choice.confidence,
        item.amount,
        item.unit,
        weight,
        question,
        item.others,
    )
