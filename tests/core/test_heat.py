"""How a pot warms and cools, by hand, by makers' times, and the laws that it keeps."""

from __future__ import annotations

import math
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.process.heat import (
    GRID_C,
    NOTHING_SETS,
    Around,
    Solids,
    after,
    bath_minutes,
    likely_minutes,
    minutes_to,
    mixed_c,
    solids_of,
    surroundings,
)

SHELF = library()
# A tenth of it sets from 50 to 40 C, evenly: 100 K of latent heat in all makes 1 K of it a degree.
BALM = Solids(tuple(0.1 * min(max((50.0 - c) / 10.0, 0.0), 1.0) for c in GRID_C))
ROOM = Around(21.0, 0.03, latent_k=100.0)

minutes = st.floats(0.0, 240.0)
temps = st.floats(0.0, 95.0)
arounds = st.builds(Around, st.floats(-10.0, 95.0), st.floats(0.005, 0.3), st.floats(0.0, 100.0))


def parts(**grams: float) -> list:
    return [(SHELF[slug], g) for slug, g in grams.items()]


class Pots(TestCase):
    def test_by_hand(self) -> None:
        """85 to 50: ln(64 / 29) / 0.03 = 26.39 min; to 40 at half the rate: ln(29 / 19) / 0.015 = 28.19."""
        self.assertAlmostEqual(minutes_to(BALM, 85.0, 50.0, ROOM), 26.39, places=2)
        self.assertAlmostEqual(minutes_to(BALM, 85.0, 40.0, ROOM), 26.39 + 28.19, places=2)
        self.assertAlmostEqual(after(BALM, 85.0, ROOM, minutes=26.39 + 28.19), 40.0, places=2)
        self.assertAlmostEqual(after(BALM, 85.0, ROOM, minutes=64.58), 21 + 19 * math.exp(-0.3), places=1)

    def test_what_never_sets_only_follows_newton(self) -> None:
        cold = after(NOTHING_SETS, 85.0, ROOM, minutes=40.0)
        self.assertAlmostEqual(cold, 21 + 64 * math.exp(-1.2), places=6)

    def test_heat_adds_up(self) -> None:
        """100 g at 80 and 100 g at 20 make 50; a tenth that melts on the way takes 9 K of it."""
        self.assertAlmostEqual(mixed_c(parts(olive_oil=100), 80.0, parts(olive_oil=100), 20.0), 50.0)
        self.assertLess(mixed_c(parts(olive_oil=100), 60.0, parts(shea_refined=100), 20.0), 40.0)

    def test_a_balm_gives_its_heat_off_over_ten_degrees_and_more(self) -> None:
        salve = solids_of(parts(beeswax_yellow=18, shea_refined=12, olive_oil=70))
        around = surroundings("bench", 117.0)
        plain = minutes_to(NOTHING_SETS, 50.0, 30.0, around)
        self.assertGreater(minutes_to(salve, 50.0, 30.0, around), 1.3 * plain)
        self.assertGreater(salve.at(30.0), 2 * salve.at(44.0) + 0.01)
        spread = salve.where(0.1 * salve.at(21.0)) - salve.where(0.6 * salve.at(21.0))
        self.assertGreater(spread, 10.0)

    def test_a_pot_stays_below_its_water(self) -> None:
        for grams in (30.0, 117.0, 1000.0):
            with self.subTest(grams):
                self.assertTrue(84.0 < surroundings("bath", grams).temp_c < 91.0)

    def test_melting_takes_what_makers_see(self) -> None:
        """A spoon of pellets some minutes, a tin's batch ten, a pound of butter a quarter of an hour."""
        seen = (
            (parts(beeswax_yellow=4), 70.0, "pellets", (4, 10)),
            (parts(beeswax_yellow=20), 70.0, "pellets", (8, 20)),
            (parts(beeswax_yellow=100), 70.0, "block", (30, 60)),
            (parts(shea_refined=454), 45.0, "chopped", (10, 25)),
            (parts(beeswax_yellow=20, shea_refined=20, olive_oil=77), 70.0, "pellets", (8, 18)),
        )
        for added, to_c, form, (low, high) in seen:
            with self.subTest(str(added[0][1])):
                self.assertTrue(low <= bath_minutes([], 21.0, added, to_c, form=form) <= high)
        # What goes into a hot pot needs less than by itself.
        hot, butter = parts(beeswax_yellow=100), parts(shea_refined=50)
        self.assertLess(bath_minutes(hot, 75.0, butter, 45.0), bath_minutes([], 21.0, butter, 45.0))

    def test_a_wax_that_melts_above_its_bath_does_not_take_for_ever(self) -> None:
        self.assertTrue(0 < bath_minutes([], 21.0, parts(carnauba_wax=20), 91.0) < 60)

    @settings(max_examples=200)
    @given(temps, arounds, minutes, minutes)
    def test_one_long_step_is_two_short_ones(
        self, temp_c: float, around: Around, first: float, second: float
    ) -> None:
        half = after(BALM, temp_c, around, minutes=first)
        two = after(BALM, half, around, minutes=second)
        self.assertAlmostEqual(after(BALM, temp_c, around, minutes=first + second), two, places=6)

    @settings(max_examples=200)
    @given(temps, arounds, minutes)
    def test_it_never_passes_its_surroundings(self, temp_c: float, around: Around, passed: float) -> None:
        later = after(BALM, temp_c, around, minutes=passed)
        self.assertLessEqual(min(temp_c, around.temp_c) - 1e-9, later)
        self.assertLessEqual(later, max(temp_c, around.temp_c) + 1e-9)

    @settings(max_examples=200)
    @given(temps, temps, arounds)
    def test_the_time_to_a_temperature_is_the_time_after_which_it_is_there(
        self, temp_c: float, to_c: float, around: Around
    ) -> None:
        needed = minutes_to(BALM, temp_c, to_c, around)
        if needed is not None:
            self.assertAlmostEqual(after(BALM, temp_c, around, minutes=needed), to_c, places=5)

    @given(st.floats(0.0, 1000.0))
    def test_a_likely_time_is_never_nothing_and_never_wider_than_a_factor_of_two(
        self, passed: float
    ) -> None:
        low, high = likely_minutes(passed)
        self.assertTrue(1.0 <= low < high <= 2.0 * low)
