"""The next pour: the chance of meeting a target, and what a test pour would reveal.

Both come from the posterior of `engine.learning`. One more answer of a thumb or a press with
information I on a rung whose slope in the unknowns is j makes their covariance

.. math:: \\Sigma' = \\Sigma - \\Sigma j j^T \\Sigma / (1 / I + j^T \\Sigma j)

so the band at the target after it is known before it is poured.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from calmtin.core.engine.bands import SHAPES, Prior, Terms
from calmtin.core.engine.blend import Blend
from calmtin.core.engine.firmness import read
from calmtin.core.engine.ladder import Z80, raw_rungs, yield_of_rungs
from calmtin.core.engine.learning import (
    ABSURD,
    FAR_SD,
    INSTRUMENTS,
    LAW_SD,
    OFFSET_SD,
    PRESS_DF,
    THUMB_SD,
    G,
    Instrument,
    Learned,
)
from calmtin.core.engine.press import PRESS_SD
from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material


def chance_within(blended: Blend, at_c: float, band: tuple[float, float], *, overrun: float = 0.0) -> float:
    """Return the probability, 0 to 1, that a blend's rung at `at_c`, C, lies in `band`.

    By the spread of the blend's own prior: that of the book, or what its bench has learned.
    """
    reading = read(blended, [at_c], overrun=overrun)
    sd = float((blended.prior or Prior()).sd(reading.terms)[0])
    middle, liquid = float(raw_rungs(reading.network)[0]), float(reading.liquid[0])
    low, high = (_network_rung(rung, liquid) for rung in band)
    if band[1] >= 10.0:
        high = math.inf
    return float(ndtr((high - middle) / sd) - ndtr((low - middle) / sd))


def _network_rung(rung: float, liquid: float) -> float:
    """Return the raw rung of the network at which network and liquid together come to `rung`."""
    network = float(yield_of_rungs(np.array(rung))) - liquid
    return -math.inf if network <= 0.0 or rung <= 0.0 else float(raw_rungs(np.array(network)))


@dataclass(frozen=True, eq=False)
class Test:
    """A test that could be made: of a blend, at a temperature, with an instrument."""

    blended: Blend
    at_c: float
    instrument: Instrument = "thumb"
    overrun: float = 0.0


def narrowings(target: Test, tests: Sequence[Test]) -> tuple[float, list[float]]:
    """Return the width, rungs, of the 80 % band at `target` now, and after each of `tests` alone.

    A test that is felt once counts as one answer with the error of its instrument.
    """
    prior = target.blended.prior
    terms = [_terms(test) for test in (target, *tests)]
    names, covariance = _joint(prior, [m for one in terms for m in one.materials])
    place = {name: n for n, name in enumerate(names)}
    aim = _slope(place, terms[0], "thumb")
    fixed = float((prior or Prior()).sd(terms[0])[0]) ** 2 - float(aim @ covariance @ aim)
    fixed = max(fixed, 0.05)

    def width(left: float) -> float:
        return float(2.0 * Z80 * math.sqrt(fixed + max(left, 0.0)))

    now = float(aim @ covariance @ aim)
    after = []
    for test, told in zip(tests, terms[1:], strict=True):
        slope = _slope(place, told, test.instrument)
        along = covariance @ slope
        after.append(width(now - float(aim @ along) ** 2 / (_noise(test, told) + float(slope @ along))))
    return width(now), after


def _terms(test: Test) -> Terms:
    return read(test.blended, [test.at_c], overrun=test.overrun).terms


def _noise(test: Test, terms: Terms) -> float:
    """Return the variance, rungs^2, of one answer about a rung: instrument, law, absurd answers."""
    far = FAR_SD * (test.at_c - 21.0) / 12.0
    miss = LAW_SD**2 + far**2 + (float(terms.slope[0]) * Prior.melting_sd_c) ** 2
    if test.instrument == "press":
        return (PRESS_SD**2 + miss) * (PRESS_DF + 3.0) / (PRESS_DF + 1.0)
    # A word spans a rung, which adds that of a uniform; 5 % of the words say nothing.
    return (THUMB_SD**2 + miss + 1.0 / 12.0) / (1.0 - 2.0 * ABSURD)


def _joint(prior: Prior | None, materials: Sequence[Material]) -> tuple[list[tuple[str, str]], Array]:
    """Return the unknowns and their covariance, including those that no pour has informed yet."""
    names: list[tuple[str, str]] = list(prior.names) if isinstance(prior, Learned) else []
    sds: list[float] = []
    known = set(names)
    wanted: list[tuple[tuple[str, str], float]] = [(("offset", i), OFFSET_SD[i]) for i in INSTRUMENTS]
    wanted += [(("shape", shape), sd) for shape, sd in SHAPES.items()]
    wanted += [(("strength", m.slug), m.ln_strength_sd) for m in materials]
    for name, sd in wanted:
        if name not in known:
            known.add(name)
            names.append(name)
            sds.append(sd)
    covariance = np.diag(np.concatenate([np.zeros(len(names) - len(sds)), np.square(sds)]))
    if isinstance(prior, Learned):
        size = len(prior.names)
        covariance[:size, :size] = prior.covariance
    return names, covariance


def _slope(place: dict[tuple[str, str], int], terms: Terms, instrument: Instrument) -> Array:
    """Return the slope of a rung in the unknowns (p,)."""
    slope = np.zeros(len(place))
    slope[place["offset", instrument]] = 1.0
    for n, material in enumerate(terms.materials):
        slope[place["strength", material.slug]] += G * float(terms.part[0, n])
    for name, value in terms.shapes.items():
        slope[place["shape", name]] = float(value[0])
    return slope
