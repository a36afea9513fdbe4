"""What carries a blend at one temperature, and what dissolves what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from calmtin.core.engine.blend import Blend, blend
from calmtin.core.engine.firmness import read
from calmtin.core.engine.ladder import to_rungs
from calmtin.core.engine.pure_material import alone_crystal_pct
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material


@dataclass(frozen=True, slots=True)
class Carrier:
    """One line of the "why" panel: a material and its effect at one temperature.

    `rungs` sum over the carriers to the predicted rung, `load_share` to 1.
    """

    material: Material
    percent: float
    crystal_pct: float
    alone_crystal_pct: float
    load_share: float
    rungs: float


def carriers(blended: Blend, temp_c: float, *, overrun: float = 0.0) -> list[Carrier]:
    """Return what each material does at `temp_c`, the strongest first; their rungs sum to the reading.

    The load adds up over the materials, so their shares are exact. The rung is divided
    in three: what the liquid adds to the network, by each material's share of the liquid;
    what the powders add to the plain network, by their volume; and the rest by the load.
    """
    reading = read(blended, [temp_c], overrun=overrun)
    load, rung = reading.load[0], float(reading.rung[0])
    phi = float(load.sum())
    network, plain = (
        float(to_rungs(reading.network / stiffer)[0]) for stiffer in (1.0, blended.powder.stiffer)
    )
    shares = {
        "load": load / phi if phi > 0.0 else load,
        "powder": _shares(blended, [m.is_filler / m.density_solid for m in blended.materials]),
        "liquid": _shares(blended, (1.0 - reading.crystal_pct[0] / 100.0) * _melts(blended)),
    }
    found = []
    for i, material in enumerate(blended.materials):
        rungs = shares["load"][i] * plain
        rungs += shares["powder"][i] * (network - plain) + shares["liquid"][i] * (rung - network)
        found.append(
            Carrier(
                material=material,
                percent=float(blended.percent[i]),
                crystal_pct=float(reading.crystal_pct[0, i]),
                alone_crystal_pct=float(alone_crystal_pct(material, np.array([temp_c]))[0]),
                load_share=float(shares["load"][i]),
                rungs=float(rungs),
            )
        )
    return sorted(found, key=lambda c: (-c.rungs, -c.percent))


def _shares(blended: Blend, per_gram: Sequence[float] | Array) -> Array:
    """Return each material's share (m,) of something that it brings `per_gram`."""
    brought = blended.percent * np.asarray(per_gram)
    whole = float(brought.sum())
    return np.asarray(brought / whole) if whole > 0.0 else brought


def _melts(blended: Blend) -> Array:
    """Return 1.0 for each material (m,) that takes part in the melt."""
    return np.array([float(bool(m.fractions)) for m in blended.materials])


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
