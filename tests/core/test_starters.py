"""Three worked formulas for every kind, of what may be used."""

from __future__ import annotations

from decimal import Decimal
from unittest import TestCase

from calmtin.core.data.loader import kinds, library
from calmtin.core.solver.starters import starters

SHELF = library()


class Starters(TestCase):
    def test_every_kind_gets_three_inside_its_band(self) -> None:
        for kind in kinds().values():
            found = starters(SHELF, kind)
            with self.subTest(kind.slug):
                self.assertEqual([s.label for s in found], ["soft", "middle", "firm"])
                rungs = [s.solution.rungs[21.0] for s in found]
                self.assertEqual(rungs, sorted(rungs))
                for starter, rung in zip(found, rungs, strict=True):
                    self.assertTrue(kind.target[0] - 0.05 <= rung <= kind.target[1] + 0.05, rung)
                    self.assertEqual(sum(p for _, p in starter.lines), Decimal(100))

    def test_what_is_avoided_is_not_in_it(self) -> None:
        for flag in ("bee", "coconut", "tree_nut", "soy", "lanolin", "vegan"):
            for starter in starters(SHELF, kinds()["lip_balm"], avoid=[flag]):
                for material, _ in starter.lines:
                    self.assertTrue(material.vegan if flag == "vegan" else flag not in material.allergens)

    def test_what_is_in_stock_comes_first(self) -> None:
        stock = frozenset({"rice_bran_wax", "mango_butter", "kokum_butter", "argan_oil", "jojoba_oil"})
        used = {m.slug for m, _ in starters(SHELF, kinds()["firm_salve"], stock=stock)[1].lines}
        self.assertLessEqual({"rice_bran_wax", "jojoba_oil"}, used)
        self.assertNotIn("beeswax_yellow", used)
