"""What a pot loses on the way to its containers, and what past pours tell of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

GAIN = 0.03  # of the melt: what two scales and the crumbs on a lid may add
# More than a pot and a spatula ever hold: something was left out of the count.
MISSING, MISSING_G = 0.25, 15.0


@dataclass(frozen=True, slots=True)
class Losses:
    """What does not end up in containers, g and shares of the melt (0 to below 1).

    `cling_g` and `cling_share` stay on pot, spatula and funnel; `test_g` is poured for a set
    test; `overfill_g` is scraped off moulds and goes back into the pot; `margin_share` is
    melted to be on the safe side; `powder_share` of the powder stays in cup and sieve.
    """

    cling_g: float = 0.0
    cling_share: float = 0.0
    test_g: float = 0.0
    overfill_g: float = 0.0
    margin_share: float = 0.0
    powder_share: float = 0.0


def came_to_more(melt_g: float, clung_g: float) -> bool:
    """Return whether a pour was counted for more than was in its pot, beyond what scales err.

    So it is where a test of 1 g was planned as an ounce on a bench of ounces, up to version 1.0.2.

    >>> came_to_more(200.0, -20.0), came_to_more(200.0, -1.0)
    (True, False)
    """
    return clung_g < -GAIN * melt_g


def is_missing_some(melt_g: float, clung_g: float) -> bool:
    """Return whether so much of a pour was counted as lost that something was left out of its count.

    >>> is_missing_some(200.0, 60.0), is_missing_some(200.0, 20.0), is_missing_some(10.0, 4.0)
    (True, False, False)
    """
    return clung_g > max(MISSING * melt_g, MISSING_G)


def learned_cling(pours: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """Return grams and share of the melt that cling, learned from past pours (melt g, clung g).

    From three pours of different size a line is drawn through them (least squares, neither end
    below 0); from fewer, the share alone. None without any. Pours of which more came out than went in
    tell nothing (`came_to_more`), nor do those of which a quarter is missing (`is_missing_some`): a
    plan that believed them would grow, and lose more by their count, without end.

    >>> grams, share = learned_cling([(100.0, 3.0), (200.0, 4.0), (400.0, 6.0)])
    >>> round(grams, 2), round(share, 4)
    (2.0, 0.01)
    """
    known = [
        (melt, max(clung, 0.0))
        for melt, clung in pours
        if melt > 0.0 and not came_to_more(melt, clung) and not is_missing_some(melt, clung)
    ]
    if not known:
        return None
    share = sum(clung for _, clung in known) / sum(melt for melt, _ in known)
    sizes = [melt for melt, _ in known]
    if len(known) < 3 or max(sizes) < 1.5 * min(sizes):
        return 0.0, min(share, MISSING)
    slope, grams = np.polyfit(sizes, [clung for _, clung in known], 1)
    if slope < 0.0:
        return float(np.mean([clung for _, clung in known])), 0.0
    return (0.0, min(share, MISSING)) if grams < 0.0 else (float(grams), min(float(slope), MISSING))
