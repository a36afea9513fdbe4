"""Learning from a bench's own test pours: offsets, strengths and errors in the form of the law.

The rung is exact in the loads: with l_m the load of material m, found once per observation since the
solids do not depend on strengths, and theta_m the ln of the bench's factor on its strength,

.. math:: r = G \\ln \\sum_m l_m e^{\\theta_m + \\theta_{lot}} + c + b + \\sum_k s_k x_k,
          \\quad G = 10 / \\ln 10

b is one offset per instrument, x_k the shape terms of `engine.bands.Terms`; what the liquid resists
is added to the yield value and the storage rule taken off, as in a reading. The posterior is the
point of the highest density with the covariance of Laplace, worked out from the log each time.
docs/model.md, section 4.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import gammaln, ndtr

from calmtin.core.cached import cached_property
from calmtin.core.engine.bands import SHAPES, Prior, Shapes, Terms, lot_sd
from calmtin.core.engine.batch_readings import Many
from calmtin.core.engine.blend import Parts
from calmtin.core.engine.firmness import LOWEST_RUNG
from calmtin.core.engine.ladder import EXPONENT, RUNGS_PER_E, raw_rungs, yield_of_rungs
from calmtin.core.engine.press import PRESS_SD
from calmtin.core.engine.solids import Array
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CHECK_C, RUNG, check
from calmtin.core.materials import Material
from calmtin.core.messages import gettext_noop, said

Instrument = Literal["thumb", "press"]
INSTRUMENTS: tuple[Instrument, ...] = ("thumb", "press")
OFFSET_SD: dict[Instrument, float] = {"thumb": 0.6, "press": 1.5}

G = EXPONENT * RUNGS_PER_E  # rungs for a factor e in load
THUMB_SD = 0.8  # rungs by which a word picked by a thumb may be off
PRESS_DF = 4.0  # Student's t: a press that slipped is not believed
ABSURD = 0.05  # share of thumb tests that say nothing of the pour
WORDS = 11
LAW_SD = 0.2  # what the law, set right by the shape terms, still misses
FAR_SD = 0.4  # and at 12 C from 21 C
DOUBTFUL = 0.5  # probability of being absurd from which an observation is pointed out
PRESS_DOUBTFUL = 3.5  # standard deviations
LOT_AT_C = 21.0


@dataclass(frozen=True, slots=True)
class Observation:
    """What one pour said at `at_c`, C, `age_days` after it was made.

    `felt` is the rung of the words that a thumb picked, or `pressed` the yield value, g/cm2, of a
    press test; one of them. `lots` names the lot of a material, by its slug, where it is known.
    """

    parts: Parts
    at_c: float
    felt: float | None = None
    pressed: float | None = None
    overrun: float = 0.0
    age_days: float | None = None
    careless: bool = False
    lots: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if (self.felt is None) == (self.pressed is None):
            raise CalmTinError(said("An observation is a thumb test or a press test: give one of them."))
        check(self.at_c, CHECK_C, name=gettext_noop("The temperature"), field="at_c", unit="°C")
        if self.felt is not None:
            check(self.felt, RUNG, name=gettext_noop("Firmness"), field="felt")
        if self.pressed is not None and not (self.pressed > 0.0 and math.isfinite(self.pressed)):
            raise CalmTinError(said("A press test reads more than 0 g."), field="pressed")

    @property
    def instrument(self) -> Instrument:
        """The instrument: thumb or press."""
        return "thumb" if self.felt is not None else "press"


@dataclass(frozen=True)
class Learned(Prior):
    """A bench after its test pours: a prior whose offset, strengths and shape terms are learned.

    `names` are the unknowns in the order of `mean` and `covariance`: ("offset", instrument),
    ("strength", slug), ("lot", "slug lot") and ("shape", term). `doubtful` are the places of
    observations that are more likely absurd than not; `pulls`, by place, the rungs by which each
    one moves what is said of its own pour.
    """

    names: tuple[tuple[str, str], ...] = ()
    mean: Array = field(default_factory=lambda: np.zeros(0))
    covariance: Array = field(default_factory=lambda: np.zeros((0, 0)))
    doubtful: tuple[int, ...] = ()
    pulls: Mapping[int, float] = field(default_factory=dict)
    count: int = 0

    @cached_property
    def mark(self) -> int:
        """A key that tells this lesson from every other."""
        return hash((self.count, self.mean.tobytes(), self.covariance.tobytes()))

    @cached_property
    def _place(self) -> dict[tuple[str, str], int]:
        return {name: n for n, name in enumerate(self.names)}

    def of(self, kind: str, name: str) -> tuple[float, float] | None:
        """Return the mean and standard deviation of one unknown; None where no observation informs it."""
        place = self._place.get((kind, name))
        if place is None:
            return None
        return float(self.mean[place]), float(math.sqrt(max(self.covariance[place, place], 0.0)))

    def sum_of(self, weights: Mapping[tuple[str, str], float]) -> tuple[float, float] | None:
        """Return mean and standard deviation of a weighted sum of unknowns; None where one is not known."""
        if any(name not in self._place for name in weights):
            return None
        along = np.zeros(len(self.names))
        for name, weight in weights.items():
            along[self._place[name]] = weight
        variance = float(along @ self.covariance @ along)
        return float(along @ self.mean), math.sqrt(max(variance, 0.0))

    def shift(self, shapes: Shapes) -> Array:
        """Return the rungs (...) by which the offset and the shape terms move a reading."""
        moved = super().shift(shapes)
        for name, value in shapes.items():
            moved = moved + self.mean[self._place["shape", name]] * value
        return moved

    def sd(self, terms: Terms) -> Array:
        """Return how sure a reading is (t,), rungs: posterior, lots to come, what the law misses."""
        # How much each unknown moves the reading (t,), by its place: a formula has a dozen of hundreds.
        moves = {self._place["offset", "thumb"]: np.ones(len(terms.temps))}
        far = FAR_SD * (terms.temps - 21.0) / 12.0
        variance: Array = self.law_sd**2 + far**2 + (terms.slope * self.melting_sd_c) ** 2
        for n, material in enumerate(terms.materials):
            part = G * terms.part[:, n]
            place = self._place.get(("strength", material.slug))
            if place is None:
                variance = variance + (part * material.ln_strength_sd) ** 2
            else:
                moves[place] = moves.get(place, 0.0) + part
            variance = variance + (part * lot_sd(material, terms.temps)) ** 2
        for name, value in terms.shapes.items():
            moves[self._place["shape", name]] = np.broadcast_to(value, len(terms.temps))
        places = list(moves)
        jacobian = np.stack([moves[place] for place in places], axis=1)
        told = ((jacobian @ self.covariance[np.ix_(places, places)]) * jacobian).sum(axis=1)
        return np.asarray(np.sqrt(variance + np.maximum(told, 0.0)))


_Unknowns = dict[tuple[str, str], tuple[int, float]]  # by name: its column and its prior sd


@dataclass(frozen=True, eq=False)
class _Log:
    """Observations ready for the fit: their loads as cells, and all that does not depend on unknowns.

    `cells` are (row, load, column of the strength, column of the lot or -1).
    """

    names: tuple[tuple[str, str], ...]
    prior_sd: Array
    cells: tuple[NDArray[np.intp], Array, NDArray[np.intp], NDArray[np.intp]]
    fixed: Array  # (n, f) offsets and shape terms, which are the first f unknowns
    const: Array
    softer: Array
    liquid: Array
    sd: Array
    felt: Array  # nan where it was pressed
    pressed: Array  # raw rungs; nan where it was felt


def learn(observations: Sequence[Observation], *, excluded: Iterable[int] = ()) -> Prior:
    """Return what a bench knows after `observations`; those at the places `excluded` do not count.

    Without any it is the plain `Prior`. Thumb tests are ordinal, with 5 % that say nothing of the
    pour; press tests have Student's t with 4 degrees of freedom. Observations of what cannot be
    predicted (powder alone) teach nothing.
    """
    left_out = set(excluded)
    counted = [n for n in range(len(observations)) if n not in left_out]
    if not counted:
        return Prior()
    log, teaching = _log_of([observations[n] for n in counted])
    kept = [counted[n] for n in teaching]
    if not kept:
        return Prior()
    found = minimize(
        lambda x: _surprise(log, x), np.zeros(len(log.names)), jac=True, method="L-BFGS-B", tol=1e-9
    )
    mean = np.asarray(found.x)
    rungs, chain, share = _rungs(log, mean)
    jacobian = _jacobian(log, chain, share)
    weighted = jacobian * np.sqrt(_information(log, rungs))[:, None]
    precision = weighted.T @ weighted + np.diag(1.0 / log.prior_sd**2)
    covariance = np.asarray(np.linalg.inv(precision), dtype=float)
    place = {name: n for n, name in enumerate(log.names)}
    pulls = _score(log, rungs)[1] * ((jacobian @ covariance) * jacobian).sum(axis=1)
    strengths = {name: float(math.exp(mean[n])) for (kind, name), n in place.items() if kind == "strength"}
    return Learned(
        offset=float(mean[place["offset", "thumb"]]),
        strengths=strengths,
        names=log.names,
        mean=mean,
        covariance=covariance,
        doubtful=tuple(kept[n] for n in _doubtful(log, rungs)),
        pulls={kept[n]: float(pull) for n, pull in enumerate(pulls)},
        count=len(kept),
    )


def _log_of(observations: Sequence[Observation]) -> tuple[_Log, list[int]]:
    """Return the observations for the fit, and the positions of those that are usable."""
    many = Many(observations)
    places = [int(n) for n in np.flatnonzero(many.can_teach)]
    kept = [observations[n] for n in places]
    if not kept:
        return _NOTHING, places
    if len(kept) < len(observations):
        many = Many(kept)
    unknowns: _Unknowns = {}
    for instrument in INSTRUMENTS:
        _column(unknowns, ("offset", instrument), OFFSET_SD[instrument])
    for shape, sd in SHAPES.items():
        _column(unknowns, ("shape", shape), sd)
    rows, materials = np.nonzero(many.load > 0.0)
    strengths = {
        n: _column(unknowns, ("strength", many.materials[n].slug), many.materials[n].ln_strength_sd)
        for n in dict.fromkeys(materials.tolist())
    }
    lots = np.full(len(rows), -1)
    for cell, (row, n) in enumerate(zip(rows.tolist(), materials.tolist(), strict=True)):
        material = many.materials[n]
        lot = kept[row].lots.get(material.slug)
        if lot is not None:
            lots[cell] = _column(unknowns, ("lot", f"{material.slug} {lot}"), _lot_sd(material))
    fixed = np.zeros((len(kept), len(INSTRUMENTS) + len(SHAPES)))
    for row, seen in enumerate(kept):
        fixed[row, unknowns["offset", seen.instrument][0]] = 1.0
    for name, value in many.shapes.items():
        fixed[:, unknowns["shape", name][0]] = value
    felt = np.array([math.nan if seen.felt is None else seen.felt for seen in kept])
    pressed = np.array([math.nan if seen.pressed is None else seen.pressed for seen in kept])
    # A lot may melt a little sooner or later: that is noise of this observation, not of the thumb.
    sooner = many.slope * Prior.melting_sd_c
    far = FAR_SD * (many.temps - 21.0) / 12.0
    noise = np.where(np.isnan(felt), PRESS_SD, THUMB_SD)
    return _Log(
        names=tuple(unknowns),
        prior_sd=np.array([sd for _, sd in unknowns.values()]),
        cells=(
            rows,
            many.load[rows, materials],
            np.array([strengths[n] for n in materials.tolist()]),
            lots,
        ),
        fixed=fixed,
        const=many.const,
        softer=many.softer,
        liquid=many.liquid,
        sd=np.sqrt(noise**2 + LAW_SD**2 + far**2 + sooner**2),
        felt=felt,
        pressed=raw_rungs(pressed),
    ), places


_NONE = np.zeros(0)
_NO_CELLS = (np.zeros(0, int), _NONE, np.zeros(0, int), np.zeros(0, int))
_NOTHING = _Log((), _NONE, _NO_CELLS, _NONE, _NONE, _NONE, _NONE, _NONE, _NONE, _NONE)


def _column(unknowns: _Unknowns, name: tuple[str, str], sd: float) -> int:
    """Return the column of an unknown, which gets the next one with its prior `sd` where it is new."""
    return unknowns.setdefault(name, (len(unknowns), max(sd, 1e-3)))[0]


def _lot_sd(material: Material) -> float:
    return float(lot_sd(material, np.array([LOT_AT_C]))[0])


def _rungs(log: _Log, x: Array) -> tuple[Array, Array, Array]:
    """Return what each observation should have shown (n,), not clipped; the slope of that in the raw
    rung of its network (n,); and the slope of the raw rung in the ln strength of each cell.
    """
    row, load, strength, lot = log.cells
    count = len(log.const)
    ln_factor = x[strength] + np.where(lot >= 0, x[lot], 0.0)
    carried = load * np.exp(ln_factor)
    phi = np.bincount(row, carried, minlength=count)
    with np.errstate(divide="ignore"):
        network = G * np.log(phi) + log.const
    is_solid = network > LOWEST_RUNG
    raw = np.where(is_solid, network, LOWEST_RUNG) + log.fixed @ x[: log.fixed.shape[1]] - log.softer
    solid_yield = yield_of_rungs(raw)
    rungs = raw_rungs(solid_yield + log.liquid)
    share = G * carried / np.where(phi > 0.0, phi, 1.0)[row] * is_solid[row]
    return rungs, solid_yield / (solid_yield + log.liquid), share


def _jacobian(log: _Log, chain: Array, share: Array) -> Array:
    """Return the slope of each observation in the unknowns (n, p), from what `_rungs` returns."""
    row, _, strength, lot = log.cells
    slope = np.zeros((len(chain), len(log.names)))
    slope[:, : log.fixed.shape[1]] = log.fixed
    np.add.at(slope, (row, strength), share)
    at_lot = lot >= 0
    np.add.at(slope, (row[at_lot], lot[at_lot]), share[at_lot])
    return slope * chain[:, None]


def _down(log: _Log, weights: Array, share: Array) -> Array:
    """Return `weights` (n,) times the slope of the raw rungs in the unknowns (p,): no matrix is made."""
    row, _, strength, lot = log.cells
    told = weights[row] * share
    at_lot, count = lot >= 0, len(log.names)
    slope = np.bincount(strength, told, minlength=count).astype(float)
    slope += np.bincount(lot[at_lot], told[at_lot], minlength=count)
    slope[: log.fixed.shape[1]] += weights @ log.fixed
    return slope


def _surprise(log: _Log, x: Array) -> tuple[float, Array]:
    """Return minus the ln of the posterior density at x, and its slope."""
    rungs, chain, share = _rungs(log, x)
    ln, by_rung = _score(log, rungs)
    beside = x / log.prior_sd
    slope = beside / log.prior_sd - _down(log, by_rung * chain, share)
    return float(beside @ beside / 2.0 - ln.sum()), slope


def _score(log: _Log, rungs: Array) -> tuple[Array, Array]:
    """Return ln of the likelihood of each observation (n,), and its slope in the rung."""
    by_rung, ln = np.zeros_like(rungs), np.zeros_like(rungs)
    felt = ~np.isnan(log.felt)
    ln[felt], by_rung[felt] = _ln_felt(log.felt[felt], rungs[felt], log.sd[felt])
    z = (log.pressed[~felt] - rungs[~felt]) / log.sd[~felt]
    ln[~felt] = _LN_T - np.log(log.sd[~felt]) - (PRESS_DF + 1.0) / 2.0 * np.log1p(z * z / PRESS_DF)
    by_rung[~felt] = (PRESS_DF + 1.0) * z / (PRESS_DF + z * z) / log.sd[~felt]
    return ln, by_rung


_LN_T = float(
    gammaln((PRESS_DF + 1.0) / 2.0) - gammaln(PRESS_DF / 2.0) - 0.5 * math.log(PRESS_DF * math.pi)
)


def _cuts(felt: Array) -> tuple[Array, Array]:
    """Return between which rungs a thumb picks a word: half a rung either way, open at both ends."""
    low = np.where(felt <= 0.0, -np.inf, felt - 0.5)
    return low, np.where(felt >= 10.0, np.inf, felt + 0.5)


def _ln_felt(felt: Array, rungs: Array, sd: Array) -> tuple[Array, Array]:
    """Return ln of the probability of the words that were picked, and its slope in the rung."""
    low, high = _cuts(felt)
    p, slope = _word(low, high, rungs, sd)
    whole = (1.0 - ABSURD) * p + ABSURD / WORDS
    return np.log(whole), (1.0 - ABSURD) * slope / whole


def _word(low: Array, high: Array, rungs: Array, sd: Array) -> tuple[Array, Array]:
    """Return the probability that a thumb's rung lies between two cuts, and its slope in the rung."""
    a, b = (low - rungs) / sd, (high - rungs) / sd
    density = (np.exp(-0.5 * a * a) - np.exp(-0.5 * b * b)) / (math.sqrt(2.0 * math.pi) * sd)
    return ndtr(b) - ndtr(a), density


