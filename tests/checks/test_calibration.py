"""What the bench's own checks teach, on its page: said and felt, in words, left out for a reason."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any
from unittest import mock

from django.core.exceptions import PermissionDenied
from django.utils import timezone

from calmtin.accounts.models import User
from calmtin.checks import services as checks_services
from calmtin.checks.adapters import seen_on
from calmtin.checks.queries import calibration
from calmtin.pantry.adapters import shelf_for
from calmtin.pours import services
from calmtin.pours.models import Check, CheckLeftOut, Pour
from tests.bench_data import maker, plan_for, pour_of
from tests.formulas.test_formulas import WithSalve


class Taught(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        self.pours = [self.closed() for _ in range(3)]

    def closed(self) -> Pour:
        pour = pour_of(self.user, self.version, done=True)
        Pour.every().filter(pk=pour.pk).update(started_at=timezone.now() - timedelta(days=40))
        return pour

    def felt(self, pour: Pour, rung: str, temp_c: float = 21.0, **more: Any) -> Check:
        check: Check = services.record_check(
            self.user,
            pour,
            temp_c=temp_c,
            felt_rung=Decimal(rung),
            made_at=timezone.now() + timedelta(days=30),
            **more,
        )
        return check

    def page(self) -> Any:
        return self.client.get("/calibration/", HTTP_HX_REQUEST="")

    def test_an_empty_log_says_what_to_do(self) -> None:
        self.assertContains(self.page(), "Press a pour with your thumb")

    def test_what_is_felt_softer_is_told_softer_with_a_narrower_band(self) -> None:
        for pour in self.pours:
            self.felt(pour, "3")
        page = self.page()
        view = page.context["view"]
        self.assertEqual((len(view.answers), view.pours), (3, 3))
        [salve] = view.formulas
        self.assertLess(salve.now[0], salve.book[0] - 0.3)
        self.assertLess(salve.now[2] - salve.now[1], salve.book[2] - salve.book[1])
        self.assertContains(page, "Your thumb finds balms")
        self.assertContains(page, "softer than standard.")
        self.assertContains(page, "3 thumb tests")

    def test_a_list_read_while_a_lesson_is_worked_out_aside_is_read_anew_after_it(self) -> None:
        def reading() -> float:
            [listed] = self.client.get("/formulas/").context["formulas"]
            return float(listed.rung)

        for pour in self.pours:
            self.felt(pour, "3")
        before = reading()
        with mock.patch.multiple(calibration, LONG_LOG=0, _learn_aside=mock.DEFAULT):
            for pour in self.pours:
                self.felt(pour, "4.5")
            self.assertEqual(reading(), before)
        user = User.objects.get(pk=self.user.pk)
        calibration._keep(user, user.log_state, calibration._worked_out(user, None))
        self.assertGreater(reading(), before + 0.05)

    def test_one_that_is_not_believed_is_pointed_out_and_left_out_with_a_reason(self) -> None:
        for pour in self.pours:
            self.felt(pour, "5")
        sane = self.page().context["view"].formulas[0].now
        wrong = self.felt(self.closed(), "0")
        page = self.page()
        self.assertEqual([a.check for a in page.context["view"].doubtful], [wrong])
        self.assertContains(page, "Check it again, or exclude it.")
        self.assertAlmostEqual(page.context["view"].formulas[0].now[0], sane[0], delta=0.2)
        address = f"/checks/{wrong.pk}/exclude/"
        self.assertContains(self.client.post(address, {"reason": " "}), "Give a reason: tested too early")
        self.assertFalse(CheckLeftOut.objects.exists())
        self.client.post(address, {"reason": "the wrong tin"})
        page = self.page()
        self.assertContains(page, "Excluded: the wrong tin")
        self.assertEqual(page.context["view"].formulas[0].now, sane)  # identical, not nearly
        before = Check.objects.get(pk=wrong.pk)
        self.assertEqual(before.felt_rung, 0)  # the check stays as it was
        self.client.post(address, {"back": "yes"})
        self.assertEqual(CheckLeftOut.objects.count(), 2)
        self.assertNotContains(self.page(), "Excluded: the wrong tin")

    def test_what_teaches_nothing(self) -> None:
        shelf = shelf_for(self.user)
        self.felt(self.pours[0], "5")
        rehearsal = services.rehearse(
            self.user, self.version, plan_for(self.user, self.version), scale_step_g=Decimal("0.1")
        )
        for line in rehearsal.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, rehearsal)
        self.felt(rehearsal, "9", 5.0, set_test="lid")
        services.record_check(self.user, self.pours[1], temp_c=21.0, felt_rung=None, notes="smells good")
        self.assertEqual([s.check.pour for s in seen_on(self.user, shelf)], [self.pours[0]])

    def test_a_check_is_of_what_was_in_the_pot_then(self) -> None:
        services.add_to_pot(self.user, self.pours[0], material="beeswax_yellow", grams=Decimal(10))
        later = self.felt(self.pours[0], "7")
        early = services.record_check(
            self.user,
            self.pours[0],
            temp_c=21.0,
            felt_rung=Decimal(4),
            made_at=timezone.now() - timedelta(days=1),
        )
        wax = {
            s.check: sum(g for m, g in s.observation.parts if m.slug == "beeswax_yellow")
            for s in seen_on(self.user, shelf_for(self.user))
        }
        self.assertAlmostEqual(wax[later] - wax[early], 10.0)

    def test_nobody_elses(self) -> None:
        check = self.felt(self.pours[0], "5")
        other = maker("bow")
        with self.assertRaises(PermissionDenied):
            checks_services.exclude_check(other, check, reason="mine now")
        self.client.force_login(other, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.post(f"/checks/{check.pk}/exclude/", {"reason": "x"}).status_code, 404)

    def test_it_asks_the_database_as_often_for_many_checks_as_for_few(self) -> None:
        self.felt(self.pours[0], "5")
        with self.assertNumQueries(24):
            self.page()
        for pour in self.pours:
            for _ in range(4):
                self.felt(pour, "5")
        with self.assertNumQueries(24):
            self.page()
