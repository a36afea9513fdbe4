"""The formulas that can be made of some materials: percents in, rungs out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from calmtin.core.engine.bands import Prior, shapes_of
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import LOWEST_RUNG, SKIN_C
from calmtin.core.engine.ladder import RUNGS_PER_E, raw_rungs
from calmtin.core.engine.law import OIL_G_ML, liquid_yield, network_load, network_yield, powder_factor
from calmtin.core.engine.solids import Array, liquid_moles
from calmtin.core.materials import Material

HIGHEST_RUNG = 20.0  # what "jammed with powder" counts as, so that a search has an end


class Space:
    """The formulas of some materials, whipped by `overrun`, at the bench of `prior`.

    The law is `engine.law`.
    """

    def __init__(
        self, materials: Sequence[Material], *, overrun: float = 0.0, prior: Prior | None = None
    ) -> None:
        self.materials, self.overrun = tuple(materials), overrun
        even = blend([(material, 1.0) for material in materials], prior)
        row = {material: i for i, material in enumerate(even.materials)}
        order = [row[material] for material in materials]
        self.fractions: Array = (even.mass / (even.percent[:, None] / 100.0))[order]
        self._even = even
        self._factor = even.factor[order]
        self._wax = even.is_wax[order].astype(float)
        self._ln_viscosity = np.log([m.viscosity_pa_s for m in materials])
        self._volume = np.array([1.0 / m.density_solid for m in materials])
        self._filler = np.array([m.is_filler for m in materials], dtype=float)
        self._taken_up = np.array([m.oil_uptake / OIL_G_ML for m in materials]) * self._filler

    def _mass(self, percents: Array) -> Array:
        """Return component masses (p, k) in 1 g of each of `percents` (p, m)."""
        return np.asarray(percents / 100.0 @ self.fractions)

    def _crystals(self, mass: Array, temp_c: float) -> Array:
        """Return crystal masses (p, k) of component masses `mass` (p, k)."""
        moles = mass / self._even.molar_mass
        held = self._even.saturated(np.array([temp_c], dtype=float))
        liquid = liquid_moles(moles, held)[:, None]
        return np.asarray(np.maximum(moles - held * liquid, 0.0) * self._even.molar_mass)

    def _per_component(self, percents: Array, mass: Array, own: Array) -> Array:
        """Return the mean (p, k) of something of the materials `own` (m,) in each component."""
        brought = (percents / 100.0 * own) @ self.fractions
        return np.divide(brought, mass, out=np.zeros_like(mass), where=mass > 0.0)

    def rungs(self, percents: Array, temp_c: float) -> Array:
        """Return the rung (p,) of each of `percents` (p, m), not clipped to 0..10."""
        mass, temps = self._mass(percents), np.array(temp_c)
        matrix = np.maximum(1.0 - percents / 100.0 @ self._filler, 1e-9)
        solid = self._crystals(mass, temp_c) / matrix[:, None]
        carried = solid * self._even.strength
        phi = self._load(solid, carried * self._per_component(percents, mass, self._factor), temps)
        stiffer = powder_factor(
            percents @ (self._volume * self._filler), percents @ self._taken_up, percents @ self._volume
        )
        melt = np.maximum(mass / matrix[:, None] - solid, 0.0)
        liquid = melt.sum(axis=-1)
        ln_viscosity = self._per_component(percents, mass, self._ln_viscosity)
        resists = liquid_yield(liquid, (melt * ln_viscosity).sum(axis=-1) / np.maximum(liquid, 1e-9), temps)
        with np.errstate(over="ignore", invalid="ignore"):
            network = network_yield(phi, stiffer, self.overrun)
            if self._even.prior:
                of_wax = carried * self._per_component(percents, mass, self._factor * self._wax)
                share = self._load(solid, of_wax, temps) / np.where(phi > 0.0, phi, 1.0)
                wax = percents / 100.0 @ self._wax / matrix
                shapes = shapes_of(share, wax, temps, stiffer, self.overrun)
                network = network * np.exp(self._even.prior.shift(shapes) / RUNGS_PER_E)
            value = network + resists
        return np.clip(np.nan_to_num(raw_rungs(value), nan=HIGHEST_RUNG), LOWEST_RUNG, HIGHEST_RUNG)

    def _load(self, solid: Array, carried: Array, temps: Array) -> Array:
        """Return the load (p,) of crystals `solid` (p, k) that carry `carried` (p, k)."""
        fat = self._even.is_fat.astype(float)
        wax = 1.0 - fat
        return network_load(solid @ fat, carried @ fat, solid @ wax, carried @ wax, temps)

    def skin_melt(self, percents: Array, room_c: float) -> Array:
        """Return the share (p,) of the crystals at `room_c` that are gone at 33 C."""
        mass = self._mass(percents)
        room, skin = (self._crystals(mass, temp_c).sum(axis=-1) for temp_c in (room_c, SKIN_C))
        return np.asarray(1.0 - np.divide(skin, room, out=np.zeros_like(room), where=room > 1e-9))
