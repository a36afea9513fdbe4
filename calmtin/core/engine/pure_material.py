"""A material alone: which percent of it is crystal at a temperature."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from calmtin.core.engine.blend import blend, crystals
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Component, Material


def alone_crystal_pct(material: Material, temps_c: Array) -> Array:
    """Return the percent of the neat material that is crystal at `temps_c` (t,)."""
    grid, solid = _neat_curve(material.fractions)
    return np.interp(temps_c, grid, solid)


@lru_cache(maxsize=512)
def _neat_curve(fractions: tuple[tuple[Component, float], ...]) -> tuple[Array, Array]:
    grid = np.arange(-20.0, 110.25, 0.25)
    if not fractions:
        return grid, np.zeros_like(grid)
    neat = blend([(Material("neat", "neat", "other", "given", fractions), 1.0)])
    return grid, 100.0 * (crystals(neat, grid) @ neat.mass[0])
