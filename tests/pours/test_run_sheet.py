"""Pour day on its page: steps ticked, temperatures logged, and when the pot will be where."""

from __future__ import annotations

import math
from datetime import timedelta
from uuid import uuid4

from django.utils import timezone

from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.pantry.adapters import shelf_for
from calmtin.pours import services
from calmtin.pours.models import PotReading, StepDone
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.queries.run import run_view
from tests.bench_data import pour_of
from tests.pours.test_pour_day import WithSheet


class PourDay(WithSheet):
    def test_one_thing_at_a_time_and_what_is_done_stays(self) -> None:
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, "<h1>Get ready</h1>")
        self.assertContains(page, "Never mix bleach with alcohol")
        key = str(uuid4())
        for _ in range(2):
            page = self.post("run/ready/", note="new gloves", request_key=key)
        self.assertEqual(StepDone.objects.count(), 1)
        self.assertContains(page, "<h1>Weigh</h1>")
        for line in self.pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, self.pour)
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, "<h1>Melt the wax</h1>")
        self.post("run/melt_wax/")
        page = self.post("run/melt_wax/", undo="yes")
        self.assertContains(page, "<h1>Melt the wax</h1>")
        record = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(record, "new gloves")

    def test_the_clock_says_when_to_scent_and_when_to_pour_by(self) -> None:
        start = timezone.now() - timedelta(minutes=9)
        for minute in (0, 3, 6, 9):
            temp_c = 21 + 64 * math.exp(-0.03 * minute)
            at = start + timedelta(minutes=minute)
            services.read_pot(self.user, self.pour, temp_c=temp_c, at=at)
        view = run_view(
            pour_with_lines(self.user, pk=self.pour.pk), shelf_for(self.user), bench_of(self.user)
        )
        scent = next(a for a in view.ahead if a.name == "add scent from")
        true = math.log(64 / (scent.temp_c - 21)) / 0.03
        self.assertAlmostEqual((scent.at - start) / timedelta(minutes=1), true, delta=0.1 * true)
        self.assertTrue(scent.low < scent.at < scent.high)
        self.assertEqual(len(view.clock.dots), 4)
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, "(likely")
        self.assertContains(page, "add scent from")

    def test_back_to_the_bath_the_window_and_the_deadline_start_anew(self) -> None:
        for line in self.pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, self.pour)
        start = timezone.now() - timedelta(minutes=30)
        for minute, temp_c in ((0, 85.0), (12, 60.0), (20, 52.0)):
            services.read_pot(self.user, self.pour, temp_c=temp_c, at=start + timedelta(minutes=minute))
        for step in self.client.get(f"{self.address}run/").context["view"].steps:
            if step.step.key in ("fill", "cool", "clean") or step.step.key == "weigh":
                continue
            services.mark_step(self.user, self.pour, key=step.step.key)
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, "Setting in the jug? Reheat")
        page = self.post("run/bath/", note="it was setting in the jug")
        self.assertContains(page, "Back in the bath.")
        self.assertContains(page, "<h1>Pour</h1>")
        self.assertIsNone(page.context["view"].clock)
        page = self.post("reading/", temp="75")
        [by] = [a for a in page.context["view"].ahead if a.name == "pour by"]
        self.assertGreater(by.at, timezone.now())
        record = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(record, "Back to the bath")

    def test_a_reading_in_fahrenheit_and_one_that_cannot_be_read(self) -> None:
        self.user.bench.temperature_unit = "F"
        self.user.bench.save()
        page = self.post("reading/", temp="hot")
        self.assertContains(
            page, "“hot” is not a temperature. Type the temperature as digits, from −40 to 230 °F."
        )
        self.post("reading/", temp="176")
        self.assertAlmostEqual(PotReading.objects.get().temp_c, 80.0)
        self.assertContains(self.client.get(f"{self.address}run/"), "176°")

    def test_a_pour_that_was_called_off_goes_on_no_more(self) -> None:
        services.cancel_pour(self.user, self.pour, reason="the wrong formula")
        with self.assertRaisesRegex(CalmTinError, "cancelled"):
            services.mark_step(self.user, self.pour, key="ready")
        self.assertContains(self.post("reading/", temp="80"), "cancelled")

    def test_two_pours_on_the_stove_do_not_mix(self) -> None:
        other = pour_of(self.user, self.version)
        self.post("reading/", temp="80")
        self.post("run/ready/")
        page = self.client.get(f"/pours/{other.pk}/run/")
        self.assertContains(page, "<h1>Get ready</h1>")
        self.assertIsNone(page.context["view"].last_c)
