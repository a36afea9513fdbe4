"""The pantry as a maker uses it: an own wax, a lot of it, a pasted recipe, its firmness."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.base import BrowserCase

RECIPE = """Weir salve
60 g sedge wax
1 cup olive oil
half a cup shea butter (melted)
10 drops of cedarwood
"""


class PantryPath(BrowserCase):
    def test_own_wax_to_firmness(self) -> None:
        page = self.page
        page.keyboard.press("g")
        page.keyboard.press("a")
        page.get_by_role("link", name="Add a material").click()
        page.get_by_label("Name", exact=True).fill("Sedge wax")
        page.get_by_label("Behaves like").select_option("beeswax_yellow")
        page.get_by_label("Melts from").fill("60")
        page.get_by_label("Melts to").fill("64,5")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("heading", name="Sedge wax")).to_be_visible()

        page.get_by_label("Amount").fill("half a pound")
        page.get_by_label("Price").fill("6,40")
        page.get_by_role("button", name="Add to the pantry").click()
        expect(page.locator(".batch-line")).to_contain_text("226.8")

        self.open("/formulas/paste/")
        page.get_by_label("One material per line").fill(RECIPE)
        page.get_by_role("button", name="Read recipe").click()
        wax = page.get_by_label("Material for 60 g sedge wax")
        expect(wax).to_have_value("my_sedge_wax")
        page.get_by_label("Material for Weir salve").select_option("leave out")
        page.get_by_label("Material for 10 drops of cedarwood").select_option("cedarwood_atlas")
        page.get_by_role("button", name="Read recipe").click()
        expect(page.get_by_label("g for 10 drops of cedarwood")).to_have_value("0.47")
        self.assert_accessible()
        page.get_by_label("Name", exact=True).fill("Weir salve")
        page.get_by_role("button", name="Create formula").click()
        expect(page.get_by_role("heading", name="Weir salve")).to_be_visible()
        expect(page.locator(".reading .big-number")).not_to_have_text("0.0")
        expect(page.get_by_text("100.0 %")).to_be_visible()

    def test_search_follows_the_typing(self) -> None:
        page = self.open("/pantry/")
        page.get_by_label("Search the shelf").fill("kari")
        expect(page.get_by_role("link", name="Shea butter, refined")).to_be_visible()
        expect(page.get_by_role("link", name="Olive oil")).to_have_count(0)
        page.get_by_label("Search the shelf").fill("")
        page.get_by_label("only what I have in stock").check()
        expect(page.get_by_role("link", name="Reed-bed wax")).to_be_visible()
        expect(page.get_by_role("link", name="Candelilla wax")).to_have_count(0)
