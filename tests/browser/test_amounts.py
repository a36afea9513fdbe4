"""Amounts as makers write and type them, in a real browser."""

from __future__ import annotations

from decimal import Decimal

from playwright.sync_api import Page, expect

from calmtin.accounts.models import Bench
from calmtin.core.quantities import OUNCE_G
from calmtin.formulas.models import Formula
from tests.bench_data import draft
from tests.browser.base import BrowserCase, line


class Recipe(BrowserCase):
    def row(self, page: Page, text: str) -> object:
        return page.locator("tr", has=page.get_by_role("rowheader", name=text, exact=False)).first

    def test_in_cups_with_two_edits_between_readings(self) -> None:
        page = self.open("/formulas/paste/")
        box = page.get_by_label("One material per line, in any unit")
        box.click()
        page.keyboard.type("½ cup beeswax pellets\n1 1/2 cups olive oil\nunicorn tears 3 g")
        self.press_to_page(page, "Read recipe")
        expect(self.row(page, "½ cup").get_by_role("textbox")).to_have_value("68.6")
        expect(self.row(page, "unicorn")).to_contain_text("No material is called")
        self.row(page, "unicorn").get_by_role("combobox").select_option("leave out this line")
        self.row(page, "1 1/2 cups").get_by_role("textbox").click()
        page.keyboard.press("Control+a")
        page.keyboard.type("11 oz wt")
        # The first edit: a line before the others, so that every place moves by one.
        box.click()
        page.keyboard.press("Control+Home")
        page.keyboard.type("a dozen drops lavender\n")
        self.press_to_page(page, "Read recipe")
        expect(self.row(page, "a dozen")).to_contain_text("changed")
        expect(self.row(page, "1 1/2 cups").get_by_role("textbox")).to_have_value("11 oz wt")
        expect(self.row(page, "unicorn").get_by_role("combobox")).to_have_value("leave out")
        # The second: less wax. Only that line is read anew, and nothing is made of what nobody saw.
        box.press("Control+End")
        box.press("Control+a")
        page.keyboard.type(
            "a dozen drops lavender\n1/3 cup beeswax pellets\n1 1/2 cups olive oil\nunicorn tears 3 g"
        )
        self.press_to_page(page, "Create formula")
        expect(page.get_by_role("alert")).to_contain_text("Some lines have changed")
        expect(self.row(page, "1/3 cup")).to_contain_text("changed")
        expect(self.row(page, "1/3 cup").get_by_role("textbox")).to_have_value("45.7")
        expect(self.row(page, "1 1/2 cups").get_by_role("textbox")).to_have_value("11 oz wt")
        page.get_by_label("Name").click()
        page.keyboard.type("Cups and spoons")
        page.get_by_role("button", name="Create formula").click()
        expect(page.get_by_role("heading", name="Cups and spoons")).to_be_visible()
        grams = {item.material: round(float(item.grams), 1) for item in self.made().lines.all()}
        self.assertEqual(grams, {"lavender": 0.5, "beeswax_yellow": 45.7, "olive_oil": 311.8})
        expect(page.locator(".doubt")).to_contain_text("1/3 cup beeswax pellets may be 42–49 g")

    def made(self) -> object:
        return draft(Formula.objects.latest("pk"))


class Ounces(BrowserCase):
    def test_line_by_line_from_an_empty_tin(self) -> None:
        Bench.objects.update(scale_step="0.01oz")
        page = self.open("/formulas/new/")
        page.get_by_label("Name").click()
        page.keyboard.type("Rowlock balm")
        self.press_to_page(page, "Start empty")
        for name, amount, batch in (
            ("beeswax", "1", "1"),
            ("shea", ".5 lb", "9"),
            ("olive oil", "3 oz", "12"),
        ):
            page.get_by_label("Add", exact=True).click()
            page.keyboard.type(name)
            page.keyboard.press("Tab")
            page.keyboard.type(amount if amount != "1" else "1 oz")
            expect(page.locator("#will-add")).to_contain_text("batch")
            page.keyboard.press("Enter")
            self.settled()
            expect(page.get_by_label("batch")).to_have_value(batch)
        version = draft(Formula.objects.latest("pk"))
        self.assertAlmostEqual(version.batch_g, 12 * OUNCE_G, delta=Decimal("0.02"))
        # Less wax: the rest stays as it is in the pot, and the batch gets smaller.
        line(page, "Beeswax, yellow").click()
        page.keyboard.type("½ oz")
        expect(page.locator(".line", has_text="Beeswax, yellow")).to_contain_text(
            "The others keep their weight"
        )
        page.keyboard.press("Enter")
        self.settled()
        expect(page.get_by_label("batch")).to_have_value("11.5")
        expect(page.locator(".line", has_text="Shea").locator(".line-grams")).to_have_text("8 oz")
        page.get_by_role("link", name="Edit as a table").click()
        expect(page.get_by_role("radio", name="ounces")).to_be_checked()
        expect(page.locator("table.book")).to_contain_text("11.5 oz")
        self.assert_accessible()
