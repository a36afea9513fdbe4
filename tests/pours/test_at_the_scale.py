"""At the scale and beside the stove: lots, cups or one pot, finishes, set tests, the room, headroom."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

from django.utils import timezone

from calmtin.checks.adapters import seen_on
from calmtin.formulas.services import add_finish
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot
from calmtin.pantry.services.lots import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.models import Check, FinishWeighIn, PotReading, Pour, WeighIn
from calmtin.pours.queries.record import pour_with_lines
from tests.bench_data import plan_for
from tests.pours.test_pour_day import WithSheet


class Lots(WithSheet):
    def setUp(self) -> None:
        super().setUp()
        day = date(2026, 5, 1)
        wax = {"material": "beeswax_yellow", "amount_g": Decimal(100), "bought_on": day}
        self.old = buy_lot(self.user, **wax, best_before=day + timedelta(days=300))
        self.new = buy_lot(self.user, **wax, best_before=day + timedelta(days=900))

    def test_the_first_to_expire_is_offered_first_and_another_can_be_chosen(self) -> None:
        page = self.client.get(self.address)
        self.assertEqual([lot.lot for lot in page.context["view"].lots], [self.old, self.new])
        self.assertContains(page, 'form="row-0"')
        self.post("weigh/0/", grams="10", after="0", lot=str(self.new.pk))
        self.assertEqual((balance(self.old), balance(self.new)), (100, 90))
        self.assertEqual(WeighIn.objects.get().lot, self.new)
        self.post("undo/")
        self.post("weigh/0/", grams="10", lot=str(self.old.pk))
        self.assertEqual((balance(self.old), balance(self.new)), (90, 100))

    def test_a_correction_stays_with_the_lot_that_was_chosen(self) -> None:
        services.weigh(self.user, self.pour.lines.first(), Decimal(18), lot=self.new)
        for line in self.pour.lines.all()[1:]:
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, self.pour)
        services.correct_weight(self.user, self.pour.lines.first(), Decimal(20), reason="misread")
        self.assertEqual((balance(self.old), balance(self.new)), (100, 80))

    def test_a_lot_of_something_else_or_somebody_else_is_not_taken(self) -> None:
        oil = buy_lot(
            self.user, material="olive_oil", amount_g=Decimal(100), bought_on=timezone.localdate()
        )
        page = self.post("weigh/0/", grams="10", after="0", lot=str(oil.pk))
        self.assertContains(page, "That lot is of something else.")
        self.assertContains(page, 'value="10"')
        self.assertFalse(WeighIn.objects.exists())


class CupsOrPot(WithSheet):
    def over(self) -> str:
        wax, fat = list(self.pour.lines.all())[:2]
        self.post("weigh/0/", grams=str(wax.planned_g + 5))
        self.post("weigh/1/", grams=str(fat.planned_g))
        return self.client.get(self.address).content.decode()

    def test_in_one_pot_what_lies_beneath_is_mixed(self) -> None:
        page = self.over()
        self.assertIn("You can’t take it out", page)
        self.assertIn("Tare the pot.", page)

    def test_in_cups_it_can_still_be_taken_out(self) -> None:
        self.post("weigh-into/", weighed_into="cups")
        page = self.over()
        self.assertIn("Nothing is mixed with it yet", page)
        self.assertIn("Put an empty cup on the scale", page)

    def test_in_one_pot_the_last_one_poured_can_be_spooned_out(self) -> None:
        wax = self.pour.lines.first()
        page = self.post("weigh/0/", grams=str(wax.planned_g + 5))
        self.assertContains(page, "Nothing is mixed with it yet")

    def test_the_next_pour_is_weighed_as_the_last_one_was(self) -> None:
        self.post("weigh-into/", weighed_into="cups")
        self.assertContains(self.post("weigh-into/", weighed_into="hat"), "Choose how you weigh")
        self.close()
        self.user.refresh_from_db()  # with the bench as it is now
        again = services.start_pour(
            self.user,
            self.pour.version,
            plan_for(self.user, self.pour.version),
            scale_step_g=Decimal("0.1"),
        )
        self.assertEqual(again.weighed_into, "cups")


class Finishes(WithSheet):
    def setUp(self) -> None:
        super().setUp()
        add_finish(self.user, self.formula, name="minty", parts=[("peppermint", Decimal("0.5"))])
        boxes = {"container_0": "tin_2oz", "count_0": "2", "finish_0": "minty", "way": "containers"}
        self.formula_post("fill/", **boxes)
        self.pour = Pour.objects.first()
        self.address = f"/pours/{self.pour.pk}/"
        self.close()
        for key in ("ready", "melt_wax", "melt_butter", "oils", "late", "scent", "test"):
            self.client.post(f"{self.address}run/{key}/")

    def formula_post(self, path: str, **data: str) -> None:
        self.client.post(f"/formulas/{self.formula.pk}/v/1/{path}", data)

    def test_each_ending_is_a_step_with_its_own_weights(self) -> None:
        buy_lot(self.user, material="peppermint", amount_g=Decimal(10), bought_on=timezone.localdate())
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, "<h1>Finish: minty</h1>")
        self.assertContains(page, "drops")
        part = self.pour.finish_parts.get()
        page = self.client.post(f"{self.address}finish/{part.pk}/", {"grams": "0.7", "after": "0"})
        first = FinishWeighIn.objects.get()
        page = self.client.post(f"{self.address}finish/{part.pk}/", {"grams": "0.9", "after": "0"})
        self.assertContains(page, "Another page saved 0.7 g")
        self.client.post(f"{self.address}finish/{part.pk}/", {"grams": "0.9", "after": str(first.pk)})
        page = self.client.post(f"{self.address}finish/{part.pk}/", {"grams": "900"})
        self.assertContains(page, "far more than")
        record = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(record, "<strong>0.9 g</strong>")
        self.assertEqual(balance(Lot.objects.get()), Decimal("9.1"))


class SetTests(WithSheet):
    def test_two_presses_are_enough_and_what_was_not_measured_teaches_nothing(self) -> None:
        self.close()
        for key in ("ready", "melt_wax", "melt_butter", "oils", "late", "scent"):
            self.post(f"run/{key}/")
        for where, temp, words in (
            ("lid", "", "on a cold lid, taken as 5° (not measured)"),
            ("lip", "", "on the lip, taken as 33° (not measured)"),
            ("lid", "6", "on a cold lid at 6°."),
        ):
            page = self.post("set-test/", set_test=where, temp=temp, felt_rung="4")
            self.assertContains(page, words)
        self.assertEqual([check.temp_c for check in Check.objects.order_by("pk")], [5.0, 33.0, 6.0])
        learned = [seen.left_out for seen in seen_on(self.user, shelf_for(self.user))]
        self.assertEqual(learned, ["its temperature was not measured"] * 2 + [""])

    def test_a_drop_is_logged_beside_its_prediction_and_judges_nothing(self) -> None:
        self.close()
        for key in ("ready", "melt_wax", "melt_butter", "oils", "late", "scent"):
            self.post(f"run/{key}/")
        page = self.post("set-test/", set_test="lid", temp="6", felt_rung="")
        self.assertContains(page, "Choose the word that fits")
        self.assertContains(page, 'value="6"')
        page = self.post("set-test/", set_test="lid", temp="6", felt_rung="1")
        [tried] = page.context["view"].set_tests
        self.assertLess(1 - tried.rung, -0.8)
        self.assertContains(page, "softer than predicted there")
        self.assertEqual(Check.objects.get().set_test, "lid")
        self.assertContains(
            self.client.get("/", HTTP_HX_REQUEST=""), self.pour.code
        )  # still to be looked at
        record = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(record, "A drop on a cold lid")
        self.assertNotContains(record, "<h2>Looked at</h2>")


class TheRoom(WithSheet):
    def test_the_forecast_follows_the_room_that_was_read(self) -> None:
        self.close()
        start = timezone.now() - timedelta(minutes=5)
        services.read_pot(self.user, self.pour, temp_c=85.0, at=start)
        services.read_pot(self.user, self.pour, temp_c=80.0, at=start + timedelta(minutes=4))
        usual = self.run_sheet().ahead[-1].at
        self.post("reading/", temp="8", place="room")
        self.assertEqual(PotReading.objects.filter(place="room").get().temp_c, 8.0)
        view = self.run_sheet()
        self.assertLess(view.ahead[-1].at, usual)
        self.assertEqual(view.last_c, 80.0)
        record = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(record, "in the room")


class Headroom(WithSheet):
    def test_the_page_says_it_before_it_is_logged(self) -> None:
        self.close()
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, "Lavender: room for")
        pour = pour_with_lines(self.user, pk=self.pour.pk)
        self.assertEqual(len(self.run_sheet().rooms), 1)
        page = self.post("feel/", material="lavender", amount="20 g")
        stop = page.context["stops"][0]
        self.assertContains(page, "Your reason to go on")
        back = page.context["back"]
        answer = {"key": stop.key, "material": stop.material, "level": "stop", "back": back}
        page = self.client.post(
            f"/formulas/{self.formula.pk}/v/1/acknowledge/", answer | {"reason": "a test"}, follow=True
        )
        self.assertContains(page, 'value="20 g"')  # what was typed is still there
        self.post("feel/", material="lavender", amount="20 g")
        self.assertContains(self.client.get(f"{self.address}run/"), "no room for more")
        self.assertFalse(pour.is_rehearsal)
