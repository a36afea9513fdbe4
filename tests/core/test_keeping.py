"""How long a pour keeps: cases worked by hand, and what may never happen."""

from __future__ import annotations

from datetime import date, timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.packing.keeping import DAYS_A_MONTH, STORAGES, Keeping, keeping

SHELF = library()
MADE = date(2026, 5, 1)


def of(**grams: float) -> list:
    return [(SHELF[slug], g) for slug, g in grams.items()]


def told(parts: list, **more: object) -> Keeping:
    found = keeping(parts, MADE, **more)
    assert found is not None
    return found


class Keeps(TestCase):
    def months(self, parts: list, **more: object) -> float:
        return (told(parts, **more).best_before - MADE) / timedelta(days=DAYS_A_MONTH)

    def test_worked_by_hand(self) -> None:
        # Olive oil keeps 12 months open; 80 % of it sets the pace alone.
        plain = of(beeswax_yellow=20, olive_oil=80)
        self.assertAlmostEqual(self.months(plain), 12.0, delta=0.05)
        # Tocopherols at 0.5 % slow it: 1.3 x 12 = 15.6.
        guarded = of(beeswax_yellow=20, olive_oil=79.5, tocopherols_50=0.5)
        self.assertAlmostEqual(self.months(guarded), 15.6, delta=0.05)
        # Below what does anything they do nothing.
        self.assertAlmostEqual(
            self.months(of(beeswax_yellow=20, olive_oil=79.95, tocopherols_50=0.05)), 12.0, delta=0.05
        )
        # Rosehip, 6 months open, at 5 %: 6 x (1 + 0.5 x (1 - 5/20)) = 8.25, before olive's 12.
        hip = of(beeswax_yellow=20, olive_oil=75, rosehip_oil=5)
        self.assertAlmostEqual(self.months(hip), 8.25, delta=0.05)
        self.assertEqual(told(hip).paced_by.slug, "rosehip_oil")
        # A car halves it, a cool dark place gives 1.4.
        self.assertAlmostEqual(self.months(plain, storage="car"), 6.0, delta=0.05)
        self.assertAlmostEqual(self.months(plain, storage="cool"), 16.8, delta=0.05)
        # Jojoba keeps 24 months, guarded 31: nobody promises more than 24.
        self.assertAlmostEqual(
            self.months(of(beeswax_yellow=20, jojoba_oil=79, tocopherols_50=1)), 24.0, delta=0.05
        )
        # Honey brings water: a month.
        self.assertAlmostEqual(self.months(of(beeswax_yellow=20, olive_oil=75, honey=5)), 1.0, delta=0.05)

    def test_an_expired_lot_shortens_and_says_so(self) -> None:
        plain = of(beeswax_yellow=20, olive_oil=80)
        soon = told(plain, lots={"olive_oil": date(2026, 8, 1), "beeswax_yellow": date(2029, 1, 1)})
        self.assertEqual(soon.best_before, date(2026, 8, 1))
        self.assertIn("The lot of olive oil expires then", soon.reasons[-1])
        late = told(plain, lots={"olive_oil": date(2030, 1, 1), "beeswax_yellow": None})
        self.assertEqual(late.best_before, told(plain).best_before)
        gone = told(plain, lots={"olive_oil": date(2026, 1, 1)})
        self.assertEqual(gone.best_before, MADE)

    def test_the_reasons_in_words(self) -> None:
        found = told(of(beeswax_yellow=20, olive_oil=79.5, tocopherols_50=0.5))
        self.assertEqual(
            found.reasons,
            (
                "Olive oil, 80 % of it, goes rancid first: 12 months once opened.",
                "Tocopherols 50 % makes it keep 1.3 times as long.",
            ),
        )
        self.assertEqual(found.opened_months, 7)
        self.assertEqual(told(of(olive_oil=95, honey=5)).opened_months, 1)

    def test_nothing_has_no_life(self) -> None:
        self.assertIsNone(keeping([], MADE))
        self.assertIsNone(keeping(of(olive_oil=0), MADE))

    @given(
        st.dictionaries(
            st.sampled_from(
                [
                    "beeswax_yellow",
                    "olive_oil",
                    "rosehip_oil",
                    "cocoa_butter",
                    "hemp_seed_oil",
                    "jojoba_oil",
                ]
            ),
            st.floats(0.1, 100.0),
            min_size=1,
        ),
        st.sampled_from(STORAGES),
        st.integers(-200, 2000),
    )
    def test_laws(self, grams: dict, storage: str, days: int) -> None:
        parts, lot = of(**grams), MADE + timedelta(days=days)
        plain = told(parts, storage=storage)
        with_lot = told(parts, storage=storage, lots={next(iter(grams)): lot})
        self.assertLessEqual(with_lot.best_before, max(lot, MADE))  # nothing exceeds its lots
        self.assertLessEqual(with_lot.best_before, plain.best_before)
        guarded = told([*parts, (SHELF["tocopherols_50"], 0.01 * sum(grams.values()))], storage=storage)
        self.assertGreaterEqual(
            guarded.best_before + timedelta(days=8), plain.best_before
        )  # never shortens
        self.assertLessEqual(
            told(parts, storage="car").best_before, told(parts, storage="cool").best_before
        )
        self.assertLessEqual((plain.best_before - MADE).days, 731)
        self.assertTrue(1 <= plain.opened_months <= 12)
