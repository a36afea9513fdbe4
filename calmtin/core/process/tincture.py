"""An alcohol tincture: what it contains, and what must be driven off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, said
from calmtin.core.quantities import Mass

TINCTURE = "alcohol_tincture"  # its material
USUAL_PCT = 50.0  # alcohol by volume, where nobody says
ETHANOL_DENSITY = 0.789  # g/ml at 20 C
# Density of ethanol and water, g/ml at 20 C, by % alcohol in volume (OIML R22, rounded).
_TABLE_PCT = (0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100)
_TABLE_DENSITY = (0.998, 0.985, 0.974, 0.962, 0.948, 0.930, 0.909, 0.886, 0.859, 0.829, 0.789)
_DRY_EXTRACT = 0.03  # share of a usual tincture that is neither water nor alcohol
_DRY = 0.03  # of what had to leave, that a scale and a hand leave in doubt
_STEPS = 2  # of the scale: one before, one after


@dataclass(frozen=True, slots=True)
class Tincture:
    """Masses in g: alcohol, water, and the dry extract that may stay."""

    alcohol_g: float
    water_g: float
    extract_g: float

    @property
    def to_lose_g(self) -> float:
        """What the pot must lose before wax goes in."""
        return self.alcohol_g + self.water_g


def strength_pct(value: float, *, is_proof: bool = False) -> float:
    """Return % alcohol by volume; US proof is twice that.

    >>> strength_pct(100.0, is_proof=True)
    50.0
    """
    percent = value / 2.0 if is_proof else value
    if not 0.0 <= percent <= 100.0:
        raise CalmTinError(
            said("Strength must be from 0 to 100 % (0 to 200 proof)."), field="strength", limit=100.0
        )
    return percent


def tincture(grams: float, alcohol_pct: float | None) -> Tincture:
    """Return what `grams` of tincture at `alcohol_pct` by volume hold, 50 % where nobody says.

    >>> t = tincture(100.0, 50.0)  # 97 g of 50 % spirit: 97 / 0.930 x 0.5 x 0.789
    >>> round(t.alcohol_g, 1), round(t.water_g, 1), round(t.to_lose_g, 1)
    (41.1, 55.9, 97.0)
    """
    strength = USUAL_PCT if alcohol_pct is None else alcohol_pct
    spirit = grams * (1.0 - _DRY_EXTRACT)
    density = float(np.interp(strength, _TABLE_PCT, _TABLE_DENSITY))
    alcohol = spirit / density * strength / 100.0 * ETHANOL_DENSITY
    return Tincture(alcohol, spirit - alcohol, grams - spirit)


@dataclass(frozen=True, slots=True)
class Drying:
    """How far a tincture was boiled down, g: what had to leave the pot, what left, and the scale's step."""

    to_lose_g: float
    lost_g: float
    step_g: float

    @property
    def left_g(self) -> float:
        """The spirit and water that are still in the pot, g; 0 where the scale cannot tell it from dry."""
        left = self.to_lose_g - self.lost_g
        return 0.0 if left <= self._doubt_g else left

    @property
    def is_dry(self) -> bool:
        """Whether all of it is gone, as far as the scale can tell."""
        return self.left_g == 0.0

    @property
    def _doubt_g(self) -> float:
        return max(_STEPS * self.step_g, _DRY * self.to_lose_g)

    @property
    def in_words(self) -> Words:
        """What the weight of the pot says, and what to do."""
        if not self.is_dry:
            return Message(
                "{left} of water and alcohol are still in the pot. Keep it in the bath, uncovered, and "
                "weigh it again.",
                left=Mass(self.left_g, 1),
            )
        over_g = self.lost_g - self.to_lose_g
        if over_g > self._doubt_g:
            return Message(
                "The water and alcohol are gone, and {over} more with them. Check that nothing was "
                "spilled and that you weighed the contents without the pot.",
                over=Mass(over_g, 1),
            )
        return said("The water and alcohol are gone. Add the wax now.")


def driven_off(
    parts: Sequence[tuple[Material, float]],
    *,
    alcohol_pct: float | None = None,
    drying: Drying | None = None,
) -> list[tuple[Material, float]]:
    """Return masses as they are once the spirit and water of a tincture have left the pot.

    Its dry extract stays. `alcohol_pct` is the tincture's strength by volume, 50 % unless known. With a
    `drying`, what is left by the weight of the pot stays too; once nothing is, the extract is a dry
    powder that brings no water.

    >>> from calmtin.core.data.loader import library
    >>> wet = [(library()["alcohol_tincture"], 10.0)]
    >>> [(m.is_wet, round(mass, 2)) for m, mass in driven_off(wet, drying=Drying(9.7, 9.6, 0.1))]
    [(False, 0.3)]
    >>> [(m.is_wet, round(mass, 2)) for m, mass in driven_off(wet, drying=Drying(9.7, 5.0, 0.1))]
    [(True, 5.0)]
    """
    found = []
    for material, mass in parts:
        if material.slug == TINCTURE:
            mass = tincture(mass, alcohol_pct).extract_g + (drying.left_g if drying else 0.0)
            if drying is not None and drying.is_dry:
                material = replace(material, basis="powder", group="other")
        found.append((material, mass))
    return found
