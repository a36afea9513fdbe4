"""A real browser on the real interface, with the demo data of Tern Quay."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable
from typing import Any, ClassVar

from axe_playwright_python.sync_playwright import Axe
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection
from django.test import tag
from playwright.sync_api import Browser, BrowserContext, Locator, Page, Playwright, expect, sync_playwright

from calmtin.exchange.demo import load_demo
from calmtin.formulas.models import Formula
from tests.bench_data import FlushesRecords

WCAG = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync"]
QUIET += ["--disable-background-networking", "--disable-component-update", "--disable-dev-shm-usage"]


_KEPT: dict[bool, sqlite3.Connection] = {}  # the demo, with its season and without


@tag("browser")
class BrowserCase(FlushesRecords, StaticLiveServerTestCase):
    """Each test gets the demo bench afresh and a signed-in page at 1280x800."""

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        chromium = shutil.which("chromium")
        assert chromium, "Install Debian's chromium; script/test does it."
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=chromium, args=QUIET)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    with_season = False

    def load(self) -> None:
        """Put the demo bench into the empty database: built once, then copied page by page."""
        connection.ensure_connection()
        kept = _KEPT.get(self.with_season)
        if kept is not None:
            kept.backup(connection.connection)
            return
        load_demo(with_season=self.with_season)
        kept = _KEPT[self.with_season] = sqlite3.connect(":memory:")
        connection.connection.backup(kept)

    def setUp(self) -> None:
        self.load()
        self.context: BrowserContext = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, service_workers="block"
        )
        self.context.set_default_timeout(30_000)
        self.addCleanup(self.context.close)
        self.complaints: list[str] = []
        self.page = self.new_page()
        self.page.goto(self.live_server_url)
        self.page.get_by_role("button", name="Open the demo bench").click()
        # Keys work once the scripts have run, which the load event waits for.
        expect(self.page.get_by_role("heading", name="Today")).to_be_visible()
        self.page.wait_for_load_state("load")

    def tearDown(self) -> None:
        self.assertEqual(self.complaints, [])
        super().tearDown()

    def phone(self) -> Page:
        """Open the signed-in bench on a phone's screen, to be pressed with a finger."""
        context = self.browser.new_context(
            viewport={"width": 390, "height": 844},
            has_touch=True,
            is_mobile=True,
            storage_state=self.context.storage_state(),
        )
        self.addCleanup(context.close)
        return context.new_page()

    def new_page(self) -> Page:
        """Open another tab; whatever its console complains of fails the test."""
        page = self.context.new_page()
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self._listen)
        return page

    def _listen(self, message: Any) -> None:
        # Leaving a page stops the live update that is under way; htmx mentions it.
        stopped = message.text.startswith(("htmx:sendAbort", "htmx:afterRequest"))
        if message.type == "error" and not stopped:
            self.complaints.append(message.text)

    def open(self, path: str, page: Page | None = None) -> Page:
        """Go to a path of the live server."""
        page = page or self.page
        page.goto(f"{self.live_server_url}{path}")
        return page

    def formula(self, name: str) -> Formula:
        """Return a formula of the demo bench."""
        return Formula.objects.get(name=name)

    def wait_for(self, holds: Callable[[], bool]) -> None:
        """Let the page go on until `holds` does, for five seconds at most."""
        for _ in range(100):
            if holds():
                return
            self.page.wait_for_timeout(50)
        self.fail("It never came to that.")

    def settled(self, page: Page | None = None) -> None:
        """Wait until htmx has nothing under way."""
        expect((page or self.page).locator(".htmx-request")).to_have_count(0)

    def assert_accessible(self, page: Page | None = None) -> None:
        """Hold the page to WCAG 2.2 AA with axe-core."""
        page = page or self.page
        found = Axe().run(page, options={"runOnly": {"type": "tag", "values": WCAG}})
        self.assertEqual(found.violations_count, 0, found.generate_report())
        self.assert_fits(page)

    def assert_fits(self, page: Page | None = None) -> None:
        """Fail when the page scrolls sideways."""
        page = page or self.page
        wide = page.evaluate("document.documentElement.scrollWidth > document.documentElement.clientWidth")
        self.assertFalse(wide, f"{page.url} scrolls sideways")


def line(page: Page, name: str) -> Locator:
    """Return the percentage box of a line."""
    return page.get_by_role("textbox", name=name, exact=True)
