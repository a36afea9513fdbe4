"""Where a pour stands, from what was done with it, and the pots that are on the stove."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal

from django.test import TestCase
from django.utils import timezone

from calmtin.pours import services
from calmtin.pours.models import Pour
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.queries.stages import STANDS, pots_of, stage_of
from tests.bench_data import maker
from tests.pours.test_pour_day import WithSheet


class Stages(WithSheet, TestCase):
    def stage(self) -> str:
        return stage_of(pour_with_lines(self.user, pk=self.pour.pk))

    def pots(self) -> list[tuple[str, str]]:
        return [(str(pot.stage), pot.next_step) for pot in pots_of(self.user)]

    def test_a_pour_goes_from_the_scale_to_the_count_by_what_is_done(self) -> None:
        self.assertEqual((self.stage(), self.pots()), ("weigh", [("Weigh", "Get ready")]))
        self.close()
        self.assertEqual((self.stage(), self.pots()), ("melt", [("Melt", "Melt the wax")]))
        services.mark_step(self.user, self.pour, key="late")
        self.assertEqual(self.stage(), "cool")
        services.mark_step(self.user, self.pour, key="test")
        self.assertEqual(self.stage(), "pour")
        services.mark_step(self.user, self.pour, key="fill")
        self.assertEqual((self.stage(), self.pots()), ("set", []))
        services.mark_step(self.user, self.pour, key="fill", is_done=False)
        self.assertEqual(self.stage(), "pour")
        services.mark_step(self.user, self.pour, key="fill")
        services.record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(5))
        self.assertEqual(self.stage(), "count")
        services.record_yield(self.user, self.pour, filled_g=Decimal(10), left_g=Decimal(0))
        self.assertEqual(self.stage(), "")

    def test_one_that_nobody_touched_is_not_on_the_stove(self) -> None:
        self.close()
        Pour.objects.update(poured_at=timezone.now() - STANDS - timedelta(minutes=1))
        self.assertEqual((self.stage(), self.pots()), ("set", []))

    def test_another_maker_sees_none_of_it(self) -> None:
        self.close()
        other = maker("bow")
        self.client.force_login(other)
        self.assertNotContains(self.client.get("/pours/stove/"), self.pour.code)
        self.client.force_login(self.user)
        self.assertContains(self.client.get("/pours/stove/"), "next: Melt the wax")
        self.assertNotContains(self.client.get(f"/pours/stove/?without={self.pour.pk}"), self.pour.code)

    def test_poured_is_when_it_was_filled_and_goes_back_with_it(self) -> None:
        self.close()
        self.pour.refresh_from_db()
        closed = self.pour.closing.at
        Pour.objects.update(poured_at=timezone.now() - timedelta(hours=2))
        services.mark_step(self.user, self.pour, key="fill")
        self.pour.refresh_from_db()
        self.assertGreater(self.pour.poured_at, closed)
        services.mark_step(self.user, self.pour, key="fill", is_done=False)
        self.pour.refresh_from_db()
        self.assertEqual(self.pour.poured_at, closed)
