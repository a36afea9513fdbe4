"""Ways of saying an amount that no grammar of numbers knows, put into ones that it does."""

from __future__ import annotations

import re
from collections.abc import Callable

from calmtin.core.messages import Words, gettext_noop, said
from calmtin.core.recipe.numerals import WORDS, read_alone

_MEASURES = (
    r"(?:g|gr|gm|grams?|kg|mg|oz|ounces?|lbs?|ml|cl|dl|cups?|tbsps?|tablespoons?|tsps?|teaspoons?"
    r"|drops?|parts?|%)"
)
_NUMBER = r"(?:\d[\d.,/]*|an?|one|two|three|four|five|six|seven|eight|nine|ten|half)"
_FULL = r"(heaped|heaping|rounded|level|scant)"
_LETTERS = str.maketrans({"l": "1", "I": "1", "O": "0", "o": "0"})
# A word of digits and of letters that look like them, with at least one of each, before a measure.
_LIKE_DIGITS = re.compile(
    r"(?<![\w.,])(?=[\dlIOo.,]*[lIOo])(?=[\dlIOo.,]*[\d.,])([\dlIOo][\dlIOo.,]*)"
    rf"(?=\s*{_MEASURES}\b)"
)
# What cooks cut off by eye, in grams from and to.
_CUT = {"knob": (15, 30), "knobs": (15, 30), "pat": (5, 10), "pats": (5, 10)}
_CUT_OFF = re.compile(rf"\b({_NUMBER})\s+(knobs?|pats?)\s+(?:of\s+)?", re.IGNORECASE)
# What leaves an amount open on one side.
_OPEN = re.compile(
    r"\b(up to|at (?:the )?most|no more than|at least|no less than|(?<!more )or (?:more|less))\b",
    re.IGNORECASE,
)
_FOR_PIECES = re.compile(r"\b(?:in|on|into|onto)\s+(?:each|every|half|some)\b|\bon top\b", re.IGNORECASE)


def _rule(pattern: str, plain: str) -> tuple[re.Pattern[str], str]:
    return re.compile(pattern, re.IGNORECASE), plain


_REWRITTEN = (
    _rule(r"\bU\.\s?S\.?(?=\s)", "US"),
    _rule(r"\bU\.\s?K\.?(?=\s)", "UK"),
    _rule(r"^couple\b", "a couple"),
    # "one (1) cup": the same number once more.
    _rule(rf"^({_NUMBER})\s*\(\d+\)\s+(?={_MEASURES}\b)", r"\1 "),
    # "1 Cup/240ml": the same amount once more.
    _rule(rf"({_MEASURES})\s*/\s*(\d[\d.,]*\s*{_MEASURES})\b", r"\1 (\2)"),
    _rule(r"\ba (quarter|third|half) (to|or) an? (half|third|quarter)\b", r"\1 \2 \3"),
    # "1 vitamin E capsule": what is counted stands last.
    _rule(rf"^({_NUMBER})\s+(?!capsules?\b|softgels?\b)(\D+?)\s+(capsules?|softgels?)$", r"\1 \3 \2"),
    # "1 tsp heaped arrowroot", "heaped tsp arrowroot": how full it is stands before the spoon.
    _rule(rf"\b({_NUMBER})\s+({_MEASURES})\s+{_FULL}\b", r"\1 \3 \2"),
    _rule(rf"^{_FULL}\s+(?={_MEASURES}\b)", r"1 \1 "),
    # "1 tbsp (UK)": whose spoon it is stands before it.
    _rule(rf"\b({_NUMBER})\s+({_MEASURES})\s+\((US|UK|imperial|metric|Australian)\)", r"\1 \3 \2"),
    _rule(r"\b(?:a )?half (?:to|or) a whole\b", "0.5 to 1"),
    # "jojoba, this is 11 grams"
    _rule(r",?\s+(?:this|that|it)(?:['’]s|\s+(?:is|was|weighs|weighed))\s+(?=\d)", " "),
)


def _as_digits(doubts: list[Words]) -> Callable[[re.Match[str]], str]:
    def read(found: re.Match[str]) -> str:
        digits = found[1].translate(_LETTERS)
        words = gettext_noop("“{typed}” has a letter in it and is read as {digits}. Is that right?")
        doubts.append(said(words, typed=found[1], digits=digits))
        return digits

    return read


def _number(word: str) -> float:
    read = read_alone(word)
    return float(read[0] if read else WORDS.get(word.lower(), 1))


def _cut_off(doubts: list[Words]) -> Callable[[re.Match[str]], str]:
    def read(found: re.Match[str]) -> str:
        low, high = _CUT[found[2].lower()]
        cut = found[2].lower().rstrip("s")
        words = gettext_noop("A {cut} is taken as {low} to {high} g. What does yours weigh?")
        doubts.append(said(words, cut=cut, low=low, high=high))
        number = _number(found[1])
        return f"{low * number:g} to {high * number:g} g "

    return read


def _bound(doubts: list[Words]) -> Callable[[re.Match[str]], str]:
    def read(found: re.Match[str]) -> str:
        words = gettext_noop("“{typed}” leaves the amount open, so it is taken as written. Is that right?")
        doubts.append(said(words, typed=found[1].lower()))
        return " "

    return read


def put_plainly(row: str) -> tuple[str, list[Words]]:
    """Return a line in words that the grammar knows, and what had to be guessed for it.

    >>> put_plainly("two U.S. cups olive oil")[0], put_plainly("1 vitamin E capsule")[0]
    ('two US cups olive oil', '1 capsule vitamin E')
    >>> text, doubts = put_plainly("l0 g beeswax")
    >>> text, str(doubts[0])
    ('10 g beeswax', '“l0” has a letter in it and is read as 10. Is that right?')
    """
    doubts: list[Words] = []
    row = _LIKE_DIGITS.sub(_as_digits(doubts), row)
    row = _CUT_OFF.sub(_cut_off(doubts), row)
    row = _OPEN.sub(_bound(doubts), row).strip()
    for pattern, plain in _REWRITTEN:
        row = pattern.sub(plain, row)
    return row, doubts


def is_heading(row: str) -> bool:
    """Return whether a line only names what follows: "Oils:".

    >>> is_heading("Oils:"), is_heading("beeswax: 20 g"), is_heading("For the tin:")
    (True, False, True)
    """
    return row.endswith(":") and len(row.split()) <= 4 and not re.search(r"\d", row)


def is_for_pieces(row: str) -> bool:
    """Return whether a line is about single pieces: "1 drop in each", "a sprinkle on half of them"."""
    return bool(_FOR_PIECES.search(row))
