"""The simulated scale and thermometer keep the contract, whatever their noise."""

from __future__ import annotations

from decimal import Decimal
from unittest import TestCase

from calmtin.core.process.heat import GRID_C, Solids
from calmtin.devices.simulated import (
    Act,
    Kind,
    Setup,
    SimulatedScale,
    SimulatedThermometer,
    pot_at,
    seconds_at,
)
from tests.contracts import devices

# 15 % of it sets, evenly, from 55 to 45 C.
SOLIDS = Solids(tuple(0.15 * min(max((55.0 - c) / 10.0, 0.0), 1.0) for c in GRID_C))


class Bench:
    """A simulated bench in hand: its acts, and a clock that the test turns."""

    def __init__(self, seed: int) -> None:
        self.setup = Setup(seed, Decimal("0.1"), Decimal(2000), 21.0, SOLIDS)
        self.acts: list[Act] = []
        self.now_s = 0.0

    def do(self, kind: Kind, value: float = 0.0) -> None:
        self.acts.append(Act(kind, value, self.now_s))

    def scale(self) -> SimulatedScale:
        return SimulatedScale(self.setup, self.acts, self.now_s, self.do)

    def thermometer(self) -> SimulatedThermometer:
        return SimulatedThermometer(self.setup, self.acts, self.now_s)


class Touched:
    seed = 1

    def setUp(self) -> None:
        self.bench = Bench(self.seed)

    def wait(self, seconds: float) -> None:
        self.bench.now_s += seconds


class Scales(Touched, devices.ScaleContract):
    def scale(self) -> SimulatedScale:
        return self.bench.scale()

    def put(self, grams: Decimal) -> None:
        self.bench.do("put", float(grams))

    def pull_plug(self, *, out: bool) -> None:
        self.bench.do("unplug_scale" if out else "plug_scale")

    def test_a_reading_is_the_same_however_often_it_is_asked_for(self) -> None:
        self.put(Decimal("12.3"))
        self.wait(0.7)
        self.assertEqual(self.scale().read(), self.scale().read())

    def test_the_last_digit_trembles(self) -> None:
        self.put(Decimal("12.35"))
        self.wait(10.0)
        shown = set()
        for _ in range(60):
            shown.add(self.scale().read().grams)
            self.wait(0.5)
        self.assertGreater(len(shown), 1)


class OtherScales(Scales):
    seed = 77


class Thermometers(Touched, devices.ThermometerContract):
    def thermometer(self) -> SimulatedThermometer:
        return self.bench.thermometer()

    def truth(self) -> float:
        return pot_at(self.bench.setup, self.bench.acts, self.bench.now_s)

    def heat(self) -> None:
        self.bench.do("bath", 250.0)

    def pull_plug(self, *, out: bool) -> None:
        self.bench.do("unplug_probe" if out else "plug_probe")

    def test_the_pot_lingers_where_it_sets(self) -> None:
        self.heat()
        self.wait(3600.0)
        self.bench.do("bench", 250.0)
        above = within = 0
        for _ in range(180):
            self.wait(30.0)
            above += 55.0 < self.truth() <= 65.0
            within += 45.0 < self.truth() <= 55.0
        self.assertGreater(within, 1.5 * above)  # ten degrees below its set point and ten above
        self.assertLess(self.truth(), 45.0)


class Clock(TestCase):
    def test_time_runs_as_fast_as_asked_and_jumps_where_it_is_skipped(self) -> None:
        acts = [Act("speed", 10.0, 5.0), Act("skip", 60.0, 35.0), Act("speed", 1.0, 95.0)]
        real = [5.0, 8.0, 8.0]
        told = [seconds_at(acts, at, real_at=real) for at in (4.0, 6.0, 8.0, 9.0)]
        self.assertEqual(told, [4.0, 15.0, 95.0, 96.0])
