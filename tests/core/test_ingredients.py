"""The ingredients of a label, worked by hand."""

from __future__ import annotations

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library, scent_facts
from calmtin.core.finish.ingredients import Ingredients, ingredients_of

SHELF, SCENTS = library(), scent_facts()


def told(**grams: float) -> Ingredients:
    return ingredients_of([(SHELF[slug], g) for slug, g in grams.items()], SCENTS)


class ByHand(TestCase):
    def test_the_order_is_that_of_the_weights(self) -> None:
        olive, wax = "Olea Europaea (Olive) Fruit Oil", "Cera Alba (Beeswax)"
        castor, jojoba = "Ricinus Communis (Castor) Seed Oil", "Simmondsia Chinensis (Jojoba) Seed Oil"
        shea, coconut = "Butyrospermum Parkii (Shea) Butter", "Cocos Nucifera (Coconut) Oil"
        starch, mint = "Maranta Arundinacea Root Powder", "Mentha Piperita Oil"
        for grams, names in (
            ({"beeswax_yellow": 20, "olive_oil": 80}, (olive, wax)),
            ({"olive_oil": 20, "beeswax_yellow": 80}, (wax, olive)),
            # Two grades of one wax are one name, with their weights together.
            ({"olive_oil": 50, "beeswax_yellow": 26, "beeswax_white": 24.5}, (wax, olive)),
            ({"castor_oil": 60, "mica": 1, "jojoba_oil": 39}, (castor, jojoba, "Mica")),
            (
                {"shea_refined": 70, "arrowroot": 5, "peppermint": 0.5, "coconut_rbd": 24.5},
                (shea, coconut, starch, mint),
            ),
        ):
            words = ", ".join(names)
            with self.subTest(words):
                self.assertEqual(told(**grams).by_inci, words)

    def test_a_mixture_stands_with_both_names_and_is_asked_about(self) -> None:
        found = told(olive_oil=99, tocopherols_50=1)
        self.assertEqual(
            [(e.inci, e.percent) for e in found.listed[1:]], [("Tocopherol", 0.5), ("carrier oil", 0.5)]
        )
        self.assertEqual([m.slug for m in found.unclear], ["tocopherols_50"])
        self.assertEqual(told(olive_oil=99, beeswax_yellow=1).unclear, ())

    def test_allergens_are_named_from_the_leave_on_threshold(self) -> None:
        self.assertEqual(
            told(olive_oil=99, lavender=1).allergens,
            ("Geraniol", "Lavandula oil", "Limonene", "Linalool", "Linalyl acetate"),
        )
        self.assertEqual(told(olive_oil=99.9995, lavender=0.0005).allergens, ())
        self.assertEqual(told(olive_oil=99.998, lavender=0.002).allergens[0], "Geraniol")
        both = told(olive_oil=98, lavender=1, peppermint=1).allergens
        self.assertEqual(len(both), len(set(both)))

    @given(st.dictionaries(st.sampled_from(sorted(SHELF)), st.floats(0.01, 100.0), min_size=1, max_size=12))
    def test_laws(self, grams: dict) -> None:
        found = told(**grams)
        percents = [entry.percent for entry in found.listed]
        self.assertEqual(percents, sorted(percents, reverse=True))
        self.assertAlmostEqual(sum(percents), 100.0, places=6)
        self.assertTrue(all(entry.inci and ";" not in entry.inci for entry in found.listed))
