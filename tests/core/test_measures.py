"""Cups, spoons and drops to grams, each case worked by hand."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.custom_material import own_material
from calmtin.core.data.loader import drops_per_ml, library
from calmtin.core.errors import CalmTinError
from calmtin.core.process.tincture import strength_pct, tincture
from calmtin.core.recipe.measures import UNITS, is_weight, ounce_readings, to_weight
from calmtin.core.recipe.typed import read_measure, weigh_typed

SHELF = library()

# material, amount, unit, form, grams by hand: ml x density x filled part.
BY_HAND = [
    ("olive_oil", 100, "g", None, 100.0),
    ("olive_oil", 1.5, "kg", None, 1500.0),
    ("beeswax_yellow", 1, "oz", None, 28.35),
    ("cocoa_butter", 2, "lb", None, 907.18),
    ("olive_oil", 100, "ml", None, 91.1),  # 100 x 0.911
    ("castor_oil", 1, "l", None, 958.0),
    ("olive_oil", 1, "fl_oz", None, 26.94),  # 29.5735 x 0.911
    ("olive_oil", 1, "cup", None, 215.53),  # 236.588 x 0.911
    ("olive_oil", 1, "metric_cup", None, 227.75),  # 250 x 0.911
    ("olive_oil", 1, "tbsp", None, 13.47),  # 14.7868 x 0.911
    ("olive_oil", 1, "metric_tbsp", None, 13.665),
    ("olive_oil", 1, "tsp", None, 4.490),  # 4.92892 x 0.911
    ("olive_oil", 1, "metric_tsp", None, 4.555),
    ("sweet_almond_oil", 0.5, "cup", None, 108.0),  # 118.294 x 0.913
    ("jojoba_oil", 2, "tbsp", None, 25.58),  # 29.5735 x 0.865
    ("squalane", 30, "ml", None, 24.18),
    ("mct_oil", 2, "fl_oz", None, 55.72),  # 59.147 x 0.942
    ("beeswax_yellow", 1, "cup", "pellets", 137.2),  # 236.588 x 0.58, measured bulk
    ("beeswax_yellow", 1, "cup", "melted", 198.7),  # x 0.84
    ("beeswax_yellow", 1, "cup", "shavings", 81.76),  # x 0.96 x 0.36
    ("beeswax_yellow", 1, "cup", "chopped", 147.6),  # x 0.96 x 0.65
    ("beeswax_yellow", 1, "cup", "packed", 220.3),  # x 0.96 x 0.97
    ("beeswax_yellow", 1, "tbsp", "pellets", 8.576),
    ("beeswax_yellow", 1, "cup", None, 137.2),  # a wax is taken as pellets
    ("candelilla_wax", 1, "tbsp", "pellets", 8.695),  # 14.7868 x 0.98 x 0.60
    ("stearic_acid", 1, "cup", "pellets", 127.8),  # x 0.54, measured bulk
    ("shea_refined", 1, "cup", "melted", 209.4),  # x 0.885
    ("shea_refined", 1, "cup", "packed", 212.9),  # x 0.90, measured bulk
    ("shea_refined", 1, "cup", "chopped", 141.5),  # x 0.92 x 0.65
    ("shea_refined", 1, "cup", None, 141.5),  # a butter is taken as chopped
    ("cocoa_butter", 0.5, "cup", "shavings", 40.88),  # 118.294 x 0.96 x 0.36
    ("cocoa_butter", 0.25, "cup", "melted", 52.35),  # 59.147 x 0.885
    ("coconut_rbd", 1, "cup", None, 217.7),  # a soft fat is taken as packed: x 0.92
    ("coconut_rbd", 1, "cup", "melted", 212.9),  # x 0.90
    ("tallow", 2, "tbsp", "packed", 25.73),  # 29.5735 x 0.87
    ("arrowroot", 1, "cup", None, 127.8),  # x 0.54
    ("kaolin", 1, "tbsp", None, 6.654),  # 14.7868 x 0.45
    ("cocoa_powder", 1, "tbsp", None, 5.323),  # x 0.36
    ("iron_oxide", 1, "tsp", None, 8.626),  # 4.92892 x 5.0 x 0.35, no bulk known
    ("mica", 1, "pinch", None, 0.0770),  # 4.92892 / 16 x 0.25
    ("honey", 1, "tbsp", None, 20.85),  # x 1.41
    ("tocopherols_50", 0.25, "tsp", None, 1.146),  # 1.23223 x 0.93
    ("tocopherols_50", 1, "dropper", None, 0.93),  # 1 ml
    ("tocopherols_50", 2, "capsule", None, 0.744),  # 0.8 ml
    ("lavender", 20, "drop", None, 0.885),  # 1 ml
    ("peppermint", 14, "drop", None, 0.6335),  # 0.7 ml x 0.905
    ("clove_bud", 5, "drop", None, 0.2625),  # 0.25 ml x 1.05
    ("squalane", 10, "drop", None, 0.403),  # 0.5 ml x 0.806
]


class ByHand(TestCase):
    def test_cases(self) -> None:
        self.assertGreaterEqual(len(BY_HAND), 40)
        for slug, amount, unit, form, grams in BY_HAND:
            with self.subTest(f"{amount} {unit} {slug} {form or ''}"):
                weight = to_weight(
                    SHELF[slug], amount, unit, form=form, drops_per_ml=drops_per_ml().get(slug)
                )
                self.assertAlmostEqual(weight.grams, grams, delta=max(0.0006, grams * 0.0007))
                self.assertTrue(weight.low <= weight.grams <= weight.high)

    def test_unsaid_form_leaves_the_range_of_all(self) -> None:
        guess = to_weight(SHELF["beeswax_yellow"], 1, "cup")
        loose = to_weight(SHELF["beeswax_yellow"], 1, "cup", form="shavings")
        melted = to_weight(SHELF["beeswax_yellow"], 1, "cup", form="melted")
        self.assertTrue(guess.is_guess and not loose.is_guess)
        self.assertAlmostEqual(guess.low, loose.low)
        self.assertAlmostEqual(guess.high, melted.grams)

    def test_drops_of_a_scent_keep_their_range(self) -> None:
        weight = to_weight(
            SHELF["lavender"], 14, "drop", low=12, high=16, drops_per_ml=drops_per_ml()["lavender"]
        )
        self.assertAlmostEqual(weight.low, 12 / 40 * 0.885 * 0.98, places=4)
        self.assertAlmostEqual(weight.high, 16 / 20 * 0.885 * 1.02, places=4)

    @given(st.sampled_from(sorted(SHELF)), st.sampled_from(UNITS), st.floats(0, 1000), st.floats(0, 10))
    def test_twice_as_much_weighs_twice(self, slug: str, unit: str, amount: float, times: float) -> None:
        if unit in ("part", "percent"):
            with self.assertRaises(CalmTinError):
                to_weight(SHELF[slug], amount, unit)
            return
        one, more = to_weight(SHELF[slug], amount, unit), to_weight(SHELF[slug], amount * times, unit)
        self.assertAlmostEqual(more.grams, one.grams * times, places=5)
        self.assertTrue(one.low <= one.grams <= one.high)
        if is_weight(unit):
            self.assertEqual(one.low, one.high)


class Ounces(TestCase):
    def test_what_pours_asks_back(self) -> None:
        for slug in ("olive_oil", "coconut_rbd", "lavender"):
            with self.assertRaises(CalmTinError) as asked:
                weigh_typed("16 oz", SHELF[slug])
            self.assertIn("16 fl oz", str(asked.exception))
        self.assertAlmostEqual(weigh_typed("16 oz wt", SHELF["olive_oil"]).grams, 453.59, places=1)
        self.assertAlmostEqual(weigh_typed("16 fl oz", SHELF["olive_oil"]).grams, 431.06, places=1)
        self.assertAlmostEqual(weigh_typed("16 fluid ounces", SHELF["olive_oil"]).grams, 431.06, places=1)

    def test_what_is_sold_by_weight_does_not(self) -> None:
        self.assertIsNone(ounce_readings(SHELF["beeswax_yellow"], 1))
        self.assertAlmostEqual(weigh_typed("8 oz", SHELF["cocoa_butter"]).grams, 226.8, places=1)

    def test_measures_as_typed(self) -> None:
        for text, amount, unit, form in [
            ("500 g", 500, "g", None),
            ("1 1/2 cups melted", 1.5, "cup", "melted"),
            ("2,5 kg", 2.5, "kg", None),
            ("half a pound", 0.5, "lb", None),
            ("1 metric cup, grated", 1, "metric_cup", "shavings"),
            ("30ml", 30, "ml", None),
        ]:
            read = read_measure(text)
            self.assertEqual((read.amount, read.unit, read.form), (amount, unit, form), text)
        for text in ("", "some", "500", "3 parts", "10 %", "five hundred"):
            with self.assertRaises(CalmTinError, msg=text):
                read_measure(text)


class OwnMaterials(TestCase):
    def test_moved_crystals_and_wider_band(self) -> None:
        model = SHELF["candelilla_wax"]
        own = own_material(model, slug="my_wax", name="My wax", group="wax", melt_low_c=60, melt_high_c=65)
        self.assertAlmostEqual(own.fractions[0][0].melt_c, model.fractions[0][0].melt_c - 8.0)
        self.assertGreater(own.ln_strength_sd, model.ln_strength_sd)
        same = own_material(model, slug="my_wax", name="My wax", group="wax")
        self.assertEqual(same.fractions, model.fractions)

    def test_refusals(self) -> None:
        for low, high in ((70, 60), (115, 120)):
            with self.assertRaises(CalmTinError):
                own_material(
                    SHELF["shea_refined"],
                    slug="x",
                    name="x",
                    group="butter",
                    melt_low_c=low,
                    melt_high_c=high,
                )


class Tinctures(TestCase):
    def test_masses_add_up_and_proof_is_half(self) -> None:
        for strength in (0.0, 25.0, 40.0, 60.0, 96.0):
            held = tincture(50.0, strength)
            self.assertAlmostEqual(held.alcohol_g + held.water_g + held.extract_g, 50.0)
            self.assertGreaterEqual(min(held.alcohol_g, held.water_g), 0.0)
        self.assertEqual(strength_pct(80, is_proof=True), 40.0)
        with self.assertRaises(CalmTinError):
            strength_pct(120)
