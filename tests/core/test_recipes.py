"""Recipes as people write them down; all of them invented."""

import re
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import drops_per_ml, library, synonyms
from calmtin.core.recipe.items import Recipe, RecipeLine
from calmtin.core.recipe.reader import read_recipe

SHELF = library()


def read(text: str) -> Recipe:
    return read_recipe(text, SHELF, synonyms=synonyms(), drops_per_ml=drops_per_ml())


# One text a case: what is written, and material with grams for each line that must be read.
RECIPES: list[tuple[str, dict[str, float], int]] = [
    ("45 g beeswax\n180g olive oil", {"beeswax_yellow": 45, "olive_oil": 180}, 0),
    ("2/3 cup mango butter", {"mango_butter": 95.7}, 0),
    ("three quarters of a cup shea butter (melted)", {"shea_refined": 157.0}, 0),
    ("12-16 drops lavender", {"lavender": 0.62}, 0),
    ("¼ tsp vitamin E", {"tocopherols_50": 1.15}, 0),
    ("3 parts olive oil\n1 part beeswax", {"olive_oil": 75, "beeswax_yellow": 25}, 0),
    ("70% shea\n20 % argan\n10% beeswax", {"shea_refined": 70, "argan_oil": 20, "beeswax_yellow": 10}, 0),
    ("1½ cups coconut oil, melted", {"coconut_rbd": 319.4}, 0),
    ("half a cup of grated beeswax", {"beeswax_yellow": 40.9}, 0),
    ("a dozen drops tea tree EO", {"tea_tree": 0.537}, 0),
    ("Slipway balm\n\n30 ml castor oil\n\nMelt it all and pour.", {"castor_oil": 28.7}, 2),
    ("- 100 g cocoa butter\n- 20 g candelilla", {"cocoa_butter": 100, "candelilla_wax": 20}, 0),
    ("1. 50 g cocoa butter\n2. 10 g beeswax", {"cocoa_butter": 50, "beeswax_yellow": 10}, 0),
    ("* Beeswax: 20 g\n* Jojoba oil: 60 ml", {"beeswax_yellow": 20, "jojoba_oil": 51.9}, 0),
    ("olive oil - 200 g", {"olive_oil": 200}, 0),
    ("Castor oil (15 ml)", {"castor_oil": 14.37}, 0),
    ("2 T. beeswax pellets\n1 t vitamin e oil", {"beeswax_yellow": 17.15, "tocopherols_50": 4.58}, 0),
    ("1 tbsp honey; 2 tbsp coconut oil", {"honey": 20.85, "coconut_rbd": 27.2}, 0),
    ("10 g beeswax, 3 g argan, 5 drops ginger", {"beeswax_yellow": 10, "argan_oil": 3, "ginger": 0.22}, 0),
    ("10 g beeswax and 40 g lanolin", {"beeswax_yellow": 10, "lanolin": 40}, 0),
    ("4 fl oz jojoba\n1 lb cocoa butter wafers", {"jojoba_oil": 102.3, "cocoa_butter": 453.6}, 0),
    ("8 oz shea butter", {"shea_refined": 226.8}, 0),
    ("two and a half cups sunflower oil", {"sunflower_oil": 542.4}, 0),
    ("1 cup and a half olive oil", {"olive_oil": 323.3}, 0),
    ("unicorn tears 3 g\n20 g beeswax", {"beeswax_yellow": 20}, 1),
    ("cedarwood 5 drops", {}, 1),
    ("beeswax\n15 g kokum", {"kokum_butter": 15}, 1),
    ("1 cup calendula-infused olive oil", {"infused_oil": 216.0}, 0),
    ("0,5 tsp arrowroot powder", {"arrowroot": 1.33}, 0),
    ("½ tsp mica\na pinch of pink mica", {"mica": 0.077}, 0),
    ("15g raw shea butter\n250ml virgin coconut oil", {"shea_unrefined": 15, "coconut_virgin": 230}, 0),
    ("3 parts beeswax\n100 g olive oil", {"olive_oil": 100}, 1),
    ("1 metric cup safflower", {"safflower_oil": 230.3}, 0),
    ("1 dropperful of roe\n2 capsules vitamin E", {"rosemary_extract": 0.92, "tocopherols_50": 0.744}, 0),
    ("APPROX 40 G BEES WAX!!", {"beeswax_yellow": 40}, 0),
    ("12 to 16 drops of peppermint essential oil (optional)", {"peppermint": 0.6335}, 0),
]  # fmt: skip


class Pasted(TestCase):
    def test_invented_recipes(self) -> None:
        self.assertGreaterEqual(len(RECIPES), 30)
        for text, wanted, open_lines in RECIPES:
            recipe = read(text)
            with self.subTest(text):
                got = {line.material: line.weight for line in recipe.lines}
                self.assertEqual(set(got), set(wanted))
                for slug, grams in wanted.items():
                    self.assertAlmostEqual(got[slug].grams, grams, delta=max(0.003, grams * 0.005))
                    self.assertTrue(got[slug].low <= got[slug].grams <= got[slug].high)
                self.assertEqual(len(recipe.unresolved), open_lines)
                for item in recipe.unresolved:
                    self.assertTrue(item.reason)

    def test_ambiguous_words_offer_both(self) -> None:
        offers = {choice.slug for choice in read("5 drops cedarwood").unresolved[0].choices}
        self.assertLessEqual({"cedarwood_atlas", "cedarwood_virginia"}, offers)

    def test_ounces_of_oil_ask(self) -> None:
        line = read("1 1/2 oz olive oil").lines[0]
        self.assertIn("fluid ounces", line.question)
        self.assertLess(line.weight.low, line.weight.grams)

    def test_percent_ranges_hold_the_percent(self) -> None:
        recipe = read("1 cup beeswax\n2 cups olive oil\n10 drops lavender")
        for usual, low, high in recipe.percent_ranges():
            self.assertTrue(low <= usual <= high)
        self.assertAlmostEqual(sum(usual for usual, _, _ in recipe.percent_ranges()), 100.0)

    words = st.one_of(
        st.text(max_size=40).filter(lambda t: len(t.splitlines()) <= 1),
        st.builds(
            "{} {} {}".format,
            st.sampled_from(
                ["1", "2/3", "1½", "a", "½", "0", "1/0", "12-16", "three quarters of a", "1e9", "-4"]
            ),
            st.sampled_from(["cup", "g", "oz", "drops", "parts", "%", "", "T.", "fl oz", "buckets"]),
            st.sampled_from(
                ["beeswax", "shea butter", "olive oil", "moon dust", "", "lavender", "a, 2 g b"]
            ),
        ),
    )

    @given(st.lists(words, max_size=12))
    def test_nothing_is_lost(self, rows: list[str]) -> None:
        recipe = read("\n".join(rows))
        shown = "".join(item.text for item in recipe.items)
        for row in (" ".join(row.split()) for row in "\n".join(rows).splitlines()):
            if row:
                pieces = re.split(r"\s*(?:;|,(?=\s)|\s\+\s|\s&\s|\sand\s)\s*", row)
                self.assertTrue(row in shown or all(piece in shown for piece in pieces), row)
        for item in recipe.items:
            self.assertTrue(isinstance(item, RecipeLine) or item.reason)
