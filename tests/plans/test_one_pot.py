"""A series from one pot: each sample goes on from what was really weighed for the one before it."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from calmtin.packing.queries.trace_lot import pours_with
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services.lots import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.adapters import actual_parts
from calmtin.pours.models import Pour, Series
from tests.plans.test_fill_plan import DAY, WithPlan

WAX = "beeswax_yellow"


class OnePot(WithPlan):
    def setUp(self) -> None:
        super().setUp()
        self.wax = buy_lot(self.user, material=WAX, amount_g=Decimal(500), bought_on=DAY)
        typed = {"shares": "15, 18, 21", "sample": "12 g", "lost": "0.5", "container": "jar_15ml"}
        self.answer = self.client.post(
            f"/formulas/{self.formula.pk}/v/1/series/", {**typed, "one_pot": "yes"}
        )
        self.first = Pour.objects.get()

    def pour(self, pour: Pour, over_g: str = "0") -> Pour:
        """Weigh what is still to be weighed, the wax off by `over_g`, and pour."""
        for line in pour.lines.all():
            if not line.is_from_pot:
                off = Decimal(over_g) if line.material == WAX else 0
                services.weigh(self.user, line, line.planned_g + off)
        return services.finish_weighing(self.user, pour)

    def page(self, pour: Pour) -> Any:
        return self.client.get(f"/pours/{pour.pk}/", HTTP_HX_REQUEST="")

    def next(self, pour: Pour) -> Any:
        return self.client.post(f"/pours/{pour.pk}/next-sample/", HTTP_HX_REQUEST="")

    def share(self, pour: Pour) -> float:
        parts = actual_parts(Pour.objects.get(pk=pour.pk), shelf_for(self.user))
        return sum(g for m, g in parts if m.slug == WAX) / sum(g for _, g in parts)

    def test_all_of_it_is_melted_for_the_first_sample(self) -> None:
        self.assertRedirects(self.answer, f"/pours/{self.first.pk}/")
        self.assertEqual(self.first.batch_g, sum(line.planned_g for line in self.first.lines.all()))
        self.assertAlmostEqual(float(self.first.batch_g), 36.3, delta=0.2)
        self.assertEqual((self.first.into, self.first.series), ("1 × 15 ml jar", Series.objects.get()))
        # While it is weighed there is no next one.
        self.assertEqual(self.next(self.first).status_code, 200)
        self.assertEqual(Pour.objects.count(), 1)

    def test_the_addition_is_for_what_was_really_weighed(self) -> None:
        planned = 0.5  # of the wax too much: the next addition is the smaller for it
        self.pour(self.first, str(planned))
        page = self.page(self.first)
        self.assertContains(page, "Sample 2 of 3")
        before = balance(self.wax)
        self.next(self.first)
        second = Pour.objects.get(rest_of=self.first)
        *rest, added = second.lines.all()
        self.assertTrue(all(line.is_from_pot for line in rest))
        self.assertEqual((added.material, added.is_from_pot), (WAX, False))
        self.assertEqual(balance(self.wax), before)  # what was in the pot is not taken again
        self.assertContains(page, f"Add {added.planned_g.quantize(Decimal('0.1'))} g of beeswax")
        self.pour(second)
        self.assertEqual(balance(self.wax), before - added.planned_g)
        self.assertAlmostEqual(self.share(second), 0.18, delta=0.002)
        self.next(second)
        third = self.pour(Pour.objects.get(rest_of=second))
        self.assertAlmostEqual(self.share(third), 0.21, delta=0.003)
        self.assertNotContains(self.page(third), "Start the next sample")
        self.assertContains(self.next(third), "No sample is left")
        self.assertEqual([p.version.number for p in (self.first, second, third)], [2, 3, 4])
        for pour in (second, third):
            percents = {line.material: line.percent for line in pour.version.lines.all()}
            self.assertAlmostEqual(float(percents[WAX]) / 100, self.share(pour), places=3)
            for address in ("run/", "card/", "check/"):
                self.assertEqual(self.client.get(f"/pours/{pour.pk}/{address}").status_code, 200)

    def test_what_was_counted_and_is_left_is_where_the_next_begins(self) -> None:
        self.pour(self.first)
        services.record_yield(self.user, self.first, filled_g=Decimal(13), left_g=Decimal(20))
        self.assertContains(self.page(self.first), "20.0 g are left in the pot")

    def test_a_pot_that_is_past_the_next_sample_says_so(self) -> None:
        self.pour(self.first, "3")
        self.assertContains(self.page(self.first), "past the 18.0 % of this sample")
        self.assertContains(self.next(self.first), "past the 18.0 % of this sample")
        self.assertEqual(Pour.objects.count(), 1)

    def test_a_lot_is_found_in_every_sample_of_its_pot(self) -> None:
        oil = buy_lot(self.user, material="olive_oil", amount_g=Decimal(500), bought_on=DAY)
        self.pour(self.first)
        self.next(self.first)
        second = self.pour(Pour.objects.get(rest_of=self.first))
        found = {recalled.pour: recalled.by for recalled in pours_with(self.user, oil)}
        self.assertEqual(found, {self.first: "", second: f"in the rest of the pot of {self.first.code}"})


class Entry(WithPlan):
    def test_one_entry_leads_to_all_ways_and_says_what_each_is_for(self) -> None:
        formula = self.client.get(f"/formulas/{self.formula.pk}/", HTTP_HX_REQUEST="")
        self.assertContains(formula, "Try several")
        for way in ("series", "vary"):
            page = self.client.get(f"/formulas/{self.formula.pk}/v/1/{way}/", HTTP_HX_REQUEST="")
            for words in ("Finds how much.", "Finds whether it matters.", "Finds what to pour next."):
                self.assertContains(page, words)
