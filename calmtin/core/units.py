"""Read what people type and write what they read: numbers and temperatures."""

from __future__ import annotations

import re
from decimal import Decimal

from calmtin.core.errors import UnreadableNumber

NUMBER_CHARS = 30
_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)")


def read_number(
    text: str,
    *,
    name: str,
    low: float = 0.0,
    high: float,
    unit: str = "",
    places: int = 3,
    field: str = "number",
) -> Decimal:
    """Return the number in `text`, with a point or a comma as the decimal sign.

    Raises `UnreadableNumber` with a sentence that names the thing (`name`) and
    says what to type: nothing there, not a number, below `low`, above `high`.

    >>> read_number(" 4,5 ", name="Cocoa butter", high=100)
    Decimal('4.500')
    """
    cleaned = text.strip().replace("\u00a0", "").replace("−", "-")
    cleaned = cleaned.removesuffix("%").strip()
    span = f"from {low:g} to {high:g}{f' {unit}' if unit else ''}"
    if not cleaned:
        raise UnreadableNumber(f"{name} is empty. Type a number {span}.", field=field)
    if len(cleaned) > NUMBER_CHARS or not _NUMBER.fullmatch(cleaned):
        raise UnreadableNumber(
            f"“{text.strip()[:20]}” is not a number. Type {name} as digits, {span}.", field=field
        )
    value = Decimal(cleaned.replace(",", "."))
    if value < Decimal(str(low)):
        raise UnreadableNumber(
            f"{name} cannot be below {low:g}. Type a number {span}.", field=field, limit=low
        )
    if value > Decimal(str(high)):
        raise UnreadableNumber(
            f"{name} cannot be above {high:g}. Type a number {span}.", field=field, limit=high
        )
    return value.quantize(Decimal(1).scaleb(-places))


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
