"""How a pot warms and cools: one law for the times of a run sheet and for the simulated stove.

dT/dt = rate (around - T) / (1 + L/c |dS/dT|): Newton's law, slowed where solids S form or melt, which
give off or take up the heat of fusion L along the whole curve of the blend.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, get_args

import numpy as np

from calmtin.core.engine.blend import blend, crystals
from calmtin.core.materials import Form, Material
from calmtin.core.process.cooling import (
    FAT_J_G_K,
    VESSEL_J_G_K,
    VESSEL_SHARE,
    pot_area_m2,
    pot_j_k,
    usual_rate,
)

Parts = Sequence[tuple[Material, float]]
Place = Literal["bath", "bench", "fridge"]
PLACES: tuple[Place, ...] = get_args(Place)

ROOM_C = 21.0  # of a kitchen, where nobody says otherwise
BATH_C = 92.0  # a water bath that simmers
FRIDGE_C = 5.0
FRIDGE_TIMES = 2.0  # moving air takes heat so many times faster than still air
BATH_W_M2_K = 50.0  # from simmering water through a jug into fat that is stirred now and then
BATH_WALL = 1.25 / 1.5  # of a pot's surface, what stands in the water: its side and its bottom
LEAST_WALL_M2 = 0.005  # a jug has a bottom, however little is in it
LEAST_VESSEL_G = 120.0
BELOW_BATH_C = 2.0  # a pot comes this near to as warm as its bath makes it; the rest takes too long
FUSION_J_G = 180.0  # of triglycerides and waxes, about; facts/solids.csv has the single ones
# How many times longer pieces take than small ones that lie in what is melted already.
SLOWER: dict[Form, float] = {"shavings": 1.0, "pellets": 1.0, "chopped": 1.3, "block": 1.8}
LIKELY = 1.35  # a time is taken to lie between so many times less and more
STEP_C = 2.0
GRID_C = np.arange(0.0, 100.0 + STEP_C, STEP_C)


@dataclass(frozen=True, slots=True)
class Solids:
    """The solid share of a melt, 0 to 1, at `GRID_C`: from 0 to 100 C, every 2 C°."""

    shares: tuple[float, ...]

    def at(self, temp_c: float) -> float:
        """Return the solid share at `temp_c`, C."""
        return float(np.interp(temp_c, GRID_C, self.shares))

    def where(self, share: float) -> float:
        """Return the temperature, C, below which more than `share` of it is solid."""
        return float(np.interp(share, self.shares[::-1], GRID_C[::-1]))

    def slope(self, temp_c: float) -> float:
        """Return the solid share that melts at `temp_c`, C, with a degree more."""
        place = int(temp_c // STEP_C)
        if not 0 <= place < len(self.shares) - 1:
            return 0.0
        return (self.shares[place] - self.shares[place + 1]) / STEP_C


@dataclass(frozen=True, slots=True)
class Around:
    """What a pot follows: `temp_c`, C, at `rate`, 1/min; `latent_k`, C°, is what all its fusion takes."""

    temp_c: float
    rate: float
    latent_k: float = FUSION_J_G / FAT_J_G_K


NOTHING_SETS = Solids((0.0,) * len(GRID_C))


def solids_of(parts: Parts) -> Solids:
    """Return the solids of a melt of `parts`, g; none where nothing has weight or nothing sets."""
    return _solids(tuple((material, grams) for material, grams in parts if grams > 0.0))


@lru_cache(maxsize=256)
def _solids(parts: tuple[tuple[Material, float], ...]) -> Solids:
    if not parts:
        return NOTHING_SETS
    blended = blend(parts)
    shares = crystals(blended, GRID_C) @ blended.component_mass
    # A share never rises with the temperature; rounding errors would look like heat from nowhere.
    falling = np.minimum.accumulate(np.clip(shares, 0.0, 1.0))
    return Solids(tuple(round(float(share), 5) for share in falling))


def surroundings(place: Place, mass_g: float, *, room_c: float = ROOM_C) -> Around:
    """Return what a pot of `mass_g` g follows where it stands.

    On the bench and in the fridge that is the air; in the bath some degrees below the water, because
    its open top loses heat to the room. Raises `CalmTinError` for an empty pot.

    >>> bath = surroundings("bath", 250.0)
    >>> round(bath.temp_c, 1), round(bath.rate, 2), round(bath.latent_k)
    (88.5, 0.11, 75)
    """
    still = usual_rate(mass_g)
    own_j_k = pot_j_k(mass_g)
    if place == "bench":
        return Around(room_c, still, FUSION_J_G * mass_g / own_j_k)
    if place == "fridge":
        return Around(FRIDGE_C, FRIDGE_TIMES * still, FUSION_J_G * mass_g / own_j_k)
    wall = max(pot_area_m2(mass_g) * BATH_WALL, LEAST_WALL_M2)
    vessel_g = max(VESSEL_SHARE * mass_g, LEAST_VESSEL_G)
    whole_j_k = mass_g * FAT_J_G_K + vessel_g * VESSEL_J_G_K
    bath = 60.0 * BATH_W_M2_K * wall / whole_j_k
    top = still * own_j_k / whole_j_k * (1.0 - BATH_WALL)
    ends_c = (bath * BATH_C + top * room_c) / (bath + top)
    return Around(ends_c, bath + top, FUSION_J_G * mass_g / whole_j_k)


def _stretches(solids: Solids, temp_c: float, around: Around) -> Iterator[tuple[float, float]]:
    """Yield the stretches of a pot's way: where each ends, C, and the rate on it, 1/min."""
    least, most = sorted((temp_c, around.temp_c))
    between = [float(c) for c in GRID_C if least < c < most]
    for end_c in [*(between if around.temp_c > temp_c else between[::-1]), around.temp_c]:
        yield end_c, around.rate / (1.0 + around.latent_k * solids.slope((temp_c + end_c) / 2.0))
        temp_c = end_c


