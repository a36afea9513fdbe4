"""What differs between pours, how likely a band is met, and what a test would tell."""

from __future__ import annotations

from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.engine.blend import Parts, blend
from calmtin.core.engine.differences import differences, things_changed
from calmtin.core.engine.firmness import read, rung_at
from calmtin.core.engine.learning import Observation, learn
from calmtin.core.engine.next_pour import Test, chance_within, narrowings

SHELF = library()


def of(**grams: float) -> Parts:
    return [(SHELF[slug], g) for slug, g in grams.items()]


STICK = of(beeswax_yellow=20, cocoa_butter=18, coconut_rbd=18, sweet_almond_oil=44)


class Differing(TestCase):
    def found(self, **grams: float) -> list:
        return differences(STICK, of(**grams), 21.0)

    def test_more_of_one_thing_is_one_thing_however_it_is_made_room_for(self) -> None:
        by_all = self.found(beeswax_yellow=24, cocoa_butter=17.1, coconut_rbd=17.1, sweet_almond_oil=41.8)
        by_oil = self.found(beeswax_yellow=24, cocoa_butter=18, coconut_rbd=18, sweet_almond_oil=40)
        for found in (by_all, by_oil):
            self.assertEqual(things_changed(found), 1)
            self.assertEqual((found[0].material.slug, found[0].matters), ("beeswax_yellow", True))
        self.assertEqual([d.material.slug for d in by_oil if d.gives_way], ["sweet_almond_oil"])

    def test_another_wax_is_one_thing_and_two_changes_are_two(self) -> None:
        swapped = self.found(candelilla_wax=14, cocoa_butter=18, coconut_rbd=18, sweet_almond_oil=50)
        self.assertEqual(things_changed(swapped), 1)
        self.assertEqual(swapped[0].instead_of.slug, "beeswax_yellow")
        both = self.found(beeswax_yellow=24, cocoa_butter=10, coconut_rbd=18, sweet_almond_oil=48)
        self.assertEqual(things_changed(both), 2)
        self.assertEqual({d.rungs > 0 for d in both if not d.gives_way}, {True, False})

    def test_what_a_coarse_scale_rounds_is_no_change(self) -> None:
        rounded = of(beeswax_yellow=24, cocoa_butter=17.4, coconut_rbd=16.6, sweet_almond_oil=42)
        self.assertEqual(things_changed(differences(STICK, rounded, 21.0)), 2)
        self.assertEqual(things_changed(differences(STICK, rounded, 21.0, step_pct=0.8)), 1)

    def test_a_scent_is_a_thing_that_does_not_matter_for_firmness(self) -> None:
        found = self.found(
            beeswax_yellow=20, cocoa_butter=18, coconut_rbd=18, sweet_almond_oil=43, peppermint=1
        )
        told = [d for d in found if not d.gives_way]
        self.assertEqual([(d.material.slug, d.matters) for d in told], [("peppermint", False)])

    @given(st.floats(0.5, 2.0))
    def test_the_same_pot_in_any_amount_differs_in_nothing(self, scale: float) -> None:
        self.assertEqual(differences(STICK, [(m, g * scale) for m, g in STICK], 21.0), [])

    def test_the_effects_of_changes_add_up_to_about_the_whole(self) -> None:
        after = of(beeswax_yellow=24, cocoa_butter=12, coconut_rbd=18, sweet_almond_oil=46)
        whole = rung_at(after, 21.0) - rung_at(STICK, 21.0)
        self.assertAlmostEqual(sum(d.rungs for d in differences(STICK, after, 21.0)), whole, delta=0.1)


class WhatToPour(TestCase):
    @given(st.floats(0.0, 9.0), st.floats(0.3, 4.0), st.sampled_from([8.0, 21.0, 33.0]))
    @settings(max_examples=40)
    def test_a_wider_band_is_never_less_likely(self, low: float, width: float, at_c: float) -> None:
        ready = blend(STICK)
        narrow = chance_within(ready, at_c, (low, min(low + width, 10.0)))
        wide = chance_within(ready, at_c, (max(low - 0.5, 0.0), min(low + width + 0.5, 10.0)))
        self.assertTrue(-1e-9 <= narrow <= wide + 1e-9 <= 1.0 + 2e-9)
        self.assertAlmostEqual(chance_within(ready, at_c, (0.0, 10.0)), 1.0, places=6)

    def test_eight_of_ten_lie_in_the_band_of_eight_of_ten(self) -> None:
        ready = blend(STICK)
        reading = read(ready, [21.0])
        self.assertAlmostEqual(
            chance_within(ready, 21.0, (float(reading.low[0]), float(reading.high[0]))), 0.8, delta=0.01
        )

    def test_what_a_test_is_said_to_tell_is_what_learning_makes_of_it(self) -> None:
        target = Test(blend(STICK), 21.0)
        now, (after,) = narrowings(target, [Test(blend(STICK), 21.0)])
        reading = read(
            blend(STICK, learn([Observation(STICK, 21.0, felt=round(rung_at(STICK, 21.0)))])), [21.0]
        )
        learned = float(reading.high[0] - reading.low[0])
        plain = read(blend(STICK), [21.0])
        self.assertAlmostEqual(now, float(plain.high[0] - plain.low[0]), delta=0.05)
        self.assertLess(after, now)
        self.assertAlmostEqual(after, learned, delta=0.25)

    def test_the_nearer_the_test_to_the_target_the_more_it_tells(self) -> None:
        oily = of(beeswax_yellow=6, olive_oil=94)
        _, (same, far, warm) = narrowings(
            Test(blend(STICK), 21.0),
            [Test(blend(STICK), 21.0), Test(blend(oily), 21.0), Test(blend(STICK), 33.0)],
        )
        self.assertLess(same, warm)
        self.assertLess(warm, far)
