"""Read a recipe as people write it down: one thing a line, in any measure.

Every line of the input comes back, as a line with a weight or as an unresolved
item with the reason; nothing is dropped. What is not sure says so.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import RECIPE_CHARS, RECIPE_LINE_CHARS, check_text
from calmtin.core.materials import Material, Shelf
from calmtin.core.recipe.grammar import (
    _BULLET,
    _LEAD,
    _TAIL,
    _amount,
    _expanded,
    _ingredient,
    _pieces,
    _unit,
)
from calmtin.core.recipe.matching import POSSIBLE, SURE, Choice, match_names, names_of
from calmtin.core.recipe.measures import Form, Unit, Weight, ounce_readings, to_weight

WHOLE_G = 100.0  # the batch that parts and percent are taken of

MOST_LINES = 200

TOO_LONG = f"This line is longer than {RECIPE_LINE_CHARS} characters. Put one material on each line."


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
    names = names_of(shelf, synonyms)
    items: list[_Measured | Unresolved] = []
    for row in rows:
        if len(row) > RECIPE_LINE_CHARS:
            items.append(Unresolved(row[:RECIPE_LINE_CHARS] + "…", TOO_LONG))
        else:
            items += [_read_line(piece, names) for piece in _pieces(row)]
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


def _read_line(text: str, names: Mapping[str, str]) -> _Measured | Unresolved:
    shown = text
    body = _expanded(_LEAD.sub("", _BULLET.sub("", text)))
    read = _amount(body)
    if read is None:
        tail = _TAIL.search(body)
        if not tail:
            choices = match_names(_ingredient(body)[0], names)
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
    choices = match_names(words, names)
    if not choices or choices[0].confidence < POSSIBLE:
        return Unresolved(shown, f"No material on the shelf is called “{words[:60]}”.", tuple(choices[:3]))
    best = choices[0]
    rivals = [c for c in choices[1:] if c.confidence > best.confidence - 0.02]
    if best.confidence < SURE or rivals:
        return Unresolved(shown, f"“{words[:60]}” may mean several things.", tuple(choices[:4]))
    if unit is None:
        return Unresolved(shown, "Which measure? Grams, cups, spoons, drops or parts.", tuple(choices[:1]))
    return _Measured(shown, best, tuple(choices[1:4]), amount, low, high, unit, form)


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
