"""Infusing, rendering and clarifying as jobs: steps, clocks, what they give, what leads to them."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any
from unittest.mock import patch

from django.test import TestCase
from django.utils import timezone

from calmtin.core.process.making import STEPS, Job, infused_best_before, next_step
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Infusion, Lot, Movement, Rendering
from calmtin.pantry.queries.making import job_view, to_infuse
from tests.bench_data import Reads, maker, salve
from tests.pantry.test_pantry import BACKEND, lot_of

DAY = date(2026, 5, 1)


class Steps(TestCase):
    def test_each_job_is_walked_to_its_end_and_waits_as_long_as_its_steps_say(self) -> None:
        for job in (Job.COMB, Job.BUTTER, Job.WARM):
            at = started = datetime(2026, 5, 1, 9, 0)
            done: list[tuple[str, datetime]] = []
            for step in STEPS[job]:
                coming = next_step(job, done, started)
                assert coming is not None
                self.assertEqual((coming.step, coming.ready_at), (step, at + step.after))
                at = coming.ready_at + timedelta(minutes=5)
                done.append((step.key, at))
            self.assertIsNone(next_step(job, done, started))

    def test_a_cold_infusion_is_shaken_again_and_again(self) -> None:
        started = datetime(2026, 5, 1, 9, 0)
        shaken = started + timedelta(days=4)
        coming = next_step(Job.COLD, [("shake", shaken)], started)
        assert coming is not None
        self.assertEqual((coming.step.key, coming.ready_at), ("shake", shaken + timedelta(days=3)))

    def test_a_strained_oil_keeps_as_its_oil_does_and_a_year_at_most(self) -> None:
        def until(job: Job, oil: date | None, months: float | None = 24.0) -> date:
            strained = DAY + timedelta(days=28)
            return infused_best_before(
                job, started_on=DAY, strained_on=strained, oil=oil, oil_months=months
            )

        self.assertEqual(until(Job.COLD, date(2026, 9, 1)), date(2026, 9, 1))
        self.assertEqual(until(Job.COLD, date(2029, 1, 1)), DAY + timedelta(days=360))
        self.assertEqual(until(Job.WARM, None), DAY + timedelta(days=28 + 360))
        self.assertEqual(until(Job.WARM, None, 6.0), DAY + timedelta(days=28 + 180))


class OnTheBench(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend=BACKEND)

    def at(self, when: datetime) -> Any:
        return patch("django.utils.timezone.now", return_value=when)

    def test_comb_from_the_pot_of_water_to_the_weighed_wax(self) -> None:
        evening = timezone.make_aware(datetime(2026, 5, 1, 20, 0))
        with self.at(evening):
            answer = self.client.post(
                "/pantry/making/", {"kind": "comb", "raw_g": "400", "started_on": "2026-05-01"}
            )
            row = Rendering.objects.get()
            page = f"/pantry/rendering/{row.pk}/"
            self.assertRedirects(answer, page)
            self.assertContains(self.client.get(page), "pinch of salt")
            self.assertContains(self.client.get("/"), "Melt it in water")
            for key in ("boil", "strain"):
                self.client.post(page, {"act": "step", "key": key})
            # It cools overnight: nothing asks for it until the morning.
            self.assertNotContains(self.client.get("/"), "Comb to wax")
            self.assertContains(self.client.get("/pantry/making/"), "next step from 2 May, 06:00")
        with self.at(evening + timedelta(hours=11)):
            self.assertContains(self.client.get("/"), "Lift the cake and scrape it")
            self.client.post(page, {"act": "step", "key": "strain", "undo": "yes"})
            self.assertContains(self.client.get("/"), "Strain it")
            for step in STEPS[Job.COMB]:
                self.client.post(page, {"act": "step", "key": step.key})
            self.assertContains(self.client.get("/"), "Weigh it")
            self.assertContains(
                self.client.post(page, {"clean_g": "500", "done_on": "2026-05-02"}), "no more than the comb"
            )
            self.client.post(page, {"clean_g": "180", "done_on": "2026-05-02"})
        row.refresh_from_db()
        assert row.lot is not None
        self.assertEqual((row.yield_pct, row.lot.material, row.lot.amount_g), (45, "beeswax_yellow", 180))
        self.assertEqual([m.kind for m in row.lot.movements.all()], [Movement.Kind.MADE])
        self.assertContains(self.client.get(f"/pantry/lots/{row.lot.pk}/"), "made 2 May 2026")
        self.assertNotContains(self.client.get("/"), "Comb to wax")
        # A misread weight is corrected where it was typed, and the lot follows.
        self.assertContains(self.client.post(page, {"act": "again", "weight_g": "170"}), "Give a reason")
        self.client.post(page, {"act": "again", "weight_g": "170", "reason": "with the dish"})
        row.lot.refresh_from_db()
        self.assertEqual((row.lot.amount_g, services.balance(row.lot)), (170, 170))
        self.assertContains(self.client.get(page), "with the dish")
        # The next comb is told what it may give.
        more = services.start_rendering(self.user, kind="comb", raw_g=Decimal(200), started_on=DAY)
        self.assertContains(self.client.get(f"/pantry/rendering/{more.pk}/"), "expect about 85.0 g")

    def test_a_clarified_butter_comes_off_the_shelf_and_back_with_its_price(self) -> None:
        raw = services.buy_lot(
            self.user, material="shea_unrefined", amount_g=Decimal(500), bought_on=DAY, price=Decimal(10),
            best_before=date(2027, 1, 1),
        )  # fmt: skip
        facts = {"kind": "butter", "raw_g": "300", "started_on": "2026-05-01"}
        wax = self.client.post("/pantry/making/", {**facts, "material": "olive_oil"})
        self.assertContains(wax, "Select a valid choice")
        self.client.post("/pantry/making/", {**facts, "material": "shea_unrefined", "clean_g": "280"})
        row = Rendering.objects.get()
        assert row.lot is not None
        self.assertEqual(services.balance(raw), 200)
        self.assertEqual((row.lot.price, row.lot.best_before), (Decimal("6.00"), date(2027, 1, 1)))
        self.client.post("/pantry/making/", {**facts, "material": "shea_unrefined", "raw_g": "100"})
        other = Rendering.objects.get(lot=None)
        self.assertEqual(services.balance(raw), 100)
        self.client.post(f"/pantry/rendering/{other.pk}/", {"act": "delete"})
        self.assertEqual(services.balance(raw), 200)
        self.assertContains(self.client.get(f"/pantry/lots/{raw.pk}/"), "clarified")

    def infuse(self, **facts: Any) -> Infusion:
        usual = {"herb": "calendula", "herb_g": Decimal(30), "oil": "olive_oil", "oil_g": Decimal(300)}
        infusion: Infusion = services.start_infusion(
            self.user, **{**usual, "method": "cold", "started_on": DAY, **facts}
        )
        return infusion

    def test_an_infusion_is_measured_in_cups_and_shaken(self) -> None:
        cups = {"herb": "calendula", "herb_g": "2 cups", "oil": "olive_oil", "oil_g": "1 cup"}
        self.client.post(
            "/pantry/making/", {**cups, "method": "cold", "started_on": "2026-05-01", "is_dried": "on"}
        )
        row = Infusion.objects.get()
        self.assertAlmostEqual(float(row.herb_g), 38, delta=3)
        self.assertAlmostEqual(float(row.oil_g), 216, delta=8)
        shaken = timezone.make_aware(datetime(2026, 5, 5, 9, 0))
        with self.at(shaken):
            self.assertContains(self.client.get("/"), "Shake it")
            self.client.post(f"/pantry/making/{row.pk}/", {"act": "step", "key": "shake"})
            self.assertNotContains(self.client.get("/"), "Shake it")
            view = job_view(row, shelf_for(self.user), row.marks.all(), shaken + timedelta(days=3))
        self.assertEqual(view.wants, "Shake it")
        with self.at(shaken + timedelta(days=4)):
            self.client.post(f"/pantry/making/{row.pk}/", {"act": "step", "key": "shake"})
            self.assertNotContains(self.client.get("/"), "Shake it")
            # Taken back, it is as it was after the first time: due since the day before.
            self.client.post(f"/pantry/making/{row.pk}/", {"act": "step", "key": "shake", "undo": "yes"})
            view = job_view(row, shelf_for(self.user), row.marks.all(), timezone.now())
        self.assertEqual((view.wants, view.since), ("Shake it", shaken + timedelta(days=3)))
        with self.at(shaken + timedelta(days=30)):
            self.assertContains(self.client.get("/"), "Strain it")

    def test_a_strained_oil_has_its_date_and_its_price_and_its_weight_is_corrected_there(self) -> None:
        services.buy_lot(
            self.user, material="olive_oil", amount_g=Decimal(500), bought_on=DAY, price=Decimal(5),
            best_before=date(2026, 12, 24),
        )  # fmt: skip
        row = self.infuse()
        lot = services.strain(self.user, row, recovered_g=Decimal(250), strained_on=date(2026, 5, 29))
        self.assertEqual((lot.price, lot.best_before), (Decimal("3.00"), date(2026, 12, 24)))
        self.assertEqual(lot.movements.get().get_kind_display(), "made")
        page = f"/pantry/making/{row.pk}/"
        answer = self.client.post(page, {"act": "again", "weight_g": "400", "reason": "misread"})
        self.assertContains(answer, "300 g of oil went in")
        self.client.post(page, {"act": "again", "weight_g": "240", "reason": "misread"})
        row.refresh_from_db()
        lot.refresh_from_db()
        self.assertEqual((row.recovered_g, lot.amount_g, services.balance(lot)), (240, 240, 240))

    def test_a_price_that_is_not_known_is_not_made_up(self) -> None:
        lot_of(self.user, "olive_oil", 100)
        lot = services.strain(self.user, self.infuse(), recovered_g=Decimal(250), strained_on=DAY)
        self.assertIsNone(lot.price)
        # Nor is that of the part which the shelf had, for the whole.
        priced = {"amount_g": Decimal(100), "bought_on": DAY, "price": Decimal(4)}
        services.buy_lot(self.user, material="jojoba_oil", **priced)
        some = self.infuse(oil="jojoba_oil")
        self.assertIsNone(services.strain(self.user, some, recovered_g=Decimal(250), strained_on=DAY).price)

    def test_a_formula_that_needs_an_infusion_leads_to_making_it(self) -> None:
        row = self.infuse()
        lot = services.strain(self.user, row, recovered_g=Decimal(240), strained_on=DAY)
        [make] = to_infuse([(lot.material, Decimal(160))], shelf_for(self.user), [row])
        self.assertEqual((make.oil_g, make.herb_g), (201, Decimal("20.10")))
        lines = [("beeswax_yellow", Decimal(20)), (lot.material, Decimal(80))]
        formula = salve(self.user, "Calendula tin", lines)
        page = self.client.get(f"/formulas/{formula.pk}/v/1/fill/", {"pot": "500"})
        self.assertContains(page, "To infuse first")
        self.assertContains(page, "of calendula in")
        [make] = page.context["supply"].infuse
        form = self.client.get(make.address).context["infusion"]
        self.assertEqual((form["herb"].value(), form["oil"].value()), ("calendula", "olive_oil"))
        self.client.post("/deadlines/", {"formula": formula.pk, "count": "20", "needed_on": "2099-05-01"})
        self.assertNotContains(
            self.client.get(f"/formulas/{formula.pk}/v/1/fill/?pot=60"), "To infuse first"
        )
        self.assertEqual(Lot.objects.count(), 1)
