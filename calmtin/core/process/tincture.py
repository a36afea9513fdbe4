"""An alcohol tincture: what it contains, and what must be driven off."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

TINCTURE = "alcohol_tincture"  # its material
ETHANOL_DENSITY = 0.789  # g/ml at 20 C
# Density of ethanol and water, g/ml at 20 C, by % alcohol in volume (OIML R22, rounded).
_TABLE_PCT = (0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100)
_TABLE_DENSITY = (0.998, 0.985, 0.974, 0.962, 0.948, 0.930, 0.909, 0.886, 0.859, 0.829, 0.789)
_DRY_EXTRACT = 0.03  # share of a usual tincture that is neither water nor alcohol


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


def tincture(grams: float, alcohol_pct: float) -> Tincture:
    """Return what `grams` of tincture at `alcohol_pct` by volume hold.

    >>> t = tincture(100.0, 50.0)  # 97 g of 50 % spirit: 97 / 0.930 x 0.5 x 0.789
    >>> round(t.alcohol_g, 1), round(t.water_g, 1), round(t.to_lose_g, 1)
    (41.1, 55.9, 97.0)
    """
    spirit = grams * (1.0 - _DRY_EXTRACT)
    density = float(np.interp(alcohol_pct, _TABLE_PCT, _TABLE_DENSITY))
    alcohol = spirit / density * alcohol_pct / 100.0 * ETHANOL_DENSITY
    return Tincture(alcohol, spirit - alcohol, grams - spirit)
