"""Temperatures inside sentences, told in the unit of the bench.

The core and its tables write points as "65 °C", "85-90 C" and differences as "5 C°".
A point is shifted and scaled, a difference only scaled.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from calmtin.core.units import celsius_to_fahrenheit

_NUMBER = r"([-−+]?\d+(?:\.\d+)?)"
_DIFFERENCE = re.compile(rf"(?<![\w.]){_NUMBER}\s?C°")
_POINT = re.compile(rf"(?<![\w.]){_NUMBER}(?:(-|–| to | and ){_NUMBER})?\s?°?\s?C(?![\w°])")


def in_unit(text: str, unit: str) -> str:
    """Return `text` with its temperatures in `unit`, "C" or "F".

    >>> in_unit("Hold it at 85-90 C, 5 C° above the haze.", "C")
    'Hold it at 85–90 °C, 5 °C above the haze.'
    >>> in_unit("Hold it at 85-90 C, 5 C° above the haze.", "F")
    'Hold it at 185–194 °F, 9 °F above the haze.'
    """

    def point(found: re.Match[str]) -> str:
        low, between, high = found.groups()
        ends = _told(low, unit, celsius_to_fahrenheit)
        if high:
            ends += between.replace("-", "–") + _told(high, unit, celsius_to_fahrenheit)
        return f"{ends} °{'F' if unit == 'F' else 'C'}"

    def difference(found: re.Match[str]) -> str:
        sign = found[1][0] if found[1][0] in "+-−" else ""
        told = _told(found[1].lstrip("+-−"), unit, lambda value: value * 1.8)
        return f"{sign}{told} °{'F' if unit == 'F' else 'C'}"

    return _DIFFERENCE.sub(difference, _POINT.sub(point, text))


def _told(number: str, unit: str, to_fahrenheit: Callable[[float], float]) -> str:
    if unit != "F":
        return number
    value = to_fahrenheit(float(number.replace("−", "-")))
    return f"{value:.0f}" if "." not in number else f"{value:.1f}".removesuffix(".0")
