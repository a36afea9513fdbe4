"""From percentages to a recorded test pour, as a maker does it."""

from __future__ import annotations

from playwright.sync_api import expect

from calmtin.pours.models import Pour
from tests.bench_data import pour_of
from tests.browser.base import BrowserCase, line


class WholePath(BrowserCase):
    def test_from_percent_to_history(self) -> None:
        page = self.page
        page.get_by_role("link", name="Slipway foot balm").click()
        rung = page.locator(".reading .big-number")
        before = float(rung.inner_text())
        line(page, "Beeswax, yellow").fill("19,5")
        page.keyboard.press("Enter")
        expect(rung).not_to_have_text(f"{before:.1f}")
        self.assertGreater(float(rung.inner_text()), before)
        expect(page.get_by_text("100.0 %")).to_be_visible()
        page.reload()
        expect(line(page, "Beeswax, yellow")).to_have_value("19.5")

        page.get_by_role("link", name="Fill plan").click()
        page.get_by_role("radio", name="From containers").check()
        page.get_by_label("Container 1").select_option("tin_2oz")
        self.settled()
        page.locator("#count_0").fill("5")
        expect(page.locator(".fill-words")).to_contain_text("5 ×")
        page.get_by_role("button", name="Start the pour").click()

        page.wait_for_url("**/pours/*/")
        pour = Pour.objects.order_by("-pk").first()
        for i, row in enumerate(pour.lines.all()):
            expect(page.locator(f"#grams-{i}")).to_be_focused()
            page.keyboard.type(f"{row.planned_g + (1 if i == 0 else 0):f}")
            page.keyboard.press("Enter")
            expect(page.locator(f"#row-{i}")).to_have_class("weigh-row is-done")
            if i == 2:
                page.reload()
                expect(page.locator("#row-0 .weighed")).to_have_text(
                    f"{row.pour.lines.first().planned_g + 1:f}".rstrip("0").rstrip(".")
                )
                expect(page.locator("#row-2 .weighed")).not_to_have_text("")
        expect(page.locator("#row-0 .over")).to_have_text("+1")
        page.get_by_role("button", name="Close the weigh sheet").click()
        page.get_by_role("link", name="Record").click()
        page.get_by_role("link", name="Check this pour").click()
        page.get_by_label("Temperature of the sample").fill("20")
        page.get_by_role("radio", name="5 firm in the tin").check()
        page.get_by_role("radio", name="Keep").check()
        page.get_by_label("Notes").fill("Stood up to a wet slipway.")
        page.get_by_role("button", name="Save check").click()
        expect(page.get_by_text("firm in the tin, warms to a swirl").first).to_be_visible()

        page.get_by_role("link", name="Compare").click()
        table = page.locator("table.compare")
        expect(table).to_contain_text("SF-01")
        expect(table).to_contain_text("5.0")
        expect(table).to_contain_text("keep")
        page.get_by_role("link", name="SF-01").first.click()
        page.get_by_role("link", name="Slipway foot balm").first.click()
        expect(page.get_by_text("has been poured")).to_be_visible()
        self.assertEqual([w.line.position for w in pour_readings(pour)], list(range(pour.lines.count())))

    def test_editing_a_poured_version_moves_to_the_next(self) -> None:
        formula = self.formula("Oarlock hand salve")
        self.open(f"/formulas/{formula.pk}/v/1/")
        line(self.page, "Beeswax, yellow").fill("16")
        self.page.keyboard.press("Tab")
        self.page.wait_for_url(f"**/formulas/{formula.pk}/v/3/")
        expect(self.page.get_by_text("version 3, not poured yet")).to_be_visible()
        self.assertEqual(formula.versions.get(number=1).lines.get(material="beeswax_yellow").percent, 17)


