"""A whole batch with an interruption at every step: the record in the end is the one of a quiet day."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import BrowserContext, Page, expect

from calmtin.pours.adapters import newest_grams
from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase

WIDTHS = {"bench": {"width": 1280, "height": 800}, "phone": {"width": 390, "height": 844}}


class WholeBatch(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.presses = 0

    def tearDown(self) -> None:
        self.complaints = [c for c in self.complaints if "ERR_" not in c and "sendError" not in c]
        super().tearDown()

    # What happens to people at a stove. Each comes back to the page that was left.

    def reload(self, page: Page) -> Page:
        page.reload()
        return page

    def back(self, page: Page) -> Page:
        page.goto(f"{self.live_server_url}/pantry/")
        page.go_back()
        return page

    def other_tab(self, page: Page) -> Page:
        address = page.url
        other = self.new_page()
        page.close()
        other.goto(address)
        return other

    def other_device(self, page: Page) -> Page:
        address, size = page.url, page.viewport_size
        context: BrowserContext = self.browser.new_context(
            viewport=size, service_workers="block", storage_state=page.context.storage_state()
        )
        self.addCleanup(context.close)
        other = context.new_page()
        page.close()
        other.goto(address)
        return other

    def lost_connection(self, page: Page) -> Page:
        page.context.set_offline(True)
        page.evaluate("window.dispatchEvent(new Event('offline'))")
        page.context.set_offline(False)
        return page

    def closed_laptop(self, page: Page) -> Page:
        """An hour goes by without a timer or a request."""
        page.clock.install()
        page.clock.fast_forward("01:00:00")
        page.clock.resume()
        page.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
        return page

    @property
    def interruptions(self) -> list[Callable[[Page], Page]]:
        return [
            self.reload,
            self.back,
            self.other_tab,
            self.other_device,
            self.lost_connection,
            self.closed_laptop,
        ]

    def press(self, page: Page, name: str) -> None:
        self.presses += 1
        page.get_by_role("button", name=name, exact=False).first.click()

    def weigh(self, page: Page, grams: str) -> None:
        """Type into the box that is ready and press Enter, which counts as part of the weight."""
        before = page.locator(".now-name").inner_text()
        page.locator("[data-next]").focus()
        page.keyboard.type(grams)
        page.keyboard.press("Enter")
        expect(page.locator(".now-name")).not_to_have_text(before)

    def pour(self, width: str, *, interrupted: bool) -> Pour:
        """Plan, weigh, cook, fill and count one batch of the hand salve; return its pour."""
        interrupt = iter(self.interruptions * 4) if interrupted else iter(())

        def go_on(page: Page) -> Page:
            happens = next(interrupt, None)
            if happens is None:
                return page
            page = happens(page)
            page.wait_for_load_state("load")
            return page

        page = self.page = self.new_page()
        page.set_viewport_size(WIDTHS[width])
        formula = self.formula("Oarlock hand salve")
        newest = formula.versions.order_by("-number").first()
        page.goto(f"{self.live_server_url}/formulas/{formula.pk}/v/{newest.number}/")
        page.wait_for_load_state("load")
        self.presses = 1
        page.get_by_role("link", name="Fill plan").first.click()
        page.wait_for_url("**/fill/**")
        self.press(page, "Start the pour")
        page.wait_for_url("**/pours/*/")
        pour = Pour.objects.latest("pk")
        for line in pour.lines.all():
            page = go_on(page)
            self.weigh(page, f"{line.planned_g:f}")
        page = go_on(page)
        self.press(page, "Close the weigh sheet")
        page.wait_for_url("**/run/")
        heading = page.locator("section[aria-live] h1")
        while (title := heading.inner_text()) != "All steps done":
            page = go_on(page)
            heading = page.locator("section[aria-live] h1")
            expect(heading).to_have_text(title)
            self.press(page, "Done")
            expect(heading).not_to_have_text(title)
        page = go_on(page)
        self.presses += 1
        page.get_by_role("link", name="Go to the batch record").click()
        page.wait_for_load_state("load")
        self.press(page, "Save count")
        expect(page.get_by_text("Count saved.")).to_be_visible()
        self.page = page
        return Pour.objects.get(pk=pour.pk)

    def record(self, pour: Pour) -> tuple[object, ...]:
        """Return what a pour's record says, but for when."""
        return (
            [(line.material, newest_grams(line)) for line in pour.lines.all()],
            [(mark.key, mark.title) for mark in pour.steps_done.all() if mark.is_done],
            [(given.filled_g, given.left_g, given.counts) for given in pour.yields.all()],
            pour.additions.count(),
        )

    def test_the_record_is_that_of_a_quiet_day(self) -> None:
        quiet = self.pour("bench", interrupted=False)
        lines = quiet.lines.count()
        presses = self.presses
        # Beside the weights: plan, start, close, a press for each step, the record and the count.
        self.assertLessEqual(presses, 20, f"{presses} presses for {lines} lines")
        said = self.record(quiet)
        self.assertEqual(said[0], [(line.material, line.planned_g) for line in quiet.lines.all()])
        for width in WIDTHS:
            with self.subTest(width):
                self.assertEqual(self.record(self.pour(width, interrupted=True)), said)
