"""Two hundred ways of writing an amount, each with the reading that a person would give, or asked about."""

from __future__ import annotations

import csv
import re
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from bench import phrasings
from calmtin.core.data.loader import drops_per_ml, library, synonyms
from calmtin.core.errors import CalmTinError
from calmtin.core.notation import Notation
from calmtin.core.recipe.grammar import read_phrase
from calmtin.core.recipe.items import RecipeLine, stated_of
from calmtin.core.recipe.numerals import Numbers, read_digits, tokens_of
from calmtin.core.recipe.reader import read_recipe
from calmtin.core.recipe.typed import read_measure
from calmtin.core.recipe.weights import OF_WHICH_BATCH

FILE = Path(__file__).parents[1] / "published" / "amounts.csv"
PIECES = "1 2,5 .4 1/3 12-16 1,000 g oz cup drops of ( ) olive beeswax no. 7 °C and half".split()  # noqa: SIM905
DOCS = Path(__file__).parents[2] / "docs"


def rows() -> list[dict[str, str]]:
    with FILE.open(encoding="utf-8", newline="") as handle:
        return list(csv.DictReader(handle, delimiter="|"))


class Phrasings(TestCase):
    def test_read_right_or_asked_about(self) -> None:
        self.assertGreaterEqual(len(rows()), 200)
        for row in rows():
            with self.subTest(row["written"]):
                self.check(row)

    def check(self, row: dict[str, str]) -> None:
        recipe = read_recipe(row["written"], library(), synonyms=synonyms(), drops_per_ml=drops_per_ml())
        (item,) = recipe.items
        if row["reading"] == "?":
            self.assertNotIsInstance(item, RecipeLine)
            self.assertIn(row["asked"], item.reason)
            if row["material"]:
                self.assertIn(row["material"], [choice.slug for choice in item.choices])
            return
        self.assertIsInstance(item, RecipeLine, getattr(item, "reason", ""))
        number, unit = row["reading"].split()
        low, _, high = number.partition("-")
        self.assertEqual((item.material, item.stated.unit), (row["material"], unit))
        self.assertAlmostEqual(item.stated.low, float(low), delta=float(low) * 2e-4)
        self.assertAlmostEqual(item.stated.high, float(high or low), delta=float(high or low) * 2e-4)
        self.assertTrue(item.weight.low <= item.weight.grams <= item.weight.high)
        if row["asked"]:
            self.assertIn(row["asked"], item.question)
        elif "form" not in item.question and "Read as" not in item.question:
            self.assertEqual(item.question, "")

    def test_one_amount_for_two_materials_is_halved_and_asked_and_neither_vanishes(self) -> None:
        for text, unit in (
            ("2 tablespoons of beeswax and lanolin", "tbsp"),
            ("3 oz cocoa butter and shea, half and half", "oz"),
        ):
            recipe = read_recipe(text, library(), synonyms=synonyms(), drops_per_ml=drops_per_ml())
            with self.subTest(text):
                self.assertEqual([line.stated.unit for line in recipe.lines], [unit, unit])
                self.assertEqual(len({line.material for line in recipe.lines}), 2)
                for line in recipe.lines:
                    self.assertAlmostEqual(line.stated.value, float(text[0]) / 2)
                    self.assertIn("Half of it each?", line.question)

    def test_each_of_several_and_headings(self) -> None:
        text = "Oils:\none cup of each: olive oil, jojoba, castor oil\nFor the wax:\n20 g beeswax"
        recipe = read_recipe(text, library(), synonyms=synonyms(), drops_per_ml=drops_per_ml())
        self.assertEqual(recipe.unresolved, [])
        self.assertEqual([line.stated.value for line in recipe.lines], [1.0, 1.0, 1.0, 20.0])

    def test_percent_beside_a_capsule_asks_of_which_batch(self) -> None:
        text = "20 % beeswax\n80 % olive oil\n1 vitamin E capsule"
        recipe = read_recipe(text, library(), synonyms=synonyms(), drops_per_ml=drops_per_ml())
        self.assertEqual({str(item.reason) for item in recipe.unresolved}, {str(OF_WHICH_BATCH)})
        whole = read_recipe(
            f"batch 200 g\n{text}", library(), synonyms=synonyms(), drops_per_ml=drops_per_ml()
        )
        self.assertEqual([round(line.weight.grams, 2) for line in whole.lines], [40.0, 160.0, 0.37])

    def test_percentages_that_miss_a_hundred_say_their_sum(self) -> None:
        def questions(text: str) -> set[str]:
            recipe = read_recipe(text, library(), synonyms=synonyms(), drops_per_ml=drops_per_ml())
            return {str(line.question) for line in recipe.lines}

        self.assertEqual(questions("20 % beeswax\n80 % olive oil"), {""})
        self.assertEqual(questions("33.3 % beeswax\n33.3 % shea\n33.3 % olive oil"), {""})
        [short] = questions("20 % beeswax\n70 % olive oil")
        self.assertIn("add up to 90 %. What is the other 10 %?", short)
        [long] = questions("40 % beeswax\n90 % olive oil")
        self.assertIn("add up to 130 %, which is more than 100 %", long)

    def test_the_table_in_the_docs_is_this_one(self) -> None:
        written = (DOCS / "amounts.md").read_text(encoding="utf-8")
        self.assertEqual(written, "\n".join(phrasings.report()) + "\n", "run script/docs")


