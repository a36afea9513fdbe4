"""The weigh sheet, its readings, the record and the history."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

from django.core.exceptions import PermissionDenied
from django.db import DatabaseError, transaction
from django.test import TestCase
from django.utils.html import escape

from calmtin.accounts.models import Bench
from calmtin.accounts.queries import bench_of
from calmtin.checks.queries.compare import compare_view, newest_of, pours_to_compare
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.adapters import newest_grams
from calmtin.pours.models import Check, Pour, WeighIn
from calmtin.pours.queries.history import pins_for
from calmtin.pours.queries.record import pour_view, pour_with_lines
from tests.bench_data import Reads, draft, maker, pour_of, salve


class WithPour(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.formula = salve(self.user)
        self.version = draft(self.formula)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")


class Sheet(WithPour):
    def test_planned_lines_sum_to_the_batch(self) -> None:
        pour = pour_of(self.user, self.version)
        planned = [line.planned_g for line in pour.lines.all()]
        self.assertEqual(sum(planned), pour.batch_g)
        self.version.refresh_from_db()
        self.assertTrue(self.version.is_poured)

    def test_newest_reading_counts_and_none_is_lost(self) -> None:
        pour = pour_of(self.user, self.version)
        wax = pour.lines.get(material="beeswax_yellow")
        for grams in ("20", "20", "21.5"):
            services.weigh(self.user, wax, Decimal(grams))
        self.assertEqual([w.grams for w in wax.weigh_ins.all()], [Decimal(20), Decimal("21.5")])
        for before in (Decimal(20), None):
            self.assertEqual(services.undo_weight(self.user, pour), wax)
            self.assertEqual(newest_grams(wax), before)
        self.assertIsNone(services.undo_weight(self.user, pour))
        self.assertEqual(wax.weigh_ins.count(), 4)

    def test_undo_steps_back_through_the_readings_of_all_lines_and_the_shelf_follows(self) -> None:
        pour = pour_of(self.user, self.version)
        wax, fat = pour.lines.all()[:2]
        lot = buy_lot(self.user, material=wax.material, amount_g=Decimal(100), bought_on=DAY)
        services.weigh(self.user, wax, Decimal(20))
        services.weigh(self.user, fat, Decimal(13))
        services.weigh(self.user, wax, Decimal(4), mode="add")
        services.weigh(self.user, wax, Decimal(25), mode="correct")
        steps = []
        while services.undo_weight(self.user, pour):
            steps.append((newest_grams(wax), newest_grams(fat), balance(lot)))
        self.assertEqual(steps, [(24, 13, 76), (20, 13, 80), (20, None, 80), (None, None, 100)])
        # Weighed anew, only what stands is stepped back through.
        services.weigh(self.user, wax, Decimal(21))
        services.undo_weight(self.user, pour)
        self.assertIsNone(newest_grams(wax))

    def test_actual_weights_move_the_prediction(self) -> None:
        pour = pour_of(self.user, self.version)
        wax = pour.lines.get(material="beeswax_yellow")
        services.weigh(self.user, wax, wax.planned_g + 5)
        pour = pour_with_lines(self.user, pk=pour.pk)
        view = pour_view(pour, shelf_for(self.user), bench_of(self.user))
        self.assertGreater(view.shift, 0.3)
        self.assertEqual((view.weighed, view.in_pot_g), (1, wax.planned_g + 5))
        self.assertEqual(view.next_row.line.position, 1)

    def test_closing_needs_every_weight_and_then_locks(self) -> None:
        pour = pour_of(self.user, self.version)
        with self.assertRaises(CalmTinError) as refused:
            services.finish_weighing(self.user, pour)
        self.assertIn("Beeswax, yellow", str(refused.exception))
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        closed = services.finish_weighing(self.user, pour).poured_at
        again = services.finish_weighing(self.user, pour, poured_at=closed + timedelta(hours=3))
        self.assertEqual((again.poured_at, Pour.objects.get().poured_at), (closed, closed))
        line = pour.lines.first()
        line.refresh_from_db()
        for attempt in (
            lambda: services.weigh(self.user, line, Decimal(1)),
            lambda: services.undo_weight(self.user, pour),
        ):
            with self.assertRaises(CalmTinError):
                attempt()
        self.assertEqual(WeighIn.objects.count(), 4)

    def test_records_are_written_once(self) -> None:
        pour = pour_of(self.user, self.version, done=True)
        check = services.record_check(self.user, pour, temp_c=20.0, felt_rung=Decimal(5))
        check.notes = "better than it was"
        for attempt in (
            check.save,
            WeighIn.objects.first().save,
            lambda: WeighIn.objects.update(grams=1),
            lambda: Check.objects.filter(pk=check.pk).update(verdict="keep"),
        ):
            with self.assertRaises(PermissionDenied):
                attempt()

    def test_bad_weights_keep_everything(self) -> None:
        pour = pour_of(self.user, self.version)
        services.weigh(self.user, pour.lines.first(), Decimal(21))
        for typed, words in {
            "heaps": "is not a number",
            "-1": "cannot be below",
            "1e9": "is not a number",
            "9999": "far more than",
            "": "is empty",
        }.items():
            answer = self.client.post(f"/pours/{pour.pk}/weigh/1/", {"grams": typed})
            self.assertContains(answer, words)
            self.assertContains(answer, 'id="wrong-1"')
            self.assertContains(answer, '<span class="weighed">21</span>')
            self.assertContains(answer, f'value="{escape(typed)}"')
        self.assertEqual(WeighIn.objects.count(), 1)


DAY = date(2026, 5, 1)


class Corrections(WithPour):
    def test_a_wrong_weight_of_a_closed_sheet_is_corrected_by_an_entry(self) -> None:
        lot = buy_lot(
            self.user, material="beeswax_yellow", amount_g=Decimal(30), bought_on=date(2026, 5, 1)
        )
        pour = pour_of(self.user, self.version, done=True)
        line = pour.lines.get(material="beeswax_yellow")
        wrong, right = line.planned_g, line.planned_g + Decimal("2.4")
        address, of = f"/pours/{pour.pk}/correct/", {"line": line.position}
        self.assertContains(self.client.post(address, of | {"grams": "x", "reason": ""}), "is not a number")
        self.assertContains(
            self.client.post(address, of | {"grams": "20", "reason": ""}), "Give a reason: misread"
        )
        self.client.post(address, of | {"grams": str(right), "reason": "misread the scale"})
        self.assertEqual([w.grams for w in line.weigh_ins.all()], [wrong, right])
        self.assertEqual(balance(lot), 30 - right)
        page = self.client.get(f"/pours/{pour.pk}/")
        self.assertContains(page, f"corrected from {wrong.normalize():f} g on")
        self.assertContains(page, "misread the scale")
        self.assertContains(page, f"<strong>{right.normalize():f}</strong>")

    def test_only_a_closed_sheet_and_with_a_reason(self) -> None:
        pour = pour_of(self.user, self.version)
        line = pour.lines.first()
        with self.assertRaisesRegex(CalmTinError, "Close the weigh sheet before"):
            services.correct_weight(self.user, line, Decimal(3), reason="slip")
        services.cancel_pour(self.user, pour, reason="started twice")
        line.refresh_from_db()
        with self.assertRaisesRegex(CalmTinError, "Close the weigh sheet before"):
            services.correct_weight(self.user, line, Decimal(3), reason="slip")
        done = pour_of(self.user, self.version, done=True).lines.first()
        with self.assertRaises(DatabaseError), transaction.atomic():
            WeighIn.objects.create(line=done, grams=Decimal(1))

    def test_what_the_shelf_lacks_is_told_before_and_after(self) -> None:
        buy_lot(self.user, material="beeswax_yellow", amount_g=Decimal(5), bought_on=date(2026, 5, 1))
        pour = pour_of(self.user, self.version)
        self.assertContains(self.client.get(f"/pours/{pour.pk}/"), "the shelf has 5.0 g")
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, pour)
        lacking = pour.lines.get(material="beeswax_yellow").planned_g - 5
        page = self.client.get(f"/pours/{pour.pk}/")
        self.assertContains(page, f"{lacking.normalize():f} g more than the shelf had")
        self.assertContains(page, "more than the shelf had", 1)

    def test_poured_is_said_only_of_what_was_poured(self) -> None:
        address = f"/formulas/{self.formula.pk}/v/1/"
        pour = pour_of(self.user, self.version)
        self.assertContains(self.client.get(address), "version 1, being weighed")
        self.assertContains(self.client.get("/formulas/"), "version 1, being weighed")
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, pour)
        self.assertContains(self.client.get(address), "version 1, poured")
        self.assertContains(self.client.get(address), "has been poured and can’t change")


class History(WithPour):
    def test_planned_actual_and_felt_at_one_temperature(self) -> None:
        pour = pour_of(self.user, self.version, done=True)
        self.client.post(
            f"/pours/{pour.pk}/check/",
            {"temp": "19,5", "felt_rung": "5.5", "verdict": "tweak", "notes": "Rows are fine."},
        )
        pours = pours_to_compare(self.user, newest_of(self.user, self.formula.pk))
        item = compare_view(pours, [], shelf_for(self.user), bench_of(self.user)).items[0]
        self.assertEqual(([c.temp_c for c in item.checks], item.verdict), ([19.5], "tweak"))
        self.assertLess(item.predicted[1], item.predicted[0])
        page = self.client.get(f"/formulas/{self.formula.pk}/pours/")
        self.assertContains(page, "<strong>5.5</strong>")
        pins = pins_for(self.formula)
        self.assertEqual([(pin.rung, pin.verdict) for pin in pins], [(5.5, "tweak")])

    def test_a_result_in_fahrenheit_is_kept_in_celsius(self) -> None:
        Bench.objects.filter(user=self.user).update(temperature_unit="F")
        pour = pour_of(self.user, self.version, done=True)
        page = self.client.get(f"/pours/{pour.pk}/check/?look=skin")
        self.assertContains(page, "Temperature of the sample, °F")
        self.assertContains(page, 'value="91.4"')
        self.client.post(f"/pours/{pour.pk}/check/", {"temp": "68", "felt_rung": "5"})
        self.assertEqual(Check.objects.get().temp_c, 20.0)

    def test_a_result_felt_elsewhere_is_no_pin_of_the_room(self) -> None:
        pour = pour_of(self.user, self.version, done=True)
        services.record_check(self.user, pour, temp_c=8.0, felt_rung=Decimal(7))
        self.assertEqual(pins_for(self.formula), [])

    def test_empty_or_wrong_result_is_refused_with_what_was_typed(self) -> None:
        pour = pour_of(self.user, self.version, done=True)
        answer = self.client.post(
            f"/pours/{pour.pk}/check/", {"temp": "warm", "notes": "sandy <b>grain</b>"}
        )
        self.assertContains(
            answer, "“warm” is not a temperature. Type the temperature as digits, from −40 to 110"
        )
        self.assertContains(answer, "sandy &lt;b&gt;grain")
        nothing = self.client.post(f"/pours/{pour.pk}/check/", {"temp": "20"})
        self.assertContains(nothing, "Say how firm it is, what bothers you, or write a note")
        self.assertFalse(Check.objects.exists())

    def test_today_leads_on(self) -> None:
        pour = pour_of(self.user, self.version)
        self.assertContains(self.client.get("/"), "0 of 4 weighed")
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, pour)
        self.assertContains(self.client.get("/"), "has it set?, in")
