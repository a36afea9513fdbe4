"""Uncertainty of a prediction: priors for a bench, its materials and the law."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from calmtin.core.cached import cached_property
from calmtin.core.engine.ladder import EXPONENT, RUNGS_PER_E, Z80
from calmtin.core.engine.law import FEW_WAX, FEW_WAX_AT, WARMTH_FROM_C
from calmtin.core.engine.pure_material import alone_crystal_pct
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material

# The ways in which the law may be wrong in form, with the spread of each: lean wax gels and powders (as a
# share of the rungs that they are worth), the warmth of waxes (rungs at 12 C from 21 C), and air (the
# exponent of whipping).
Shape = Literal["lean", "warmth", "powder", "air"]
SHAPES: dict[Shape, float] = {"lean": 0.8, "warmth": 0.4, "powder": 0.5, "air": 0.4}
Shapes = Mapping[Shape, Array]


def shapes_of(
    wax_share: Array,
    wax: Array | float,
    temps: Array,
    stiffer: Array | float,
    overrun: Array | float,
) -> Shapes:
    """Return by how many rungs each shape term would move a rung if it were 1; all broadcast.

    `wax_share` is the waxes' share of the load, `wax` their mass in 1 g of matrix, `stiffer` the
    factor of the powders.
    """
    lean = wax_share * EXPONENT * RUNGS_PER_E * np.log1p(FEW_WAX * np.exp(-np.asarray(wax) / FEW_WAX_AT))
    none = np.zeros_like(lean)
    return {
        "lean": lean,
        "warmth": wax_share * (temps - WARMTH_FROM_C) / 12.0,
        "powder": none + RUNGS_PER_E * np.log(stiffer),
        "air": none - RUNGS_PER_E * np.log1p(overrun),
    }


@dataclass(frozen=True, eq=False)
class Terms:
    """The terms a prediction depends on, from which its uncertainty is computed: arrays are (t,) or (t, m).

    `part` is each material's share of the load, `slope` rungs per C, `shapes` those of `shapes_of`.
    """

    materials: tuple[Material, ...]
    temps: Array
    part: Array
    slope: Array
    shapes: Shapes


@dataclass(frozen=True)
class Prior:
    """The prior for a bench, before or after its own pours; passed in, never looked up.

    Offsets and spreads in rungs; `strengths` are factors by slug; the other spreads are those of the
    ways in which the law may be wrong: its shape terms, everything else, and lots that melt a little
    sooner or later (C). `engine.learning.Learned` is one after a bench's own pours.
    """

    offset: float = 0.0
    offset_sd: float = 0.6
    strengths: Mapping[str, float] = field(default_factory=dict)
    law_sd: float = 0.3
    melting_sd_c: float = 1.2

    @cached_property
    def mark(self) -> int:
        """A key that tells priors apart; the standard prior always has the same one."""
        return 0

    def strength(self, material: Material) -> float:
        """Return the factor on a material's strength at this bench."""
        return self.strengths.get(material.slug, 1.0)

    def shift(self, shapes: Shapes) -> Array:
        """Return the rungs (...) by which the bench's offset and shape terms move a reading."""
        return np.full_like(shapes["lean"], self.offset)

    def sd(self, terms: Terms) -> Array:
        """Return how sure a reading is (t,), rungs, before the liquid's own part and the clip.

        .. math:: \\sigma^2 = \\sigma_b^2 + G^2 \\sum s_m^2 \\sigma_m^2 + (1.2\\,dR/dT)^2 + 0.3^2
                  + (0.4 w (T - 21) / 12)^2 + (0.5 p)^2

        with G rungs for a factor e in load, s_m each material's share of the load and sigma_m its
        strength's and its lots' spread, w the waxes' share, p the powder's rungs. What lean gels and
        air may be off by is in the 0.3 of the law until a bench has measured it.
        """
        strength = np.array([m.ln_strength_sd for m in terms.materials])
        lots = np.stack([lot_sd(m, terms.temps) for m in terms.materials], axis=-1)
        materials = (EXPONENT * RUNGS_PER_E) ** 2 * (terms.part**2 * (strength**2 + lots**2)).sum(axis=-1)
        variance = (
            self.offset_sd**2
            + materials
            + (terms.slope * self.melting_sd_c) ** 2
            + self.law_sd**2
            + (SHAPES["warmth"] * terms.shapes["warmth"]) ** 2
            + (SHAPES["powder"] * terms.shapes["powder"]) ** 2
        )
        return np.asarray(np.sqrt(variance))


def lot_sd(material: Material, temps: Array) -> Array:
    """Return the relative spread (t,) of a material's crystals between lots.

    Its spread in points is an 80 % half width; nobody knows better than "none or
    twice as much", so it stops at 1.
    """
    if not material.curve_spread_pct:
        return np.zeros_like(temps)
    alone = np.maximum(alone_crystal_pct(material, temps), 1e-9)
    return np.asarray(np.minimum(material.curve_spread_pct / Z80 / alone, 1.0))
