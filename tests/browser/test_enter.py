"""Enter in a box, in a real browser: with scripts it goes to the next box, without them it recalculates."""

from __future__ import annotations

from typing import Any

from django.apps import apps
from django.test import Client
from playwright.sync_api import Page, expect

from calmtin.common.models import Sent
from calmtin.common.owned import Owned
from calmtin.packing.models import LabelPrint
from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase
from tests.crawl import crawl

# The boxes of forms that Enter must not send, each by its place among all controls of its form.
BOXES = """() => [...document.forms].flatMap((form, n) =>
  [...form.elements].flatMap((box, at) =>
    form.querySelector("[data-enter]") && box.matches("input:not([type=hidden], [type=file])")
      ? [[n, at]] : []))"""
FOCUS = """([n, at]) => {
  const box = document.forms[n].elements[at];
  const shut = (at) => at.closest("details:not([open])");
  for (let fold = shut(box); fold; fold = shut(fold.parentElement)) fold.open = true;
  box.focus();
  return document.activeElement === box && box.checkVisibility();
}"""


def rows() -> dict[str, int]:
    """Return how many rows each table of makers has."""
    models = [m for m in apps.get_models() if issubclass(m, Owned) and m is not Sent]
    return {m._meta.label_lower: m._base_manager.count() for m in models}


class EnterInABox(BrowserCase):
    def without_scripts(self) -> Page:
        context = self.browser.new_context(
            java_script_enabled=False, storage_state=self.context.storage_state()
        )
        self.addCleanup(context.close)
        return context.new_page()

    def test_without_scripts_it_recalculates(self) -> None:
        page, formula = self.without_scripts(), self.formula("Headwind lip stick")
        version = formula.versions.order_by("-number")[0]
        of = f"/formulas/{formula.pk}/v/{version.number}/"
        before = rows()
        self.open(f"{of}fill/?way=pot&pot=200", page)
        page.locator("#pot").fill("300")
        page.locator("#pot").press("Enter")
        expect(page.locator("#pot")).to_have_value("300")
        expect(page.locator(".makes")).to_be_visible()
        self.open(f"{of}series/", page)
        page.locator("input[name=sample]").fill("15")
        page.locator("input[name=sample]").press("Enter")
        expect(page.locator("input[name=sample]")).to_have_value("15")
        self.open(f"{of}amounts/", page)
        page.locator("input.percent").first.fill("33")
        page.locator("input.percent").first.press("Enter")
        expect(page.locator("input.percent").first).to_have_value("33")
        poured = Pour.objects.get(code="HL-03")
        self.open(f"/pours/{poured.pk}/labels/", page)
        page.get_by_label("How to use").fill("Stroke it on.")
        page.get_by_label("How to use").press("Enter")
        expect(page.get_by_label("How to use")).to_have_value("Stroke it on.")
        self.assertEqual(rows(), before)
        # The button that says so still does it.
        page.get_by_role("button", name="Print").click()
        expect(page.get_by_role("link", name="Open the sheet to print")).to_be_visible()
        self.assertEqual(LabelPrint.objects.count(), before["packing.labelprint"] + 1)

    def test_with_scripts_it_moves_on_and_commits_nothing_on_any_page(self) -> None:
        client = Client()
        client.force_login(
            self.formula("Headwind lip stick").owner, backend="django.contrib.auth.backends.ModelBackend"
        )
        before, pressed = rows(), 0
        with_boxes = [a for a, page in crawl(client, each=1) if page.xpath("//*[@data-enter]")]
        for address in with_boxes:
            page = self.open(address)
            for place in page.evaluate(BOXES):
                pressed += self.press_enter_at(page, place, address)
        self.assertEqual(rows(), before)
        self.assertGreater(pressed, 60)

    def press_enter_at(self, page: Page, place: Any, address: str) -> int:
        """Type into a box and press Enter; say whether it could be."""
        if not page.evaluate(FOCUS, place):
            return 0
        page.keyboard.type("3")
        page.keyboard.press("Enter")
        self.settled(page)
        self.assertEqual(
            page.url.removeprefix(self.live_server_url).partition("?")[0], address.partition("?")[0]
        )
        return 1

    def test_enter_goes_from_box_to_box_and_then_to_the_button(self) -> None:
        page = self.open("/pantry/making/")
        page.get_by_label("Dried herb").first.click()
        page.keyboard.type("calendula")
        page.keyboard.press("Enter")
        focused = "document.activeElement.name || document.activeElement.textContent.trim()"
        self.assertEqual(page.evaluate(focused), "herb_g")