class Laws(TestCase):
    @given(st.integers(0, 999_999), st.integers(0, 999))
    def test_a_number_comes_back_in_every_notation(self, whole: int, thousandths: int) -> None:
        value = Fraction(whole) + Fraction(thousandths, 1000)
        point, comma = f"{whole}.{thousandths:03}", f"{whole},{thousandths:03}5"
        self.assertEqual(read_digits(f"{whole:,}.{thousandths:03}0")[0], value)
        swapped = f"{whole:,}.{thousandths:03}0".translate(str.maketrans(",.", ".,"))
        self.assertEqual(read_digits(swapped)[0], value)
        self.assertEqual(read_digits(point)[0], value)
        self.assertEqual(read_digits(comma)[0], value + Fraction(5, 10_000))
        self.assertEqual(read_digits(f"{whole}.{thousandths:03}", decimal_comma=False)[0], value)
        spaced = f"{whole:,}".replace(",", " ")
        read = Numbers(tokens_of(f"{spaced} g")).read(0)
        self.assertEqual(read[0].value, whole)

    @given(st.integers(0, 400), st.integers(1, 15), st.integers(2, 16))
    def test_fractions_come_back(self, whole: int, top: int, bottom: int) -> None:
        if top >= bottom:
            top = top % bottom or 1
        part = Fraction(top, bottom)
        for text in (f"{whole} {top}/{bottom}", f"{whole}-{top}/{bottom}", f"{whole} + {top}/{bottom}"):
            if whole:
                self.assertEqual(Numbers(tokens_of(text)).read(0)[0].value, whole + part, text)
        self.assertEqual(Numbers(tokens_of(f"{top}/{bottom} cup")).read(0)[0].value, part)

    @given(st.lists(st.sampled_from(PIECES), min_size=1, max_size=8))
    def test_no_digit_is_ignored_without_a_mark(self, words: list[str]) -> None:
        text = " ".join(words)
        phrase = read_phrase(text)
        used = (
            "".join(a.written for a in phrase.amounts)
            + "".join(phrase.asides)
            + "".join(phrase.stray)
            + phrase.strength
        )
        self.assertEqual(sorted(re.findall(r"\d", text)), sorted(re.findall(r"\d", used)), text)

    @given(
        st.decimals(0, 5000, places=2),
        st.sampled_from(["g", "kg", "oz", "lb", "ml", "cup", "tbsp", "drops"]),
    )
    def test_what_a_box_reads_a_line_reads_too(self, number: object, unit: str) -> None:
        amount = f"{number} {unit}"
        measure = read_measure(amount)
        line = stated_of(read_phrase(f"{amount} olive oil").amounts)
        self.assertEqual((measure.amount, measure.unit), (line.value, line.unit))

    def test_a_box_names_what_it_cannot_use(self) -> None:
        for text, words in {
            "70 °C": "“70 °C” isn’t an amount of an ingredient",
            "-4 g": "can’t be below 0",
            "500": "Which unit?",
            "500 g olive": "“olive” isn’t part of an amount",
            "": "Type an amount",
            "3 parts": "Which unit?",
        }.items():
            with self.assertRaisesRegex(CalmTinError, re.escape(words)):
                read_measure(text)


