"""How firm a blend is, at any temperature: one law, read by everything.

The scale is the yield value of a cone penetrometer (Haighton 1959), g/cm2; the
rung is its logarithm on the eleven-step ladder. docs/model.md has the equations
and where they hold.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from calmtin.core.engine.bands import Z80, rung_sd
from calmtin.core.engine.blend import Blend, Parts, blend, crystals
from calmtin.core.engine.ladder import EXPONENT, FLOWS_BELOW, raw_rungs
from calmtin.core.engine.solids import Array, first_haze_c, liquid_moles
from calmtin.core.errors import CalmTinError

STIFFNESS = 33_000.0  # yield value of a blend whose load-bearing solids are 1, g/cm2

FILLER_LIMIT = 0.6  # volume fraction at which a powder jams


def filler_factor(volume_fraction: float) -> float:
    """Return how many times a powder stiffens: (1 - v / 0.6)^-1.5.

    After Krieger and Dougherty (1959), with the jamming fraction of loose grains.

    >>> round(filler_factor(0.06), 3)
    1.171
    """
    if volume_fraction >= FILLER_LIMIT:
        raise CalmTinError(
            "There is more powder in this than oil can wet. Bring the powders below half.",
            field="percent",
            limit=FILLER_LIMIT * 100.0,
            unit="%",
        )
    return float((1.0 - volume_fraction / FILLER_LIMIT) ** -1.5)


def whipped_factor(overrun: float) -> float:
    """Return what whipping leaves of the yield value: (1 - a)^2.5, a = overrun / (1 + overrun).

    `overrun` is the gain in volume: 1.0 doubles it.

    >>> round(whipped_factor(1.0), 4)
    0.1768
    """
    if overrun < 0:
        raise CalmTinError("Overrun is a gain in volume: type 0 or more.", field="overrun")
    return float((1.0 + overrun) ** -2.5)


@dataclass(frozen=True, eq=False)
class Reading:
    """What a blend does at each of `temps_c` (t,).

    `solid_pct` is crystal, % of the whole (powder not counted); `load` (t, m) is
    each material's part of the load-bearing solids; `crystal_pct` (t, m) is the
    percent of each material that is crystal there.
    """

    temps_c: Array
    solid_pct: Array
    load: Array
    crystal_pct: Array
    yield_value: Array
    rung: Array
    low: Array
    high: Array


def few_fat_crystals(fat: Array) -> Array:
    """Return how much better fat crystals carry when they are few: 1 + 0.8 exp(-f / 0.15).

    `fat` (...) is the mass of fat crystals as a share of the whole.

    >>> few_fat_crystals(np.array([0.0, 0.15])).round(4).tolist()
    [1.8, 1.2943]
    """
    return np.asarray(1.0 + 0.8 * np.exp(fat / -0.15))


def yield_values(blended: Blend, temps_c: Array) -> Array:
    """Return the yield value, g/cm2 (t,), and nothing else: the quick way."""
    return yield_values_of(blended, blended.component_mass, temps_c)


def yield_values_of(blended: Blend, component_mass: Array, temps_c: Array) -> Array:
    """Return yield values (...) for other amounts of the components of `blended`.

    `component_mass` (..., k), parts of 1 g of the whole, is broadcast against
    `temps_c` (...); the powder is that of `blended`.
    """
    moles = component_mass / blended.molar_mass
    held, weights = blended.saturated(temps_c), blended.weights
    if len(temps_c) == 1:
        # At one temperature, what is liquid there dissolves the rest as one.
        melted = blended.melt_c <= temps_c[0]
        pool = moles[..., melted].sum(axis=-1, keepdims=True)
        moles = np.concatenate([moles[..., ~melted], pool], axis=-1)
        held = np.concatenate([held[..., ~melted], np.ones_like(held[..., :1])], axis=-1)
        weights = np.concatenate([weights[~melted], np.zeros((1, 3))])
    liquid = liquid_moles(moles, held)[..., None]
    solid = held * liquid
    np.subtract(moles, solid, out=solid)
    sums = np.maximum(solid, 0.0, out=solid) @ weights
    load = sums[..., 2] + sums[..., 1] * few_fat_crystals(sums[..., 0])
    return np.asarray(STIFFNESS * load**EXPONENT * filler_factor(blended.filler_volume))


def read(blended: Blend, temps_c: Sequence[float] | Array, *, overrun: float = 0.0) -> Reading:
    """Return the full reading at `temps_c`, whipped by `overrun` where it is above 0.

    The band is the 80 % interval of the prior: the bench's own offset, each
    material's strength and the natural spread of its curve, taken as independent
    and to first order. A material that carries nothing adds nothing to it.
    """
    temps = np.asarray(temps_c, dtype=float)
    share = crystals(blended, temps)
    few = few_fat_crystals(share @ (blended.component_mass * blended.is_fat))
    per_gram = share * blended.strength * np.where(blended.is_fat, few[:, None], 1.0)
    factor = np.array([m.strength_factor for m in blended.materials])
    load = per_gram @ blended.mass.T * factor
    phi = load.sum(axis=-1)
    value = STIFFNESS * phi**EXPONENT * filler_factor(blended.filler_volume)
    value = value * whipped_factor(overrun)
    raw = raw_rungs(value)
    half = Z80 * rung_sd(blended, temps, load, phi)
    solid = share @ blended.mass.T
    return Reading(
        temps_c=temps,
        solid_pct=100.0 * solid.sum(axis=-1),
        load=load,
        crystal_pct=100.0 * solid / np.maximum(blended.percent / 100.0, 1e-300),
        yield_value=value,
        rung=np.clip(raw, 0.0, 10.0),
        low=np.clip(raw - half, 0.0, 10.0),
        high=np.clip(raw + half, 0.0, 10.0),
    )


def flow_point_c(blended: Blend) -> float | None:
    """Return the lowest temperature, C, at which it no longer holds a shape (C < 10).

    None when it holds none at 0 C or above. Good to 0.01 C: two passes of a grid
    and a straight line in the logarithm, since the yield value only falls.
    """
    low, high = 0.0, 110.0
    for _ in range(2):
        grid = np.linspace(low, high, 111)
        flows = yield_values(blended, grid) < FLOWS_BELOW
        if flows[0]:
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
        return "There is no oil, butter or wax in it, so it has no firmness to predict."
    if blended.filler_volume >= FILLER_LIMIT:
        return "There is more powder in it than the oil can wet. Bring the powders below half."
    return ""


def rung_at(parts: Parts, temp_c: float) -> float | None:
    """Return the rung of masses of materials at `temp_c`, C; None where it cannot be predicted."""
    if not any(mass > 0.0 for _, mass in parts):
        return None
    blended = blend(parts)
    return None if why_not(blended) else float(read(blended, [temp_c]).rung[0])


def skin_melt(blended: Blend, room_c: float, skin_c: float = 33.0) -> float:
    """Return the share, 0 to 1, of the crystals at `room_c` that are gone at `skin_c`."""
    at_room, on_skin = read(blended, [room_c, skin_c]).solid_pct
    return float(1.0 - on_skin / at_room) if at_room > 0.0 else 1.0
