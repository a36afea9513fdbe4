"""What single pieces of a pour weigh: their mean, how they spread, and which are too light."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass

# How far one piece may fall short of what it is said to hold: up to so many g nominal, by a share
# of it or by grams (Directive 76/211/EEC, annex I, 2.4; below 5 g its first row is carried on).
SHORT_BY: tuple[tuple[float, float, float], ...] = (
    (50.0, 0.09, 0.0),
    (100.0, 0.0, 4.5),
    (200.0, 0.045, 0.0),
    (300.0, 0.0, 9.0),
    (500.0, 0.03, 0.0),
    (1000.0, 0.0, 15.0),
)
BEYOND = 0.015


@dataclass(frozen=True, slots=True)
class Pieces:
    """Single weights, g, summed up: `spread_g` is their standard deviation, `light` those set aside."""

    count: int
    mean_g: float
    spread_g: float | None
    light: tuple[float, ...]
    least_g: float


def short_by_g(nominal_g: float) -> float:
    """Return by how many grams a piece of `nominal_g` may fall short, g.

    Source: Directive 76/211/EEC, annex I, 2.4 (tolerable negative error).

    >>> short_by_g(50), short_by_g(60), short_by_g(2000)
    (4.5, 4.5, 30.0)
    """
    for most_g, share, grams in SHORT_BY:
        if nominal_g <= most_g:
            return nominal_g * share + grams
    return nominal_g * BEYOND


def weigh_up(weights_g: Sequence[float], nominal_g: float) -> Pieces:
    """Return mean, spread and the pieces that are too light for `nominal_g`, all in g.

    The spread is that of a sample (n - 1); a single piece has none. Raises
    `statistics.StatisticsError` without a weight.
    """
    least = nominal_g - short_by_g(nominal_g)
    return Pieces(
        count=len(weights_g),
        mean_g=statistics.fmean(weights_g),
        spread_g=statistics.stdev(weights_g) if len(weights_g) > 1 else None,
        light=tuple(w for w in weights_g if w < least - 1e-9),
        least_g=least,
    )
