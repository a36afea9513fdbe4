"""Sentences of the tables and of closed pours, in which every amount can be found again.

Temperatures stand in them as "65 C" or "85-90 C", steps between two as "5 C°", volumes as "5 ml". They
become messages, so that a bench reads them in its own degrees, weights and decimal sign.
"""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Any

from calmtin.core.messages import Message, Words
from calmtin.core.notation import USUAL
from calmtin.core.quantities import Between, Degrees, Mass, Quantity, Temperature, Volume

_NUMBER = r"[-−+]?\d+(?:\.\d+)?"
_MARKED = re.compile(
    rf"(?<![\w./])(?:(?P<step>{_NUMBER})\s?C°"
    rf"|(?P<low>{_NUMBER})(?:(?P<joint>-|–| to | and )(?P<high>{_NUMBER}))?\s?°?\s?C(?![\w°])"
    r"|(?P<grams>\d[\d,]*(?:\.\d+)?)(?:[-–](?P<most_g>\d+(?:\.\d+)?))? g\b(?!/)"
    r"|(?P<ml>\d+(?:\.\d+)?)(?:[-–](?P<most_ml>\d+(?:\.\d+)?))? ml\b"
    r"|(?P<bare>\d+\.\d+)(?![.\w]))"
)


def marked(text: str) -> Words:
    """Return a sentence of a table as a message with typed temperatures and weights.

    >>> str(marked("Hold it at 85-90 C, 5 C° above the haze."))
    'Hold it at 85–90 °C, 5 °C above the haze.'
    """
    values: dict[str, Quantity | Decimal] = {}

    def name(found: re.Match[str]) -> str:
        values[key := f"v{len(values)}"] = _quantity(found)
        return f"{{{key}}}"

    template = _MARKED.sub(name, text.replace("{", "{{").replace("}", "}}"))
    return Message(template, **values) if values else text


def as_marked(words: Words) -> str:
    """Return a message in the notation that `marked` reads, as a closed pour keeps it.

    >>> as_marked(Message("{step} below {at}.", step=Degrees(5.0), at=Temperature(65.0)))
    '5 C° below 65 °C.'
    """
    if not isinstance(words, Message):
        return words
    values = {name: _kept(value) for name, value in words.values.items()}
    return Message(words.template, **values).worded(USUAL)


def _kept(value: Any) -> Any:
    if isinstance(value, Degrees):
        return f"{value.number()} C°"
    return as_marked(value) if isinstance(value, Message) else value


def _quantity(found: re.Match[str]) -> Quantity | Decimal:
    if found["bare"]:
        return Decimal(found["bare"])
    if found["grams"]:
        light = Mass(Decimal(found["grams"].replace(",", "")))
        return Between(light, Mass(Decimal(found["most_g"]))) if found["most_g"] else light
    if found["ml"]:
        least = Volume(Decimal(found["ml"]))
        return Between(least, Volume(Decimal(found["most_ml"]))) if found["most_ml"] else least
    if found["step"]:
        return Degrees(_float(found["step"]), _places(found["step"]))
    low = Temperature(_float(found["low"]), _places(found["low"]))
    if not found["high"]:
        return low
    high = Temperature(_float(found["high"]), _places(found["high"]))
    return Between(low, high, found["joint"].replace("-", "–"))


def _float(text: str) -> float:
    return float(text.replace("−", "-"))


def _places(text: str) -> int:
    return len(text.partition(".")[2])
