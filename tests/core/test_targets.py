"""The solver: meets what can be met, respects every limit, and says what stops it."""

from __future__ import annotations

from decimal import Decimal
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import yield_values
from calmtin.core.engine.ladder import raw_rungs
from calmtin.core.errors import CalmTinError
from calmtin.core.solver.explain import AllowLayer, AllowLine, Bound, LayerBound
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import SURE, solve
from calmtin.core.solver.space import Space

SHELF = library()


def parts(**percents: float) -> list:
    return [(SHELF[slug], percent) for slug, percent in percents.items()]


STICK = parts(beeswax_yellow=20, cocoa_butter=18, coconut_rbd=18, sweet_almond_oil=43.2, tocopherols_50=0.8)


class Spaces(TestCase):
    @given(st.lists(st.floats(0.5, 40), min_size=6, max_size=6), st.floats(5, 45))
    def test_agrees_with_the_engine(self, amounts: list[float], temp: float) -> None:
        materials = [
            SHELF[s]
            for s in ("beeswax_yellow", "shea_refined", "coconut_rbd", "olive_oil", "kaolin", "honey")
        ]
        percents = np.array(amounts) / sum(amounts) * 100
        if percents[4] > 40:
            return
        direct = raw_rungs(
            yield_values(blend(list(zip(materials, percents, strict=True))), np.array([temp]))
        )[0]
        ours = Space(materials).rungs(percents[None, :], temp)[0]
        self.assertAlmostEqual(max(direct, -6.0), ours, places=6)


