"""From words to an amount, a unit and what is left over."""

from __future__ import annotations

import re
from fractions import Fraction

from calmtin.core.recipe.matching import plain_words
from calmtin.core.recipe.measures import Form, Unit
from calmtin.core.recipe.vocabulary import (
    _FILLER_WORDS,
    _FORM_WORDS,
    _METRIC,
    _UNIT_WORDS,
    _VULGAR,
    _WORD_NUMBERS,
    _WORD_PARTS,
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


def _ingredient(words: str) -> tuple[str, Form | None]:
    """Return the words that name the material, and the form they tell."""
    form: Form | None = None
    kept = []
    for word in plain_words(re.sub(r"\d[\d.,/\s]*\s*(?:g|ml|oz)\b", " ", words)).split():
        if word in _FORM_WORDS:
            form = form or _FORM_WORDS[word]
        elif word not in _FILLER_WORDS:
            kept.append(word)
    text = " ".join(kept)
    # "raw shea" and "cold pressed" lose a word that matters only for a few names.
    if re.search(r"\b(raw|unrefined)\b", words, re.IGNORECASE) and text and "raw" not in text:
        text = f"unrefined {text}" if "unrefined" not in text else text
    return text, form
