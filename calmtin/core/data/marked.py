"""Sentences of the tables, in which points stand as "65 C", "85-90 C" and steps as "5 C°".

They become messages, so that a bench reads them in its own degrees and weights.
"""

from __future__ import annotations

import re
from decimal import Decimal

from calmtin.core.messages import Message, Words
from calmtin.core.quantities import Between, Degrees, Mass, Quantity, Temperature

_NUMBER = r"[-−+]?\d+(?:\.\d+)?"
_MARKED = re.compile(
    rf"(?<![\w.])(?:(?P<step>{_NUMBER})\s?C°"
    rf"|(?P<low>{_NUMBER})(?:(?P<joint>-|–| to | and )(?P<high>{_NUMBER}))?\s?°?\s?C(?![\w°])"
    r"|(?P<grams>\d[\d,]*(?:\.\d+)?) g\b(?!/))"
)


def marked(text: str) -> Words:
    """Return a sentence of a table as a message where it tells a temperature or a weight.

    >>> str(marked("Hold it at 85-90 C, 5 C° above the haze."))
    'Hold it at 85–90 °C, 5 °C above the haze.'
    """
    values: dict[str, Quantity] = {}

    def name(found: re.Match[str]) -> str:
        values[key := f"v{len(values)}"] = _quantity(found)
        return f"{{{key}}}"

    template = _MARKED.sub(name, text.replace("{", "{{").replace("}", "}}"))
    return Message(template, **values) if values else text


def _quantity(found: re.Match[str]) -> Quantity:
    if found["grams"]:
        return Mass(Decimal(found["grams"].replace(",", "")))
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
