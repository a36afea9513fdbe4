"""From a line to its amounts and remaining words; every number is used or reported."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

from calmtin.core.notation import USUAL, Notation
from calmtin.core.recipe.matching import plain_words
from calmtin.core.recipe.measures import Form, Unit, is_weight, size_of
from calmtin.core.recipe.numerals import PARTS, VAGUE, WORDS, Number, Numbers, Token, tokens_of
from calmtin.core.recipe.vocabulary import (
    FILLER_WORDS,
    FORM_WORDS,
    HEAPS,
    ONE_OF,
    SPOONS,
    SYSTEMS,
    TIMES,
    TIMES_OVER,
    UNIT_WORDS,
    in_system,
)

_BULLET = re.compile(r"^\s*(?:[-*•–—·]+(?=\s)|[*•·]+|\(?\d{1,2}[.)](?=\s+\D*\d)|\[\s?[xX]?\s?\])\s*")
_RANGE = ("-", "–", "—", "to", "or", "bis")
_BEGINS = frozenset({*WORDS, *PARTS, *VAGUE, "dozen", "couple"})
_PLUS = ("plus", "+", "and", "&")


@dataclass(frozen=True, slots=True)
class Amount:
    """A number and its unit as written; `other` is the number read with the other decimal sign."""

    value: float
    low: float
    high: float
    unit: Unit | None
    written: str
    other: float | None = None
    says_weight: bool = False

    @property
    def is_weight(self) -> bool:
        """Whether it is a weight, which needs no material to be one."""
        return self.unit is not None and is_weight(self.unit)


Working = Literal["sum", "product", "range"]


@dataclass(slots=True)
class Phrase:
    """A parsed line: amounts in order, the words of the material, and the rest."""

    amounts: list[Amount] = field(default_factory=list)
    words: str = ""
    form: Form | None = None
    asides: list[str] = field(default_factory=list)
    strength: str = ""
    is_minus: bool = False
    stray: list[str] = field(default_factory=list)
    symbols: list[str] = field(default_factory=list)  # that belong to no amount
    worked_out: set[Working] = field(default_factory=set)  # how amounts came of several numbers


def unbulleted(text: str) -> str:
    """Return a line without its bullet, box or number in front."""
    return _BULLET.sub("", text, count=1)


def read_phrase(text: str, notation: Notation = USUAL) -> Phrase:
    """Take a line apart: weights, measures and restatements, strengths, temperatures, what names it.

    >>> phrase = read_phrase("2 tbsp (26 g) babassu")
    >>> [(a.value, a.unit) for a in phrase.amounts], phrase.words
    ([(2.0, 'tbsp'), (26.0, 'g')], 'babassu')
    """
    return _Reader(text, notation).phrase()


class _Reader:
    """Walks once over the tokens of a line."""

    def __init__(self, text: str, notation: Notation) -> None:
        self.tokens = tokens_of(text)
        self.numbers = Numbers(self.tokens, decimal_comma=notation.decimal_comma)
        self.system = notation.system
        self.found = Phrase()

    def phrase(self) -> Phrase:
        """Return the line taken apart."""
        left: list[Token] = []
        i = 0
        while i < len(self.tokens):
            after = self._aside(i) or self._amount_or_none(i)
            if after is None:
                left.append(self.tokens[i])
                i += 1
            else:
                i = after
        self.found.stray = [token.text for token in left if token.kind == "num"]
        self.found.symbols = [token.text for token in left if token.kind == "sym"]
        words = " ".join(token.text for token in left if token.kind != "sym" or token.text == "%")
        self.found.words, self.found.form = ingredient(words)
        return self.found

    def _is(self, i: int, *words: str) -> bool:
        return self.numbers.is_word(i, *words)

    def _aside(self, i: int) -> int | None:
        """Take a strength, a temperature or a time off the line: no amount of anything."""
        if not self._begins_number(i) or (read := self.numbers.read(i)) is None:
            return None
        _, j = read
        if self._is(j, *_RANGE) and (second := self.numbers.read(j + 1)):
            j = second[1]
        if self._is(j, "proof"):
            self.found.strength = self._written(i, j + 1)
            return j + 1
        degrees = self._is(j, "°", "º", "degrees", "degree", "deg")
        if degrees or self._is(j, "celsius", "fahrenheit"):
            j += 1 if degrees else 0
            j += 1 if self._is(j, "c", "f", "celsius", "fahrenheit") else 0
            self.found.asides.append(self._written(i, j))
            return j
        if self._is(j, *TIMES):
            self.found.asides.append(self._written(i, j + 1))
            return j + 1
        return None

    def _amount_or_none(self, i: int) -> int | None:
        read = self._amount(i)
        if read is None:
            return None
        amount, i_after = read
        before = self.tokens[i - 1] if i else None
        if before is not None and before.text == "-" and not self.tokens[i].spaced and before.spaced:
            self.found.is_minus = True
        self.found.amounts.append(amount)
        return i_after

    def _begins_number(self, i: int) -> bool:
        token = self.tokens[i]
        if i and self.tokens[i - 1].text == "/" and not token.spaced:
            return False  # what is left of "1/0" or "and/or" is no number of its own
        return token.kind == "num" or (
            token.kind == "word" and token.low in {*WORDS, *PARTS, *VAGUE, "the"}
        )

    def _amount(self, i: int) -> tuple[Amount, int] | None:
        """Return one amount, sums and ranges put together, and the place after it."""
        read = self._one(i)
        if read is None:
            return None
        amount, j = read
        while (more := self._added(amount, j)) is not None:
            amount, j = more
        return _written(amount, self._written(i, j)), j

    def _one(self, i: int) -> tuple[Amount, int] | None:
        token = self.tokens[i]
        if token.kind == "word" and token.low in ONE_OF:
            one, low, high = ONE_OF[token.low]
            return Amount((low + high) / 2, low, high, one, token.text), i + 1
        if token.kind == "word" and token.low in TIMES_OVER:
            return self._times_over(Fraction(TIMES_OVER[token.low]), i + 1)
        if not self._begins_number(i) or (read := self.numbers.read(i)) is None:
            return None
        # "half of 50 g" is read before anything else that "half" may begin.
        return self._times_over(read[0].value, read[1], most=1) or self._measured(i, *read)

    def _measured(self, i: int, number: Number, j: int) -> tuple[Amount, int] | None:
        """Return the amount of a number that was read, its product, range, unit and heap put together."""
        token = self.tokens[i]
        if self._is(j, "x", "×") and (times := self.numbers.read(j + 1)):
            number = _times(number, times[0])
            j = times[1]
            self.found.worked_out.add("product")
        number, j = self._range(number, j)
        unit, after, heap, says_weight = self._unit(j)
        if unit is None:
            # "a balm", "one of these": a word is an amount only before a measure.
            return (_amount_of(number, None), j) if token.kind == "num" else None
        if unit == "percent" and (of := self._times_over(number.value / 100, after, most=1)):
            return of  # "10 % of 200 g"
        number = _heaped(number, heap)
        part = self.numbers.part(after + 1) if self._is(after, "and") else None
        if part and self._unit(self._past_of(part[1]))[0] is None:
            number, after = _plus(number, part[0]), part[1]
        if self._is(after, *_RANGE) and (second := self.numbers.read(after + 1)):
            same, end, _, _ = self._unit(second[1])
            if same == unit:
                number, after = _between(number, second[0]), end
                self.found.worked_out.add("range")
        return _amount_of(number, unit, says_weight=says_weight), after

    def _times_over(self, times: Fraction, i: int, *, most: int = 100) -> tuple[Amount, int] | None:
        """Return so many times, but under `most`, the measure after "of": "half of 50 g".

        The measure begins with digits.
        """
        says_of = self._is(i, "of")
        token = self.numbers.at(i + 1 if says_of else i)
        if times >= most or token is None or token.kind != "num" or (most == 1 and not says_of):
            return None
        if (read := self._one(i + 1 if says_of else i)) is None:
            return None
        amount, after = read
        if amount.unit is None or amount.unit == "percent":
            return None
        self.found.worked_out.add("product")
        value, low, high = (float(times) * part for part in (amount.value, amount.low, amount.high))
        return Amount(value, low, high, amount.unit, "", None, amount.says_weight), after

    def _range(self, number: Number, i: int) -> tuple[Number, int]:
        if not self._is(i, *_RANGE):
            return number, i
        second = self.numbers.read(i + 1)
        token = self.numbers.at(i + 1)
        if second is None or token is None or (token.kind == "word" and token.low in ("a", "an")):
            return number, i
        self.found.worked_out.add("range")
        return _between(number, second[0]), second[1]

    def _added(self, amount: Amount, i: int) -> tuple[Amount, int] | None:
        """Add a smaller measure, or one after a plus: "1 lb 4 oz", "1 cup plus 2 tbsp"."""
        joined = self._is(i, *_PLUS)
        if amount.unit is None or amount.unit in ("part", "percent") or not self._measures(amount.unit):
            return None
        start = i + 1 if joined else i
        token = self.numbers.at(start)
        if token is None or (read := self._one(start)) is None:
            return None
        more, after = read
        if more.unit is None or not self._measures(more.unit):
            return None
        (size, weighs), (size_more, weighs_more) = size_of(amount.unit), size_of(more.unit)
        if weighs != weighs_more or (not joined and size_more >= size):
            return None
        if joined:
            self.found.worked_out.add("sum")
        base: Unit = "g" if weighs else "ml"
        value, low, high = (
            a * size + b * size_more
            for a, b in ((amount.value, more.value), (amount.low, more.low), (amount.high, more.high))
        )
        return Amount(value, low, high, base, "", None, amount.says_weight), after

    def _measures(self, unit: Unit) -> bool:
        return unit not in ("drop", "dropper", "capsule", "squeeze", "part", "percent")

    def _past_of(self, i: int) -> int:
        """Skip the words between a number and its measure: "half of a cup", "half-pint"."""
        token, after = self.numbers.at(i), self.numbers.at(i + 1)
        if token is not None and token.text == "-" and not token.spaced and after and not after.spaced:
            i += 1
        if self._is(i, "of"):
            i += 1
        return i + 1 if self._is(i, "a", "an", "the") else i

    def _unit(self, i: int) -> tuple[Unit | None, int, tuple[float, float, float], bool]:
        """Return the unit at a position, the position after it, how heaped, and whether it is a weight."""
        start, system, heap = i, None, (1.0, 1.0, 1.0)
        i = self._past_of(i)
        while (token := self.numbers.at(i)) is not None and token.low in {*HEAPS, *SYSTEMS}:
            system = SYSTEMS.get(token.low, system)
            heap = HEAPS.get(token.low, heap)
            i += 1
            if self._is(i, "-"):
                i += 1
        if self._is(i, "fl", "fluid"):
            i += 2 if self._is(i + 1, ".") else 1
            if self._is(i, "oz", "ounce", "ounces", "ozs"):
                return self._of_system("fl_oz", system), self._past_dot(i + 1), heap, False
            return None, start, heap, False
        token = self.numbers.at(i)
        if token is None:
            return None, start, heap, False
        if token.low in SPOONS and self._is(i + 1, "spoon", "spoons", "spoonful", "spoonfuls"):
            return self._of_system(SPOONS[token.low], system), i + 2, heap, False
        # A lone capital T is a tablespoon and a small t a teaspoon, as cooks write them.
        lone: dict[str, Unit] = {"T": "tbsp", "t": "tsp"}
        unit = lone.get(token.text) or UNIT_WORDS.get(token.low)
        if unit is None:
            return None, start, heap, False
        i = self._past_dot(i + 1)
        if unit in ("dropper",) and self._is(i, "full", "fulls"):
            i += 1
        says_weight = self._is(i, "wt", "weight", "avoirdupois") or (
            self._is(i, "by") and self._is(i + 1, "weight")
        )
        if says_weight:
            i = self._past_dot(i + (2 if self._is(i, "by") else 1))
        return self._of_system(unit, system), i, heap, says_weight

    def _of_system(self, unit: Unit, system: str | None) -> Unit:
        """Return whose cup or spoon it is; a bench of imperial cups has the spoons of today."""
        return in_system(unit, system or ("uk" if self.system == "imperial" else self.system))

    def _past_dot(self, i: int) -> int:
        token = self.numbers.at(i)
        return i + 1 if token is not None and token.text == "." and not token.spaced else i

    def _written(self, i: int, j: int) -> str:
        out = ""
        for token in self.tokens[i:j]:
            out += (" " if token.spaced and out else "") + token.text
        return out


def _amount_of(number: Number, unit: Unit | None, *, says_weight: bool = False) -> Amount:
    other = None if number.other is None else float(number.other)
    return Amount(float(number.value), float(number.low), float(number.high), unit, "", other, says_weight)


def _written(amount: Amount, words: str) -> Amount:
    return Amount(
        amount.value, amount.low, amount.high, amount.unit, words, amount.other, amount.says_weight
    )


def _times(a: Number, b: Number) -> Number:
    return Number(a.value * b.value, a.low * b.low, a.high * b.high)


def _plus(a: Number, part: Fraction) -> Number:
    return Number(a.value + part, a.low + part, a.high + part)


def _between(a: Number, b: Number) -> Number:
    low, high = min(a.low, b.low), max(a.high, b.high)
    return Number((low + high) / 2, low, high)


def _heaped(number: Number, heap: tuple[float, float, float]) -> Number:
    usual, least, most = (Fraction(h).limit_denominator(1000) for h in heap)
    if usual == least == most == 1:
        return number
    return Number(number.value * usual, number.low * least, number.high * most)


def ingredient(words: str) -> tuple[str, Form | None]:
    """Return the words of the material and the form that they name."""
    form: Form | None = None
    kept = []
    for word in plain_words(words).split():
        if word in FORM_WORDS:
            form = form or FORM_WORDS[word]
        elif word not in FILLER_WORDS:
            kept.append(word)
    text = " ".join(kept)
    # "raw shea" tells the grade, which matters for a few names.
    if re.search(r"\b(raw|unrefined)\b", words, re.IGNORECASE) and text and "unrefined" not in text:
        text = f"unrefined {text}"
    return text, form
