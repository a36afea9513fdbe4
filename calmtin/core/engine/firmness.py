"""How firm a blend is, at any temperature, and how sure that is.

The scale is the yield value of a cone penetrometer (Haighton 1959), g/cm2; the
rung is its logarithm on the eleven-step ladder. `engine.law` has the law itself,
docs/model.md where it holds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from calmtin.core.engine.bands import Prior, Terms, shapes_of
from calmtin.core.engine.blend import Blend, Parts, blend, crystals
from calmtin.core.engine.ladder import FLOWS_BELOW, RUNGS_PER_E, Z80, raw_rungs, yield_of_rungs
from calmtin.core.engine.law import liquid_yield, network_load, network_yield
from calmtin.core.engine.solids import Array, first_haze_c, liquid_moles
from calmtin.core.engine.storage import in_lower_form, still_to_come
from calmtin.core.messages import gettext_noop

SKIN_C = 33.0
DENT_C = 0.6  # half the step over which the slope of a curve is taken, C
LOWEST_RUNG = -6.0  # what "nothing is solid" counts as, so that a slope has an end


@dataclass(frozen=True, eq=False)
class Reading:
    """What a blend does at each of `temps_c` (t,).

    `solid_pct` is crystal, % of the whole (powder not counted); `load` (t, m) is
    each material's part of the load on the network; `crystal_pct` (t, m) is the
    percent of each material that is crystal there. `network` and `liquid` are the two
    parts of `yield_value`, g/cm2. `rung` with its 80 % band `low` to `high` is for the
    state and age asked for; `terms` are what the prior judged it by.
    """

    temps_c: Array
    solid_pct: Array
    load: Array
    crystal_pct: Array
    network: Array
    liquid: Array
    rung: Array
    low: Array
    high: Array
    terms: Terms

    @property
    def yield_value(self) -> Array:
        """The whole yield value, g/cm2 (t,)."""
        return self.network + self.liquid


def network_values(blended: Blend, temps_c: Array, *, overrun: float = 0.0) -> Array:
    """Return the yield value of the network alone, g/cm2 (t,)."""
    return _parts_of_yield(blended, blended.component_mass, temps_c, overrun)[0]


def yield_values(blended: Blend, temps_c: Array, *, overrun: float = 0.0) -> Array:
    """Return the yield value, g/cm2 (t,), and nothing else: the quick way."""
    return yield_values_of(blended, blended.component_mass, temps_c, overrun=overrun)


def yield_values_of(
    blended: Blend, component_mass: Array, temps_c: Array, *, overrun: float = 0.0
) -> Array:
    """Return yield values (...) for other amounts of the components of `blended`.

    `component_mass` (..., k), parts of 1 g of the whole, is broadcast against
    `temps_c` (...); the powder is that of `blended`.
    """
    network, liquid = _parts_of_yield(blended, component_mass, temps_c, overrun)
    return network + liquid


def _parts_of_yield(
    blended: Blend, component_mass: Array, temps_c: Array, overrun: float
) -> tuple[Array, Array]:
    own = component_mass is blended.component_mass
    moles = blended.moles if own else component_mass / blended.molar_mass
    held, weights = blended.saturated(temps_c), blended.weights
    everything = blended.everything if own else moles @ weights[:, 4:]
    if blended.prior:
        weights = np.concatenate([weights, blended.weights_of_wax], axis=1)
        wax_mass = moles @ blended.weights_of_wax[:, 2] / blended.powder.matrix
    if len(temps_c) == 1:
        # At one temperature, what is liquid there dissolves the rest as one.
        melted = blended.melt_c <= temps_c[0]
        pool = moles[..., melted].sum(axis=-1, keepdims=True)
        moles = np.concatenate([moles[..., ~melted], pool], axis=-1)
        held = np.concatenate([held[..., ~melted], np.ones_like(held[..., :1])], axis=-1)
        weights = np.concatenate([weights[~melted], np.zeros((1, weights.shape[1]))])
    solid = held * liquid_moles(moles, held)[..., None]
    np.subtract(moles, solid, out=solid)
    sums = np.maximum(solid, 0.0, out=solid) @ weights
    if blended.powder.mass:
        sums, everything = sums / blended.powder.matrix, everything / blended.powder.matrix
    fat, fat_load, wax, wax_load, mass, thick = (sums[..., i] for i in range(6))
    load = network_load(fat, fat_load, wax, wax_load, temps_c)
    network = network_yield(load, blended.powder.stiffer, overrun)
    if blended.prior:
        of_wax = network_load(fat, sums[..., 6], wax, sums[..., 7], temps_c)
        wax_share = of_wax / np.where(load > 0.0, load, 1.0)
        shapes = shapes_of(wax_share, wax_mass, temps_c, blended.powder.stiffer, overrun)
        network = network * np.exp(blended.prior.shift(shapes) / RUNGS_PER_E)
    liquid = np.maximum(everything[..., 0] - mass, 1e-9)
    return network, liquid_yield(liquid, (everything[..., 1] - thick) / liquid, temps_c)


def read(
    blended: Blend,
    temps_c: Sequence[float] | Array,
    *,
    overrun: float = 0.0,
    age_days: float | None = None,
    careless: bool = False,
) -> Reading:
    """Return the full reading at `temps_c`, whipped by `overrun`, at `age_days` after the pour.

    Without an age it is read as it will be once it has set for good; `careless` says that
    it cooled slowly, so that cocoa butter set in a lower form first. The band is the
    80 % interval of the blend's prior: the bench's own offset, each material's strength and the
    natural spread of its curve, lots that melt a little sooner or later, and the ways
    in which the law itself may be wrong, taken as independent and to first order.
    """
    temps = np.asarray(temps_c, dtype=float)
    prior = blended.prior or Prior()
    if careless:
        blended = in_lower_form(blended, age_days)
    share = crystals(blended, temps)
    matrix = blended.powder.matrix
    factor = blended.factor
    fat = share @ (blended.component_mass * blended.is_fat) / matrix
    wax = share @ (blended.component_mass * ~blended.is_fat) / matrix
    carried = share * blended.strength / matrix
    fat_load = (carried * blended.is_fat) @ blended.mass.T * factor
    wax_load = (carried * ~blended.is_fat) @ blended.mass.T * factor
    load = network_load(fat[:, None], fat_load, wax[:, None], wax_load, temps[:, None])
    phi = load.sum(axis=-1)
    network = network_yield(phi, blended.powder.stiffer, overrun)
    melt = (1.0 - share) * blended.component_mass / matrix
    liquid_share = melt.sum(axis=-1)
    ln_viscosity = melt @ blended.ln_viscosity / np.maximum(liquid_share, 1e-9)
    liquid = liquid_yield(liquid_share, ln_viscosity, temps)
    softer = still_to_come(blended, load, age_days)
    terms = _terms_of(blended, temps, load, overrun=overrun)
    moved = prior.shift(terms.shapes)
    raw = np.maximum(raw_rungs(network), LOWEST_RUNG) + moved
    sd = Z80 * prior.sd(terms)
    low, rung, high = (_rung(raw + k * sd - softer, liquid) for k in (-1.0, 0.0, 1.0))
    low, high = _never_too_sure(low, rung, high)
    solid = share @ blended.mass.T
    return Reading(
        temps_c=temps,
        solid_pct=100.0 * solid.sum(axis=-1),
        load=load,
        crystal_pct=100.0 * solid / np.maximum(blended.percent / 100.0, 1e-300),
        network=network * np.exp(moved / RUNGS_PER_E),
        liquid=liquid,
        rung=rung,
        low=low,
        high=high,
        terms=terms,
    )


def _terms_of(blended: Blend, temps: Array, load: Array, *, overrun: float) -> Terms:
    """Return what a reading with `load` (t, m) at `temps` rests on, for a prior to judge."""
    phi = load.sum(axis=-1)
    part = load / np.where(phi > 0.0, phi, 1.0)[:, None]
    wax_share = np.asarray(part[:, blended.is_wax].sum(axis=-1))
    wax = float(blended.percent[blended.is_wax].sum()) / 100.0 / max(blended.powder.matrix, 1e-9)
    shapes = shapes_of(wax_share, wax, temps, blended.powder.stiffer, overrun)
    return Terms(blended.materials, temps, part, _slope(blended, temps, overrun), shapes)


NARROWEST = 0.6  # rungs; a band of 0.0 to 0.0 is false certainty


def _never_too_sure(low: Array, rung: Array, high: Array) -> tuple[Array, Array]:
    """Return the ends of a band that is nowhere narrower than `NARROWEST`, 0 to 10."""
    lacking = np.maximum(NARROWEST - (high - low), 0.0)
    low = np.maximum(np.minimum(low - lacking / 2.0, rung), 0.0)
    high = np.maximum(high, np.minimum(low + NARROWEST, 10.0))
    return np.minimum(low, high - NARROWEST), high


def _rung(raw_network: Array, liquid: Array) -> Array:
    """Return rungs, 0 to 10, of a network's raw rungs with what the liquid resists added."""
    return np.asarray(np.clip(raw_rungs(yield_of_rungs(raw_network) + liquid), 0.0, 10.0))


