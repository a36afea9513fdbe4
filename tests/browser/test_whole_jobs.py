"""Jobs that go through whole: samples from one pot, comb on a phone in ounces, a kept base."""

from __future__ import annotations

from decimal import Decimal

from playwright.sync_api import Page, expect

from calmtin.accounts.models import Bench
from calmtin.pantry.models import Lot, Rendering
from calmtin.pantry.services import balance
from calmtin.pours.models import Check, Pour
from tests.browser.base import BrowserCase


class WholeJobs(BrowserCase):
    def weigh(self, page: Page, pour: Pour) -> None:
        """Type every weight that is still wanted, as planned, with a reload on the way."""
        for row in pour.lines.filter(weigh_ins=None):
            expect(page.locator(f"#grams-{row.position}")).to_be_focused()
            page.keyboard.type(f"{row.planned_g:f}")
            page.keyboard.press("Enter")
            expect(page.locator(f"#row-{row.position}")).to_have_class("weigh-row is-done")
            if row.position == 1:
                page.reload()
        self.press_to_page(page, "Close the weigh sheet")

    def test_two_samples_from_one_pot_the_second_felt_while_it_is_warm(self) -> None:
        formula = self.formula("Slipway foot balm")
        page = self.open(f"/formulas/{formula.pk}/v/1/series/")
        page.get_by_label("to, %").click()
        page.keyboard.press("Control+a")
        page.keyboard.type("11, 14")
        page.keyboard.press("Tab")
        expect(page.locator("table").first.get_by_role("row")).to_have_count(3)
        self.settled()
        self.press_to_page(page, "Start from one pot")
        first = Pour.objects.latest("pk")
        self.weigh(page, first)
        expect(page.get_by_text("Sample 2 of 2")).to_be_visible()
        self.press_to_page(page, "Start the next sample")
        second = Pour.objects.get(rest_of=first)
        self.assertEqual(second.lines.filter(weigh_ins=None).count(), 1)
        self.weigh(page, second)
        self.assertEqual(Pour.objects.get(pk=second.pk).series, first.series)
        self.open(f"/pours/{second.pk}/check/")
        expect(page.get_by_role("radio", name="Still warm")).to_be_checked()
        expect(page.get_by_text("after pouring: firmness")).to_be_visible()
        warm = page.get_by_label("Temperature of the sample").input_value()
        page.get_by_role("radio", name="Straight from the fridge").check()
        expect(page.get_by_label("Temperature of the sample")).to_have_value("5")
        page.get_by_role("radio", name="Still warm").check()
        expect(page.get_by_label("Temperature of the sample")).to_have_value(warm)
        page.get_by_role("radio", name="2 soft cream").check()
        self.assert_accessible(page)
        self.press_to_page(page, "Save check")
        expect(page.locator("main")).to_contain_text("still warm")
        self.assertEqual(Check.objects.latest("pk").moment, "mould")

    def test_comb_on_a_phone_in_ounces(self) -> None:
        Bench.objects.update(scale_step="0.05oz")
        page = self.open("/pantry/making/", self.phone())
        page.get_by_label("Raw weight").tap()
        page.keyboard.type("14")
        page.get_by_role("button", name="Start", exact=True).tap()
        expect(page.get_by_role("heading", name="Comb to wax")).to_be_visible()
        for step in ("Melt it in water", "Strain it", "Lift the cake"):
            expect(page.locator(".is-next")).to_contain_text(step)
            with page.expect_navigation():
                page.get_by_role("button", name="Done").tap()
        page.get_by_label("Clean weight").tap()
        page.keyboard.type("6.5")
        with page.expect_navigation():
            page.get_by_role("button", name="Put it in the pantry").tap()
        expect(page.locator("main")).to_contain_text("46 %")
        made = Rendering.objects.get().lot
        assert made is not None
        self.assertAlmostEqual(made.amount_g, Decimal("184.27"), delta=Decimal("0.1"))
        self.assert_accessible(page)

    def test_a_kept_base_is_melted_again_into_other_tins(self) -> None:
        pour = Pour.objects.get(code="OH-02")
        page = self.open(f"/pours/{pour.pk}/")
        page.get_by_label("2 oz tin, filled").click()
        page.keyboard.press("Control+a")
        page.keyboard.type("9")
        page.get_by_label("Left over").click()
        page.keyboard.type("120")
        page.get_by_role("button", name="Save count").click()
        expect(page.locator("main")).to_contain_text("Count saved.")
        lot = Lot.objects.latest("pk")
        self.open(f"/pantry/lots/{lot.pk}/")
        page.get_by_role("link", name="Melt some and fill it").click()
        expect(page.get_by_role("radio", name="left over, kept on")).to_be_checked()
        expect(page.locator(".sheet tbody tr")).to_have_count(1)
        self.settled()
        self.press_to_page(page, "Start the pour")
        again = Pour.objects.latest("pk")
        self.weigh(page, again)
        self.assertEqual(balance(lot), 120 - again.lines.get().planned_g)
