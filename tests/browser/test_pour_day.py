"""Pour day as it goes wrong: the connection is lost, the page sleeps, a finger on a phone."""

from __future__ import annotations

import re
from decimal import Decimal

from playwright.sync_api import Page, Route, expect

from calmtin.pours import services
from calmtin.pours.models import PotAddition, Pour, StepTimer, WeighIn
from tests.browser.base import BrowserCase


class LostConnection(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.pour = Pour.objects.get(poured_at=None)
        self.lines = [line for line in self.pour.lines.all() if not line.weigh_ins.exists()]

    def tearDown(self) -> None:
        self.complaints = [c for c in self.complaints if "ERR_" not in c and "sendError" not in c]
        super().tearDown()

    def readings(self, line: int) -> list[Decimal | None]:
        return [w.grams for w in WeighIn.objects.filter(line=self.lines[line]).order_by("pk")]

    def type_into(self, page: Page, line: int, typed: str) -> None:
        position = self.lines[line].position
        if page.locator(f"a#row-{position}").count():
            page.locator(f"a#row-{position}").click()
        page.locator(f"#grams-{position}").click()
        page.keyboard.press("Control+a")
        page.keyboard.type(typed)
        page.keyboard.press("Enter")

    def test_readings_wait_and_are_sent_once_when_the_bench_answers_again(self) -> None:
        page = self.open(f"/pours/{self.pour.pk}/")
        first = f"{self.lines[0].planned_g:f}"
        self.context.set_offline(True)
        self.type_into(page, 0, first)
        expect(page.locator(".not-saved").first).to_contain_text("It is sent as soon as it answers")
        self.type_into(page, 1, "0.2")
        expect(page.locator(".not-saved")).to_have_count(2)
        self.assertEqual(self.readings(0), [])
        self.context.set_offline(False)  # and nothing is pressed
        expect(page.locator(".not-saved")).to_have_count(0)
        self.settled()
        self.assertEqual([self.readings(0), self.readings(1)], [[Decimal(first)], [Decimal("0.2")]])

    def test_what_is_only_typed_is_not_sent_when_the_connection_comes_back(self) -> None:
        page = self.open(f"/pours/{self.pour.pk}/")
        self.context.set_offline(True)
        page.locator("[data-next]").click()
        with page.expect_event("requestfailed"):  # what it comes to cannot be asked for
            page.keyboard.type("1")
        expect(page.locator(".not-saved")).to_have_count(0)
        self.context.set_offline(False)
        page.evaluate("window.dispatchEvent(new Event('online'))")
        self.settled()
        page.keyboard.type("2")
        expect(page.locator("#comes-to")).to_contain_text("12 g")
        self.assertEqual(self.readings(0), [])

    def test_an_answer_that_was_lost_counts_once_even_after_a_reload(self) -> None:
        page = self.open(f"/pours/{self.pour.pk}/")
        self.type_into(page, 0, "10")
        expect(page.locator(".htmx-request")).to_have_count(0)
        self.wait_for(lambda: self.readings(0) == [Decimal(10)])

        def lose_the_answer(route: Route) -> None:
            route.fetch()
            route.abort("connectionreset")

        page.route("**/weigh/*/", lose_the_answer)
        self.type_into(page, 0, "+2")
        expect(page.locator(".not-saved")).to_contain_text("is not saved yet")
        self.assertEqual(self.readings(0), [Decimal(10), Decimal(12)])
        page.reload()
        expect(page.locator(".not-saved")).to_contain_text("is not saved yet")
        page.unroute("**/weigh/*/")
        expect(page.locator(".not-saved")).to_have_count(0)
        self.assertEqual(self.readings(0), [Decimal(10), Decimal(12)])


class RunSheetByFinger(BrowserCase):
    def test_a_clock_survives_a_reload_and_drops_are_logged(self) -> None:
        pour = Pour.objects.get(poured_at=None)
        for line in pour.lines.all():
            services.weigh(pour.owner, line, line.planned_g)
        services.finish_weighing(pour.owner, pour)
        services.mark_step(pour.owner, pour, key="ready")
        page = self.phone()
        page.goto(f"{self.live_server_url}/pours/{pour.pk}/run/")
        page.get_by_role("button", name="Start timer").tap()
        clock = page.get_by_role("timer")
        for _ in range(2):
            expect(page).to_have_title(re.compile(r"^\d+:\d\d · Run sheet"))
            expect(clock).to_have_text(re.compile(r"^\d+:\d\d$"))
            page.reload()
        self.assert_fits(page)
        # A clock whose time is up says so, large and in the title.
        page.get_by_placeholder("optional note").fill("a lump of the old comb")
        page.get_by_label("minutes").fill("0.1")
        page.get_by_role("button", name="Start timer").tap()
        expect(clock).to_have_text("Time is up")
        expect(page.locator("#spoken")).to_contain_text("Time is up: ")
        # What stands in the other boxes stays while one form is answered.
        expect(page.get_by_placeholder("optional note")).to_have_value("a lump of the old comb")
        expect(page.get_by_label("minutes")).to_have_value(re.compile(r"^\d+$"))
        expect(page).to_have_title("Time is up · Run sheet " + f"{pour.code} · Calm Tin")
        page.get_by_role("button", name="Stop the timer").tap()
        expect(clock).to_have_count(0)
        self.assertEqual(StepTimer.objects.count(), 3)
        page.get_by_text("Add by feel").tap()
        page.get_by_label("Amount added").tap()
        page.keyboard.type("3 drops")
        page.get_by_role("button", name="Add to pot").tap()
        expect(page.get_by_text("3 drops at")).to_be_visible()
        self.assertEqual(PotAddition.objects.get().why, "3 drops")
        self.assert_accessible(page)
