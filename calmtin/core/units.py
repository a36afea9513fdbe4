"""Parse and format numbers and temperatures."""

from __future__ import annotations

import re
import unicodedata
from decimal import Decimal
from fractions import Fraction

from calmtin.core.errors import UnreadableNumber
from calmtin.core.limits import check, span_in_words
from calmtin.core.messages import Message
from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import Quantity, fahrenheit_to_celsius, quantity, shortest
from calmtin.core.recipe.numerals import read_alone

NUMBER_CHARS = 30


def read_number(
    text: str,
    *,
    name: str,
    low: float = 0.0,
    high: float,
    unit: str = "",
    places: int = 3,
    field: str = "number",
    notation: Notation = USUAL,
) -> Decimal:
    """Return the number in `text`: digits with either decimal sign, a fraction, or a word for one.

    Raises `UnreadableNumber` with a sentence that names the thing (`name`) and
    says what to type: nothing there, not a number, below `low`, above `high`.

    >>> read_number(" 4,5 ", name="Cocoa butter", high=100)
    Decimal('4.500')
    >>> read_number("1 1/2", name="Cocoa butter", high=100)
    Decimal('1.500')
    """
    cleaned = " ".join(text.replace("−", "-").split()).removesuffix("%").strip()
    if unit and cleaned.lower().endswith(unit.lower()):
        cleaned = cleaned[: -len(unit)].strip()
    span = span_in_words((low, high), unit)
    if not cleaned:
        raise UnreadableNumber(
            Message("{name} is empty. Type a number {span}.", name=name, span=span), field=field
        )
    read = _read_signed(cleaned, notation)
    if read is None:
        raise UnreadableNumber(
            Message(
                "“{typed}” is not a number. Type {name} as digits, {span}.",
                typed=text.strip()[:20],
                name=inside(name),
                span=span,
            ),
            field=field,
        )
    sign, value, other = read
    # Of two readings, "1,000" as a thousand or as one, only what can be meant here counts.
    if other is not None and not low <= sign * value <= high and low <= sign * other <= high:
        value = other
    exact = Decimal(sign * value.numerator) / Decimal(value.denominator)
    return in_span(exact, name=name, span=(low, high), unit=unit, places=places, field=field)


def _read_signed(text: str, notation: Notation) -> tuple[int, Fraction, Fraction | None] | None:
    """Return the sign of a number, the number, and its other reading; None where it is no number."""
    if not text or len(text) > NUMBER_CHARS or text[1:2] in tuple("+-"):
        return None
    read = read_alone(text.lstrip("+-"), notation)
    return None if read is None else (-1 if text.startswith("-") else 1, *read)


def inside(name: str) -> str:
    """Return the name of a box as it is written inside a sentence.

    >>> inside("The room"), inside("Beeswax, yellow")
    ('the room', 'Beeswax, yellow')
    """
    first = name.partition(" ")[0]
    return name[0].lower() + name[1:] if first in ("The", "A", "An", "What", "One", "This", "It") else name


_DEGREES = re.compile(r"(?P<number>.*?)\s*(?:°|degrees?|deg)?\s*(?P<unit>[CF]|celsius|fahrenheit)?", re.I)


def read_temperature(
    text: str, *, name: str, low_c: float, high_c: float, notation: Notation = USUAL, field: str = "number"
) -> float:
    """Return the degrees C in a box for a temperature; a unit that is typed wins over the bench's.

    Raises `CalmTinError`, with the span in the bench's degrees.

    >>> read_temperature("70 °F", name="It", low_c=-40, high_c=110) == fahrenheit_to_celsius(70)
    True
    >>> read_temperature("21", name="It", low_c=-40, high_c=110)
    21.0
    """
    cleaned = " ".join(text.replace("−", "-").replace("º", "°").split())
    found = _DEGREES.fullmatch(cleaned)
    number, unit = (found["number"], found["unit"]) if found else (cleaned, None)
    is_fahrenheit = (unit or notation.temperature_unit)[0].upper() == "F"
    span = span_in_words((low_c, high_c), "°C")
    read = _read_signed(number, notation)
    if read is None:
        raise UnreadableNumber(
            Message("{name} is empty. Type a temperature {span}.", name=name, span=span)
            if not cleaned
            else Message(
                "“{typed}” is not a temperature. Type {name} as digits, {span}.",
                typed=text.strip()[:20],
                name=inside(name),
                span=span,
            ),
            field=field,
        )
    typed = read[0] * float(read[1])
    value = fahrenheit_to_celsius(typed) if is_fahrenheit else typed
    check(value, (low_c, high_c), name=name, field=field, unit="°C")
    return value


_CODE = re.compile(r"[A-Za-z]{1,3}\.?")


def read_money(
    text: str,
    *,
    name: str,
    high: float,
    field: str = "price",
    notation: Notation = USUAL,
) -> Decimal:
    """Return the sum of money in a box to a hundredth: "0.85", "$0.85", "12,99 €", "8.67 CHF".

    Raises `UnreadableNumber`.

    >>> read_money("12,99 €", name="The price", high=100_000)
    Decimal('12.99')
    """
    cleaned = "".join(c for c in text if unicodedata.category(c) != "Sc").strip()
    for end in (*(_CODE.findall(cleaned[:4])[:1]), *(_CODE.findall(cleaned[-4:])[-1:])):
        if end:
            cleaned = cleaned.removeprefix(end).removesuffix(end).strip()
    if text.strip() and not cleaned:
        cleaned = text  # a sign without a sum: refused below, as it was typed
    return read_number(cleaned, name=name, high=high, places=2, field=field, notation=notation)


def in_span(
    value: Decimal, *, name: str, span: tuple[float, float], unit: str, places: int, field: str
) -> Decimal:
    """Return a number that was read to its places; raises `UnreadableNumber` outside `span`."""
    (low, high), words = span, span_in_words(span, unit)
    if value < Decimal(str(low)):
        below = Message(
            "{name} cannot be below {low}. Type a number {span}.",
            name=name,
            low=_end(low, unit),
            span=words,
        )
        raise UnreadableNumber(below, field=field, limit=low)
    if value > Decimal(str(high)):
        above = Message(
            "{name} cannot be above {high}. Type a number {span}.",
            name=name,
            high=_end(high, unit),
            span=words,
        )
        raise UnreadableNumber(above, field=field, limit=high)
    rounded = value.quantize(Decimal(1).scaleb(-places))
    if value > 0 and not rounded and low >= 0:
        least = Decimal(1).scaleb(-places)
        raise UnreadableNumber(
            Message(
                "{name} is too small. Type 0, or {least} or more.",
                name=name,
                least=_end(least, unit),
            ),
            field=field,
            limit=float(least),
        )
    return rounded


def _end(value: Decimal | float, unit: str) -> Quantity | str:
    """Return one end of a span with its unit."""
    return quantity(value, unit) or " ".join((shortest(value), unit)).strip()
