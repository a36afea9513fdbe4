"""The first hour: from an empty folder to a weighed and recorded first pour, its presses counted."""

from __future__ import annotations

import unittest

from django.test import override_settings, tag
from playwright.sync_api import expect

from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase, browser, fits
from tests.own_server import Bench


class FirstHour(BrowserCase):
    def setUp(self) -> None:  # the book is empty
        empty = override_settings(DEMO=False)
        empty.enable()
        self.addCleanup(empty.disable)
        self.context = self.browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-US")
        self.addCleanup(self.context.close)
        self.complaints: list[str] = []
        self.page = self.new_page()
        self.presses = 0

    def press(self, name: str, role: str = "button") -> None:
        """Press one thing that the page shows."""
        self.page.get_by_role(role, name=name, exact=True).first.click()  # type: ignore[arg-type]
        self.presses += 1

    def enter(self, text: str) -> None:
        """Type into the box that has the focus, and press Enter."""
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")
        self.presses += 1

    def open_the_bench(self) -> None:
        page = self.open("/")
        expect(page.get_by_role("heading", name="Welcome to your bench")).to_be_visible()
        page.get_by_label("Username").click()
        page.keyboard.type("sculler")
        for label in ("Password", "Repeat the password"):
            page.get_by_label(label, exact=True).click()
            page.keyboard.type("feather-the-blade")
        self.press("Open your bench")
        expect(page.get_by_role("button", name="Save and continue")).to_be_focused()
        expect(page.get_by_role("radio", name="Fahrenheit")).to_be_checked()  # a browser from there
        self.assert_accessible()
        self.enter("")
        expect(page.get_by_role("heading", name="Start your first balm")).to_be_visible()
        self.assert_accessible()

    def test_from_nothing_to_a_recorded_pour_without_going_back(self) -> None:
        page = self.page
        self.open_the_bench()
        self.press("Answer five questions", "link")
        self.press("Suggest three formulas")
        self.press("Use this formula")
        self.press("Pour p", "link")
        self.press("Start the pour")
        page.wait_for_url("**/pours/**")
        pour = Pour.objects.get()
        for n, row in enumerate(pour.lines.all()):
            expect(page.locator(f"#grams-{n}")).to_be_focused()
            self.enter(f"{row.planned_g:f}")
            expect(page.locator(f"#row-{n}")).to_have_class("weigh-row is-done")
        self.press("Close the weigh sheet")
        page.wait_for_url("**/run/")
        self.press("Mark as poured")
        expect(page.locator(".stages .is-now")).to_have_text("Set")
        pour.refresh_from_db()
        self.assertIsNotNone(pour.poured_at)
        lines = pour.lines.count()
        # Account, bench, a formula of three, the plan, each line, the sheet, the tins: nothing else.
        self.assertLessEqual(self.presses, 9 + lines)

    def test_a_rehearsal_is_one_press_away(self) -> None:
        self.open_the_bench()
        self.press("Start a rehearsal")
        expect(self.page.get_by_text("rehears", exact=False).first).to_be_visible()
        self.assertTrue(Pour.every().get().is_rehearsal)
        self.assert_accessible()


@tag("browser")
class Away(unittest.TestCase):
    """The server itself is gone for a while, which a browser that is told to be offline only plays."""

    def test_a_bench_that_does_not_answer_says_so_and_comes_back(self) -> None:
        bench = Bench()
        self.addCleanup(bench.end)
        address = f"http://127.0.0.1:{bench.port}"
        context = browser().new_context()
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(f"{address}/sign-in/")
        page.get_by_role("button", name="Open the demo bench").click()
        expect(page.get_by_role("heading", name="Today")).to_be_visible()
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        manifest = context.request.get(f"{address}/manifest.webmanifest").json()
        for icon in manifest["icons"]:
            self.assertEqual(context.request.get(f"{address}{icon['src']}").status, 200)
        page.goto(f"{address}/pours/")  # by now the worker minds the pages
        bench.kill()
        page.reload()
        expect(page.get_by_role("heading", name="Can’t reach your bench")).to_be_visible()
        self.assertTrue(fits(page))
        self.assertEqual(page.url, f"{address}/pours/")
        bench.start()
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_role("heading", name="Pours", exact=True)).to_be_visible()
