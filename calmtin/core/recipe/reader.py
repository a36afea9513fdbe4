"""Read a recipe as people write it down: one thing a line, in any measure.

Every line of the input comes back, as a line with a weight or as an unresolved
item with the reason; nothing is dropped. What is not sure says so.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import RECIPE_CHARS, RECIPE_LINE_CHARS, check_text
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import Mass
from calmtin.core.recipe.grammar import Amount, Phrase, read_phrase, unbulleted
from calmtin.core.recipe.matching import POSSIBLE, SURE, Choice, match_names, names_of, plain_words
from calmtin.core.recipe.measures import Form, Unit, Weight, ounce_readings, to_weight

WHOLE_G = 100.0  # the batch that parts and percent are taken of where none is stated
MOST_LINES = 200
DISAGREE = 0.10  # two amounts of one line that differ by more than this are told of
TOO_LONG = f"This line is longer than {RECIPE_LINE_CHARS} characters. Put one material on each line."
# Measures that go on top of shares without a word: they are small, and dosed for their own sake.
ON_TOP: frozenset[Unit] = frozenset({"drop", "dropper", "squeeze", "capsule", "pinch"})
# What a word in an unread name says it must be; nothing of another group is offered for it.
_HINTS: dict[str, tuple[str, ...]] = {
    "preservative": ("other", "water_bearing"), "fragrance": ("scent",), "flavour": ("scent",),
    "flavor": ("scent",), "scent": ("scent",), "absolute": ("scent",), "wax": ("wax",),
    "butter": ("butter", "soft_fat"),
    "powder": ("powder", "colour"), "clay": ("powder",), "mica": ("colour",), "colour": ("colour",),
    "color": ("colour",), "pigment": ("colour",), "tincture": ("water_bearing",),
    "oil": ("oil", "scent", "soft_fat", "butter", "antioxidant"),
}  # fmt: skip
_BATCH = re.compile(
    r"^\W*(?:for\s+)?(?:a\s+|the\s+)?(?:total|batch|makes|yields?|in all|all together)\b", re.IGNORECASE
)
_BATCH_WORDS = frozenset("total batch makes yield yields size weight in all together".split())  # noqa: SIM905

# Why percent beside measures cannot be weighed: nobody said what they are percent of.
OF_WHICH_BATCH = gettext_noop("Percent of what? Add a line “batch 200 g”, or type what this one weighs.")


@dataclass(frozen=True, slots=True)
class RecipeLine:
    """A parsed line with its weight: `stated` is the text, `question` anything uncertain."""

    text: str
    material: str
    confidence: float
    stated: Amount
    weight: Weight
    question: Words = ""
    others: tuple[Choice, ...] = ()
    strength: str = ""


@dataclass(frozen=True, slots=True)
class Unresolved:
    """A line that the maker must settle: the reason, and the likely meanings."""

    text: str
    reason: Words
    choices: tuple[Choice, ...] = ()


@dataclass(frozen=True, slots=True)
class Remark:
    """A line that is about the whole: how large the batch is."""

    text: str
    batch_g: float


@dataclass(frozen=True, slots=True)
class Recipe:
    """A read recipe: every non-blank line of the input, in its order."""

    items: tuple[RecipeLine | Unresolved | Remark, ...]

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
    """A line with its amounts and a material, before it is weighed."""

    text: str
    choice: Choice
    others: tuple[Choice, ...]
    phrase: Phrase

    @property
    def stated(self) -> Amount:
        """The amount that counts."""
        return stated_of(self.phrase.amounts)


def stated_of(amounts: Sequence[Amount]) -> Amount:
    """Return which of a line's amounts counts: a weight before a measure, metric before ounces.

    A percent counts only where nothing else stands.
    """
    with_unit = [amount for amount in amounts if amount.unit is not None] or list(amounts)
    rank = {"g": 0, "kg": 0, "mg": 0, "oz": 1, "lb": 1, "stick": 1, "percent": 3}
    return min(with_unit, key=lambda amount: rank.get(amount.unit or "", 2))


def read_recipe(
    text: str,
    shelf: Shelf,
    *,
    synonyms: Mapping[str, str],
    drops_per_ml: Mapping[str, tuple[float, float, float]],
    notation: Notation = USUAL,
    batch_g: float | None = None,
) -> Recipe:
    """Return the recipe in `text`, its materials matched to `shelf`.

    `synonyms` maps other common names to slugs; `drops_per_ml` gives a scent's
    drops. Parts share 100 g; percent share the batch, which a line states ("batch
    200 g") or `batch_g` gives, and what stands in measures beside them goes on top.
    Raises `CalmTinError` when the text is longer than 200 lines.
    """
    if len(text) > RECIPE_CHARS:
        raise CalmTinError(
            said("Paste up to {recipe_chars:,} characters at once.", recipe_chars=RECIPE_CHARS),
            field="text",
        )
    # White space is folded once, so that no pattern has to look for where it ends.
    rows = [folded for row in text.splitlines() if (folded := " ".join(row.split()))]
    if len(rows) > MOST_LINES:
        raise CalmTinError(
            said(
                "That is {rows} lines. Paste up to {most_lines} at once.",
                rows=len(rows),
                most_lines=MOST_LINES,
            ),
            field="text",
            limit=MOST_LINES,
        )
    read = _Line(shelf, names_of(shelf, synonyms), notation)
    items: list[_Measured | Unresolved | Remark] = []
    for row in rows:
        if len(row) > RECIPE_LINE_CHARS:
            items.append(Unresolved(row[:RECIPE_LINE_CHARS] + "…", TOO_LONG))
        else:
            items += [read.line(piece, shown) for piece, shown in read.pieces(row)]
    return Recipe(tuple(_weigh(items, shelf, drops_per_ml, batch_g)))


def weigh_as(
    text: str,
    material: Material,
    *,
    drops_per_ml: tuple[float, float, float] | None = None,
    notation: Notation = USUAL,
) -> Weight | None:
    """Return the weight of a recipe line once a person has said which material it means.

    None when its own words give no amount with a unit that stands by itself.
    """
    if len(text) > RECIPE_LINE_CHARS:
        return None
    phrase = read_phrase(unbulleted(" ".join(text.split())), notation)
    if phrase.is_minus or not phrase.amounts:
        return None
    stated = stated_of(phrase.amounts)
    if stated.unit in (None, "part", "percent"):
        return None
    return _to_weight(stated, material, phrase.form, drops_per_ml)


@dataclass(frozen=True, slots=True)
class Measure:
    """An amount with its unit, as typed; `form` if a word named it; `others` repeat it."""

    stated: Amount
    form: Form | None
    others: tuple[Amount, ...] = ()

    @property
    def amount(self) -> float:
        """The number, the middle of a range."""
        return self.stated.value

    @property
    def unit(self) -> Unit:
        """The unit; a measure always has one."""
        assert self.stated.unit is not None
        return self.stated.unit

    @property
    def says_weight(self) -> bool:
        """Whether it says that its ounces weigh."""
        return self.stated.says_weight


def read_measure(text: str, notation: Notation = USUAL) -> Measure:
    """Return the measure in a box such as "500 g", "1 lb 4 oz", "1 1/2 cups melted" or "16 oz wt".

    Raises `CalmTinError` when there is no amount or no unit in it, and names what a box
    cannot use: a temperature, a minus sign, words that are no measure.

    >>> read_measure("1½ cups, melted").form
    'melted'
    """
    check_text(text, RECIPE_LINE_CHARS, name=gettext_noop("The amount"), field="amount")
    phrase = read_phrase(" ".join(text.split()), notation)
    if phrase.is_minus:
        raise CalmTinError(said("An amount can’t be below 0. Leave out the minus sign."), field="amount")
    if not phrase.amounts:
        ask = said("Type an amount with its unit, such as “500 g” or “2 cups”.")
        if phrase.asides:
            ask = f"{said('“{typed}” isn’t an amount of an ingredient.', typed=phrase.asides[0])} {ask}"
        raise CalmTinError(ask, field="amount")
    stated = stated_of(phrase.amounts)
    if stated.unit in (None, "part", "percent"):
        raise CalmTinError(
            said("Which unit? Type g, kg, oz wt, fl oz, ml, cups, tbsp, tsp or drops."), field="amount"
        )
    unused = [*phrase.stray, *phrase.asides, *([phrase.words] if phrase.words else [])]
    unused += [a.written for a in phrase.amounts if a.unit is None]
    if unused:
        raise CalmTinError(
            said("“{unused}” isn’t part of an amount. Type only the amount.", unused=unused[0][:30]),
            field="amount",
        )
    return Measure(stated, phrase.form, others_of(phrase.amounts, stated))


def others_of(amounts: Sequence[Amount], stated: Amount) -> tuple[Amount, ...]:
    """Return the amounts that say the same as `stated` in another measure."""
    return tuple(a for a in amounts if a is not stated and a.unit not in (None, "percent", "part"))


def refuse_disagreement(
    weight: Weight,
    others: Sequence[Amount],
    material: Material,
    form: Form | None,
    drops_per_ml: tuple[float, float, float] | None,
) -> None:
    """Raise `CalmTinError` for an amount given twice that differs by more than a tenth."""
    if differ := _disagree(weight, others, material, form, drops_per_ml):
        raise CalmTinError(
            Message(
                "{differ}, but the other amount is {weight}. Type the correct one.",
                differ=differ,
                weight=Mass(weight.grams, 0),
            ),
            field="amount",
            material=material.slug,
        )


def weigh_typed(
    text: str,
    material: Material,
    *,
    drops_per_ml: tuple[float, float, float] | None = None,
    notation: Notation = USUAL,
) -> Weight:
    """Return the weight of an amount typed for one material.

    "oz" for what pours asks back, except on a bench whose scale shows ounces.
    """
    measure = read_measure(text, notation)
    if (
        measure.unit == "oz"
        and not measure.says_weight
        and notation.scale_unit != "oz"
        and not measure.others
        and (both := ounce_readings(material, measure.amount))
    ):
        raise CalmTinError(
            Message(
                "By weight, or fluid ounces, of which {amount:g} weigh {weight}? "
                "Type “{amount:g} oz wt” or “{amount:g} fl oz”.",
                amount=measure.amount,
                weight=Mass(both[1].grams, 1),
            ),
            field="amount",
            material=material.slug,
        )
    weight = _to_weight(measure.stated, material, measure.form, drops_per_ml)
    refuse_disagreement(weight, measure.others, material, measure.form, drops_per_ml)
    return weight


def _to_weight(
    stated: Amount,
    material: Material,
    form: Form | None,
    drops_per_ml: tuple[float, float, float] | None,
) -> Weight:
    assert stated.unit is not None
    return to_weight(
        material,
        stated.value,
        stated.unit,
        form=form,
        drops_per_ml=drops_per_ml,
        low=stated.low,
        high=stated.high,
    )


@dataclass(frozen=True, slots=True)
class _Line:
    """Reads one line against the names of a shelf."""

    shelf: Shelf
    names: Mapping[str, str]
    notation: Notation

    def phrase(self, text: str) -> Phrase:
        """Take a line apart."""
        return read_phrase(unbulleted(text), self.notation)

    def pieces(self, row: str) -> Iterator[tuple[str, str]]:
        """Split a row that lists several things; each piece as it is read, and as it is shown."""
        if spread := self._spread(row):
            yield from ((piece, f"{name} ({row})") for piece, name in spread)
            return
        pieces = [p for p in re.split(r"\s*(?:;|,(?=\s)|\s\+\s|\s&\s|\sand\s)\s*", row) if p]
        phrases = [self.phrase(piece) for piece in pieces]
        if len(pieces) > 1 and all(p.words and any(a.unit for a in p.amounts) for p in phrases):
            yield from ((piece, piece) for piece in pieces)
        else:
            yield row, row

    def _spread(self, row: str) -> list[tuple[str, str]]:
        """Return the amounts for each of "10 drops each of A and B" or "equal parts A, B and C"."""
        before = re.match(r"(?P<amount>.+?)\s+each(?:\s+of)?\s+(?P<names>.+)$", row, re.IGNORECASE)
        after = re.match(r"(?P<names>.+?)[,:]\s*(?P<amount>[^,:]+?)\s+each\W*$", row, re.IGNORECASE)
        equal = re.match(
            r"\W*(?:in\s+)?equal\s+(?:parts|amounts|quantities)\s*(?:of|:)?\s*(?P<names>.+)$",
            row,
            re.IGNORECASE,
        ) or re.match(
            r"(?P<names>.+?),?\s+(?:in\s+)?equal\s+(?:parts|amounts|quantities)\W*$", row, re.IGNORECASE
        )
        for found, amount in ((before, None), (after, None), (equal, "1 part")):
            if found is None:
                continue
            amount = amount or found["amount"]
            names = [n for n in re.split(r"\s*(?:,|;|&|\band\b)\s*", found["names"]) if n.strip()]
            phrase = self.phrase(amount)
            if len(names) > 1 and phrase.amounts and not phrase.words:
                return [(f"{amount} {name}", name) for name in names]
        return []

    def line(self, text: str, shown: str) -> _Measured | Unresolved | Remark:
        """Return a line with its amounts and material, or why it is not understood."""
        phrase = self.phrase(text)
        if phrase.is_minus:
            return Unresolved(shown, said("Is that a minus sign or a dash? An amount can’t be below 0."))
        if not any(amount.unit for amount in phrase.amounts):
            return self._without_amount(phrase, shown)
        stated = stated_of(phrase.amounts)
        if _BATCH.match(text) and stated.is_weight and set(phrase.words.split()) <= _BATCH_WORDS:
            unit: Unit = stated.unit or "g"
            return Remark(shown, to_weight(next(iter(self.shelf.values())), stated.value, unit).grams)
        if not phrase.words:
            return Unresolved(shown, said("Which material is this an amount of?"))
        choices = self._choices(phrase.words)
        if not choices or choices[0].confidence < POSSIBLE:
            reason = said("No material is called “{words}”.", words=phrase.words[:60])
            return Unresolved(shown, reason, tuple(choices[:3]))
        best = choices[0]
        rivals = [c for c in choices[1:] if c.confidence > best.confidence - 0.02]
        if best.confidence < SURE or rivals:
            name, meant = phrase.words[:60], self.shelf[best.slug].label
            reason = (
                said("“{name}” may mean several things.", name=name)
                if len(choices) > 1
                else said("Is “{name}” {meant}?", name=name, meant=meant)
            )
            return Unresolved(shown, reason, tuple(choices[:4]))
        return _Measured(shown, best, tuple(choices[1:4]), phrase)

    def _without_amount(self, phrase: Phrase, shown: str) -> Unresolved:
        choices = self._choices(phrase.words)
        likely = tuple(c for c in choices[:3] if c.confidence >= POSSIBLE)
        if phrase.asides:
            return Unresolved(
                shown,
                said("“{asides}” is a temperature or a time, not an amount.", asides=phrase.asides[0]),
                likely,
            )
        if phrase.amounts:
            number = phrase.amounts[0].written
            return Unresolved(
                shown,
                said("Which unit is {number} in? Grams, cups, spoons, drops or parts?", number=number),
                likely[:1],
            )
        if re.search(r"\b(?:a little|a bit|little|some)\b", shown, re.IGNORECASE):
            return Unresolved(shown, said("That isn’t an amount. Type grams or drops."), likely)
        reason = gettext_noop("There is no amount. Type one, or leave the line out if it isn’t a material.")
        return Unresolved(shown, reason, likely)

    def _choices(self, words: str) -> list[Choice]:
        """Return what the words may mean, nothing of another group than they say."""
        plain = words.split()
        exact = self.names.get(plain_words(words))
        if exact is None:
            for sign, slug in (("tincture", "alcohol_tincture"), ("infused", "infused_oil")):
                if sign in plain and slug in self.shelf:
                    return [Choice(slug, 1.0)]
        choices = match_names(words, self.names)
        # "Flavour oil" is a flavour before it is an oil.
        hints = [word for word in reversed(plain) if word in _HINTS and word != "oil"] or ["oil"]
        hinted = _HINTS[hints[0]] if hints[0] in plain else None
        if hinted is not None:
            return [c for c in choices if c.confidence == 1.0 or self.shelf[c.slug].group in hinted]
        if not choices:
            return []
        group, best = self.shelf[choices[0].slug].group, choices[0].confidence
        return [c for c in choices if c.confidence > best - 0.02 or self.shelf[c.slug].group == group]


def _weigh(
    items: Sequence[_Measured | Unresolved | Remark],
    shelf: Shelf,
    drops_per_ml: Mapping[str, tuple[float, float, float]],
    batch_g: float | None,
) -> list[RecipeLine | Unresolved | Remark]:
    """Give every measured line its weight; parts and percent share the batch."""
    measured = [item for item in items if isinstance(item, _Measured)]
    shares = [item for item in measured if item.stated.unit in ("part", "percent")]
    kinds = {item.stated.unit for item in shares}
    beside = [i for i in measured if i not in shares and i.stated.unit not in ON_TOP]
    whole = sum(item.stated.value for item in shares)
    batch = next((item.batch_g for item in items if isinstance(item, Remark)), batch_g)
    weighed: list[RecipeLine | Unresolved | Remark] = []
    for item in items:
        if not isinstance(item, _Measured):
            weighed.append(item)
        elif item.stated.unit not in ("part", "percent"):
            weighed.append(_one(item, shelf[item.choice.slug], drops_per_ml))
        elif len(kinds) > 1 or whole <= 0:
            reason = gettext_noop("The recipe mixes parts and percent. Type what this one weighs.")
            weighed.append(Unresolved(item.text, reason, (item.choice,)))
        elif beside and item.stated.unit == "part":
            reason = gettext_noop("The recipe mixes parts with other units. Type what this one weighs.")
            weighed.append(Unresolved(item.text, reason, (item.choice,)))
        elif beside and batch is None:
            reason = OF_WHICH_BATCH
            weighed.append(Unresolved(item.text, reason, (item.choice,)))
        elif item.stated.unit == "percent" and batch is not None:
            weighed.append(_shared(item, batch / 100.0, batch))
        else:
            weighed.append(_shared(item, (batch or WHOLE_G) / whole, batch or WHOLE_G))
    return weighed


def _shared(item: _Measured, grams_each: float, batch: float) -> RecipeLine:
    stated = item.stated
    weight = Weight(
        stated.value * grams_each,
        stated.low * grams_each,
        stated.high * grams_each,
        None,
        False,
        Message("of {batch} in all, by weight", batch=Mass(batch)),
    )
    return RecipeLine(
        item.text,
        item.choice.slug,
        item.choice.confidence,
        stated,
        weight,
        _asked(item, stated),
        item.others,
    )


def _one(
    item: _Measured, material: Material, drops_per_ml: Mapping[str, tuple[float, float, float]]
) -> RecipeLine | Unresolved:
    stated, drops = item.stated, drops_per_ml.get(material.slug)
    try:
        weight = _to_weight(stated, material, item.phrase.form, drops)
    except CalmTinError as refused:
        return Unresolved(item.text, refused.sentence, (item.choice,))
    others = others_of(item.phrase.amounts, stated)
    question: Words = _asked(item, stated)
    if differ := _disagree(weight, others, material, item.phrase.form, drops):
        question = question or Message("{differ}; {stated} taken.", differ=differ, stated=stated.written)
    elif stated.unit == "oz" and not others and not stated.says_weight:
        if both := ounce_readings(material, stated.value):
            by_weight, fluid = both
            weight = replace(weight, low=min(weight.low, fluid.grams), high=max(weight.high, fluid.grams))
            question = question or Message(
                "Ounces by weight ({by_weight}) or fluid ounces ({fluid})? Read as weight.",
                by_weight=Mass(by_weight.grams, 1),
                fluid=Mass(fluid.grams, 1),
            )
    elif weight.is_guess:
        question = question or said(
            "Read as {form}. Was it melted, pellets, shavings, chopped or packed?", form=weight.form
        )
    return RecipeLine(
        item.text,
        material.slug,
        item.choice.confidence,
        stated,
        weight,
        question,
        item.others,
        item.phrase.strength,
    )


def _asked(item: _Measured, stated: Amount) -> Words:
    """Return what a person should look at: a number with two readings, or one that was not used."""
    if stated.other is not None:
        return Message(
            "“{written}” is read as {value:,g}; with the other decimal sign it is {other:,g}.",
            written=stated.written,
            value=stated.value,
            other=stated.other,
        )
    unused = [*item.phrase.stray, *(a.written for a in item.phrase.amounts if a.unit is None)]
    return said("The {unused} was ignored. Is it part of the amount?", unused=unused[0]) if unused else ""


def _disagree(
    weight: Weight,
    others: Sequence[Amount],
    material: Material,
    form: Form | None,
    drops_per_ml: tuple[float, float, float] | None,
) -> Words:
    """Return which other amount of the line is another weight, in words; nothing where all agree."""
    for other in others:
        readings = [_to_weight(other, material, form, drops_per_ml)]
        if other.unit == "oz" and not other.says_weight and (both := ounce_readings(material, other.value)):
            readings.append(both[1])
        near = any(r.low * (1.0 - DISAGREE) <= weight.grams <= r.high * (1.0 + DISAGREE) for r in readings)
        if not near:
            return Message(
                "{other} would be about {weight}", other=other.written, weight=Mass(readings[0].grams, 0)
            )
    return ""
