"""Pots that are saved: scaled up after an over-pour, brought to a rung by the least that does it."""

from __future__ import annotations

from decimal import Decimal
from random import Random
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.engine.firmness import rung_at
from calmtin.core.errors import CalmTinError
from calmtin.core.process.rescue import additions, scaled_up

SHELF, STEP = library(), Decimal("0.1")


class OverPour(TestCase):
    @given(
        st.lists(st.integers(20, 3000), min_size=2, max_size=12),
        st.data(),
        st.sampled_from([Decimal("0.1"), Decimal("0.5"), Decimal("0.01")]),
    )
    def test_scaling_up_restores_every_share_within_the_scale(
        self, steps: list[int], data: st.DataObject, step: Decimal
    ) -> None:
        planned = [n * step for n in steps]
        weighed: list[Decimal | None] = [None] * len(planned)
        for n in range(data.draw(st.integers(1, len(planned)))):
            off = data.draw(st.integers(-3, 3))
            weighed[n] = planned[n] + off * step
        over = data.draw(st.integers(0, sum(w is not None for w in weighed) - 1))
        weighed[over] = planned[over] + data.draw(st.integers(4, 2000)) * step
        up = scaled_up(planned, weighed, step_g=step)
        for target, grams, inside, more in zip(up.targets, planned, weighed, up.to_add, strict=True):
            self.assertEqual(target, (inside or 0) + more)
            self.assertGreaterEqual(more, 0)
            # Within a step of its share: what is in to within a step is left alone.
            self.assertLess(abs(target - grams * up.factor), Decimal("1.51") * step)
        self.assertEqual(up.batch_g, sum(up.targets))

    def test_nothing_over_is_nothing_to_scale(self) -> None:
        for weighed in ([None, None], [Decimal(20), None], [Decimal(19), Decimal(80)]):
            with self.assertRaises(CalmTinError):
                scaled_up([Decimal(20), Decimal(80)], weighed, step_g=STEP)


class MeltAgainAndAdd(TestCase):
    def pot(self, random: Random) -> list:
        return [
            (SHELF[slug], random.uniform(*span))
            for slug, span in {
                "beeswax_yellow": (8, 24),
                "shea_refined": (5, 40),
                "coconut_rbd": (0, 20),
                "olive_oil": (40, 90),
            }.items()
        ]

    def test_against_brute_force(self) -> None:
        random = Random(7)
        names = ("beeswax_yellow", "candelilla_wax", "cocoa_butter", "olive_oil", "castor_oil")
        tried = 0
        for _ in range(12):
            pot = self.pot(random)
            now = rung_at(pot, 21.0)
            wanted = now + random.choice([-1.2, -0.6, 0.6, 1.0])
            ways = additions(
                pot,
                [(SHELF[name], None) for name in names],
                wanted,
                rung_of=lambda parts: rung_at(parts, 21.0),
                step_g=STEP,
            )
            self.assertEqual([w.grams for w in ways], sorted(w.grams for w in ways))
            whole = sum(grams for _, grams in pot)
            for way in ways:
                self.assertGreater(way.grams, 0)
                best = next(
                    n * 0.5
                    for n in range(1, int(whole * 2) + 1)
                    if (rung_at(self.more(pot, way.material, n * 0.5), 21.0) - wanted) * (now - wanted) <= 0
                )
                self.assertLessEqual(float(way.grams), best + 0.1)
                self.assertGreaterEqual(float(way.grams), best - 0.6)
                self.assertAlmostEqual(
                    way.rung, rung_at(self.more(pot, way.material, float(way.grams)), 21.0)
                )
                step = rung_at(self.more(pot, way.material, float(way.grams) + 0.1), 21.0) - way.rung
                self.assertLessEqual(abs(way.rung - wanted), max(0.05, abs(step)))
                tried += 1
        self.assertGreater(tried, 15)

    def more(self, pot: list, material: object, grams: float) -> list:
        known = [m.slug for m, _ in pot]
        if material.slug in known:
            return [(m, g + grams if m.slug == material.slug else g) for m, g in pot]
        return [*pot, (material, grams)]

    def test_no_more_than_there_is_and_nothing_where_it_is_met(self) -> None:
        pot = [(SHELF["beeswax_yellow"], 12.0), (SHELF["olive_oil"], 88.0)]

        def read(parts: list) -> float:
            return rung_at(parts, 21.0)

        wax = SHELF["beeswax_yellow"]
        self.assertEqual(additions(pot, [(wax, 0.5)], read(pot) + 2, rung_of=read, step_g=STEP), [])
        self.assertEqual(additions(pot, [(wax, None)], read(pot), rung_of=read, step_g=STEP), [])
