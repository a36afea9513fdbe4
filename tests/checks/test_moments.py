"""What is felt too early, in the fridge or before it was melted again is compared with that moment only."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from calmtin.accounts.queries import bench_of
from calmtin.checks.adapters import seen_on
from calmtin.checks.queries.next_pour import next_pour
from calmtin.core.engine.firmness import rung_at
from calmtin.core.process.moments import Moment
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.adapters import actual_parts, age_days, is_near_room
from calmtin.pours.models import Check, PotAddition, Pour
from calmtin.pours.queries.check_views import check_views
from calmtin.pours.queries.history import pins_for
from calmtin.pours.queries.set_tests import set_tests_of
from calmtin.pours.services import record_check
from tests.checks.test_checks import WithSetPour


class AtAMoment(WithSetPour):
    def setUp(self) -> None:
        super().setUp()
        self.shelf = shelf_for(self.user)

    def page(self, **query: Any) -> Any:
        return self.client.get(f"/pours/{self.pour.pk}/check/", query)

    def moment(self, **query: Any) -> Any:
        return self.client.get(f"/pours/{self.pour.pk}/check/moment/", query)

    def add_wax(self, **ago: float) -> None:
        at = timezone.now() - timedelta(**ago)
        PotAddition.objects.create(
            pour=self.pour, material="beeswax_yellow", grams=Decimal(12), why="too soft", at=at
        )
        self.pour = Pour.objects.get(pk=self.pour.pk)

    def test_a_tin_that_was_just_filled_is_taken_to_be_warm(self) -> None:
        self.poured(minutes=15)
        answer = self.page()
        self.assertEqual(answer.context["now"].moment, Moment.MOULD)
        self.assertContains(answer, "Still warm")
        self.assertIn("15\xa0minutes after pouring: firmness", answer.context["now"].predicted)
        warm_c = answer.context["now"].guess_c
        self.assertGreater(warm_c, 30.0)
        # Two days later there is nothing to choose but the fridge, and the room is where it is.
        self.poured(days=2)
        self.assertEqual(self.page().context["form"]["temp"].value(), "21")
        self.assertNotContains(self.page(), "Still warm")
        # A look at skin warmth is at skin warmth.
        self.assertEqual(self.page(look="skin").context["now"].moments, [])

    def test_another_moment_has_its_own_temperature_until_one_was_measured(self) -> None:
        self.poured(minutes=15)
        warm_c = str(self.page().context["now"].guess_c)
        cold = self.moment(moment="fridge", temp=warm_c, guess=warm_c)
        self.assertEqual(cold.context["form"]["temp"].value(), "5")
        self.assertContains(cold, "Predicted at 5°")
        measured = self.moment(moment="mould", temp="33.5", guess=warm_c)
        self.assertEqual(measured.context["form"]["temp"].value(), "33.5")
        self.assertContains(measured, "Predicted at 33.5°")
        wrong = self.moment(moment="mould", temp="warm", guess=warm_c)
        self.assertContains(wrong, 'value="warm"')
        self.assertNotContains(wrong, "Predicted at")

    def test_what_was_felt_warm_speaks_for_itself_only(self) -> None:
        self.poured(minutes=15)
        self.look(temp="22", moment="mould", guess="40", felt_rung="2", verdict="keep")
        made = Check.objects.get()
        self.assertEqual((made.moment, made.is_temp_guessed), ("mould", False))
        self.assertEqual(self.left_out(), ["it had not set yet"])
        self.assertEqual(pins_for(self.formula), [])
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), "still warm")
        advice = next_pour(self.user, self.formula, self.shelf, bench_of(self.user))
        assert advice is not None
        self.assertTrue(all("felt 2" not in words for words in advice.because), advice.because)

    def left_out(self) -> list[str]:
        return [seen.left_out for seen in seen_on(self.user, self.shelf)]

    def test_a_temperature_that_nobody_measured_teaches_nothing(self) -> None:
        self.look(temp="5", guess="5", moment="fridge", felt_rung="7")
        self.look(temp="6.5", guess="5", moment="fridge", felt_rung="7")
        self.assertEqual(self.left_out(), ["its temperature was not measured", ""])

    def test_a_check_before_the_pot_was_melted_again_keeps_its_own_prediction(self) -> None:
        at = timezone.now() - timedelta(hours=3)
        record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(3), made_at=at)
        record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(2), set_test="lid", made_at=at)
        before = rung_at(actual_parts(self.pour, self.shelf), 21.0)
        self.add_wax(hours=2)
        [view], [drop] = check_views(self.pour, self.shelf), set_tests_of(self.pour, self.shelf)
        assert before and view.actual_rung and drop.rung
        self.assertAlmostEqual(view.actual_rung, before, delta=0.2)  # a day's hardening lies between
        self.assertAlmostEqual(drop.rung, before, places=6)
        # It no longer speaks for the pour, whose age starts anew.
        self.assertFalse(is_near_room(view.check, self.pour, 21.0))
        self.assertEqual(pins_for(self.formula), [])
        later = record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(6))
        self.assertTrue(is_near_room(later, self.pour, 21.0))
        self.assertAlmostEqual(age_days(self.pour, later), 2 / 24, delta=0.01)
        self.assertGreater(age_days(self.pour, view.check), 1.5)

    def test_a_moment_that_is_none_is_refused(self) -> None:
        answer = self.look(moment="boiling", felt_rung="5")
        self.assertEqual(answer.status_code, 200)
        self.assertFalse(Check.objects.exists())
