"""Labels: what they say, that they fit and can be read, and where they stand on a sheet."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import date
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from calmtin.core.data.loader import library, scent_facts
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.packing.label import (
    LabelText,
    cautions_of,
    contains_of,
    net_weight,
    net_words,
    refuse_claims,
)
from calmtin.core.packing.layout import (
    LEAST_X_MM,
    POINT_MM,
    Fitted,
    Shape,
    Sheet,
    Type,
    fit,
    plain_sheet,
    plain_sheets,
)
from calmtin.core.packing.packing_list import packing_list

# A type of which every letter is half as wide as it is high.
FACE = Type(lambda word, bold: len(word) * (0.55 if bold else 0.5) * POINT_MM, 0.5)
SHELF, SCENTS = library(), scent_facts()
TEXT = LabelText(
    name="Thole pin salve",
    maker="Tern Quay boathouse",
    place="Slip 3",
    net_g=29.3,
    ingredients="Olea Europaea (Olive) Fruit Oil, Cera Alba (Beeswax), Tocopherol",
    allergens=("Limonene", "Linalool"),
    contains=("bee products",),
    cautions=("For the skin only; keep it out of the eyes.",),
    use="Warm it with a thumb and rub in a little.",
    note="",
    code="TP-01",
    best_before=date(2027, 3, 4),
    opened_months=6,
)


def words_of(label: Fitted) -> str:
    return " ".join(run.text for run in label.runs).replace("\u00a0", " ")


class Said(TestCase):
    def test_net_weight_is_never_more_than_is_in_it(self) -> None:
        for net_g, words in (
            (28.99, "28 g (0.98 oz)"),
            (30.0, "30 g (1.05 oz)"),
            (9.99, "9.9 g (0.34 oz)"),
            (4.3, "4.3 g (0.15 oz)"),
            (453.6, "453 g (15.9 oz)"),
        ):
            self.assertEqual(net_words(net_g), words)
        self.assertEqual(net_weight([30.4, 29.1, 24.0, 24.0], [24.0, 24.0], 30.0), 29.1)
        self.assertEqual(net_weight([], [], 30.0), 30.0)

    def test_claims_are_refused_where_they_stand(self) -> None:
        for field, text in (
            ("name", "Healing balm"),
            ("use", "Treats eczema"),
            ("note", "SPF 15"),
            ("note", "anti-inflammatory"),
        ):
            with self.assertRaises(CalmTinError) as caught:
                refuse_claims(**{"name": "Balm", field: text})
            self.assertEqual(caught.exception.field, field)
            self.assertIn("is a claim", caught.exception.sentence)
        refuse_claims(name="Thole pin salve", use="Rub it in.", note="Smells of tar and oranges.")

    def test_cautions_are_those_of_audience_and_scents(self) -> None:
        def told(audience: str, **percents: float) -> tuple[str, ...]:
            return cautions_of({SHELF[slug]: pct for slug, pct in percents.items()}, audience, SCENTS)

        skin = "For the skin only; keep it out of the eyes."
        sun = "Keep the skin out of the sun for 12 hours after use."
        self.assertEqual(told("adult_body_leave_on", olive_oil=100), (skin,))
        self.assertEqual(told("adult_lips", peppermint=1)[:2], ("For the lips.", "Not for small children."))
        self.assertIn("Not in pregnancy.", told("adult_body_leave_on", myrrh=1))
        self.assertNotIn("Not in pregnancy.", told("pregnancy", myrrh=1))
        # Bergamot is safe in the sun up to 0.4 %.
        self.assertNotIn(sun, told("adult_body_leave_on", bergamot=0.4))
        self.assertIn(sun, told("adult_body_leave_on", bergamot=0.5))
        self.assertEqual(
            contains_of([SHELF["beeswax_yellow"], SHELF["sweet_almond_oil"]]), ("bee products", "tree nuts")
        )
        # As the formula's note has it: what comes along from the field is no ingredient.
        oats = contains_of([SHELF["colloidal_oatmeal"], SHELF["olive_oil"]])
        self.assertEqual(oats, ("oats (traces of wheat)",))

    def test_each_form_says_less(self) -> None:
        full, short, slip, least = (
            " ".join(b.text for b in TEXT.blocks(f)) for f in ("full", "short", "slip", "least")
        )
        for words in ("29 g (1.02 oz)", "TP-01"):
            for form in (full, short, slip, least):
                self.assertIn(words, form)
        self.assertIn("once open, use within 6 months", full)
        self.assertIn("Tocopherol, Limonene, Linalool.", full)
        self.assertIn("Contains bee products.", short)
        self.assertNotIn("Warm it", short)
        self.assertNotIn("Ingredients", slip)
        self.assertIn("Tern Quay boathouse, Slip 3", slip)
        self.assertNotIn("Tern Quay", least)
        self.assertGreater(len(full), len(short))

    def test_packing(self) -> None:
        self.assertEqual(
            dict(packing_list([("Tube", "tube", 20), ("15 ml jar", "jar", 4)], slips=24)),
            {
                "Tube": 20,
                "cap": 20,
                "shrink band": 26,
                "15 ml jar": 4,
                "lid liner": 4,
                "label": 25,
                "slip with the ingredients": 24,
            },
        )


SHAPES = st.one_of(
    st.floats(18, 80).map(lambda d: Shape("round", d, d)),
    st.builds(Shape, st.sampled_from(["rectangle", "wrap"]), st.floats(25, 110), st.floats(12, 80)),
)
WORDS = st.lists(st.text("abcdefgh", min_size=1, max_size=14), min_size=1, max_size=40).map(" ".join)


class ForOneself(TestCase):
    def test_it_says_what_it_is_and_from_when_and_no_more(self) -> None:
        text = replace(TEXT, what="Hand salve", made_on=date(2026, 12, 2), is_own=True)
        label = fit(text, Shape("round", 25.0, 25.0), FACE)
        self.assertEqual(
            words_of(label), "Thole pin salve Hand salve made 2 Dec 2026 · TP-01 · best before Mar 2027"
        )
        self.assertEqual((label.form, label.slip), ("own", None))

    def test_what_it_is_stands_under_the_name_on_every_other_label(self) -> None:
        for width in (25.0, 40.0, 90.0):
            label = fit(replace(TEXT, what="Hand salve"), Shape("rectangle", width, 40.0), FACE)
            if label.form != "least":
                self.assertIn("Thole pin salve Hand salve", words_of(label))


class Laws(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(shape=SHAPES, ingredients=WORDS, name=WORDS.map(lambda words: words[:40].strip()))
    def test_nothing_is_clipped_unreadable_or_lost(self, shape: Shape, ingredients: str, name: str) -> None:
        text = replace(TEXT, ingredients=ingredients, name=name)
        try:
            label = fit(text, shape, FACE)
        except DoesNotFit as refused:
            self.assertIn("larger label", refused.sentence)
            return
        self.assert_sound(label)
        said = " ".join(block.text for block in text.blocks(label.form))
        self.assertEqual(
            sorted(words_of(label).replace("·", "").split()),
            sorted(said.replace("\u00a0", " ").replace("·", "").split()),
        )
        if label.form in ("slip", "least"):
            assert label.slip is not None
            self.assert_sound(label.slip)
            self.assertIn(ingredients.split()[0], words_of(label.slip))
        else:
            self.assertIsNone(label.slip)

    @settings(max_examples=40, deadline=None)
    @given(shape=SHAPES, ingredients=WORDS, is_own=st.booleans())
    def test_a_code_to_scan_sends_no_word_to_a_slip_and_lies_apart(
        self, shape: Shape, ingredients: str, is_own: bool
    ) -> None:
        text = replace(TEXT, ingredients=ingredients, made_on=date(2026, 12, 2), is_own=is_own)
        try:
            plain = fit(text, shape, FACE)
        except DoesNotFit:
            return
        label = fit(replace(text, address="https://192.168.0.7:8443/pours/12/scan/"), shape, FACE)
        on_a_slip = {"slip", "least"}
        self.assertEqual(label.form in on_a_slip, plain.form in on_a_slip)
        self.assert_sound(replace(label, runs=tuple(run for run in label.runs if not run.is_scan)))
        codes = [run for run in label.runs if run.is_scan]
        self.assertEqual(bool(codes), "no room for a code" not in label.says)
        for code in codes:
            for x, y in ((code.x, code.top), (code.x + code.width, code.y)):
                self.assertTrue(0.0 < x < shape.width_mm and 0.0 < y < shape.height_mm)
            for run in label.runs:
                beside = run.x + run.width <= code.x or run.x >= code.x + code.width
                self.assertTrue(run is code or beside or run.y <= code.top + 0.3 or run.y > code.y)

    def assert_sound(self, label: Fitted) -> None:
        shape = label.shape
        for run in label.runs:
            self.assertGreaterEqual(run.size_mm * FACE.x_height, LEAST_X_MM - 1e-9)
            corners = [
                (x, y)
                for x in (run.x, run.x + run.width)
                for y in (run.y - 0.9 * run.size_mm, run.y + 0.2 * run.size_mm)
            ]
            for x, y in corners:
                if shape.kind == "round":
                    self.assertLess(math.hypot(x - shape.middle, y - shape.middle), shape.middle)
                else:
                    self.assertTrue(0.0 < x < shape.width_mm and 0.0 < y < shape.height_mm)
        for above, below in zip(label.runs, label.runs[1:], strict=False):
            if below.y > above.y:
                self.assertGreaterEqual(below.y - above.y, 0.9 * below.size_mm)

    @settings(max_examples=100, deadline=None)
    @given(shape=SHAPES, page=st.sampled_from(["a4", "letter"]), data=st.data())
    def test_labels_of_a_sheet_lie_on_the_page_and_apart(
        self, shape: Shape, page: str, data: st.DataObject
    ) -> None:
        sheet = plain_sheet(page, shape)
        count, first = data.draw(st.integers(1, 60)), data.draw(st.integers(1, sheet.each))
        pages = sheet.places(count, first)
        self.assertEqual(sum(len(places) for places in pages), count)
        for places in pages:
            for x, y in places:
                self.assertTrue(0 <= x <= sheet.page_w - shape.width_mm + 1e-6)
                self.assertTrue(0 <= y <= sheet.page_h - shape.height_mm + 1e-6)
            for n, (x, y) in enumerate(places):
                for other_x, other_y in places[:n]:
                    apart = max(abs(x - other_x) - shape.width_mm, abs(y - other_y) - shape.height_mm)
                    self.assertGreaterEqual(apart, -1e-6)


class Sheets(TestCase):
    def test_a_sheet_can_start_at_the_third_label(self) -> None:
        sheet = plain_sheets()["a4-round-40x40"]
        self.assertEqual((sheet.columns, sheet.rows), (4, 6))
        one, *_ = sheet.places(1, 3)
        self.assertEqual(one, [(sheet.left_mm + 2 * 43.0, sheet.top_mm)])
        self.assertEqual([len(page) for page in sheet.places(25, 3)], [22, 3])

    def test_what_no_paper_has_is_refused_at_its_box(self) -> None:
        sound = {
            "name": "mine",
            "page_w": 210.0,
            "page_h": 297.0,
            "shape": Shape("rectangle", 60.0, 30.0),
            "columns": 3,
            "rows": 9,
            "left_mm": 10.0,
            "top_mm": 10.0,
            "across_mm": 63.0,
            "down_mm": 30.0,
        }
        self.assertEqual(Sheet(**sound).each, 27)
        for field, value in (("across_mm", 59.0), ("down_mm", 29.0), ("columns", 4), ("rows", 10)):
            with self.assertRaises(CalmTinError) as caught:
                Sheet(**{**sound, field: value})
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(CalmTinError):
            Sheet(**{**sound, "shape": Shape("round", 30.0, 20.0)})
