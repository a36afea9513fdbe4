"""Numbers as people write and say them: digits with either sign, fractions, words, a dozen, a few.

Every reader of amounts comes here. A number is exact (a Fraction); what may be read
in two ways carries the other reading along.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from unicodedata import decimal

from calmtin.core.notation import USUAL, Notation

WORDS = {
    "a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
    "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "thirteen": 13, "fourteen": 14, "fifteen": 15,
    "sixteen": 16, "seventeen": 17, "eighteen": 18, "nineteen": 19, "twenty": 20, "thirty": 30, "forty": 40,
    "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80, "ninety": 90, "zero": 0,
}  # fmt: skip
PARTS = {
    "half": 2, "halves": 2, "third": 3, "thirds": 3, "quarter": 4, "quarters": 4, "fourth": 4, "fourths": 4,
    "fifth": 5, "fifths": 5, "sixth": 6, "sixths": 6, "eighth": 8, "eighths": 8, "tenth": 10, "tenths": 10,
}  # fmt: skip
# What means several, with its range.
VAGUE = {"few": (3, 5), "several": (5, 8), "some": (2, 5)}
VULGAR = {
    "¼": "1/4", "½": "1/2", "¾": "3/4", "⅓": "1/3", "⅔": "2/3", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8",
    "⅞": "7/8", "⅕": "1/5", "⅖": "2/5", "⅗": "3/5", "⅘": "4/5", "⅙": "1/6", "⅚": "5/6", "⅒": "1/10",
}  # fmt: skip

# Full-width and Arabic decimal and thousands signs.
_SIGNS = {"．": ".", "，": ",", "٫": ".", "٬": ","}
_TOKEN = re.compile(r"(?P<num>\d[\d.,]*\d|\d|[.,]\d+)|(?P<word>[^\W\d_]+(?:['’][^\W\d_]+)*)|(?P<sym>\S)")
_GROUPED = re.compile(r"\d{1,3}(?:([.,])\d{3})+(?:([.,])\d+)?")


@dataclass(frozen=True, slots=True)
class Token:
    """A piece of text: "num", "word" or "sym", where it stands, and whether space comes before it."""

    kind: str
    text: str
    start: int
    end: int
    spaced: bool

    @property
    def low(self) -> str:
        """The text in lower case."""
        return self.text.lower()


@dataclass(frozen=True, slots=True)
class Number:
    """A number with its range; `other` is its value with the other decimal sign."""

    value: Fraction
    low: Fraction
    high: Fraction
    other: Fraction | None = None


def plain_digits(text: str) -> str:
    """Return text with the decimal digits and signs of other scripts as ours; nothing else is a digit.

    >>> plain_digits("５．５ ١٢٫٥ ² ①")
    '5.5 12.5 ² ①'
    """
    if text.isascii():
        return text
    return "".join(_SIGNS.get(c, c) if (n := decimal(c, None)) is None else str(n) for c in text)


def tokens_of(text: str) -> list[Token]:
    """Return the tokens of a line; vulgar fractions become digits, nothing is dropped."""
    text = plain_digits(text)
    for sign, digits in VULGAR.items():
        text = re.sub(rf"(?<=\d)\s?{sign}", f" {digits} ", text).replace(sign, f" {digits} ")
    text = text.replace("⁄", "/").replace("−", "-").replace("\u00a0", " ").replace("\u202f", " ")
    found: list[Token] = []
    for piece in _TOKEN.finditer(text):
        spaced = not found or piece.start() > found[-1].end
        found.append(Token(piece.lastgroup or "sym", piece.group(), piece.start(), piece.end(), spaced))
    return found


def read_digits(text: str, *, decimal_comma: bool = False) -> tuple[Fraction, Fraction | None] | None:
    """Return what digits say, and the other reading where the sign could mean either; None if neither.

    "1,000" is a thousand unless decimals are written with a comma; "0,4", "1.25" and
    "1.000,5" leave no choice.

    >>> read_digits("1,000")
    (Fraction(1000, 1), Fraction(1, 1))
    >>> read_digits("1,000", decimal_comma=True)
    (Fraction(1, 1), Fraction(1000, 1))
    >>> read_digits("1.000,5")
    (Fraction(2001, 2), None)
    >>> read_digits(".4")
    (Fraction(2, 5), None)
    """
    signs = [c for c in text if c in ".,"]
    if not signs:
        return Fraction(int(text)), None
    if len(set(signs)) == 2:
        decimal = signs[-1]
        thousand = "," if decimal == "." else "."
        whole, _, rest = text.rpartition(decimal)
        if decimal in whole or not _GROUPED.fullmatch(whole):
            return None
        return Fraction(f"{whole.replace(thousand, '')}.{rest}"), None
    sign = signs[0]
    if len(signs) > 1:
        return (Fraction(int(text.replace(sign, ""))), None) if _GROUPED.fullmatch(text) else None
    plain = Fraction(text.replace(",", ".") if text[0] not in ".," else f"0.{text[1:]}")
    if not _GROUPED.fullmatch(text) or text.startswith("0"):
        return plain, None
    grouped = Fraction(int(text.replace(sign, "")))
    is_grouped = (sign == ",") != decimal_comma
    return (grouped, plain) if is_grouped else (plain, grouped if sign == "," else None)


def read_alone(text: str, notation: Notation = USUAL) -> tuple[Fraction, Fraction | None] | None:
    """Return the number that `text` is and its other reading, or None where it is something else too.

    >>> read_alone("1 1/2")
    (Fraction(3, 2), None)
    >>> read_alone("1.5 kg") is None
    True
    """
    tokens = tokens_of(text)
    if len(tokens) > 1 and tokens[-1].text in (".", ",") and not tokens[-1].spaced:
        tokens.pop()
    if not tokens or tokens[0].low in ("a", "an"):
        return None
    read = Numbers(tokens, decimal_comma=notation.decimal_comma).read(0)
    if read is None or read[1] != len(tokens) or read[0].low != read[0].high:
        return None
    return read[0].value, read[0].other


class Numbers:
    """Reads numbers off a row of tokens."""

    def __init__(self, tokens: list[Token], *, decimal_comma: bool = False) -> None:
        self.tokens, self.decimal_comma = tokens, decimal_comma

    def at(self, i: int) -> Token | None:
        """Return the token at a place, if there is one."""
        return self.tokens[i] if 0 <= i < len(self.tokens) else None

    def is_word(self, i: int, *words: str) -> bool:
        """Return whether one of these words, or signs, stands at a place."""
        token = self.at(i)
        return token is not None and token.low in words

    def read(self, i: int) -> tuple[Number, int] | None:
        """Return the number that begins at a place and the place after it."""
        token = self.at(i)
        if token is None:
            return None
        if token.kind == "num":
            return self._digits(i)
        return self._words(i) if token.kind == "word" else None

    def _digits(self, i: int) -> tuple[Number, int] | None:
        fraction = self._fraction(i)
        if fraction is not None:
            return _exact(fraction), i + 3
        read = read_digits(self.tokens[i].text, decimal_comma=self.decimal_comma)
        if read is None:
            return None
        (value, other), i = read, i + 1
        if self.tokens[i - 1].text.isdecimal():
            value, i = self._thousands(value, i)
            value, i = self._and_a_part(value, i)
        if self.is_word(i, "dozen"):
            value, i = value * 12, i + 1
        return Number(value, value, value, other), i

    def _fraction(self, i: int) -> Fraction | None:
        """Return the fraction "a/b" at a place."""
        top, bottom = self.at(i), self.at(i + 2)
        if top is None or bottom is None or not self.is_word(i + 1, "/"):
            return None
        if not (top.text.isdecimal() and bottom.text.isdecimal()) or int(bottom.text) == 0:
            return None
        return Fraction(int(top.text), int(bottom.text))

    def _thousands(self, value: Fraction, i: int) -> tuple[Fraction, int]:
        """Take "1 000" as a thousand: groups of three digits after a space."""
        if value == 0 or value >= 1000:
            return value, i
        while (group := self.at(i)) and group.spaced and re.fullmatch(r"\d{3}", group.text):
            if self.is_word(i + 1, "/"):
                break
            value, i = value * 1000 + int(group.text), i + 1
        return value, i

    def _and_a_part(self, value: Fraction, i: int) -> tuple[Fraction, int]:
        """Add what belongs to a whole number: "1 1/3", "1-1/3", "1 + 1/3", "1 and a half"."""
        joined = i + 1 if self.is_word(i, "-", "–", "+", "&", "and") else i
        if value >= 1 and (part := self._fraction(joined)) is not None and part < 1:
            return value + part, joined + 3
        if self.is_word(i, "and") and (read := self.part(i + 1)):
            return value + read[0], read[1]
        return value, i

    def part(self, i: int) -> tuple[Fraction, int] | None:
        """Return "half", "a third", "two thirds", "three quarters of" as a share below 1."""
        count, after = Fraction(1), i
        token = self.at(i)
        if token is not None and token.low in WORDS and not self.is_word(i, "zero"):
            count, after = Fraction(WORDS[token.low]), i + 1
        elif token is not None and token.text.isdecimal():
            count, after = Fraction(int(token.text)), i + 1
        if self.is_word(after, "-"):
            after += 1
        share = self.at(after)
        if share is None or share.low not in PARTS:
            return None
        value = count / PARTS[share.low]
        return (value, after + 1) if value < 1 else None

    def _words(self, i: int) -> tuple[Number, int] | None:
        if part := self.part(i):
            after = part[1] + 1 if self.is_word(part[1], "a") else part[1]
            if self.is_word(after, "dozen"):
                return _exact(part[0] * 12), after + 1
            return _exact(part[0]), part[1]
        start = i + 1 if self.is_word(i, "a", "the") else i
        if self.is_word(start, *VAGUE):
            low, high = (Fraction(n) for n in VAGUE[self.tokens[start].low])
            return Number((low + high) / 2, low, high), start + 1
        if self.is_word(start, "dozen", "couple"):
            value = Fraction(12 if self.is_word(start, "dozen") else 2)
            return _exact(value), start + (2 if self.is_word(start + 1, "of") else 1)
        if self.tokens[i].low not in WORDS:
            return None
        total, after = self._counted(i)
        if self.is_word(after, "and") and (read := self.part(after + 1)):
            total, after = total + read[0], read[1]
        return _exact(total), after

    def _counted(self, i: int) -> tuple[Fraction, int]:
        """Return "two", "twenty-five", "one hundred and twenty", "two dozen" and the place after it."""
        total, after = self._below_a_hundred(i)
        if self.is_word(after, "hundred"):
            total, after = total * 100, after + 1
            rest = self.at(after + 1 if self.is_word(after, "and") else after)
            if rest is not None and rest.low not in ("a", "an") and WORDS.get(rest.low, 0):
                more, after = self._below_a_hundred(after + 1 if self.is_word(after, "and") else after)
                total += more
        elif self.is_word(after, "dozen"):
            total, after = total * 12, after + 1
        return total, after

    def _below_a_hundred(self, i: int) -> tuple[Fraction, int]:
        total, after = Fraction(WORDS[self.tokens[i].low]), i + 1
        if total >= 20:
            dashed = after + 1 if self.is_word(after, "-") else after
            ones = self.at(dashed)
            if ones is not None and ones.low not in ("a", "an") and 1 <= WORDS.get(ones.low, 0) <= 9:
                total, after = total + WORDS[ones.low], dashed + 1
        return total, after


def _exact(value: Fraction) -> Number:
    return Number(value, value, value)
