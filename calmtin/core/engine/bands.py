"""How sure a prediction is: what is known beforehand of a bench, its materials and the law."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from calmtin.core.engine.blend import Blend
from calmtin.core.engine.ladder import EXPONENT, RUNGS_PER_E, Z80
from calmtin.core.engine.neat import alone_crystal_pct
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material


@dataclass(frozen=True)
class Prior:
    """What is known of a bench before its own pours, or after them: passed in, never looked up.

    Offsets and spreads in rungs; `strengths` are factors by slug; the shape terms are the
    spreads of the ways in which the law may be wrong: with the warmth of waxes (rungs at
    12 C from 21 C), with powders (share of their own rungs), with everything else, and by
    lots that melt a little sooner or later (C).
    """

    offset: float = 0.0
    offset_sd: float = 0.6
    strengths: Mapping[str, float] = field(default_factory=dict)
    law_sd: float = 0.3
    warmth_sd: float = 0.4
    powder_sd: float = 0.5
    melting_sd_c: float = 1.2

    def strength(self, material: Material) -> float:
        """Return the factor on a material's strength at this bench."""
        return self.strengths.get(material.slug, 1.0)


def rung_bands(
    blended: Blend,
    temps: Array,
    load: Array,
    phi: Array,
    *,
    slope: Array,
    wax_share: Array,
    prior: Prior,
) -> Array:
    """Return half the width of the 80 % band (t,), rungs, before the liquid's own part and the clip.

    .. math:: \\sigma^2 = \\sigma_b^2 + G^2 \\sum s_m^2 \\sigma_m^2 + (1.2\\,dR/dT)^2 + 0.3^2
              + (0.4 w (T - 21) / 12)^2 + (0.5 p)^2

    with G rungs for a factor e in load, s_m each material's share of the load and
    sigma_m its strength's and its lots' spread, w the waxes' share, p the powder's rungs.
    """
    part = load / np.where(phi > 0.0, phi, 1.0)[:, None]
    strength = np.array([m.ln_strength_sd for m in blended.materials])
    lots = np.stack([_lot_sd(m, temps) for m in blended.materials], axis=-1)
    materials = (EXPONENT * RUNGS_PER_E) ** 2 * (part**2 * (strength**2 + lots**2)).sum(axis=-1)
    powder = RUNGS_PER_E * math.log(blended.powder.stiffer)
    variance = (
        prior.offset_sd**2
        + materials
        + (slope * prior.melting_sd_c) ** 2
        + prior.law_sd**2
        + (prior.warmth_sd * wax_share * (temps - 21.0) / 12.0) ** 2
        + (prior.powder_sd * powder) ** 2
    )
    return np.asarray(Z80 * np.sqrt(variance))


def _lot_sd(material: Material, temps: Array) -> Array:
    """Return the relative spread (t,) of a material's crystals between lots.

    Its spread in points is an 80 % half width; nobody knows better than "none or
    twice as much", so it stops at 1.
    """
    if not material.curve_spread_pct:
        return np.zeros_like(temps)
    alone = np.maximum(alone_crystal_pct(material, temps), 1e-9)
    return np.asarray(np.minimum(material.curve_spread_pct / Z80 / alone, 1.0))