def after(solids: Solids, temp_c: float, around: Around, *, minutes: float) -> float:
    """Return how warm a pot of `temp_c`, C, is `minutes` later, C.

    Exact, stretch by stretch, so that one long step and many short ones agree.

    >>> round(after(NOTHING_SETS, 85.0, Around(21.0, 0.03), minutes=10.0), 1)
    68.4
    """
    left = minutes
    for end_c, rate in _stretches(solids, temp_c, around):
        passed = _minutes(temp_c, end_c, around.temp_c, rate)
        if passed >= left:
            return around.temp_c + (temp_c - around.temp_c) * math.exp(-rate * left)
        temp_c, left = end_c, left - passed
    return temp_c


def minutes_to(solids: Solids, temp_c: float, to_c: float, around: Around) -> float | None:
    """Return the minutes until a pot of `temp_c`, C, is at `to_c`, C; None where it never gets there.

    >>> round(minutes_to(NOTHING_SETS, 85.0, 55.0, Around(21.0, 0.03)), 2)
    21.08
    """
    if temp_c == to_c:
        return 0.0
    if (to_c - temp_c) * (around.temp_c - to_c) <= 0.0:
        return None
    whole = 0.0
    for end_c, rate in _stretches(solids, temp_c, around):
        is_last = (end_c - to_c) * (to_c - temp_c) >= 0.0
        whole += _minutes(temp_c, to_c if is_last else end_c, around.temp_c, rate)
        if is_last:
            break
        temp_c = end_c
    return whole


def _minutes(from_c: float, to_c: float, around_c: float, rate: float) -> float:
    if to_c == around_c:
        return math.inf
    return math.log((from_c - around_c) / (to_c - around_c)) / rate


def mixed_c(hot: Parts, hot_c: float, cold: Parts, cold_c: float = ROOM_C) -> float:
    """Return how warm a pot of `hot` is, C, once `cold` was stirred in: heat, solids included, adds up.

    >>> from calmtin.core.data.loader import library
    >>> oil = library()["olive_oil"]
    >>> mixed_c([(oil, 100.0)], 80.0, [(oil, 100.0)], 20.0)
    50.0
    """
    both = [*hot, *cold]
    whole = sum(grams for _, grams in both)
    heat = sum(
        sum(grams for _, grams in parts) * (FAT_J_G_K * at_c - FUSION_J_G * solids_of(parts).at(at_c))
        for parts, at_c in ((hot, hot_c), (cold, cold_c))
    )
    own = FAT_J_G_K * GRID_C - FUSION_J_G * np.array(solids_of(both).shares)
    return float(np.interp(heat / whole, own, GRID_C))


def bath_minutes(
    hot: Parts, hot_c: float, cold: Parts, to_c: float, *, form: Form = "pellets", room_c: float = ROOM_C
) -> float:
    """Return the minutes in the bath until `cold`, g, added to a pot of `hot`, is at `to_c`, C.

    `form` is that of what is added. A pot gets no hotter than its bath makes it. Raises `CalmTinError`
    where neither has weight.
    """
    both = [*hot, *cold]
    bath = surroundings("bath", sum(grams for _, grams in both), room_c=room_c)
    start_c = mixed_c(hot, hot_c, cold, room_c)
    found = minutes_to(solids_of(both), start_c, min(to_c, bath.temp_c - BELOW_BATH_C), bath)
    return (found or 0.0) * SLOWER[form]


def likely_minutes(minutes: float) -> tuple[float, float]:
    """Return the whole minutes between which a time lies: at least 1, and at most a factor of two apart.

    >>> likely_minutes(12.0), likely_minutes(0.3)
    ((9.0, 16.0), (1.0, 2.0))
    """
    low = max(1, round(minutes / LIKELY))
    return float(low), float(max(low + 1, min(2 * low, round(minutes * LIKELY))))
