"""The formulas that can be made of some materials: percents in, rungs out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import FILLER_LIMIT, STIFFNESS, few_fat_crystals
from calmtin.core.engine.ladder import EXPONENT, raw_rungs
from calmtin.core.engine.solids import Array, liquid_moles, saturation
from calmtin.core.materials import Material

SKIN_C = 33.0

LOWEST_RUNG = -6.0  # what "nothing is solid" counts as, so that a search has a slope


class Space:
    """The formulas that can be made of some materials: percents in, rungs out."""

    def __init__(self, materials: Sequence[Material]) -> None:
        self.materials = tuple(materials)
        even = blend([(material, 1.0) for material in materials])
        row = {material: i for i, material in enumerate(even.materials)}
        order = [row[material] for material in materials]
        self.fractions: Array = (even.mass / (even.percent[:, None] / 100.0))[order]
        self._even = even
        self._factor = np.array([m.strength_factor for m in materials])
        self._volume = np.array([1.0 / m.density_solid for m in materials])
        self._filler = np.array([m.is_filler for m in materials], dtype=float)

    def crystals(self, percents: Array, temp_c: float) -> Array:
        """Return crystal masses (p, k) in 1 g of each of `percents` (p, m)."""
        mass = percents / 100.0 @ self.fractions
        moles = mass / self._even.molar_mass
        held = saturation(np.array([temp_c]), self._even.melt_c, self._even.enthalpy_kj)
        liquid = liquid_moles(moles, held)[:, None]
        return np.asarray(np.maximum(moles - held * liquid, 0.0) * self._even.molar_mass)

    def rungs(self, percents: Array, temp_c: float) -> Array:
        """Return the rung (p,) of each of `percents` (p, m), not clipped to 0..10."""
        solid = self.crystals(percents, temp_c)
        mass = percents / 100.0 @ self.fractions
        own = (percents / 100.0 * self._factor) @ self.fractions
        strength = self._even.strength * np.divide(own, mass, out=np.ones_like(mass), where=mass > 0.0)
        fat = solid @ self._even.is_fat.astype(float)
        weight = np.where(self._even.is_fat, few_fat_crystals(fat)[:, None], 1.0)
        load = (solid * strength * weight).sum(axis=-1)
        volume = percents @ self._volume
        filler = np.minimum(percents @ (self._volume * self._filler) / volume, 0.99 * FILLER_LIMIT)
        with np.errstate(over="ignore"):
            value = STIFFNESS * load**EXPONENT * (1.0 - filler / FILLER_LIMIT) ** -1.5
        return np.maximum(raw_rungs(value), LOWEST_RUNG)

    def skin_melt(self, percents: Array, room_c: float) -> Array:
        """Return the share (p,) of the crystals at `room_c` that are gone at 33 C."""
        room, skin = (self.crystals(percents, t).sum(axis=-1) for t in (room_c, SKIN_C))
        return np.asarray(1.0 - np.divide(skin, room, out=np.zeros_like(room), where=room > 1e-9))
