"""The ingredients of a label, worked by hand."""

from __future__ import annotations

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library, scent_facts
from calmtin.core.packing.ingredients import Ingredients, ingredients_of

SHELF, SCENTS = library(), scent_facts()


def told(**grams: float) -> Ingredients:
    return ingredients_of([(SHELF[slug], g) for slug, g in grams.items()], SCENTS)


OLIVE, WAX, CASTOR = (
    "Olea Europaea (Olive) Fruit Oil",
    "Cera Alba (Beeswax)",
    "Ricinus Communis (Castor) Seed Oil",
)
JOJOBA, SHEA = "Simmondsia Chinensis (Jojoba) Seed Oil", "Butyrospermum Parkii (Shea) Butter"
COCONUT, STARCH = "Cocos Nucifera (Coconut) Oil", "Maranta Arundinacea Root Powder"
COCOA, ALMOND = "Theobroma Cacao (Cocoa) Seed Butter", "Prunus Amygdalus Dulcis (Sweet Almond) Oil"
MANGO, CANDELILLA = "Mangifera Indica (Mango) Seed Butter", "Euphorbia Cerifera (Candelilla) Wax"

# Grams of ten formulas, and by hand: the list, most first, and the allergens of the scents.
TEN = (
    ({"beeswax_yellow": 20, "olive_oil": 80}, (OLIVE, WAX), ()),
    ({"olive_oil": 20, "beeswax_yellow": 80}, (WAX, OLIVE), ()),
    # Two grades of one wax are one name, with their weights together.
    ({"olive_oil": 50, "beeswax_yellow": 26, "beeswax_white": 24.5}, (WAX, OLIVE), ()),
    ({"castor_oil": 60, "mica": 1, "jojoba_oil": 39}, (CASTOR, JOJOBA, "Mica"), ()),
    # An oil that is an allergen by itself is named once, in its place in the list.
    (
        {"shea_refined": 70, "arrowroot": 5, "peppermint": 0.5, "coconut_rbd": 24.5},
        (SHEA, COCONUT, STARCH, "Mentha Piperita Oil"),
        ("Carvone", "Limonene", "Linalool", "Menthol"),
    ),
    (
        {"beeswax_yellow": 25, "cocoa_butter": 35, "sweet_almond_oil": 39, "orange_sweet": 1},
        (ALMOND, COCOA, WAX, "Citrus Sinensis Oil"),
        ("Citral", "Limonene", "Linalool"),
    ),
    (
        {"mango_butter": 60, "jojoba_oil": 39, "lavender": 0.6, "bergamot": 0.4},
        (MANGO, JOJOBA, "Lavandula Angustifolia Oil", "Citrus Bergamia Oil"),
        ("Citral", "Geraniol", "Lavandula oil", "Limonene", "Linalool", "Linalyl acetate"),
    ),
    (
        {"candelilla_wax": 12, "castor_oil": 88, "iron_oxide": 0.5},
        (CASTOR, CANDELILLA, "CI 77491, CI 77492, CI 77499"),
        (),
    ),
    (
        {"olive_oil": 79, "beeswax_yellow": 20, "tea_tree": 1},
        (OLIVE, WAX, "Melaleuca Alternifolia Oil"),
        ("Limonene", "Pinene", "Terpineol", "Terpinolene", "alpha-Terpinene"),
    ),
    # Below a thousandth of a percent an allergen is not named; the oil itself stands in the list.
    ({"olive_oil": 99_999.5, "lavender": 0.5}, (OLIVE, "Lavandula Angustifolia Oil"), ()),
)


class ByHand(TestCase):
    def test_ten_formulas(self) -> None:
        for grams, names, allergens in TEN:
            with self.subTest(", ".join(names)):
                found = told(**grams)
                self.assertEqual(found.by_inci, ", ".join(names))
                self.assertEqual(found.allergens, allergens)

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
