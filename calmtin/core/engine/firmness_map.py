"""The formula as three groups: wax, butters with soft fats, liquid oils.

Inside each group the formula's own proportions are kept; powders and finishing
parts keep their share of the whole. So every point of the triangle is a formula
that the maker could weigh.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from calmtin.core.engine.bands import Prior
from calmtin.core.engine.blend import Blend, Parts, blend
from calmtin.core.engine.firmness import yield_values_of
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Layer

CORNERS: tuple[tuple[Layer, ...], ...] = (("wax",), ("butter", "soft_fat"), ("oil",))


@dataclass(frozen=True, eq=False)
class Trio:
    """`corners` (3, k): component mass of 1 g of each group (zero where it is empty);
    `rest` (k,): of the parts that stay, in 1 g of the whole; `free`: the share left
    for the three groups; `here` (3,): today's shares of it, summing to 1.
    """

    blended: Blend
    corners: Array
    rest: Array
    free: float
    here: Array


def trio_of(parts: Parts, *, held: frozenset[str] = frozenset(), prior: Prior | None = None) -> Trio:
    """Return the trio of a formula given as materials and masses.

    Materials whose slugs are in `held` stay with the parts that do not move.
    """
    blended = blend(parts, prior)
    member = np.array(
        [[m.layer in corner and m.slug not in held for m in blended.materials] for corner in CORNERS],
        dtype=float,
    )
    amounts = member @ (blended.percent / 100.0)
    free = float(amounts.sum())
    corners = member @ blended.mass
    return Trio(
        blended=blended,
        corners=corners / np.where(amounts > 0.0, amounts, 1.0)[:, None],
        rest=blended.component_mass - corners.sum(axis=0),
        free=free,
        here=amounts / free if free > 0.0 else np.full(3, 1.0 / 3.0),
    )


def triangle(steps: int) -> Array:
    """Return every point (p, 3) of a triangle cut in `steps`: (steps+1)(steps+2)/2 of them.

    >>> len(triangle(50))
    1326
    """
    return np.array(
        [(a, b, steps - a - b) for a in range(steps + 1) for b in range(steps + 1 - a)]
    ) / float(steps)


def trio_yield_values(trio: Trio, points: Array, temp_c: float, *, overrun: float = 0.0) -> Array:
    """Return the yield value, g/cm2 (p,), at each of `points` (p, 3) at `temp_c`."""
    mass = trio.rest + trio.free * (points @ trio.corners)
    return yield_values_of(trio.blended, mass, np.array([temp_c]), overrun=overrun)
