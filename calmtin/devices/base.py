"""The interface of a scale and of a thermometer, whoever makes them.

A driver never raises for what happens at a bench: a full pan, a pulled plug and a figure that still
runs are readings too. `tests/contracts` has the suite that every one of them passes.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

State = Literal["ok", "overload", "unplugged"]


@dataclass(frozen=True, slots=True)
class Weight:
    """What a scale shows: net grams in whole steps, and whether they stand still.

    There are no grams while it is overloaded or unplugged, and then nothing stands still.
    """

    grams: Decimal | None
    is_steady: bool
    state: State = "ok"


@dataclass(frozen=True, slots=True)
class Warmth:
    """What a thermometer shows, C; nothing while it is unplugged."""

    temp_c: float | None
    state: State = "ok"


class Scale(ABC):
    """A scale: `step_g` is its resolution, `capacity_g` its maximum, tare included."""

    step_g: Decimal
    capacity_g: Decimal

    @abstractmethod
    def read(self) -> Weight:
        """Return the present reading."""

    @abstractmethod
    def tare(self) -> None:
        """Set the present load to zero; no effect while overloaded or unplugged."""


class Thermometer(ABC):
    """A thermometer in the pot."""

    step_c: float

    @abstractmethod
    def read(self) -> Warmth:
        """Return the present reading."""
