"""Product kinds: where a maker starts, and what the finished thing must do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from calmtin.core.materials import Layer


@dataclass(frozen=True, slots=True)
class Kind:
    """A product kind: usual share of each layer (% of total), the target rungs at
    room temperature, and the rung it should still have at its hot-day temperature.
    """

    slug: str
    name: str
    ranges: Mapping[Layer, tuple[float, float]]
    target: tuple[float, float]
    hold_c: float | None
    hold_rung: float | None

    @property
    def short_name(self) -> str:
        """Its name without what comes after a comma: "Lip balm"."""
        return self.name.split(",")[0]

    @property
    def usual_overrun(self) -> float:
        """The gain in volume by whipping that makers of this kind come to, as a share."""
        return 0.5 if self.is_whipped else 0.0

    @property
    def is_whipped(self) -> bool:
        """Whether it is whipped; its target is meant as whipped."""
        return self.slug == "whipped_butter"
