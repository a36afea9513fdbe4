"""What a pour is like when it is felt: how warm by then, and which moments make sense."""

from __future__ import annotations

import unittest

from calmtin.core.data.loader import library
from calmtin.core.process.moments import Moment, filled_c, is_warm, moment_c, moments_of
from calmtin.core.process.steps import Batch


def batch(cooling: str = "slow_bench", overrun: float = 0.0, set_c: float | None = 60.0) -> Batch:
    shelf = library()
    parts = [(shelf["beeswax_yellow"], 20.0), (shelf["shea_refined"], 20.0), (shelf["olive_oil"], 60.0)]
    return Batch(parts, "firm_salve", cooling, overrun, set_c, {})  # type: ignore[arg-type]


class Cooling(unittest.TestCase):
    def test_a_tin_cools_from_its_pouring_temperature_to_the_room_and_never_below(self) -> None:
        temps = [filled_c(batch(), minutes) for minutes in (0, 10, 30, 60, 120, 480)]
        self.assertEqual(temps, sorted(temps, reverse=True))
        self.assertAlmostEqual(temps[0], batch().pour_c or 0.0, places=6)
        self.assertAlmostEqual(temps[-1], 21.0, delta=0.5)

    def test_in_the_fridge_it_goes_below_the_room(self) -> None:
        self.assertLess(filled_c(batch("rest_then_chill"), 120.0), 15.0)
        # It rests on the bench first, as it does in the room.
        self.assertEqual(filled_c(batch("rest_then_chill"), 8.0), filled_c(batch(), 8.0))

    def test_a_cooler_room_cools_it_sooner(self) -> None:
        self.assertLess(filled_c(batch(), 40.0, room_c=15.0), filled_c(batch(), 40.0, room_c=25.0))


class Moments(unittest.TestCase):
    def test_what_is_still_warm_is_offered_first_and_only_as_long_as_it_is(self) -> None:
        self.assertEqual(moments_of(batch(), 5.0), [Moment.MOULD, Moment.ROOM, Moment.FRIDGE])
        self.assertEqual(moments_of(batch(), 600.0), [Moment.ROOM, Moment.FRIDGE])
        self.assertFalse(is_warm(batch(), 12 * 60.0, room_c=-40.0))  # whatever the model says

    def test_what_is_whipped_is_offered_straight_from_the_whisk_on_its_day(self) -> None:
        self.assertEqual(moments_of(batch(overrun=0.5), 5.0)[0], Moment.WHISK)
        self.assertNotIn(Moment.WHISK, moments_of(batch(overrun=0.5), 24 * 60.0))

    def test_a_moment_has_its_likely_temperature(self) -> None:
        self.assertEqual(moment_c(Moment.ROOM, batch(), 5.0, room_c=19.0), 19.0)
        self.assertEqual(moment_c(Moment.FRIDGE, batch(), 5.0), 5.0)
        self.assertEqual(moment_c(Moment.MOULD, batch(), 0.0), round(batch().pour_c or 0.0))
        self.assertEqual(moment_c(Moment.WHISK, batch(overrun=0.5), 0.0), 18.0)
        self.assertEqual([moment.is_unset for moment in Moment], [False, True, True, False])