def _slope(blended: Blend, temps: Array, overrun: float) -> Array:
    """Return rungs per C (t,) by which the network softens as it warms."""
    warm, cold = (
        np.maximum(raw_rungs(network_values(blended, temps + shift, overrun=overrun)), LOWEST_RUNG)
        for shift in (DENT_C, -DENT_C)
    )
    return np.asarray((warm - cold) / (2.0 * DENT_C))


def flow_point_c(blended: Blend) -> float | None:
    """Return the lowest temperature, C, at which its network holds no shape (C < 10).

    None when it holds none at 0 C or above. Good to 0.01 C: two passes of a grid,
    since the yield value only falls.
    """
    low, high = 0.0, 110.0
    for _ in range(2):
        grid = np.linspace(low, high, 111)
        flows = network_values(blended, grid) < FLOWS_BELOW
        if flows[0] or not flows.any():
            return None
        first = int(flows.argmax())
        low, high = float(grid[first - 1]), float(grid[first])
    return (low + high) / 2.0


def set_point_c(blended: Blend) -> float | None:
    """Return the highest temperature, C, at which crystals can appear on cooling.

    None for powders and wet things alone: nothing in them sets.
    """
    return first_haze_c(blended.moles, blended.melt_c, blended.enthalpy_kj)


def why_not(blended: Blend) -> str:
    """Return why a blend has no firmness, in a sentence; nothing where it has one.

    >>> from calmtin.core.data.loader import library
    >>> why_not(blend([(library()["honey"], 1.0)]))
    'There is no oil, butter or wax in it, so it has no firmness to predict.'
    """
    if not blended.component_mass.any():
        return gettext_noop("There is no oil, butter or wax in it, so it has no firmness to predict.")
    if not np.isfinite(blended.powder.stiffer):
        return gettext_noop("There is more powder than the oil can wet. Use less powder or more oil.")
    return ""


def rung_at(
    parts: Parts,
    temp_c: float,
    *,
    overrun: float = 0.0,
    age_days: float | None = None,
    prior: Prior | None = None,
) -> float | None:
    """Return the rung of masses of materials at `temp_c`, C; None where it cannot be predicted."""
    if not any(mass > 0.0 for _, mass in parts):
        return None
    blended = blend(parts, prior)
    if why_not(blended):
        return None
    return float(read(blended, [temp_c], overrun=overrun, age_days=age_days).rung[0])


def skin_melt(blended: Blend, room_c: float, skin_c: float = SKIN_C) -> float:
    """Return the share, 0 to 1, of the crystals at `room_c` that are gone at `skin_c`."""
    share = crystals(blended, np.array([room_c, skin_c])) @ blended.component_mass
    return float(1.0 - share[1] / share[0]) if share[0] > 0.0 else 1.0
