"""The simulated pot by hand, and the laws that it keeps."""

from __future__ import annotations

import math
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from calmtin.core.process.stove import PotLaw, PotState, after

LAW = PotLaw(55.0, 20.0)
minutes = st.floats(0.0, 240.0)
surroundings = st.floats(-10.0, 95.0)


class Pot(TestCase):
    def test_by_hand(self) -> None:
        """85 to 55 in ln(64 / 34) / 0.03 = 21.08 min; 20 C° of latent heat at 0.03 x 34 = 1.02 a minute."""
        pot = PotState(85.0, 0.0)

        def at(passed: float) -> PotState:
            return after(LAW, pot, around_c=21.0, rate=0.03, minutes=passed)

        self.assertAlmostEqual(at(21.0).temp_c, 55.09, places=2)
        self.assertEqual(at(31.08).temp_c, 55.0)
        self.assertAlmostEqual(at(21.08 + 9.8).frozen, 0.5, places=2)
        self.assertAlmostEqual(at(21.08 + 19.61 + 10.0).temp_c, 21 + 34 * math.exp(-0.3), places=1)

    def test_what_never_sets_only_follows_newton(self) -> None:
        cold = after(PotLaw(None, 0.0), PotState(85.0, 0.0), around_c=21.0, rate=0.03, minutes=40.0)
        self.assertAlmostEqual(cold.temp_c, 21 + 64 * math.exp(-1.2), places=6)

    @settings(max_examples=200)
    @given(st.floats(0.0, 95.0), st.floats(0.0, 1.0), surroundings, st.floats(0.005, 0.3), minutes, minutes)
    def test_one_long_step_is_two_short_ones(
        self, temp_c: float, frozen: float, around_c: float, rate: float, first: float, second: float
    ) -> None:
        pot = PotState(55.0, frozen) if abs(temp_c - 55.0) < 1.0 else PotState(temp_c, float(temp_c < 55.0))
        half = after(LAW, pot, around_c=around_c, rate=rate, minutes=first)
        two = after(LAW, half, around_c=around_c, rate=rate, minutes=second)
        one = after(LAW, pot, around_c=around_c, rate=rate, minutes=first + second)
        self.assertAlmostEqual(one.temp_c, two.temp_c, places=6)
        self.assertAlmostEqual(one.frozen, two.frozen, places=6)

    @settings(max_examples=200)
    @given(st.floats(0.0, 95.0), surroundings, st.floats(0.005, 0.3), minutes)
    def test_it_never_passes_its_surroundings(
        self, temp_c: float, around_c: float, rate: float, passed: float
    ) -> None:
        pot = PotState(temp_c, float(temp_c < 55.0))
        later = after(LAW, pot, around_c=around_c, rate=rate, minutes=passed)
        self.assertLessEqual(min(temp_c, around_c) - 1e-9, later.temp_c)
        self.assertLessEqual(later.temp_c, max(temp_c, around_c) + 1e-9)
        self.assertTrue(0.0 <= later.frozen <= 1.0)
