"""The eleven rungs of the firmness ladder, their words and their scale."""

from __future__ import annotations

import math

import numpy as np

from calmtin.core.engine.solids import Array
from calmtin.core.messages import gettext_noop

EXPONENT = 3.5  # growth of the yield value with load-bearing solids

Z80 = 1.2815515655446004  # half width of a likely range (80 %), in standard deviations
FLOWS_BELOW = 10.0  # g/cm2: it no longer holds a shape

RUNGS_PER_E = 10.0 / (EXPONENT * math.log(10.0))  # rungs for a factor e in yield value

LADDER: tuple[str, ...] = (
    gettext_noop("runs like oil"),
    gettext_noop("pours slowly"),
    gettext_noop("soft cream, no shape"),
    gettext_noop("scoops without a push"),
    gettext_noop("swirls under a fingertip"),
    gettext_noop("firm in the tin, warms to a swirl"),
    gettext_noop("holds an edge, a thumb dents it"),
    gettext_noop("stands as a stick, glides"),
    gettext_noop("hand-held bar, a thumbnail marks it"),
    gettext_noop("hard bar, needs warming to give"),
    gettext_noop("candle-hard, doesn’t give"),
)


def rung_word(rung: float) -> str:
    """Return the ladder's words for the rung nearest to `rung`."""
    return LADDER[min(10, max(0, math.floor(rung + 0.5)))]


def raw_rungs(yield_values: Array) -> Array:
    """Return 10 (log10 C - 1) / 3.5, not clipped; -inf where nothing is solid."""
    with np.errstate(divide="ignore"):
        return np.asarray(10.0 * (np.log10(yield_values) - 1.0) / EXPONENT)


def to_rungs(yield_values: Array) -> Array:
    """Return the rung, 0 to 10, of yield values in g/cm2.

    >>> to_rungs(np.array([0.0, 10.0, 1000.0, 1e6])).round(2).tolist()
    [0.0, 0.0, 5.71, 10.0]
    """
    return np.asarray(np.clip(raw_rungs(yield_values), 0.0, 10.0))


def yield_of_rungs(rungs: Array) -> Array:
    """Return the yield values, g/cm2, at `rungs`; the inverse of `raw_rungs`.

    >>> float(yield_of_rungs(np.array(20 / 3.5)).round())
    1000.0
    """
    return np.asarray(10.0 ** (1.0 + EXPONENT * rungs / 10.0))
