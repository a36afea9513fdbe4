"""The formula bench by hand: targets, swaps, layers, doses, forty lines."""

from __future__ import annotations

from contextlib import suppress
from decimal import Decimal

from playwright.sync_api import Error, Route, expect

from calmtin.core.data.loader import library
from calmtin.formulas.services import start_formula
from tests.browser.base import BrowserCase, line


class Solving(BrowserCase):
    def test_solve_a_target(self) -> None:
        page = self.open(f"/formulas/{self.formula('Slipway foot balm').pk}/")
        page.keyboard.press("t")
        page.get_by_label("Firmness at 21°").fill("5.4")
        page.keyboard.press("Tab")
        expect(page.locator(".reading .big-number")).to_have_text("5.4")
        self.assert_accessible()
        page.get_by_role("button", name="Use this change").click()
        expect(page.get_by_role("heading", name="Slipway foot balm")).to_be_visible()
        expect(page.locator(".reading .big-number")).to_have_text("5.4")
        expect(page.get_by_text("100.0 %")).to_be_visible()

    def test_what_is_in_the_way_is_said_before_the_ways_out(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        page.keyboard.press("t")
        for most, name in (("15", "Wax together to"), ("22", "Butters together to")):
            page.get_by_label(name).fill(most)
            page.keyboard.press("Tab")
        page.get_by_label("Firmness at 21°").fill("9.5")
        page.keyboard.press("Enter")
        expect(page.get_by_text("the closest possible", exact=True)).to_be_visible()
        expect(page.get_by_text("Ways to meet the target")).to_be_visible()
        expect(page.locator("#ways-out li")).not_to_have_count(0)
        expect(page.locator("#ways-out .page-head")).to_have_count(0)
        self.assert_accessible()

    def test_two_numbers_typed_in_a_row_with_a_slow_server(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        page.keyboard.press("t")
        reading, rung = page.locator(".reading .big-number"), page.get_by_label("Firmness at 21°")
        expect(reading).to_be_visible()
        held: list[Route] = []
        page.route("**/target/**", lambda route: held.append(route))

        rung.fill("7.5")
        page.keyboard.press("Tab")
        self.wait_for(lambda: len(held) == 1)
        rung.press("Control+a")
        page.keyboard.type("6", delay=60)
        page.keyboard.press("Tab")
        self.wait_for(lambda: len(held) == 2)
        # The later answer comes first; the earlier one, if anybody still waits for it, last.
        held[1].continue_()
        expect(reading).to_have_text("6.0")
        with suppress(Error):
            held[0].continue_()
        page.wait_for_timeout(1500)
        expect(reading).to_have_text("6.0")
        expect(rung).to_have_value("6")

    def test_an_answer_leaves_what_was_typed_since(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        page.keyboard.press("t")
        reading, rung = page.locator(".reading .big-number"), page.get_by_label("Firmness at 21°")
        melts = page.get_by_label("Melts on skin at least, %")
        expect(reading).to_be_visible()
        held: list[Route] = []
        page.route("**/target/**", lambda route: held.append(route))
        rung.fill("6")
        page.keyboard.press("Tab")
        self.wait_for(lambda: len(held) == 1)
        melts.click()
        page.keyboard.type("40")
        held[0].continue_()
        expect(reading).to_have_text("6.0")
        expect(melts).to_have_value("40")
        self.assertEqual(len(held), 1)
        page.keyboard.press("Enter")
        self.wait_for(lambda: len(held) == 2)
        self.assertIn("skin_melt=40", held[1].request.url)
        held[1].continue_()
        expect(page.get_by_text("40 % melts on skin")).to_be_visible()

    def test_plant_wax_at_equal_firmness(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        reading = page.locator(".reading .big-number")
        before = float(reading.inner_text())
        page.get_by_role("textbox", name="Beeswax, yellow").focus()
        page.keyboard.press("Escape")
        page.keyboard.press("s")
        page.get_by_label("without bee products").check()
        expect(page.get_by_text("Beeswax, white")).to_have_count(0)
        self.assert_accessible()
        page.get_by_role("button", name="Candelilla wax at equal firmness").click()
        expect(page.get_by_role("textbox", name="Candelilla wax", exact=True)).to_be_visible()
        self.assertAlmostEqual(float(reading.inner_text()), before, delta=0.11)

    def test_drag_a_layer_and_nudge_it(self) -> None:
        page = self.open(f"/formulas/{self.formula('Regatta lotion bar').pk}/")
        handle = page.get_by_role("slider", name="Beeswax, yellow against Cocoa butter")
        spot = handle.bounding_box()
        middle = (spot["x"] + spot["width"] / 2, spot["y"] + spot["height"] / 2)
        page.mouse.move(*middle)
        page.mouse.down()
        page.mouse.move(middle[0], middle[1] - 12)
        page.mouse.move(middle[0], middle[1] - 15)
        page.mouse.up()
        page.wait_for_url("**/v/2/")
        wax = page.get_by_role("textbox", name="Beeswax, yellow", exact=True)
        self.assertAlmostEqual(float(wax.input_value()), 35.0, delta=0.6)
        was = float(wax.input_value())
        handle.focus()
        page.keyboard.press("ArrowDown")
        expect(wax).to_have_value(f"{was - 0.5:.1f}")
        expect(page.get_by_text("100.0 %")).to_be_visible()
        self.assert_accessible()


class TheWholeFormula(BrowserCase):
    def test_doses_undo_and_a_scent_that_fits_by_keyboard(self) -> None:
        page = self.open(f"/formulas/{self.formula('Regatta lotion bar').pk}/")
        line(page, "Sweet orange, expressed").fill("+4")
        page.keyboard.press("Enter")
        expect(page.get_by_text("on top of the base, 3.846 % of the total")).to_be_visible()
        self.settled()
        page.keyboard.press("ArrowUp")
        expect(line(page, "Sweet orange, expressed")).to_have_value("+4.5")
        self.settled()
        page.keyboard.press("Escape")
        page.keyboard.press("z")
        expect(line(page, "Sweet orange, expressed")).to_have_value("+4.0")
        page.get_by_role("button", name="Scale to fit: 3.0 %").press("Enter")
        expect(line(page, "Sweet orange, expressed")).to_have_value("+3.093")
        expect(page.get_by_role("button", name="Scale to fit")).to_have_count(0)
        self.assert_accessible()

    def test_forty_lines_stay_usable(self) -> None:
        user = self.formula("Regatta lotion bar").owner
        slugs = [slug for slug, m in library().items() if not m.is_wet][:: len(library()) // 42][:40]
        percents = [Decimal("2.5")] * 40
        made = start_formula(
            user, name="Forty", kind="firm_salve", lines=list(zip(slugs, percents, strict=True))
        )
        page = self.open(f"/formulas/{made.pk}/")
        boxes = page.locator("[data-line]")
        expect(boxes).to_have_count(40)
        last = page.locator("[data-line] input.percent").last
        last.scroll_into_view_if_needed()
        last.fill("4")
        page.keyboard.press("Enter")
        self.settled()
        expect(last).to_have_value("4.0")
        # The reading stays in sight while the last line is edited.
        expect(page.locator(".reading .big-number")).to_be_in_viewport()
        for view in ("", "v/1/amounts/", "v/1/target/"):
            self.assert_accessible(self.open(f"/formulas/{made.pk}/{view}"))
