"""Looking for what a skin reacts to: what is left to suspect, when the next patch is, how a pat is made."""

from __future__ import annotations

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.process.reactions import CALM, REACTED, next_on, pat_for, still_suspected

SHELF = library()
SLUGS = ["lavender", "lanolin", "rosehip", "beeswax_yellow"]


class Suspects(unittest.TestCase):
    @given(st.dictionaries(st.sampled_from(SLUGS), st.sampled_from([CALM, REACTED])))
    def test_what_reacted_is_found_and_what_was_calm_is_cleared(self, results: dict[str, str]) -> None:
        left = still_suspected(SLUGS, results)
        reacted = [slug for slug in SLUGS if results.get(slug) == REACTED]
        self.assertTrue(all(results.get(slug) != CALM for slug in left))
        self.assertEqual(left, reacted or [slug for slug in SLUGS if slug not in results])

    def test_skin_rests_for_a_week_and_each_patch_for_two_days(self) -> None:
        day = date(2026, 5, 1)
        self.assertEqual(next_on(day, []), date(2026, 5, 8))
        self.assertEqual(
            next_on(day, [day + timedelta(days=8), day + timedelta(days=12)]), date(2026, 5, 15)
        )
        self.assertEqual(next_on(day, [day]), date(2026, 5, 8))  # too early a patch shortens nothing


class Pats(unittest.TestCase):
    def test_a_scent_never_goes_on_skin_pure(self) -> None:
        words = str(pat_for(SHELF["lavender"], 1.0, SHELF["olive_oil"]))
        self.assertEqual(words, "Stir 0.05 g of lavender into 5.0 g of olive oil: 1 %, as it was.")
        self.assertIn("an oil you use without trouble", str(pat_for(SHELF["lavender"], 0.1, None)))
        self.assertIn("into 20.0 g of", str(pat_for(SHELF["lavender"], 0.1, None)))

    def test_oils_and_butters_are_tried_pure_and_wax_is_softened(self) -> None:
        self.assertIn("pure", str(pat_for(SHELF["rosehip_oil"], 10.0, SHELF["olive_oil"])))
        self.assertIn("4 g of olive oil", str(pat_for(SHELF["beeswax_yellow"], 20.0, SHELF["olive_oil"])))
