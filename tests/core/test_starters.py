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

    def test_three_lie_on_one_path(self) -> None:
        """From soft to firm no line turns back, and no wax or butter is a crumb of its own."""
        for kind in kinds().values():
            for avoid in ([], ["vegan", "tree_nut"]):
                found = starters(SHELF, kind, avoid=avoid)
                with self.subTest(kind.slug, avoid=avoid):
                    self.assertEqual(len({starter.materials for starter in found}), 1)
                    soft, middle, firm = (starter.solution.percents for starter in found)
                    for material, a, b, c in zip(found[0].materials, soft, middle, firm, strict=True):
                        turn = (b - a) * (c - b)
                        self.assertGreaterEqual(turn, Decimal("-0.0001"), (material.slug, a, b, c))
                        if material.layer == "wax":
                            self.assertTrue(a <= b <= c, (material.slug, a, b, c))
                        if material.layer in ("wax", "butter"):
                            self.assertGreaterEqual(
                                min(a, b, c), Decimal("0.999"), (material.slug, a, b, c)
                            )

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
