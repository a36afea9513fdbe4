"""What carries a blend at one temperature, and what dissolves what."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from calmtin.core.engine.blend import Blend, blend
from calmtin.core.engine.firmness import filler_factor, read
from calmtin.core.engine.ladder import EXPONENT
from calmtin.core.engine.neat import alone_crystal_pct
from calmtin.core.materials import Material


@dataclass(frozen=True, slots=True)
class Carrier:
    """One line of the "why": a material and what it does at one temperature.

    `rungs` sum over the carriers to the predicted rung, `load_share` to 1.
    """

    material: Material
    percent: float
    crystal_pct: float
    alone_crystal_pct: float
    load_share: float
    rungs: float


def carriers(blended: Blend, temp_c: float) -> list[Carrier]:
    """Return what each material does at `temp_c`, the strongest first.

    The load-bearing solids add up over the materials, so their shares are exact.
    The rung is divided in the same proportion after the powder's own part,
    log-additive in the yield value, is taken off for the powders.
    """
    reading = read(blended, [temp_c])
    load, rung = reading.load[0], float(reading.rung[0])
    phi = float(load.sum())
    stiffer = 10.0 * math.log10(filler_factor(blended.filler_volume)) / EXPONENT
    from_filler = min(stiffer, rung)
    filler_percent = sum(p for m, p in zip(blended.materials, blended.percent, strict=True) if m.is_filler)
    temps = np.array([temp_c])
    found = []
    for i, material in enumerate(blended.materials):
        percent = float(blended.percent[i])
        share = float(load[i] / phi) if phi > 0.0 else 0.0
        rungs = share * (rung - from_filler)
        if material.is_filler:
            rungs = from_filler * percent / filler_percent
        found.append(
            Carrier(
                material=material,
                percent=percent,
                crystal_pct=float(reading.crystal_pct[0, i]),
                alone_crystal_pct=float(alone_crystal_pct(material, temps)[0]),
                load_share=share,
                rungs=rungs,
            )
        )
    return sorted(found, key=lambda c: (-c.rungs, -c.percent))


@dataclass(frozen=True, slots=True)
class Dissolving:
    """A fat that is less solid in the blend than alone, and what dissolves it most.

    `without_pct` is the percent of `material` that would be crystal if `by` were
    left out and the rest kept its proportions.
    """

    material: Material
    alone_pct: float
    blend_pct: float
    by: Material
    without_pct: float


def dissolving(blended: Blend, temp_c: float, *, least_pct: float = 5.0) -> list[Dissolving]:
    """Return which materials others dissolve at `temp_c`, by `least_pct` points or more.

    Each material is left out in turn, so this costs as many predictions as there
    are lines. The fats that weigh most come first.
    """
    now = read(blended, [temp_c]).crystal_pct[0]
    temps = np.array([temp_c])
    parts = list(zip(blended.materials, blended.percent, strict=True))
    losers = [
        i
        for i, (material, _) in enumerate(parts)
        if float(alone_crystal_pct(material, temps)[0]) - now[i] >= least_pct
    ]
    if not losers or len(parts) < 2:
        return []
    without = []
    for left_out in range(len(parts)):
        rest = blend([part for i, part in enumerate(parts) if i != left_out])
        found = read(rest, [temp_c]).crystal_pct[0]
        without.append(np.insert(found, left_out, 0.0))
    table = np.array(without)
    np.fill_diagonal(table, -1.0)
    pairs = []
    for i in losers:
        worst = int(table[:, i].argmax())
        material = parts[i][0]
        pairs.append(
            Dissolving(
                material=material,
                alone_pct=float(alone_crystal_pct(material, temps)[0]),
                blend_pct=float(now[i]),
                by=parts[worst][0],
                without_pct=float(table[worst, i]),
            )
        )
    return sorted(pairs, key=lambda pair: -blended.percent[blended.materials.index(pair.material)])
