"""The pot on the stove is on every page, with its clocks, until it is in its tins."""

from __future__ import annotations

import re
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from calmtin.pours import services
from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase


class OnTheStove(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.pour = Pour.objects.get(poured_at=None)
        for line in self.pour.lines.all():
            services.weigh(self.pour.owner, line, line.planned_g)

    def test_a_pot_and_its_clock_follow_the_maker_until_it_is_poured(self) -> None:
        page = self.open(f"/pours/{self.pour.pk}/")
        page.get_by_role("button", name="Close the weigh sheet").click()
        page.wait_for_url("**/run/")
        expect(page.locator(".stages .is-now")).to_have_text("Melt")
        page.get_by_label("Minutes").fill("30")
        page.get_by_role("button", name="Start timer").click()
        expect(page.get_by_role("timer")).to_be_visible()
        for at in ("/", "/formulas/", "/pours/", "/pantry/materials/olive_oil/"):
            self.open(at)
            strip = page.get_by_role("complementary", name="On the stove")
            expect(strip).to_contain_text(f"{self.pour.code} Melt · next: Melt the wax")
            expect(strip.get_by_role("timer")).to_have_text(re.compile(r"^(29|30):\d\d$"))
            expect(page).to_have_title(re.compile(r"^(29|30):\d\d · "))
            self.assert_fits()
        # At zero it rings wherever the maker is.
        services.stop_timer(self.pour.owner, self.pour, key="melt_wax")
        services.start_timer(self.pour.owner, self.pour, key="melt_wax", minutes=0.1)
        phone = self.phone()
        phone.goto(f"{self.live_server_url}/formulas/")
        expect(phone.locator("#spoken")).to_contain_text("Time is up: Melt the wax, ")
        expect(phone).to_have_title(re.compile("^Time is up · Formulas"))
        self.assert_accessible(phone)
        # One press on the strip leads to it, one more says that it is poured.
        phone.locator("#stove a").tap()
        phone.wait_for_url("**/run/")
        self.assert_fits(phone)
        phone.get_by_role("button", name="Mark as poured").tap()
        expect(phone.locator(".stages .is-now")).to_have_text("Set")
        self.open("/formulas/")
        expect(page.locator("#stove")).to_have_count(0)

    def test_poured_is_when_it_was_filled(self) -> None:
        services.finish_weighing(self.pour.owner, self.pour)
        hour = timedelta(hours=1)
        Pour.objects.filter(pk=self.pour.pk).update(poured_at=timezone.now() - hour)
        page = self.open(f"/pours/{self.pour.pk}/")
        expect(page.locator(".head-kind")).to_contain_text("weighed ")
        page.get_by_role("button", name="Mark as poured").click()
        page.wait_for_url("**/run/")
        self.pour.refresh_from_db()
        assert self.pour.poured_at is not None
        self.assertLess(timezone.now() - self.pour.poured_at, hour / 2)
        page.get_by_role("link", name="Record").click()
        expect(page.locator(".head-kind")).to_contain_text("poured ")
