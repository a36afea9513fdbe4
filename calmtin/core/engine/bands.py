"""How sure a prediction is: the bench's own offset, strengths and lots as priors."""

from __future__ import annotations

import numpy as np

from calmtin.core.engine.blend import Blend
from calmtin.core.engine.ladder import EXPONENT, RUNGS_PER_E
from calmtin.core.engine.neat import alone_crystal_pct
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material

BENCH_SD = 0.6  # prior spread of one bench's offset, rungs

Z80 = 1.2815515655446004  # half width of an 80 % band, in standard deviations


def rung_sd(blended: Blend, temps: Array, load: Array, phi: Array) -> Array:
    """Return one standard deviation of the rung (t,) from the priors."""
    part = load / np.where(phi > 0.0, phi, 1.0)[:, None]
    strength = np.array([m.ln_strength_sd for m in blended.materials])
    lots = np.stack([_lot_sd(m, temps) for m in blended.materials], axis=-1)
    variance = (part**2 * (strength**2 + lots**2)).sum(axis=-1)
    return np.asarray(np.sqrt(BENCH_SD**2 + (EXPONENT * RUNGS_PER_E) ** 2 * variance))


def _lot_sd(material: Material, temps: Array) -> Array:
    """Return the relative spread (t,) of a material's crystals between lots.

    Its spread in points is an 80 % half width; nobody knows better than "none or
    twice as much", so it stops at 1.
    """
    if not material.curve_spread_pct:
        return np.zeros_like(temps)
    alone = np.maximum(alone_crystal_pct(material, temps), 1e-9)
    return np.asarray(np.minimum(material.curve_spread_pct / Z80 / alone, 1.0))
