"""The whole job by keyboard alone: from a pasted recipe to a label, focus always in sight."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from calmtin.packing.models import LabelPrint
from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase

FOCUSED = """() => {
  const at = document.activeElement;
  const label = at.labels && at.labels[0] ? at.labels[0].textContent : "";
  const box = at.getBoundingClientRect();
  const style = getComputedStyle(at);
  const hit = document.elementFromPoint(box.left + box.width / 2, box.top + Math.min(box.height / 2, 20));
  return {
    name: (at.getAttribute("aria-label") || label || at.textContent || "").replace(/\\s+/g, " ").trim(),
    seen: hit !== null && (at === hit || at.contains(hit) || hit.contains(at)),
    ringed: style.outlineStyle !== "none" || style.boxShadow !== "none"
      || parseFloat(style.borderTopWidth) >= 2,
  };
}"""

# What live regions say: the text that changes in one, unless a part of it is silent.
HEARS = """() => {
  window.heard = [];
  const live = "[aria-live=polite], [aria-live=assertive], [role=status], [role=alert]";
  new MutationObserver((changes) => {
    for (const {target} of changes) {
      const at = target.nodeType === 1 ? target : target.parentElement;
      if (at?.closest(live) && !at.closest("[role=timer]") && at.textContent.trim())
        heard.push(at.textContent.trim());
    }
  }).observe(document.body, {subtree: true, childList: true, characterData: true});
}"""


class KeyboardAlone(BrowserCase):
    def tab_to(self, name: str, *, exact: bool = False, most: int = 90) -> None:
        """Press Tab until the thing called `name` has the focus; whatever has it on the way can be seen."""
        passed = []
        for _ in range(most):
            self.page.keyboard.press("Tab")
            at = self.page.evaluate(FOCUSED)
            passed.append(at["name"][:30])
            if at["name"] == name or (not exact and at["name"].startswith(name)):
                self.page.wait_for_timeout(250)  # a ring fades in
                at = self.page.evaluate(FOCUSED)
                self.assertTrue(
                    at["seen"] and at["ringed"], f"{name} has the focus and cannot be seen: {at}"
                )
                return
        self.fail(f"Tab never came to {name}: {passed}")

    def press(self, name: str) -> None:
        """Tab to something and press Enter."""
        self.tab_to(name)
        with self.page.expect_navigation():
            self.page.keyboard.press("Enter")

    def test_from_a_recipe_to_a_label(self) -> None:
        page = self.page
        self.press("New formula")
        self.press("Paste a recipe")
        self.tab_to("One material per line")
        page.keyboard.type("20 g beeswax\n20 g coconut oil\n60 g olive oil")
        self.press("Read recipe")
        self.tab_to("Name")
        page.keyboard.type("Weir salve")
        self.press("Create formula")
        expect(page.get_by_role("heading", name="Weir salve")).to_be_visible()
        # One Tab for each percent box: what else a line can do does not stand in the way.
        self.tab_to("Beeswax, yellow", exact=True)
        page.keyboard.press("Tab")
        self.assertEqual(page.evaluate(FOCUSED)["name"], "Coconut oil, refined")
        page.keyboard.press("End")
        for name in ("Swap Coconut oil, refined", "Lock Coconut oil, refined"):
            page.keyboard.press("ArrowRight")
            self.assertEqual(page.evaluate(FOCUSED)["name"], name)
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("ArrowLeft")
        self.assertEqual(page.evaluate(FOCUSED)["name"], "Coconut oil, refined")
        page.keyboard.press("Escape")
        page.keyboard.press("p")
        page.wait_for_url("**/fill/**")
        self.press("Start the pour")
        page.wait_for_url("**/pours/**")
        pour = Pour.objects.latest("pk")
        for n, row in enumerate(pour.lines.all()):
            expect(page.locator(f"#grams-{n}")).to_be_focused()
            page.keyboard.type(f"{row.planned_g:f}")
            page.keyboard.press("Enter")
            expect(page.locator(f"#row-{n}")).to_have_class("weigh-row is-done")
        self.press("Close the weigh sheet")
        page.wait_for_url("**/run/")
        self.press("Record")
        expect(page.get_by_role("link", name="Check this pour")).to_be_visible()
        self.press("Labels")
        self.press("Print")
        expect(page.get_by_role("link", name="Open the sheet to print")).to_be_visible()
        self.assertEqual(LabelPrint.objects.latest("pk").pour, pour)

    def test_what_a_line_comes_to_is_spoken_once(self) -> None:
        """Whoever nudges a line five times hears one sentence, not five numbers."""
        formula = self.formula("Headwind lip stick")
        self.page.clock.install()
        page = self.open(f"/formulas/{formula.pk}/")
        page.evaluate(HEARS)
        box = page.get_by_role("textbox", name="Beeswax, yellow", exact=True)
        box.click()
        before = page.locator(".reading .big-number").inner_text()
        page.clock.pause_at(timezone.now() + timedelta(hours=1))

        def is_answered() -> bool:
            page.clock.run_for(30)  # the page settles by its clock, and the next press comes soon after
            return page.locator(".htmx-request").count() == 0

        for _ in range(5):
            with page.expect_response("**/percent/"):
                page.keyboard.press("ArrowUp")
            self.wait_for(is_answered)
        page.clock.run_for(5000)
        expect(page.locator(".reading .big-number")).not_to_have_text(before)
        rung = page.locator(".reading .big-number").inner_text()
        words = page.locator(".reading .reading-words > span").first.inner_text()
        [heard] = page.evaluate("heard")
        self.assertRegex(heard, rf"^Firmness {rung}, {words}; likely \d")
