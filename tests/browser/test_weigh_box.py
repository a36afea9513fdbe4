"""The weigh box is a scale: what is typed cannot be read as anything else, on a bench and on a phone."""

from __future__ import annotations

import re
from decimal import Decimal

from playwright.sync_api import Page, expect

from calmtin.pours import services
from calmtin.pours.adapters import newest_grams
from calmtin.pours.models import Pour, WeighLine
from tests.browser.base import BrowserCase

WIDTHS = ("bench", "phone")


class WeighBox(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.pour = Pour.objects.get(poured_at=None)
        self.wax, self.butter = self.pour.lines.all()[:2]
        self.first = next(line for line in self.pour.lines.all() if not line.weigh_ins.exists())

    def at(self, width: str, query: str = "") -> Page:
        page = self.phone() if width == "phone" else self.page
        page.goto(f"{self.live_server_url}/pours/{self.pour.pk}/{query}")
        page.wait_for_load_state("load")
        return page

    def grams(self, line: WeighLine) -> Decimal | None:
        return newest_grams(WeighLine.objects.get(pk=line.pk))

    def save(self, page: Page, typed: str) -> None:
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
        self.settled(page)

    def test_a_top_up_is_added_to_what_is_in(self) -> None:
        for width in WIDTHS:
            with self.subTest(width):
                before = self.grams(self.butter)
                assert before is not None
                over = self.grams(self.wax)
                services.weigh(self.pour.owner, self.wax, over * Decimal("1.2"))
                services.scale_up(self.pour.owner, self.pour)
                page = self.at(width)
                expect(page.locator(".huge-number")).to_contain_text("to go")
                lacking = page.locator(".huge-number").inner_text().split()[0]
                expect(page.get_by_role("radio", name="Add")).to_be_checked()
                page.locator("[data-next]").click()
                page.keyboard.type(lacking)
                expect(page.locator("#comes-to")).to_have_text(
                    re.compile(rf"in the pot \+ {lacking} g = .* g · on target")
                )
                page.keyboard.press("Enter")
                expect(page.locator("#row-1")).to_have_class("weigh-row is-done")
                self.assertEqual(self.grams(self.butter), before + Decimal(lacking))
                self.assert_fits(page)

    def test_typing_right_after_a_swap_goes_into_the_next_box_and_takes_nothing_back(self) -> None:
        for width in WIDTHS:
            with self.subTest(width):
                first = next(line for line in self.pour.lines.all() if self.grams(line) is None)
                page = self.at(width)
                page.locator("[data-next]").focus()
                page.keyboard.type(f"{first.planned_g:f}")
                page.keyboard.press("Enter")
                page.keyboard.type("3oz")  # at once, wherever the focus is
                expect(page.locator(f"#row-{first.position}")).to_have_class("weigh-row is-done")
                expect(page.locator("[data-next]")).to_have_value("3oz")
                page.evaluate("document.activeElement.blur()")
                self.settled(page)
                self.assertEqual(self.grams(first), first.planned_g)
                services.undo_weight(self.pour.owner, self.pour)
        page = self.at("bench")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.type("2.5z")
        expect(page.locator("[data-next]")).to_have_value("2.5z")
        self.assertEqual(self.grams(self.wax), self.wax.planned_g)

    def test_undo_after_a_correction_brings_the_earlier_weight_back(self) -> None:
        before = self.grams(self.wax)
        for width in WIDTHS:
            with self.subTest(width):
                page = self.at(width)
                page.locator("a#row-0").click()
                expect(page.get_by_role("radio", name="Correct")).to_be_checked()
                page.locator("[data-next]").click()
                page.keyboard.type("90")
                expect(page.locator("#comes-to")).to_contain_text("90 g instead of")
                page.keyboard.press("Enter")
                expect(page.locator("#row-0 .weighed")).to_have_text("90")
                page.get_by_role("button", name="Undo last weight").click()
                expect(page.locator("#row-0 .weighed")).not_to_have_text("90")
                self.assertEqual(self.grams(self.wax), before)

    def test_back_shows_the_sheet_as_it_is_and_a_refusal_is_seen_beside_the_box(self) -> None:
        for width in WIDTHS:
            with self.subTest(width):
                page = self.at(width)
                first = next(line for line in self.pour.lines.all() if self.grams(line) is None)
                page.get_by_role("link", name="Run sheet").click()
                page.wait_for_url("**/run/")
                services.weigh(self.pour.owner, first, first.planned_g)
                page.go_back()
                expect(page.locator(f"#row-{first.position}")).to_have_class("weigh-row is-done")
                page.locator("[data-next]").click()
                self.save(page, "20+16")
                expect(page.locator(".is-now .wrong")).to_be_visible()
                expect(page.locator("[data-next]")).to_have_value("20+16")
                services.undo_weight(self.pour.owner, self.pour)

    def test_half_a_spoon_with_the_keys_of_the_page(self) -> None:
        page = self.at("phone")
        page.locator("[data-next]").tap()
        for key in ("½", "tsp"):
            page.get_by_role("button", name=key, exact=True).tap()
        expect(page.locator("[data-next]")).to_have_value("½ tsp")
        expect(page.locator("#comes-to")).to_contain_text(" g")
        for key in page.locator(".keypad button").all():
            size = key.bounding_box()
            assert size is not None
            self.assertGreaterEqual(min(size["width"], size["height"]), 44)
        for _ in range(4):
            page.get_by_role("button", name="Delete the last character").tap()
        page.get_by_role("button", name="2", exact=True).tap()
        expect(page.locator("[data-next]")).to_have_value("½2")
        self.assert_accessible(page)

    def test_a_running_total_is_read_as_one(self) -> None:
        page = self.at("bench")
        page.get_by_label("Weighed", exact=True).select_option("run")
        expect(page.get_by_text("Don’t tare. Pour until the scale shows")).to_be_visible()
        self.settled()
        inside = sum(self.grams(line) or 0 for line in self.pour.lines.all())
        page.locator("[data-next]").click()
        page.keyboard.type(f"{inside + self.first.planned_g:f}")
        expect(page.locator("#comes-to")).to_contain_text("before it =")
        page.keyboard.press("Enter")
        expect(page.locator(f"#row-{self.first.position}")).to_have_class("weigh-row is-done")
        self.assertEqual(self.grams(self.first), self.first.planned_g)

    def test_any_other_weight_has_the_keys_at_the_foot_of_the_screen(self) -> None:
        page = self.phone()
        page.goto(f"{self.live_server_url}/pantry/materials/olive_oil/")
        amount = page.get_by_label("Amount")
        amount.tap()
        keys = page.get_by_role("group", name="Keys for weights")
        for key in ("2", "5", "oz"):
            keys.get_by_role("button", name=key, exact=True).tap()
        expect(amount).to_have_value("25 oz")
        self.assert_accessible(page)
        page.get_by_label("Price", exact=True).tap()
        expect(keys).to_have_count(0)
