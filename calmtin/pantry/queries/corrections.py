"""The facts of a row before a correction."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.utils.translation import gettext_noop

from calmtin.core.messages import digits, written
from calmtin.core.quantities import Mass, Percent, Quantity, Temperature, Volume
from calmtin.pantry.models import Correction, Infusion, OwnContainer, OwnMaterial, Rendering

_NAMES = {
    "brim_ml": gettext_noop("volume to the brim"),
    "melt_high_c": gettext_noop("melts up to"),
    "melt_low_c": gettext_noop("melts from"),
    "tare_g": gettext_noop("empty weight"),
    "usual_level_pct": gettext_noop("usual fill"),
}
_KINDS: dict[str, Callable[[Decimal], Quantity]] = {
    "g": Mass,
    "ml": Volume,
    "c": lambda degrees: Temperature(degrees, 1),
    "pct": Percent,
}


@dataclass(frozen=True)
class Corrected:
    """A correction: when, why, and what each fact was before, in words."""

    at: datetime
    reason: str
    before: list[tuple[str, str]]


def corrections_of(row: OwnMaterial | OwnContainer | Infusion | Rendering) -> list[Corrected]:
    """Return the corrections of a row, the last one first."""
    return [Corrected(c.at, c.reason, list(_before(c))) for c in row.corrections.order_by("-pk")]


def _before(correction: Correction) -> Iterator[tuple[str, str]]:
    for column, value in correction.was.items():
        name, _, unit = column.rpartition("_")
        in_words = _NAMES.get(column) or (name if unit in _KINDS else column).replace("_", " ")
        yield in_words, _written(value, unit)


def _written(value: Any, unit: str) -> str:
    if value in (None, ""):
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if unit in _KINDS:
        return written(_KINDS[unit](Decimal(str(value))))
    return digits(value) if isinstance(value, float) else str(value)
