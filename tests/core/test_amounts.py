"""Numbers typed, percentages held, grams on the scale, containers filled."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.composition import balancing_percent
from calmtin.core.data.loader import containers, library
from calmtin.core.errors import DoesNotAddUp, DoesNotFit, UnreadableNumber
from calmtin.core.process.fill import blend_density
from calmtin.core.process.weighing import share_out, too_small, whole_steps
from calmtin.core.units import read_number

SHELF = library()
STEPS = st.sampled_from([Decimal(s) for s in ("1", "0.5", "0.1", "0.01")])


class Numbers(TestCase):
    def test_what_is_read(self) -> None:
        for typed, value in {
            "4,5": "4.5",
            " 12 ": "12",
            "3.25 %": "3.25",
            ",5": "0.5",
            "7.": "7",
            "0": "0",
        }.items():
            self.assertEqual(read_number(typed, name="Wax", high=100), Decimal(value), typed)

    def test_what_is_refused(self) -> None:
        for typed in ("", "  ", "abc", "1e9", "1.2.3", "--4", "-1", "100.1", "nan", "inf", "٣x", "1,000.5"):
            with self.subTest(typed), self.assertRaises(UnreadableNumber) as refused:
                read_number(typed, name="Wax", high=100, unit="%")
            self.assertIn("ype", str(refused.exception))


class Balancing(TestCase):
    @given(st.lists(st.decimals(0, 9, places=3), max_size=11))
    def test_sums_to_100_exactly(self, others: list[Decimal]) -> None:
        self.assertEqual(sum(others) + balancing_percent(others, name="oil"), Decimal(100))

    def test_says_how_much_too_much(self) -> None:
        with self.assertRaises(DoesNotAddUp) as refused:
            balancing_percent([Decimal(80), Decimal("23.5")], name="olive oil")
        self.assertIn("3.5 off", str(refused.exception))


class Scale(TestCase):
    @given(st.lists(st.decimals(0, 60, places=3), min_size=1, max_size=40), STEPS)
    def test_rounded_lines_sum_to_the_batch(self, shares: list[Decimal], step: Decimal) -> None:
        if not sum(shares):
            return
        batch = whole_steps(sum(shares), step)
        exact = [share * batch / sum(shares) for share in shares]
        rounded = share_out(exact, step)
        self.assertEqual(sum(rounded), batch)
        for grams, wanted in zip(rounded, exact, strict=True):
            self.assertLess(abs(grams - wanted), step)
            self.assertEqual(grams % step, 0)

    def test_batch_that_the_scale_cannot_show(self) -> None:
        with self.assertRaises(DoesNotFit):
            share_out([Decimal("1.25")], Decimal("0.1"))

    def test_too_small_a_part(self) -> None:
        self.assertTrue(too_small(Decimal("0.9"), Decimal("0.1")))
        self.assertFalse(too_small(Decimal("1.0"), Decimal("0.1")))
        self.assertFalse(too_small(Decimal(0), Decimal("0.1")))


class Containers(TestCase):
    def test_powder_does_not_thin_out(self) -> None:
        clay = [(SHELF["kaolin"], 1.0)]
        self.assertEqual(blend_density(clay, 80.0), blend_density(clay))

    def test_lip_tube_keeps_its_usual_fill(self) -> None:
        tube = containers()["lip_tube_standard"]
        self.assertAlmostEqual(tube.volume_ml * tube.usual_level * 0.90, 4.3, places=6)
        self.assertNotIn("lip_tube_slim", containers())
