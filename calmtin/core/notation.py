"""How a bench writes amounts: its decimal sign, whose cups and spoons, what scale and thermometer show."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

System = Literal["us", "imperial", "metric"]
ScaleUnit = Literal["g", "oz"]
TemperatureUnit = Literal["C", "F"]


@dataclass(frozen=True, slots=True)
class Notation:
    """What a number or a measure means where its own words leave it open.

    `decimal_comma` makes "1,000" one and no thousand; `system` says whose cup a cup is;
    `scale_unit` is the unit of a weight that stands without one; sentences tell temperatures in
    `temperature_unit`.
    """

    decimal_comma: bool = False
    system: System = "us"
    scale_unit: ScaleUnit = "g"
    temperature_unit: TemperatureUnit = "C"


USUAL = Notation()