class Corrected(BrowserCase):
    def test_a_pour_that_was_started_by_mistake_by_finger(self) -> None:
        pour = next(pour for pour in Pour.objects.order_by("pk") if pour.is_weighing)
        page = self.open(f"/pours/{pour.pk}/", self.phone())
        page.get_by_text("Cancel this pour").tap()
        page.get_by_role("button", name="Cancel pour").tap()
        expect(page.get_by_text("Give a reason")).to_be_visible()
        page.get_by_label("Why").tap()
        page.keyboard.type("the other bar was meant")
        page.get_by_role("button", name="Cancel pour").tap()
        expect(page.get_by_text("cancelled: the other bar was meant")).to_be_visible()
        self.assert_accessible(page)
        self.open(f"/formulas/{pour.version.formula_id}/", page)
        self.assertFalse(Pour.objects.get(pk=pour.pk).is_weighing)

    def test_a_formula_put_away_and_brought_back(self) -> None:
        page = self.open(f"/formulas/{self.formula('Slipway foot balm').pk}/")
        page.get_by_role("link", name="Slipway foot balm").click()
        page.get_by_role("button", name="Archive").click()
        expect(page.get_by_role("heading", name="Formulas")).to_be_visible()
        expect(page.locator(".tins")).not_to_contain_text("Slipway")
        page.get_by_text("Archived (1)").click()
        self.assert_accessible()
        page.get_by_role("button", name="Restore Slipway foot balm").click()
        expect(page.get_by_role("heading", name="Slipway foot balm")).to_be_visible()

    def test_how_far_it_was_whipped_from_one_jar(self) -> None:
        version = self.formula("Cox’s whipped butter").versions.get()
        pour = pour_of(version.formula.owner, version, done=True)
        page = self.open(f"/pours/{pour.pk}/")
        page.get_by_role("link", name="Check this pour").click()
        page.get_by_label("Temperature of the sample").fill("20")
        page.get_by_role("radio", name="2 soft cream").check()
        page.get_by_label("Jar holds, ml").fill("120")
        page.get_by_role("button", name="Save check").click()
        expect(page.get_by_text("Enter both")).to_be_visible()
        page.get_by_label("Weight of its contents, g").fill("70")
        page.get_by_role("button", name="Save check").click()
        expect(page.get_by_text("Predicted there")).to_be_visible()
        self.assertAlmostEqual(float(pour.checks.get().overrun_pct), 57, delta=4)
        self.assert_accessible()


