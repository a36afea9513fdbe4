"""A pot on a stove that does not exist: it follows Newton's law, with a plateau where it sets."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

BATH_C = 92.0  # a water bath that simmers
FRIDGE_C = 5.0
BATH_TIMES = 6.0  # hot water gives its heat so many times faster than still air takes it
FRIDGE_TIMES = 2.0  # moving air
FUSION_KJ_KG = 180.0  # of triglycerides and waxes, about; facts/solids.csv has the single ones


@dataclass(frozen=True, slots=True)
class PotLaw:
    """How a pot behaves: `set_c` where it sets, C (None: never), and what setting gives off.

    `latent_k` is that heat as the C° by which it would warm the pot.
    """

    set_c: float | None
    latent_k: float


@dataclass(frozen=True, slots=True)
class PotState:
    """Where a pot is: its temperature, C, and how much of what can set has set, 0 to 1."""

    temp_c: float
    frozen: float


def latent_k(solid_share: float, heat_capacity: float) -> float:
    """Return the heat of setting as the C° by which it would warm the pot.

    `solid_share` is the mass share that is solid at room temperature, `heat_capacity` of the melt
    in J/(g K).

    >>> latent_k(0.3, 2.0)
    27.0
    """
    return FUSION_KJ_KG * solid_share / heat_capacity


def after(law: PotLaw, pot: PotState, *, around_c: float, rate: float, minutes: float) -> PotState:
    """Return a pot `minutes` later in surroundings of `around_c`, C, that it follows at `rate`, 1/min.

    dT/dt = -rate (T - around) by Newton; at the set point the temperature stands until all that
    sets has set, at rate |set - around| / latent a minute, and the same way back. Exact, phase by
    phase, so that one long step and many short ones agree.

    >>> law = PotLaw(55.0, 20.0)
    >>> on = after(law, PotState(85.0, 0.0), around_c=21.0, rate=0.03, minutes=10.0)
    >>> round(on.temp_c, 1), after(law, on, around_c=21.0, rate=0.03, minutes=20.0).temp_c
    (68.4, 55.0)
    """
    left = minutes
    for _ in range(3):  # before the plateau, on it, after it
        if left <= 0.0:
            break
        pot, left = _phase(law, pot, around_c, rate, left)
    return pot


def _phase(
    law: PotLaw, pot: PotState, around_c: float, rate: float, minutes: float
) -> tuple[PotState, float]:
    """Return a pot at the end of the phase that it is in, or of `minutes`, and the minutes left."""
    set_c, warms = law.set_c, around_c > pot.temp_c
    to_change = pot.frozen if warms else 1.0 - pot.frozen
    if (
        set_c is None
        or to_change <= 0.0
        or law.latent_k <= 0.0
        or not _between(pot.temp_c, set_c, around_c)
    ):
        gone = (pot.temp_c - around_c) * math.exp(-rate * minutes)
        return replace(pot, temp_c=around_c + gone), 0.0
    if pot.temp_c != set_c:
        needs = math.log((pot.temp_c - around_c) / (set_c - around_c)) / rate
        if needs < minutes:
            return replace(pot, temp_c=set_c), minutes - needs
        gone = (pot.temp_c - around_c) * math.exp(-rate * minutes)
        return replace(pot, temp_c=around_c + gone), 0.0
    speed = rate * abs(set_c - around_c) / law.latent_k
    changed = min(speed * minutes, to_change)
    frozen = pot.frozen - changed if warms else pot.frozen + changed
    if changed < to_change:
        return PotState(set_c, frozen), 0.0
    return PotState(set_c, 0.0 if warms else 1.0), minutes - to_change / speed


def _between(temp_c: float, set_c: float, around_c: float) -> bool:
    """Return whether a pot stands on its set point, or meets it on its way; never where it stays."""
    return set_c != around_c and min(temp_c, around_c) <= set_c <= max(temp_c, around_c)
