"""How much of another wax does what beeswax does."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from calmtin.core.data.loader import library
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import network_values
from calmtin.core.materials import Material

GEL_PCT = 20.0  # the beeswax gel that another wax is held against
AT = np.array([21.0])


@lru_cache(maxsize=256)
def beeswax_for(wax: Material, beeswax: Material, oil: Material) -> float:
    """Return the grams of beeswax that 1 g of `wax` replaces in a 20 % gel in `oil` at 21 C.

    1 for beeswax itself, about 1.5 for candelilla. By bisection: more of a wax is
    never softer. At least 0.2, for what hardly gels.
    """

    def gel(material: Material, percent: float) -> float:
        return float(network_values(blend([(material, percent), (oil, 100.0 - percent)]), AT)[0])

    wanted, low, high = gel(beeswax, GEL_PCT), 1.0, 99.0
    for _ in range(30):
        middle = (low + high) / 2.0
        low, high = (low, middle) if gel(wax, middle) > wanted else (middle, high)
    return max(GEL_PCT / high, 0.2)


def usual_wax(usual: tuple[float, float], waxes: Sequence[tuple[Material, float]]) -> tuple[float, float]:
    """Return a kind's usual range of wax, %, for the waxes used, to whole percents.

    A kind's own range is told for beeswax; a stronger wax needs less to do the same.
    """
    strength = wax_strength(waxes)
    return float(round(usual[0] / strength)), float(round(usual[1] / strength))


def wax_strength(waxes: Sequence[tuple[Material, float]]) -> float:
    """Return how many times as strong as beeswax a mixture of waxes is, gram for gram; 1 for none."""
    weight = sum(grams for wax, grams in waxes if wax.fractions)
    if weight <= 0.0:
        return 1.0
    beeswax, oil = library()["beeswax_yellow"], library()["sunflower_high_oleic"]
    return sum(grams * beeswax_for(wax, beeswax, oil) for wax, grams in waxes if wax.fractions) / weight
