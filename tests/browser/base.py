"""A real browser on the real interface, with the demo data of Tern Quay."""

from __future__ import annotations

import atexit
import shutil
import sqlite3
from collections.abc import Callable
from functools import cache
from typing import Any, ClassVar

from axe_playwright_python.sync_playwright import Axe
from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection
from django.test import tag
from playwright.sync_api import Browser, BrowserContext, Locator, Page, Playwright, expect, sync_playwright

from calmtin.exchange.demo import load_demo
from calmtin.formulas.models import Formula

WCAG = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
# A state is waited for, however busy the machine is with other work.
PATIENT_MS = 30_000
expect.set_options(timeout=PATIENT_MS)
QUIET = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync"]
QUIET += ["--disable-background-networking", "--disable-component-update", "--disable-dev-shm-usage"]

# The empty database, and the demo with its season and without, as they are put back for each test.
_KEPT: dict[str, sqlite3.Connection] = {}
_SESSION: dict[str, str] = {}


@cache
def _playwright() -> Playwright:
    playwright = sync_playwright().start()
    atexit.register(playwright.stop)
    return playwright


@cache
def browser(*switches: str) -> Browser:
    """Return Debian's Chromium, started once for all tests: that takes it seconds.

    Its headless shell is the same engine without windows, and twice as quick.
    """
    chromium = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert chromium, "Install Debian's chromium; script/test does it."
    started = _playwright().chromium.launch(executable_path=chromium, args=[*QUIET, *switches])
    atexit.register(started.close)  # before Playwright stops: what was registered last is called first
    return started


def keep(name: str) -> None:
    """Keep the database as it stands, under a name."""
    connection.ensure_connection()
    kept = _KEPT[name] = sqlite3.connect(":memory:", check_same_thread=False)
    connection.connection.backup(kept)


def put_back(name: str) -> None:
    """Make the database what was kept under a name, page by page."""
    connection.ensure_connection()
    _KEPT[name].backup(connection.connection)


@tag("browser")
class BrowserCase(StaticLiveServerTestCase):
    """Each test gets the demo bench afresh and a signed-in page at 1280x800."""

    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.browser = browser()
        if "empty" not in _KEPT:
            keep("empty")

    with_season = False

    def load(self) -> None:
        """Put the demo bench and its signed-in maker into the database: built once, then copied."""
        name = "season" if self.with_season else "demo"
        if name not in _KEPT:
            load_demo(with_season=self.with_season)
            self.client.post("/demo/")
            _SESSION[name] = self.client.cookies[settings.SESSION_COOKIE_NAME].value
            keep(name)
        put_back(name)

    def _fixture_teardown(self) -> None:
        put_back("empty")  # a flush would lay all guards and permissions anew

    def setUp(self) -> None:
        self.load()
        self.context: BrowserContext = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, service_workers="block"
        )
        self.context.set_default_timeout(PATIENT_MS)
        self.addCleanup(self.context.close)
        self.complaints: list[str] = []
        session = _SESSION["season" if self.with_season else "demo"]
        self.context.add_cookies(
            [{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.live_server_url}]
        )
        self._page: Page | None = None

    @property
    def page(self) -> Page:
        """The page of the test: on Today, unless it was opened elsewhere first."""
        if self._page is None:
            page = self._page = self.new_page()
            page.goto(self.live_server_url)
            # Keys work once the scripts have run, which the load event waits for.
            expect(page.get_by_role("heading", name="Today")).to_be_visible()
            page.wait_for_load_state("load")
        return self._page

    @page.setter
    def page(self, page: Page) -> None:
        self._page = page

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
        page = page or self._page
        if page is None:
            page = self._page = self.new_page()
        page.goto(f"{self.live_server_url}{path}")
        return page

    def formula(self, name: str) -> Formula:
        """Return a formula of the demo bench."""
        return Formula.objects.get(name=name)

    def wait_for(self, holds: Callable[[], bool]) -> None:
        """Let the page go on until `holds` does."""
        for _ in range(PATIENT_MS // 50):
            if holds():
                return
            self.page.wait_for_timeout(50)
        self.fail("It never came to that.")

    def settled(self, page: Page | None = None) -> None:
        """Wait until htmx has nothing under way."""
        expect((page or self.page).locator(".htmx-request")).to_have_count(0)

    def press_to_page(self, page: Page, button: str) -> None:
        """Press a button that leads to a page, and wait until it has loaded: its scripts, and its focus."""
        with page.expect_navigation():
            page.get_by_role("button", name=button).click()

    def assert_accessible(self, page: Page | None = None, *, colours: bool = True) -> None:
        """Hold the page to WCAG 2.2 AA with axe-core; its contrasts, which take longest, with `colours`."""
        page = page or self.page
        rules = {"color-contrast": {"enabled": colours}}
        asked = {"runOnly": {"type": "tag", "values": WCAG}, "rules": rules, "resultTypes": ["violations"]}
        found = Axe().run(page, options={**asked, "preload": False})
        self.assertEqual(found.violations_count, 0, found.generate_report())
        self.assert_fits(page)

    def assert_fits(self, page: Page | None = None) -> None:
        """Fail when the page scrolls sideways."""
        page = page or self.page
        self.assertTrue(fits(page), f"{page.url} scrolls sideways")


def fits(page: Page) -> bool:
    """Return whether a page does not scroll sideways."""
    return bool(
        page.evaluate("document.documentElement.scrollWidth <= document.documentElement.clientWidth")
    )


def line(page: Page, name: str) -> Locator:
    """Return the percentage box of a line."""
    return page.get_by_role("textbox", name=name, exact=True)
