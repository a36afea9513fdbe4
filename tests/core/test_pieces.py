"""Single pieces of a pour: what the directive allows, and mean and spread against numpy."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.packing.pieces import short_by_g, weigh_up

GRAMS = st.floats(0.1, 500.0)


class Pieces(unittest.TestCase):
    def test_the_table_of_the_directive(self) -> None:
        told = {5: 0.45, 50: 4.5, 100: 4.5, 200: 9.0, 250: 9.0, 500: 15.0, 1000: 15.0}
        for nominal, short in told.items():
            self.assertAlmostEqual(short_by_g(nominal), short)

    @given(st.lists(GRAMS, min_size=2, max_size=30), GRAMS)
    def test_mean_spread_and_the_light_ones(self, weights: list[float], nominal: float) -> None:
        up = weigh_up(weights, nominal)
        self.assertAlmostEqual(up.mean_g, float(np.mean(weights)), places=6)
        self.assertAlmostEqual(up.spread_g or 0.0, float(np.std(weights, ddof=1)), places=6)
        self.assertTrue(all(w < nominal for w in up.light))
        self.assertEqual(len(up.light), sum(w < nominal - short_by_g(nominal) - 1e-9 for w in weights))
        self.assertIsNone(weigh_up(weights[:1], nominal).spread_g)
