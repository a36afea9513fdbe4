"""A composition made ready for the engine, and which of it is crystal."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from calmtin.core.cached import cached_property
from calmtin.core.engine.law import OIL_G_ML, powder_factor
from calmtin.core.engine.solids import Array, saturation, solid_shares
from calmtin.core.errors import CalmTinError, EmptyFormula
from calmtin.core.materials import Component, Material
from calmtin.core.messages import said

if TYPE_CHECKING:
    from calmtin.core.engine.bands import Prior

Parts = Sequence[tuple[Material, float]]


@dataclass(frozen=True)
class Powder:
    """The powders of 1 g of a blend: mass, g; volume and oil taken up, ml; and all volume, ml."""

    mass: float = 0.0
    volume: float = 0.0
    oil_volume: float = 0.0
    total_volume: float = 1.0

    @property
    def matrix(self) -> float:
        """The mass of everything else, g."""
        return 1.0 - self.mass

    @cached_property
    def stiffer(self) -> float:
        """How many times it stiffens; endless where the oil cannot wet it."""
        return float(powder_factor(self.volume, self.oil_volume, self.total_volume))


@dataclass(frozen=True, eq=False)
class Blend:
    """A composition made ready for the engine; build it with `blend`.

    `percent` (m,) sums to 100. `mass` (m, k) is each component's share of the
    total that comes with each material; the component arrays are (k,). `prior` is what is known
    of the bench that it is read for; without one it is read by the book.
    """

    materials: tuple[Material, ...]
    percent: Array
    mass: Array
    melt_c: Array
    enthalpy_kj: Array
    molar_mass: Array
    strength: Array
    is_fat: NDArray[np.bool_]
    powder: Powder
    prior: Prior | None = None

    @cached_property
    def factor(self) -> Array:
        """What each material's strength is multiplied by (m,): its maker's figure, times the bench's."""
        own = self.prior.strength if self.prior else lambda _: 1.0
        return np.array([m.strength_factor * own(m) for m in self.materials])

    @cached_property
    def is_wax(self) -> NDArray[np.bool_]:
        """Which materials are waxes (m,)."""
        return np.array([m.group == "wax" for m in self.materials])

    @cached_property
    def component_mass(self) -> Array:
        """Mass of each component in 1 g of the whole (k,)."""
        return np.asarray(self.mass.sum(axis=0))

    @cached_property
    def moles(self) -> Array:
        """Moles of each component in 1 g of the whole (k,)."""
        return self.component_mass / self.molar_mass

    @cached_property
    def carrying(self) -> Array:
        """Load that 1 g of crystals of each component carries (k,), before the
        fat crystals' own rule: strength, times each material's own factor."""
        return self.strength * self.per_component(self.factor)

    def per_component(self, own: Array) -> Array:
        """Return the mean of something of the materials `own` (m,) in each component (k,)."""
        whole = np.where(self.component_mass > 0.0, self.component_mass, 1.0)
        return np.asarray((own @ self.mass) / whole)

    @cached_property
    def ln_viscosity(self) -> Array:
        """Ln of the viscosity, Pa s at 25 C, of each component when liquid (k,), by who brings it."""
        return self.per_component(np.log([m.viscosity_pa_s for m in self.materials]))

    @cached_property
    def weights(self) -> Array:
        """Per mole (k, 6): mass and load of fat, mass and load of wax; mass, mass times ln viscosity."""
        mass = self.molar_mass
        load, fat = mass * self.carrying, self.is_fat
        columns = [mass * fat, load * fat, mass * ~fat, load * ~fat, mass, mass * self.ln_viscosity]
        return np.stack(columns, -1)

    @cached_property
    def weights_of_wax(self) -> Array:
        """Per mole (k, 3): the loads of fat and of wax crystals that waxes bring, and their mass."""
        whole = self.per_component(self.factor)
        of_wax = self.per_component(self.is_wax * self.factor) / np.where(whole > 0.0, whole, 1.0)
        load = self.molar_mass * self.carrying * of_wax
        mass = self.molar_mass * self.per_component(self.is_wax.astype(float))
        return np.stack([load * self.is_fat, load * ~self.is_fat, mass], -1)

    @cached_property
    def everything(self) -> Array:
        """The last two columns of `weights` for all that is in it: mass, and mass times ln viscosity."""
        return np.asarray(self.moles @ self.weights[:, 4:])

    def saturated(self, temps_c: Array) -> Array:
        """Return what the melt can hold of each component (t, k) at `temps_c` (t,)."""
        return _saturated(temps_c.tobytes(), self.melt_c.tobytes(), self.enthalpy_kj.tobytes())


@lru_cache(maxsize=256)
def _saturated(temps_c: bytes, melt_c: bytes, enthalpy_kj: bytes) -> Array:
    """Return `saturation`, kept: an edit changes amounts, seldom materials or temperatures."""
    held = saturation(*(np.frombuffer(column) for column in (temps_c, melt_c, enthalpy_kj)))
    held.flags.writeable = False
    return held


def blend(parts: Parts, prior: Prior | None = None) -> Blend:
    """Prepare `parts`, materials with masses in any one unit, for the engine, at the bench of `prior`.

    Lines of the same material are put together. Raises `EmptyFormula` when
    nothing has weight and `CalmTinError` for a negative or endless mass.
    """
    masses: dict[Material, float] = {}
    for material, mass in parts:
        if not (mass >= 0.0 and math.isfinite(mass)):
            raise CalmTinError(
                said(
                    "{name} has a weight of {mass}. Weights are 0 or more.", name=material.name, mass=mass
                ),
                field="percent",
                material=material.slug,
            )
        masses[material] = masses.get(material, 0.0) + mass
    total = math.fsum(masses.values())
    if total <= 0.0:
        raise EmptyFormula(
            said("Every ingredient is at 0. Give at least one a percentage."),
            field="percent",
        )
    present = [(material, mass / total) for material, mass in masses.items() if mass > 0.0]
    column: dict[Component, int] = {}
    for material, _ in present:
        for component, _ in material.fractions:
            column.setdefault(component, len(column))
    mass_table = np.zeros((len(present), max(1, len(column))))
    powders = [(material, share) for material, share in present if material.is_filler]
    powder = Powder(
        mass=sum(share for _, share in powders),
        volume=sum(share / material.density_solid for material, share in powders),
        oil_volume=sum(share * material.oil_uptake / OIL_G_ML for material, share in powders),
        total_volume=sum(share / material.density_solid for material, share in present),
    )
    for row, (material, share) in enumerate(present):
        for component, fraction in material.fractions:
            mass_table[row, column[component]] = share * fraction
    # A formula of powder alone still needs one column: an oil that is not there.
    grid = list(column) or [Component("none", -12.0, 80.0, 875.0, 1.0, "fat")]
    return Blend(
        materials=tuple(material for material, _ in present),
        percent=np.array([100.0 * share for _, share in present]),
        mass=mass_table,
        melt_c=np.array([c.melt_c for c in grid]),
        enthalpy_kj=np.array([c.enthalpy_kj_mol for c in grid]),
        molar_mass=np.array([c.molar_mass for c in grid]),
        strength=np.array([c.strength for c in grid]),
        is_fat=np.array([c.network == "fat" for c in grid]),
        powder=powder,
        prior=prior,
    )


def crystals(blended: Blend, temps_c: Array) -> Array:
    """Return the solid share of each component (t, k) at `temps_c` (t,)."""
    return solid_shares(blended.moles, blended.saturated(temps_c))
