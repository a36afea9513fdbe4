"""Many pots at once: the terms of all observations of a log, computed together.

The same sums as `engine.firmness.read` by the book, with a row for each pot instead of a blend: a
log of ten thousand answers takes a fraction of a second. Tests hold the two to each other.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Protocol

import numpy as np

from calmtin.core.cached import cached_property
from calmtin.core.engine.bands import Shapes, shapes_of
from calmtin.core.engine.blend import Parts, blend
from calmtin.core.engine.firmness import DENT_C, LOWEST_RUNG
from calmtin.core.engine.ladder import EXPONENT, RUNGS_PER_E, raw_rungs
from calmtin.core.engine.law import (
    OIL_G_ML,
    STIFFNESS,
    WHIPPED_EXPONENT,
    liquid_yield,
    network_load,
    powder_factor,
)
from calmtin.core.engine.solids import ZERO_C, Array, R, solid_shares
from calmtin.core.engine.storage import hardening, lower_form_shift_c
from calmtin.core.materials import Material


class Pot(Protocol):
    """A pot to predict: its parts, temperature in C, state and age in days."""

    @property
    def parts(self) -> Parts: ...  # noqa: D102
    @property
    def at_c(self) -> float: ...  # noqa: D102
    @property
    def overrun(self) -> float: ...  # noqa: D102
    @property
    def age_days(self) -> float | None: ...  # noqa: D102
    @property
    def careless(self) -> bool: ...  # noqa: D102


class Many:
    """The pots of a log, n of them, made of m materials; all figures are standard."""

    def __init__(self, pots: Sequence[Pot]) -> None:
        self.materials: tuple[Material, ...] = tuple(
            dict.fromkeys(material for pot in pots for material, grams in pot.parts if grams > 0.0)
        )
        column = {material: n for n, material in enumerate(self.materials)}
        self.shares = np.zeros((len(pots), len(self.materials)))
        for row, pot in enumerate(pots):
            for material, grams in pot.parts:
                if grams > 0.0:
                    self.shares[row, column[material]] += grams
        whole = self.shares.sum(axis=1, keepdims=True)
        self.shares /= np.where(whole > 0.0, whole, 1.0)
        self.temps = np.array([pot.at_c for pot in pots])
        self.overrun = np.array([pot.overrun for pot in pots])
        self.ages = np.array([math.nan if pot.age_days is None else pot.age_days for pot in pots])
        self._shift = np.array([lower_form_shift_c(p.age_days) if p.careless else 0.0 for p in pots])
        self._even = blend([(material, 1.0) for material in self.materials])
        self._fractions = self._even.mass * len(self.materials)
        self._mass = self.shares @ self._fractions
        filler = self._of(lambda m: float(m.is_filler))
        self._matrix = np.maximum(1.0 - self.shares @ filler, 1e-9)
        volume = self._of(lambda m: 1.0 / m.density_solid)
        taken_up = self._of(lambda m: m.oil_uptake / OIL_G_ML) * filler
        self.stiffer: Array = np.asarray(
            powder_factor(self.shares @ (volume * filler), self.shares @ taken_up, self.shares @ volume)
        )

    def _of(self, figure: Callable[[Material], float]) -> Array:
        return np.array([figure(material) for material in self.materials])

    @property
    def can_teach(self) -> Array:
        """Whether each pot (n,) can be predicted at all: it has something that melts, and is wet enough."""
        return np.asarray((self._mass.sum(axis=1) > 0.0) & np.isfinite(self.stiffer))

    def _per_component(self, own: Array) -> Array:
        """Return the mean (n, k) of something of the materials `own` (m,) in each component."""
        brought = (self.shares * own) @ self._fractions
        return np.divide(brought, self._mass, out=np.zeros_like(self._mass), where=self._mass > 0.0)

    @cached_property
    def _melt_c(self) -> Array:
        """The melting points (n, k): cocoa butter that was cooled without care still melts lower."""
        cocoa = self._of(lambda m: float(m.slug == "cocoa_butter"))
        if not self._shift.any() or not cocoa.any():
            return np.broadcast_to(self._even.melt_c, self._mass.shape)
        return np.asarray(self._even.melt_c - self._shift[:, None] * self._per_component(cocoa))

    def _crystals(self, temps: Array) -> Array:
        """Return the solid share (n, k) of each component with each pot at its own of `temps` (n,)."""
        slope = self._even.enthalpy_kj * (1000.0 / R)
        exponent = slope / (self._melt_c + ZERO_C) - slope / (temps[:, None] + ZERO_C)
        held = np.exp(np.minimum(exponent, 0.0))
        return solid_shares(self._mass / self._even.molar_mass, held)

    def _load(self, share: Array, temps: Array) -> Array:
        """Return each material's part of the load (n, m) for solid shares (n, k)."""
        is_fat, matrix = self._even.is_fat, self._matrix[:, None]
        fat = (share * self._mass) @ is_fat / self._matrix
        wax = (share * self._mass) @ ~is_fat / self._matrix
        carried = share * self._even.strength / matrix
        own = self.shares * self._of(lambda m: m.strength_factor)
        return network_load(
            fat[:, None],
            (carried * is_fat) @ self._fractions.T * own,
            wax[:, None],
            (carried * ~is_fat) @ self._fractions.T * own,
            temps[:, None],
        )

    @cached_property
    def _share(self) -> Array:
        return self._crystals(self.temps)

    @cached_property
    def load(self) -> Array:
        """Each material's part of the load on the network (n, m)."""
        return self._load(self._share, self.temps)

    @cached_property
    def const(self) -> Array:
        """The raw rung (n,) of a network whose load is 1: powder and air."""
        return raw_rungs(STIFFNESS * self.stiffer * (1.0 + self.overrun) ** -WHIPPED_EXPONENT)

    @cached_property
    def liquid(self) -> Array:
        """What the liquid of each pot resists, g/cm2 (n,)."""
        melt = (1.0 - self._share) * self._mass / self._matrix[:, None]
        share = melt.sum(axis=1)
        viscosity = self._per_component(np.log(self._of(lambda m: m.viscosity_pa_s)))
        return liquid_yield(share, (melt * viscosity).sum(axis=1) / np.maximum(share, 1e-9), self.temps)

    @cached_property
    def slope(self) -> Array:
        """Rungs per C (n,) by which each network softens as it warms."""
        warm, cold = (self._raw_at(self.temps + shift) for shift in (DENT_C, -DENT_C))
        return np.asarray((warm - cold) / (2.0 * DENT_C))

    def _raw_at(self, temps: Array) -> Array:
        phi = self._load(self._crystals(temps), temps).sum(axis=1)
        with np.errstate(divide="ignore"):
            network = EXPONENT * RUNGS_PER_E * np.log(phi) + self.const
        return np.asarray(np.maximum(network, LOWEST_RUNG))

    @cached_property
    def shapes(self) -> Shapes:
        """By how many rungs each shape term would move each pot (n,) if it were 1."""
        is_wax = self._of(lambda m: float(m.group == "wax"))
        phi = self.load.sum(axis=1)
        share = (self.load @ is_wax) / np.where(phi > 0.0, phi, 1.0)
        wax = self.shares @ is_wax / self._matrix
        return shapes_of(share, wax, self.temps, self.stiffer, self.overrun)

    @cached_property
    def softer(self) -> Array:
        """The rungs (n,) by which each pot is softer than it will be once it has set for good."""
        phi = self.load.sum(axis=1, keepdims=True)
        rungs, half = np.array([hardening(material) for material in self.materials]).T
        left = rungs * 2.0 ** (-np.nan_to_num(self.ages)[:, None] / half)
        come = (self.load / np.maximum(phi, 1e-300) * left).sum(axis=1)
        return np.asarray(np.where(np.isnan(self.ages), 0.0, come))
