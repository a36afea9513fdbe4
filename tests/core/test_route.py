"""A maker's own order of the computed steps."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.errors import CalmTinError
from calmtin.core.process.route import MOST_OWN, OwnStep, added, arranged, moved
from calmtin.core.process.run_sheet import Step

KEYS = ("ready", "weigh", "melt_wax", "oils", "scent", "fill", "clean")
SHEET = [Step(key, key.title(), "") for key in KEYS]


class Arranged(unittest.TestCase):
    def keys(self, own: list[OwnStep]) -> list[str]:
        return [step.key for step in arranged(SHEET, own)]

    def test_nothing_of_ones_own_is_the_computed_sheet(self) -> None:
        self.assertEqual(arranged(SHEET, []), SHEET)

    def test_order_titles_what_is_left_out_and_what_was_added(self) -> None:
        own = [OwnStep(key) for key in KEYS]
        own = moved(own, "oils", -1)
        own = added(own, " Switch the fan off ")
        own = moved(own, "own-1", -2)
        own[0] = OwnStep("ready", is_skipped=True)
        own[2] = OwnStep("oils", "Oil first")
        steps = arranged(SHEET, own)
        self.assertEqual(
            [step.key for step in steps], ["weigh", "oils", "melt_wax", "scent", "own-1", "fill", "clean"]
        )
        self.assertEqual([steps[1].title, steps[4].title], ["Oil first", "Switch the fan off"])

    def test_a_step_that_came_with_a_new_line_follows_its_neighbour(self) -> None:
        own = [OwnStep(key) for key in KEYS if key != "scent"]
        self.assertEqual(self.keys(own), list(KEYS))
        self.assertEqual(self.keys([OwnStep("powder"), *own]), list(KEYS))  # this formula has none

    def test_what_cannot_be(self) -> None:
        with self.assertRaisesRegex(CalmTinError, "Name the step"):
            added([], "  ")
        with self.assertRaisesRegex(CalmTinError, "up to 20"):
            added([OwnStep(f"own-{n}") for n in range(MOST_OWN)], "More")
        with self.assertRaisesRegex(CalmTinError, "not on the sheet"):
            moved([], "oils", 1)

    @given(st.permutations(KEYS), st.sets(st.sampled_from(KEYS)), st.sets(st.sampled_from(KEYS)))
    def test_each_step_is_there_once_and_the_pour_is_never_left_out(
        self, order: list[str], unknown: set[str], skipped: set[str]
    ) -> None:
        own = [OwnStep(key, is_skipped=key in skipped) for key in order if key not in unknown]
        keys = self.keys(own)
        gone = {key for key in skipped if key not in unknown} - {"weigh", "fill"}
        self.assertEqual(sorted(keys), sorted(set(KEYS) - gone))