def _information(log: _Log, rungs: Array) -> Array:
    """Return the expected information of each observation about its rung (n,), 1 / rungs^2."""
    told = (PRESS_DF + 1.0) / (PRESS_DF + 3.0) / log.sd**2
    felt = ~np.isnan(log.felt)
    low, high = _cuts(np.arange(WORDS, dtype=float))
    p, slope = _word(low, high, rungs[felt, None], log.sd[felt, None])
    whole = (1.0 - ABSURD) * p + ABSURD / WORDS
    told[felt] = (((1.0 - ABSURD) * slope) ** 2 / whole).sum(axis=-1)
    # One that is not believed tells nothing, however much one of its kind would.
    told[_doubtful(log, rungs)] = 0.0
    return np.asarray(told)


def _doubtful(log: _Log, rungs: Array) -> list[int]:
    """Return the observations that are more likely absurd than not."""
    felt = ~np.isnan(log.felt)
    low, high = _cuts(np.where(felt, log.felt, 0.0))
    p, _ = _word(low, high, rungs, log.sd)
    absurd = ABSURD / WORDS / ((1.0 - ABSURD) * p + ABSURD / WORDS)
    z = np.abs(np.where(felt, 0.0, log.pressed - rungs)) / log.sd
    return [int(n) for n in np.flatnonzero(np.where(felt, absurd > DOUBTFUL, z > PRESS_DOUBTFUL))]