class AtTheBench(BrowserCase):
    def test_keyboard_alone(self) -> None:
        page = self.page
        page.keyboard.press("g")
        page.keyboard.press("f")
        page.get_by_role("link", name="Bow-light gloss").press("Enter")
        line(page, "Jojoba").focus()
        page.keyboard.press("ArrowUp")
        expect(line(page, "Jojoba")).to_have_value("32.2")
        self.settled()
        page.keyboard.press("Alt+ArrowDown")
        expect(line(page, "Jojoba")).to_have_value("27.2")
        self.settled()
        expect(line(page, "Jojoba")).to_be_focused()
        # In the box a letter is a letter; out of it, it acts on the line.
        page.keyboard.press("Escape")
        page.keyboard.press("b")
        expect(page.locator("[data-balancing]")).to_contain_text("Jojoba")
        self.settled()
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("/")
        expect(page.get_by_label("Add", exact=True)).to_be_focused()

    def test_a_refusal_stands_at_its_field_and_keeps_the_rest(self) -> None:
        page = self.open(f"/formulas/{self.formula('Regatta lotion bar').pk}/")
        box = line(page, "Cocoa butter")
        box.fill("lots")
        page.keyboard.press("Tab")
        wrong = page.locator(".line.has-wrong")
        expect(wrong).to_contain_text("“lots” is not a number")
        expect(wrong).to_contain_text("Cocoa butter")
        expect(box).to_have_value("lots")
        expect(line(page, "Beeswax, yellow")).to_have_value("30.0")
        self.assert_accessible()
        box.fill("27")
        page.keyboard.press("Tab")
        expect(page.locator(".has-wrong")).to_have_count(0)

    def test_two_tabs_cannot_overwrite_each_other(self) -> None:
        address = f"/formulas/{self.formula('Slipway foot balm').pk}/"
        page, other = self.open(address), self.open(address, self.new_page())
        line(page, "Lanolin, anhydrous").fill("8")
        page.keyboard.press("Enter")
        expect(page.locator("#formula")).to_contain_text("48.8")
        line(other, "Lanolin, anhydrous").fill("3")
        other.keyboard.press("Tab")
        expect(other.get_by_role("alert").first).to_contain_text("another tab")
        expect(line(other, "Lanolin, anhydrous")).to_have_value("8.0")
        line(other, "Lanolin, anhydrous").fill("3")
        other.keyboard.press("Tab")
        expect(other.locator("#formula")).to_contain_text("53.8")

    def test_reasons_open_by_key_and_follow_an_edit(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        reading = page.locator(".reading .big-number")
        before = reading.inner_text()
        page.keyboard.press("w")
        expect(page.get_by_role("heading", name=f"Why firmness {before} at 21°")).to_be_visible()
        page.get_by_role("link", name="hot car 45°", exact=True).click()
        expect(page.locator("#reasons-title")).to_contain_text("at 45°")
        line(page, "Beeswax, yellow").fill("25")
        page.keyboard.press("Enter")
        expect(reading).not_to_have_text(before)
        self.assertGreater(float(reading.inner_text()), float(before))
        expect(page.locator("#reasons-title")).to_contain_text("at 45°")
        self.assert_accessible()
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("w")
        expect(page.locator("#reasons")).to_have_count(0)

    def test_quick_edits_in_a_row_all_arrive(self) -> None:
        page = self.open(f"/formulas/{self.formula('Headwind lip stick').pk}/")
        for name, value in (("Beeswax, yellow", "21"), ("Cocoa butter", "17"), ("Castor oil", "11")):
            line(page, name).fill(value)
            page.keyboard.press("Tab")
        expect(page.locator("[data-balancing] input.percent")).to_have_value("27.2")
        self.assertEqual(page.locator(".page-wrong").count(), 0)


class OnATablet(BrowserCase):
    def test_a_line_of_materials_is_one_or_two_rows_of_text_high(self) -> None:
        self.page.set_viewport_size({"width": 820, "height": 1180})
        weighing = next(pour for pour in Pour.objects.all() if pour.is_weighing)
        formula = self.formula("Headwind lip stick")
        for view, lines in (
            (f"/formulas/{formula.pk}/", "[data-line]"),
            (f"/pours/{weighing.pk}/", ".weigh-row:not(.is-now)"),
        ):
            with self.subTest(view):
                box = self.open(view).locator(lines).first.bounding_box()
                self.assertLess(box["height"], 100)


def pour_readings(pour: Pour) -> list:
    """Return every reading of a pour in the order it was taken."""
    return sorted((w for line in pour.lines.all() for w in line.weigh_ins.all()), key=lambda w: w.pk)


class OneNumber(BrowserCase):
    def test_a_whipped_butter_reads_the_same_everywhere(self) -> None:
        """Judged, targeted, solved, mapped, printed, poured and compared as whipped."""
        formula = self.formula("Cox’s whipped butter")
        page = self.open(f"/formulas/{formula.pk}/")
        whipped = page.get_by_label("Whipped, % more")
        whipped.press("Control+a")
        page.keyboard.type("85")
        page.keyboard.press("Tab")
        self.settled()
        reads = page.locator(".reading .big-number").inner_text()
        expect(page.get_by_text("before whipping")).to_be_visible()
        here = page.url.removeprefix(self.live_server_url).split("?")[0]
        for place, words in (
            ("target/", f"firmness {reads} now"),
            ("map/", f"firmness {reads}"),
            ("sheet/", f"Firmness {reads}"),
        ):
            self.open(here + place)
            expect(page.get_by_text(words).first).to_be_visible()
        self.open(here + "target/")
        page.get_by_label("Firmness at 21°").fill(reads)
        page.keyboard.press("Tab")
        expect(page.get_by_text("target already met")).to_be_visible()
        expect(page.locator(".reading .big-number")).to_have_text(reads)
        self.open(here)
        page.keyboard.press("w")
        expect(page.get_by_role("heading", name=f"Why firmness {reads} at 21°")).to_be_visible()
        page.keyboard.press("f")
        page.get_by_role("button", name="Start the pour").click()
        for _ in range(len(formula.versions.get().lines.all())):
            box = page.locator("#weigh [data-next]")
            target = page.locator(".huge-number").inner_text().split()[0]
            box.click()
            page.keyboard.type(target)
            page.keyboard.press("Enter")
            self.settled()
        page.get_by_role("button", name="Close the weigh sheet").click()
        page.get_by_role("link", name="Record").click()
        numbers = page.locator(".two-numbers .big-number")
        expect(numbers.nth(0)).to_have_text(reads)
        expect(numbers.nth(1)).to_have_text(reads)