class Solve(TestCase):
    def check(self, formula: list, target: Target, limits: Limits | None = None) -> object:
        limits = limits or Limits()
        found = solve(formula, target, limits)
        self.assertEqual(sum(found.percents), Decimal("100.000"))
        for (material, was), now in zip(formula, found.percents, strict=True):
            if material.slug in limits.locked:
                self.assertEqual(float(now), was)
            elif limits.ranges and material.slug in limits.ranges:
                low, high = limits.ranges[material.slug]
                self.assertTrue(low <= float(now) <= high, (material.slug, now))
            self.assertGreaterEqual(now, 0)
        return found

    def test_reachable_targets_are_met(self) -> None:
        lock = frozenset({"tocopherols_50"})
        for rung in (4.5, 5.5, 6.5, 7.5, 8.5):
            found = self.check(
                STICK, Target(rung, 21.0, 3.0, 36.0), Limits(lock, {"beeswax_yellow": (15, 35)})
            )
            self.assertEqual(found.status, "met", rung)
            self.assertAlmostEqual(found.rungs[21.0], rung, delta=SURE)
            self.assertGreaterEqual(found.rungs[36.0], 3.0 - SURE)

    def test_what_fits_already_is_left_alone(self) -> None:
        rung = float(raw_rungs(yield_values(blend(STICK), np.array([21.0])))[0])
        found = self.check(STICK, Target(rung))
        for (_, was), now in zip(STICK, found.percents, strict=True):
            self.assertAlmostEqual(float(now), was, places=2)

    def test_skin_melt_and_layers(self) -> None:
        butter = parts(beeswax_yellow=12, shea_refined=50, sunflower_high_oleic=38)
        limits = Limits(layers={"oil": (30.0, 45.0)})
        found = self.check(butter, Target(5.0, skin_melt=0.7), limits)
        self.assertEqual(found.status, "met")
        self.assertGreaterEqual(found.skin_melt, 0.69)
        self.assertTrue(30 <= found.percents[2] <= 45)
        waxes = Limits(frozenset({"shea_refined"}), layers={"wax": (0.0, 14.0)})
        tight = self.check(butter, Target(7.5), waxes)
        self.assertEqual(tight.status, "not_met")
        self.assertIn(LayerBound("wax", 0.0, 14.0), tight.limits)
        self.assertTrue(any(isinstance(w, AllowLayer) and w.layer == "wax" for w in tight.ways_out))

    @given(
        st.sampled_from(["beeswax_yellow", "candelilla_wax", "soy_wax"]),
        st.sampled_from(["shea_refined", "cocoa_butter", "coconut_rbd"]),
        st.floats(5, 30),
        st.floats(5, 50),
        st.floats(2.5, 8.0),
    )
    def test_never_worse_than_a_grid_on_three_lines(
        self, wax: str, butter: str, wax_pct: float, butter_pct: float, rung: float
    ) -> None:
        formula = parts(**{wax: wax_pct, butter: butter_pct, "olive_oil": 100 - wax_pct - butter_pct})
        found = self.check(formula, Target(rung))
        grid = np.array([(a, b, 100 - a - b) for a in range(101) for b in range(101 - a)], dtype=float)
        space = Space([m for m, _ in formula])
        fits = np.abs(space.rungs(grid, 21.0) - rung) <= 0.015
        start = np.array([p for _, p in formula])
        if fits.any():
            self.assertEqual(found.status, "met")
            ours = float(((np.array([float(p) for p in found.percents]) - start) ** 2).sum())
            best = float(((grid[fits] - start) ** 2).sum(axis=-1).min())
            self.assertLessEqual(ours, best + 0.05)

    def test_not_met_says_how_close_and_what_stops_it(self) -> None:
        limits = Limits(
            frozenset({"cocoa_butter", "coconut_rbd", "tocopherols_50"}), {"beeswax_yellow": (15, 22)}
        )
        found = self.check(STICK, Target(8.5), limits)
        self.assertEqual(found.status, "not_met")
        self.assertAlmostEqual(float(found.percents[0]), 22.0, places=2)
        wax = library()["beeswax_yellow"]
        self.assertIn(Bound(wax, False, "more", 22.0), found.limits)
        self.assertTrue(
            any(isinstance(w, AllowLine) and w.material == wax and w.is_up for w in found.ways_out)
        )
        self.assertEqual(len(found.ways_out), 2)

    def test_what_cannot_be_met_is_told_without_a_long_search(self) -> None:
        layers = {"wax": (16.0, 30.0), "butter": (10.0, 35.0), "soft_fat": (0.0, 35.0), "oil": (20.0, 45.0)}
        with patch.object(Space, "rungs", autospec=True, side_effect=Space.rungs) as rungs:
            found = self.check(STICK, Target(9.5, 21.0, 4.0, 36.0), Limits(layers=layers))
        self.assertEqual(found.status, "not_met")
        self.assertLess(rungs.call_count, 5000)
        # No formula within the same ranges comes nearer.
        random = np.random.default_rng(3)
        wax, butter = random.uniform(16, 30, 4000), random.uniform(10, 35, 4000)
        soft, guard = random.uniform(0, 35, 4000), np.full(4000, 0.8)
        tries = np.stack([wax, butter, soft, 100 - wax - butter - soft - guard, guard], axis=-1)
        tries = tries[(tries[:, 3] >= 20) & (tries[:, 3] <= 45)]
        best = float(Space([m for m, _ in STICK]).rungs(tries, 21.0).max())
        self.assertGreaterEqual(found.rungs[21.0], best - 0.01)

    def test_everything_locked(self) -> None:
        found = self.check(STICK, Target(9.0), Limits(frozenset(m.slug for m, _ in STICK)))
        self.assertEqual(found.status, "not_met")
        self.assertTrue(found.limits)

    def test_nothing_here_can_be_that_hard(self) -> None:
        found = self.check(parts(olive_oil=60, castor_oil=40), Target(7.0))
        self.assertEqual(found.status, "not_met")
        self.assertLess(found.rungs[21.0], 1.1)

    def test_contradictions_are_refused(self) -> None:
        for limits in (
            Limits(ranges={"beeswax_yellow": (30, 20)}),
            Limits(ranges={"beeswax_yellow": (60, 80), "cocoa_butter": (50, 60)}),
            Limits(frozenset({"moon_dust"})),
            Limits(ranges={m.slug: (0, 10) for m, _ in STICK}),
            Limits(
                frozenset({"tocopherols_50"}),
                layers=dict.fromkeys(("wax", "butter", "soft_fat", "oil"), (0.0, 20.0)),
            ),
            Limits(layers={"wax": (30.0, 20.0)}),
        ):
            with self.assertRaises(CalmTinError):
                solve(STICK, Target(6.0), limits)
