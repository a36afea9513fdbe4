"""Read what people type and write what they read: numbers and temperatures."""

from __future__ import annotations

from decimal import Decimal

from calmtin.core.errors import UnreadableNumber
from calmtin.core.limits import span_in_words
from calmtin.core.messages import Message
from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import Quantity, plain, quantity
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
    sign = -1 if cleaned.startswith("-") else 1
    read = read_alone(cleaned.lstrip("+-"), notation) if len(cleaned) <= NUMBER_CHARS else None
    if read is None or cleaned[1:2] in tuple("+-"):
        raise UnreadableNumber(
            Message(
                "“{typed}” is not a number. Type {name} as digits, {span}.",
                typed=text.strip()[:20],
                name=name,
                span=span,
            ),
            field=field,
        )
    value, other = read
    # Of two readings, "1,000" as a thousand or as one, only what can be meant here counts.
    if other is not None and not low <= sign * value <= high and low <= sign * other <= high:
        value = other
    exact = Decimal(sign * value.numerator) / Decimal(value.denominator)
    return in_span(exact, name=name, span=(low, high), unit=unit, places=places, field=field)


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
                "{name} is below {least}, the least that is kept. Type 0 or more.",
                name=name,
                least=_end(least, unit),
            ),
            field=field,
            limit=float(least),
        )
    return rounded


def _end(value: Decimal | float, unit: str) -> Quantity | str:
    """Return one end of a span with its unit."""
    return quantity(value, unit) or " ".join((plain(Decimal(str(value))), unit)).strip()


def celsius_to_fahrenheit(temp_c: float) -> float:
    """Return a temperature in F. For a difference of temperatures use `* 1.8`.

    >>> celsius_to_fahrenheit(-40.0)
    -40.0
    """
    return temp_c * 1.8 + 32.0


def fahrenheit_to_celsius(temp_f: float) -> float:
    """Return a temperature in C.

    >>> fahrenheit_to_celsius(212.0)
    100.0
    """
    return (temp_f - 32.0) / 1.8
