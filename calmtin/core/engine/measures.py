"""What the range of cups and spoons does to the firmness: a line that may weigh less or more."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from calmtin.core.engine.bands import Prior
from calmtin.core.engine.blend import Parts, blend
from calmtin.core.engine.firmness import Reading, read
from calmtin.core.engine.solids import Array
from calmtin.core.limits import RUNG


@dataclass(frozen=True, eq=False)
class Doubt:
    """What one measured line leaves open: the lowest and highest rung (t,) that its range gives."""

    place: int
    low: Array
    high: Array


def doubts_of(
    parts: Parts,
    spans: Mapping[int, tuple[float, float]],
    temps_c: Sequence[float] | Array,
    *,
    overrun: float = 0.0,
    prior: Prior | None = None,
) -> list[Doubt]:
    """Return the rungs (t,) at `temps_c` that the range of each measured line gives, one line at a time.

    `spans` holds, by place in `parts` (materials, masses), the least and most mass in the same unit.
    """
    found = []
    for place, span in spans.items():
        rungs = [_rungs(parts, place, mass, temps_c, overrun, prior) for mass in span]
        found.append(Doubt(place, np.minimum(*rungs), np.maximum(*rungs)))
    return found


def _rungs(
    parts: Parts,
    place: int,
    mass: float,
    temps_c: Sequence[float] | Array,
    overrun: float,
    prior: Prior | None,
) -> Array:
    other = [(m, mass if n == place else grams) for n, (m, grams) in enumerate(parts)]
    if not any(grams > 0 for _, grams in other):
        return np.zeros(len(temps_c))
    return read(blend(other, prior), temps_c, overrun=overrun).rung


def widened(reading: Reading, doubts: Sequence[Doubt]) -> tuple[Array, Array]:
    """Return the band (t,), (t,) of a reading with what its measures leave open, from 0 to the top rung.

    Each measure is taken as independent of the others and of what the prediction itself leaves:
    the distances below add up as squares, and so do those above.
    """
    down = (reading.rung - reading.low) ** 2
    up = (reading.high - reading.rung) ** 2
    for doubt in doubts:
        down = down + np.maximum(reading.rung - doubt.low, 0.0) ** 2
        up = up + np.maximum(doubt.high - reading.rung, 0.0) ** 2
    low = np.maximum(reading.rung - np.sqrt(down), RUNG[0])
    return low, np.minimum(reading.rung + np.sqrt(up), RUNG[1])
