"""A scale and a thermometer that do not exist, and the bench they stand on.

What was done at the bench is a list of acts with their seconds; where everything stands follows
from it. So a reading is the same however often it is asked for, from whichever page or process.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal, get_args

from calmtin.core.process.heat import PLACES, Around, Solids, after, minutes_to, surroundings
from calmtin.core.process.weighing import nearest_step
from calmtin.devices.base import Scale, State, Thermometer, Warmth, Weight

Kind = Literal[
    "put",  # so many grams onto the pan; less than nothing is taken off it
    "lift",  # everything off the pan, an empty cup on it
    "tare",  # the value is what stood on the pan
    "unplug_scale",
    "plug_scale",
    "bath",  # the pot into the water bath; the value is what it holds, g
    "bench",  # the pot onto the bench
    "fridge",
    "unplug_probe",
    "plug_probe",
    "speed",  # from now on time runs so many times faster
    "skip",  # so many seconds pass at once
]
KINDS: tuple[Kind, ...] = get_args(Kind)

CUP_G = Decimal(40)
SETTLES_S = 0.35  # by what a figure that runs comes nearer in this time, it is e times nearer
STEADY_S = 0.8  # after a touch no figure is called steady before
NOISE_STEPS = 0.12  # standard deviation of the last digit, in steps
NOISE_EVERY_S = 0.5
DRIFT_STEPS_MIN = 0.05  # how far the zero wanders, in steps a minute
PROBE_LAG_S = 4.0
PROBE_NOISE_C = 0.15
SPEEDS = (1.0, 10.0, 60.0)
LONGEST_SKIP_S = 8 * 3600.0


@dataclass(frozen=True, slots=True)
class Act:
    """An action at the bench, in seconds after it was set up."""

    kind: Kind
    value: float
    at_s: float


@dataclass(frozen=True, slots=True)
class Setup:
    """A simulated bench: its scale, its room, C, and which of its pot is solid; `seed` makes its noise."""

    seed: int
    step_g: Decimal
    capacity_g: Decimal
    room_c: float
    pot: Solids


class SimulatedScale(Scale):
    """A scale with a last digit that trembles, a zero that wanders and a pan that takes its time."""

    def __init__(self, setup: Setup, acts: Sequence[Act], now_s: float, log: Callable[[Kind, float], None]):
        self.setup, self.now_s, self._log = setup, now_s, log
        self.step_g, self.capacity_g = setup.step_g, setup.capacity_g
        self._acts = [act for act in acts if act.at_s <= now_s]

    def read(self) -> Weight:
        """Return the present reading."""
        state = self._state()
        if state != "ok":
            return Weight(None, is_steady=False, state=state)
        net, running = self._net()
        tick = int(self.now_s / NOISE_EVERY_S)
        noise = random.Random(f"{self.setup.seed} scale {tick}").gauss(0.0, NOISE_STEPS)
        shown = net + running + Decimal(repr(noise + self._drift_steps())) * self.step_g
        is_steady = abs(running) < self.step_g / 2 and self._since_touch() >= STEADY_S
        return Weight(nearest_step(shown, self.step_g) + 0, is_steady)  # no scale shows -0

    def tare(self) -> None:
        """Set the present load to zero."""
        if self._state() == "ok":
            self._log("tare", float(self._gross()))

    @property
    def restarted(self) -> bool:
        """Whether it was plugged in again since its last tare: it began from zero with its load on it."""
        zeroed = self._zeroed()
        return zeroed is not None and zeroed.kind == "plug_scale"

    @property
    def net_g(self) -> Decimal:
        """What truly stands on it beyond the tare, g, whatever the figure says."""
        return self._net()[0]

    def _state(self) -> State:
        plugs = [act.kind for act in self._acts if act.kind in ("unplug_scale", "plug_scale")]
        if plugs and plugs[-1] == "unplug_scale":
            return "unplugged"
        return "overload" if self._gross() > self.capacity_g else "ok"

    def _touches(self) -> list[Act]:
        return [act for act in self._acts if act.kind in ("put", "lift", "tare")]

    def _gross(self, until: Act | None = None) -> Decimal:
        """Return the load on the pan, g: now, or as it was at an act."""
        gross = CUP_G
        for act in self._acts:
            if act is until:
                break
            if act.kind == "lift":
                gross = CUP_G
            elif act.kind == "put":
                gross = max(gross + Decimal(repr(act.value)), Decimal(0))
        return gross

    def _net(self) -> tuple[Decimal, Decimal]:
        """Return the net weight, g, and by how much the figure still runs behind it."""
        net = self._gross() - self._zero_g()
        running = Decimal(0)
        for act in self._touches():
            if act.kind == "put":
                nearer = math.exp(-(self.now_s - act.at_s) / SETTLES_S)
                running -= Decimal(repr(act.value)) * Decimal(repr(nearer))
        return net, running

    def _zero_g(self) -> Decimal:
        """Return the load that counts as nothing, g: that of the last tare, or when it was plugged in."""
        zeroed = self._zeroed()
        if zeroed is None:
            return CUP_G
        return Decimal(repr(zeroed.value)) if zeroed.kind == "tare" else self._gross(zeroed)

    def _zeroed(self) -> Act | None:
        return next((act for act in reversed(self._acts) if act.kind in ("tare", "plug_scale")), None)

    def _since_touch(self) -> float:
        return self.now_s - max((act.at_s for act in self._touches()), default=-math.inf)

    def _drift_steps(self) -> float:
        """Return how far the zero has wandered since it was set, in steps."""
        zeroed = self._zeroed()
        way = random.Random(f"{self.setup.seed} drift").choice((-1.0, 1.0))
        return way * DRIFT_STEPS_MIN * (self.now_s - (zeroed.at_s if zeroed else 0.0)) / 60.0


class SimulatedThermometer(Thermometer):
    """A probe in the pot that comes after it by some seconds, a little off each time."""

    step_c = 0.1

    def __init__(self, setup: Setup, acts: Sequence[Act], now_s: float):
        self.setup, self.now_s = setup, now_s
        self._acts = [act for act in acts if act.at_s <= now_s]

    def read(self) -> Warmth:
        """Return the present reading."""
        plugs = [act.kind for act in self._acts if act.kind in ("unplug_probe", "plug_probe")]
        if plugs and plugs[-1] == "unplug_probe":
            return Warmth(None, "unplugged")
        # A first-order lag: to first order the reading is that of so many seconds ago.
        pot_c = pot_at(self.setup, self._acts, max(self.now_s - PROBE_LAG_S, 0.0))
        noise = random.Random(f"{self.setup.seed} probe {int(self.now_s)}").gauss(0.0, PROBE_NOISE_C)
        return Warmth(round(pot_c + noise, 1))


def pot_at(setup: Setup, acts: Iterable[Act], now_s: float) -> float:
    """Return how warm the pot is, C: as warm as the room until it first meets the bath."""
    return _pot(setup, acts, now_s)[0]


def seconds_until(setup: Setup, acts: Iterable[Act], now_s: float, temp_c: float) -> float | None:
    """Return the seconds until a pot that is left where it stands is at `temp_c`, C; None where never."""
    pot_c, around = _pot(setup, acts, now_s)
    minutes = minutes_to(setup.pot, pot_c, temp_c, around)
    return None if minutes is None else 60.0 * minutes


def _pot(setup: Setup, acts: Iterable[Act], now_s: float) -> tuple[float, Around]:
    """Return how warm the pot is, C, and what it follows now."""
    pot_c, since, around = setup.room_c, 0.0, Around(setup.room_c, 0.0)
    grams = 1.0
    for act in sorted(acts, key=lambda act: act.at_s):
        if act.kind not in PLACES or act.at_s > now_s:
            continue
        pot_c = after(setup.pot, pot_c, around, minutes=(act.at_s - since) / 60.0)
        since, grams = act.at_s, act.value if act.value > 0.0 else grams
        around = surroundings(act.kind, grams, room_c=setup.room_c)
    return after(setup.pot, pot_c, around, minutes=(now_s - since) / 60.0), around


def where_is(acts: Sequence[Act]) -> str:
    """Return where the pot stands: bath, bench or fridge; it begins on the bench."""
    return next((act.kind for act in reversed(acts) if act.kind in ("bath", "bench", "fridge")), "bench")


def seconds_at(acts: Sequence[Act], real_s: float, *, real_at: Sequence[float]) -> float:
    """Return the bench's own seconds when `real_s` have passed since it was set up.

    `real_at` are the real seconds of each act. Time runs as fast as was last asked for, and jumps
    where it was skipped.
    """
    own, speed, since = 0.0, 1.0, 0.0
    for act, at in zip(acts, real_at, strict=True):
        if act.kind not in ("speed", "skip") or at > real_s:
            continue
        own, since = own + speed * (at - since), at
        if act.kind == "speed":
            speed = act.value
        else:
            own += act.value
    return own + speed * (real_s - since)


def speed_of(acts: Sequence[Act]) -> float:
    """Return how many times faster than life the bench runs."""
    return next((act.value for act in reversed(acts) if act.kind == "speed"), 1.0)