class Whole(TestCase):
    def read(self, text: str, **more: object) -> object:
        return read_recipe(text, library(), synonyms=synonyms(), drops_per_ml=drops_per_ml(), **more)

    def grams(self, text: str, **more: object) -> dict[str, float]:
        return {line.material: round(line.weight.grams, 2) for line in self.read(text, **more).lines}

    def test_percent_share_the_stated_batch_and_a_spoon_goes_on_top(self) -> None:
        text = "batch 200 g\n70% shea butter\n20% argan oil\n10% beeswax\n1 tsp vitamin E"
        self.assertEqual(
            self.grams(text),
            {"shea_refined": 140, "argan_oil": 40, "beeswax_yellow": 20, "tocopherols_50": 4.58},
        )
        self.assertEqual(self.grams(text.partition("\n")[2], batch_g=200.0), self.grams(text))
        asked = self.read(text.partition("\n")[2]).unresolved
        self.assertEqual(len(asked), 3)
        self.assertIn("Percent of what?", asked[0].reason)
        self.assertEqual(
            self.grams("Makes 500 g\n80% olive oil\n20% beeswax"), {"olive_oil": 400, "beeswax_yellow": 100}
        )

    def test_equal_parts_and_each(self) -> None:
        three = {"shea_refined": 33.33, "cocoa_butter": 33.33, "olive_oil": 33.33}
        for text in (
            "equal parts shea butter, cocoa butter and olive oil",
            "Equal amounts of shea butter, cocoa butter, and olive oil",
            "shea butter, cocoa butter and olive oil in equal parts",
        ):
            self.assertEqual(self.grams(text), three, text)
        for text in ("10 drops each of lavender and tea tree", "lavender and tea tree, 10 drops each"):
            self.assertEqual(set(self.grams(text)), {"lavender", "tea_tree"}, text)

    def test_whose_cups(self) -> None:
        for system, grams in (("us", 215.53), ("metric", 227.75), ("imperial", 258.84)):
            self.assertEqual(
                self.grams("1 cup olive oil", notation=Notation(system=system)), {"olive_oil": grams}
            )
            metric = Notation(system="metric")
        self.assertEqual(self.grams("1 US cup olive oil", notation=metric), {"olive_oil": 215.53})

    def test_a_bench_that_writes_decimals_with_a_comma(self) -> None:
        comma = Notation(decimal_comma=True)
        self.assertEqual(self.grams("1,000 g olive oil", notation=comma), {"olive_oil": 1})
        self.assertEqual(self.grams("1.000 g olive oil", notation=comma), {"olive_oil": 1000})
        self.assertEqual(self.grams("1,000 g olive oil"), {"olive_oil": 1000})
        self.assertEqual(self.grams("1.000 g olive oil"), {"olive_oil": 1})

    def test_suggestions_are_of_the_group_that_the_words_say(self) -> None:
        groups = {
            "3 g plantasol preservative": ("other", "water_bearing"),
            "2 g oceanic fragrance": ("scent",),
            "1 tsp strawberry flavour oil": ("scent",),
            "10 g ground oatmeal": ("powder",),
            "5 drops cedarwood": ("scent",),
        }
        for text, group in groups.items():
            (item,) = self.read(text).items
            if isinstance(item, RecipeLine):
                self.assertIn(library()[item.material].group, group, text)
            else:
                self.assertTrue({library()[c.slug].group for c in item.choices} <= set(group), text)
