"""From a pot to containers, from what is left to the next formula, in a real browser."""

from __future__ import annotations

from decimal import Decimal

from playwright.sync_api import expect

from calmtin.formulas.models import Formula
from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase, line


class FillPath(BrowserCase):
    def test_a_pot_into_tubes_and_tins_and_what_is_left_into_the_next_formula(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        page.keyboard.press("f")
        page.wait_for_url("**/fill/**")
        pot = page.get_by_role("textbox", name="batch weight")
        expect(pot).to_have_value("100")
        pot.click()
        page.keyboard.press("Control+a")
        page.keyboard.type("250")
        page.keyboard.press("Tab")
        self.settled()
        page.get_by_label("Container 1").select_option("lip_tube_standard")
        self.settled()
        page.locator("#count_0").click()
        page.keyboard.type("38")
        page.keyboard.press("Tab")
        self.settled()
        page.get_by_label("Container 2").select_option("tin_1oz")
        expect(page.locator(".makes")).to_contain_text("38 × standard lip balm tube")
        expect(page.locator(".makes")).to_contain_text("3 × 1 oz tin")
        expect(page.locator(".sheet tfoot")).to_contain_text("250")
        page.reload()
        expect(page.locator("#count_0")).to_have_value("38")
        self.assert_accessible()
        page.get_by_role("button", name="Start the pour").click()
        page.wait_for_url("**/pours/*/")
        pour = Pour.objects.order_by("-pk").first()
        for n, row in enumerate(pour.lines.all()):
            expect(page.locator(f"#grams-{n}")).to_be_focused()
            page.keyboard.type(f"{row.planned_g:f}")
            page.keyboard.press("Enter")
            expect(page.locator(f"#row-{n}")).to_have_class("weigh-row is-done")
        page.get_by_role("button", name="Close the weigh sheet").click()
        page.get_by_role("link", name="Record").click()
        page.get_by_label("Standard lip balm tube, filled").fill("37")
        page.get_by_label("Left over").click()
        page.keyboard.type("½ oz")
        page.get_by_role("button", name="Save count").click()
        expect(page.locator("main")).to_contain_text("Count saved.")
        expect(page.locator("main")).to_contain_text("left over 14.2 g")
        self.open("/formulas/new/")
        page.get_by_label("Name").click()
        page.keyboard.type("Second pot")
        page.get_by_role("button", name="Start empty").click()
        page.get_by_label("Add", exact=True).click()
        page.keyboard.type("left over")
        page.keyboard.press("Tab")
        page.keyboard.type("14.17 g")
        page.keyboard.press("Enter")
        self.settled()
        expect(page.locator("[data-line]")).to_contain_text("left over")
        page.get_by_label("Add", exact=True).click()
        page.keyboard.type("olive oil")
        page.keyboard.press("Tab")
        page.keyboard.type("10 g")
        page.keyboard.press("Enter")
        self.settled()
        expect(page.get_by_label("batch")).to_have_value("24.2")
        expect(page.locator(".cautions")).to_contain_text("bee products, coconut")
        made = Formula.objects.latest("pk").versions.get()
        self.assertAlmostEqual(made.batch_g, Decimal("24.17"))
        expect(line(page, "Olive oil")).to_be_visible()

    def test_on_a_phone(self) -> None:
        page = self.phone()
        address = f"/formulas/{self.formula('Headwind lip stick').pk}/v/4/fill/?pot=250"
        self.open(address, page)
        page.get_by_text("From containers").locator("..").tap()
        self.settled(page)
        expect(page.get_by_role("radio", name="From containers")).to_be_checked()
        self.assert_accessible(page)
