"""Whatever stands before, between or after digits in a number box: read for what it is, or asked about."""

from __future__ import annotations

import sys
import unicodedata
from collections.abc import Callable
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError, UnreadableNumber
from calmtin.core.recipe.boxes import read_grams, read_ml
from calmtin.core.recipe.doses import read_dose
from calmtin.core.units import read_number

WAX = library()["beeswax_yellow"]
# Every mark, number, sign, symbol and space of Unicode, and the letters that amounts are written with.
STRANGE = [c for n in range(sys.maxunicode + 1) if unicodedata.category(c := chr(n))[0] in "MNPSZ"]
# What may stand beside an amount without belonging to it: "12.5, melted", "(12.5)".
BESIDE = set(",;()[].") | {"．", "，", "٫", "٬"}


def reading(text: str) -> Decimal:
    return read_grams(text, name="The wax", high=50_000, is_reading=True)


def spoonable(text: str) -> Decimal:
    return read_grams(text, name="The wax", high=50_000, material=WAX, is_reading=True)


def percent(text: str) -> Decimal:
    dose = read_dose(text, WAX)
    assert dose.percent is not None, text
    return dose.percent


def number(text: str) -> Decimal:
    return read_number(text, name="Firmness", high=50_000)


def volume(text: str) -> Decimal:
    return read_ml(text, name="The jar", high=50_000)


BOXES: list[Callable[[str], Decimal]] = [reading, spoonable, percent, number, volume]


def plain(text: str) -> str:
    """Return text with decimal digits of any script as ours, by Unicode's own table."""
    return "".join(str(unicodedata.decimal(c, c)) for c in text)


class Typed(TestCase):
    def read(self, box: Callable[[str], Decimal], text: str) -> Decimal | None:
        """Return what a box reads; None where it asks."""
        try:
            return box(text)
        except CalmTinError as refused:
            self.assertTrue(refused.sentence)
            return None

    def test_every_strange_character_before_between_and_after_digits(self) -> None:
        wrong = []
        # One reader of digits stands behind all boxes: the others are asked about a part of it all.
        for box, strange in ((reading, STRANGE[::3]), (number, STRANGE[::21]), (percent, STRANGE[::21])):
            for c in strange:
                texts = [f"{c}12", f"1{c}2", f"12{c}", *([f"12{c} g"] if box is reading else [])]
                for text in texts:
                    found = self.read(box, text)
                    if found is not None and found not in self.meant(text.removesuffix(" g"), c):
                        wrong.append((box.__name__, text, hex(ord(c)), str(found)))
        self.assertEqual(wrong, [])

    def meant(self, text: str, c: str) -> list[Decimal]:
        """Return what may be read: a digit makes another number, white space and brackets none."""
        is_between = text == f"1{c}2"
        if unicodedata.decimal(c, None) is not None:
            return [Decimal(plain(text))]
        if c in ".٫．,٬，":
            return [Decimal(text.replace(c, ".").strip() if is_between else "12"), Decimal("0.12")]
        if c in "½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞⅒" and text.startswith("12"):
            exact = 12 + Decimal(repr(unicodedata.numeric(c)))
            return [exact.quantize(Decimal(step)) for step in ("0.01", "0.001")]
        if is_between and c in "/⁄":
            return [Decimal("0.5")]
        may_stand = c.isspace() or c in BESIDE or c in "+%"
        return [Decimal(12)] if may_stand and not is_between else []

    def test_what_fell_in_the_weigh_box(self) -> None:
        for text in (
            "12·5", "12:5", "12 . 5", "5 ㎏", "1_2", "0x10", "5*5", "2-30", "5 mg", "2026-02-30", "20+16",
            "20 g + 16 g", "5 g 7 g", "²", "①", "5²", "1e3", "--5", "5-", "3/4/5", "1/0", "½½", "l0 g",
            "~12", "12 g 5", "12; 5", "12 or 15 g", "a few g", "5 x 5 g", "12 g/ml", "£12", "12'5", "١٢·٥",
        ):  # fmt: skip
            for box in (reading, spoonable):
                with self.subTest(text), self.assertRaises(UnreadableNumber):
                    box(text)

    def test_what_a_scale_shows_is_read(self) -> None:
        for text, grams in {
            "12.5": "12.5", "12,5": "12.5", "５．５": "5.5", "١٢٫٥": "12.5", "1 lb 5 oz": "595.34",
            "1½ oz": "42.52", "1 1/2 kg": "1500", "0.4oz": "11.34", "12.5g": "12.5", " 12 g ": "12",
            "+8": "8", "12.": "12", "1,250.5 g": "1250.5", "half a pound": "226.8", "0": "0",
        }.items():  # fmt: skip
            with self.subTest(text):
                self.assertEqual(reading(text), Decimal(grams))

    def test_a_refusal_says_what_a_sum_comes_to(self) -> None:
        with self.assertRaisesMessage("“20 g + 16 g” is a sum. If that is right, type the result, 36 g."):
            reading("20 g + 16 g")
        with self.assertRaisesMessage("The wax is too small. Type 0, or 0.01 g or more."):
            reading("5 mg")

    def assertRaisesMessage(self, sentence: str) -> object:  # noqa: N802  # as Django's
        return self.assertRaisesRegex(UnreadableNumber, f"^{sentence.translate(ESCAPED)}$")

    @given(st.text(max_size=12), st.sampled_from(BOXES))
    def test_any_text_is_read_or_asked_about_and_never_fails(
        self, text: str, box: Callable[[str], Decimal]
    ) -> None:
        self.read(box, text)

    @given(st.decimals(0, 40_000, places=2), st.sampled_from(["", " ", "g", " g", "\u00a0g", "\u202fg"]))
    def test_a_plain_weight_is_itself(self, grams: Decimal, unit: str) -> None:
        self.assertEqual(reading(f"{grams}{unit}"), grams)


ESCAPED = str.maketrans({c: f"\\{c}" for c in "+.()"})
