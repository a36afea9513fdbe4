"""Whole batches: on the simulated stove with what goes wrong, whipped, and on a phone with finishes."""

from __future__ import annotations

import re

from playwright.sync_api import Page, Route, expect

from calmtin.pantry.models import Movement
from calmtin.pours.models import FinishWeighIn, PotAddition, PotReading, Pour, Replan, WeighIn
from tests.browser.base import BrowserCase


def press(page: Page, name: str) -> None:
    """Press a button by its whole name."""
    page.get_by_role("button", name=name, exact=True).click()


class OnTheSimulatedStove(BrowserCase):
    def tearDown(self) -> None:
        self.complaints = [c for c in self.complaints if "ERR_" not in c and "sendError" not in c]
        super().tearDown()

    def pour_to_the_mark(self, page: Page) -> None:
        """Pour what is next up to its mark, and take the reading by Space once it stands."""
        press(page, "Pour up to the mark")
        expect(page.get_by_text("On target.")).to_be_visible()

    def take(self, page: Page) -> None:
        """Take the reading by Space; the page then goes on to the next."""
        done = page.locator(".weigh-row.is-done").count()
        page.keyboard.press(" ")
        expect(page.locator(".weigh-row.is-done")).to_have_count(done + 1)

    def weigh_the_rest(self, page: Page) -> None:
        while page.get_by_role("heading", name="Everything is weighed").count() == 0:
            name = page.locator(".now-name").inner_text()
            self.pour_to_the_mark(page)
            page.keyboard.press(" ")
            expect(page.locator(".now-name", has_text=re.compile(f"^\\s*{re.escape(name)}"))).to_have_count(
                0
            )
            self.settled()

    def wait_until(self, page: Page, heading: str) -> None:
        expect(page.get_by_role("heading", name=heading, exact=True)).to_be_visible()

    def test_a_whole_batch_with_an_over_pour_a_reload_and_a_lost_connection(self) -> None:
        before, formula = Movement.objects.count(), self.formula("Oarlock hand salve")
        pours = Pour.objects.count()
        page = self.open(f"/formulas/{formula.pk}/")
        page.keyboard.press("f")
        press(page, "Rehearse")
        self.wait_until(page, "Get ready")
        press(page, "Done")
        page.get_by_role("link", name="Go to weighing").click()
        expect(page.locator(".grams[data-next]")).to_be_visible()
        page.wait_for_load_state("load")
        self.pour_to_the_mark(page)
        # The scale is asked every second: a key that is pressed meanwhile still counts.
        held: list[Route] = []
        page.route("**/live/**", lambda route: held.append(route))
        self.wait_for(lambda: bool(held))
        self.take(page)
        page.unroute("**/live/**")
        # An over-pour, and what saves it.
        press(page, "Slip: pour too much")
        expect(page.get_by_text("too much. Take the reading")).to_be_visible()
        self.take(page)
        expect(page.locator(".rescue")).to_contain_text("too much shea butter, refined.")
        page.get_by_role("button", name=re.compile("^Scale the rest up to")).click()
        expect(page.get_by_text("in the pot of")).to_be_visible()  # the wax lacks some now
        self.assertEqual(Replan.objects.count(), 1)
        page.reload()
        expect(page.get_by_text("in the pot of")).to_be_visible()
        self.pour_to_the_mark(page)
        page.keyboard.press(" ")
        expect(page.get_by_text("in the pot of")).to_have_count(0)
        # The connection is lost while a reading is taken: it waits, and is there once.
        self.pour_to_the_mark(page)
        self.settled()
        kept = WeighIn.objects.count()
        self.context.set_offline(True)
        page.keyboard.press(" ")
        expect(page.locator(".not-saved")).to_contain_text("It is sent as soon as it answers")
        self.assertEqual(WeighIn.objects.count(), kept)
        self.context.set_offline(False)
        expect(page.locator(".not-saved")).to_have_count(0)
        self.wait_for(lambda: WeighIn.objects.count() == kept + 1)
        self.assert_accessible(page)
        self.weigh_the_rest(page)
        press(page, "Close the weigh sheet")
        # The sheet goes on by itself: melt, cool, and too early with the scent.
        self.wait_until(page, "Melt the wax")
        press(page, "Into the bath")
        press(page, "60 ×")
        expect(page.get_by_text("Warm it to 70 °C first")).to_be_visible()
        for _ in range(2):  # a pot takes its time, and gets as hot as its bath makes it
            press(page, "Wait 10 minutes")
            self.settled()
        press(page, "1 ×")
        for heading in ("Melt the wax", "Add the butters", "Warm the oils and stir them in"):
            self.wait_until(page, heading)
            press(page, "Done")
        self.wait_until(page, "Off the heat: add heat-sensitive ingredients")
        press(page, "On the bench")
        press(page, "Done")
        self.wait_until(page, "Add the scent last")
        expect(page.get_by_text(re.compile("Wait until it is at 65 °C"))).to_be_visible()
        press(page, "Done")
        expect(page.get_by_text("Much of the scent evaporates at that temperature.")).to_be_visible()
        press(page, "Leave it until it sets")
        expect(page.get_by_text("It is setting before you have filled it.")).to_be_visible()
        self.assert_accessible(page)
        press(page, "Setting in the jug? Reheat")
        press(page, "Wait 10 minutes")
        press(page, "On the bench")
        expect(page.get_by_text("It is setting before you have filled it.")).to_have_count(0)
        page.get_by_label("Temperature of the drop").fill("6")
        page.get_by_label("Under your thumb it").select_option("6")
        press(page, "Save test")
        expect(page.get_by_text(re.compile("predicted"))).to_be_visible()
        for heading in (
            "Set test",
            "Pour",
            "Let it set: rest 10–15 minutes, then chill",
            "Clean up, label, count",
        ):
            self.wait_until(page, heading)
            press(page, "Done")
        self.wait_until(page, "All steps done")
        # None of it is anywhere else.
        self.assertEqual(Movement.objects.count(), before)
        self.assertGreater(PotReading.objects.count(), 4)
        self.assertEqual(Pour.objects.count(), pours)
        press(page, "Delete rehearsal")
        expect(page.get_by_text("The rehearsal is deleted.")).to_be_visible()
        # What the page asks every second may have been on its way when the rehearsal went.
        self.complaints = [c for c in self.complaints if "404" not in c]


class Whipped(BrowserCase):
    def test_powder_by_feel_and_a_weighed_jar(self) -> None:
        page = self.open(f"/formulas/{self.formula('Cox’s whipped butter').pk}/")
        page.keyboard.press("f")
        press(page, "Start the pour")
        page.get_by_role("link", name="Run sheet").click()
        press(page, "Done")  # ready
        page.get_by_role("link", name="Go to weighing").click()
        expect(page.locator(".grams[data-next]")).to_be_visible()
        page.wait_for_load_state("load")
        while page.locator("[data-next]").count():
            box = page.locator("[data-next]")
            planned = page.locator(".is-next .planned").inner_text()
            expect(box).to_be_focused()
            done = page.locator(".weigh-row.is-done").count()
            page.keyboard.type(planned)
            page.keyboard.press("Enter")
            expect(page.locator(".weigh-row.is-done")).to_have_count(done + 1)
            self.settled()
        press(page, "Close the weigh sheet")
        for heading in (
            "Melt the butters",
            "Warm the oils and stir them in",
            "Let it rest",
            "Chill it",
            "Whip it",
        ):
            expect(page.get_by_role("heading", name=heading, exact=True)).to_be_visible()
            press(page, "Done")
        expect(page.get_by_role("heading", name="Add powder to feel")).to_be_visible()
        for times in (1, 2):
            page.get_by_role("button", name=re.compile("^½ tsp more")).click()
            expect(page.get_by_text("1/2 tsp at")).to_have_count(times)
        self.assertEqual(PotAddition.objects.filter(by_feel=True).count(), 2)
        expect(page.get_by_text(re.compile(r"now \d\.\d+ % of the batch")).last).to_be_visible()
        for heading in ("Add powder to feel", "Add the scent last", "Fill"):
            expect(page.get_by_role("heading", name=heading, exact=True)).to_be_visible()
            press(page, "Done")
        page.get_by_role("link", name="Record").click()
        page.get_by_role("link", name="Check this pour").click()
        page.get_by_label("Jar holds, ml").fill("120")
        page.get_by_label("Weight of its contents").fill("74")
        press(page, "Save check")
        expect(page.get_by_text("Check saved.")).to_be_visible()
        pour = Pour.objects.get(version__formula__name="Cox’s whipped butter")
        overrun = pour.checks.get().overrun_pct
        self.assertTrue(35 <= overrun <= 55, overrun)  # about 0.9 g/ml in the pot: 0.9 x 120 / 74 - 1
        self.assert_accessible(page)


class OnAPhone(BrowserCase):
    def test_one_pot_two_finishes_by_finger(self) -> None:
        formula = self.formula("Bow-light gloss")
        page = self.phone()
        rows = "container_0=lip_tube_standard&count_0=4&finish_0=tinted"
        rows += "&container_1=lip_tube_standard&count_1=4&finish_1=scented"
        page.goto(f"{self.live_server_url}/formulas/{formula.pk}/v/1/fill/?way=containers&{rows}")
        page.get_by_role("button", name="Start the pour").tap()
        page.wait_for_url("**/pours/*/")
        self.assert_fits(page)
        page.get_by_role("link", name="Run sheet").tap()
        page.get_by_role("button", name="Done", exact=True).tap()
        page.get_by_role("link", name="Go to weighing").tap()
        expect(page.locator(".grams[data-next]")).to_be_visible()
        page.wait_for_load_state("load")
        while page.locator("[data-next]").count():
            done = page.locator(".weigh-row.is-done").count()
            planned = page.locator(".is-next .planned").inner_text()
            page.locator("[data-next]").tap()
            page.keyboard.type(planned)
            page.keyboard.press("Enter")
            expect(page.locator(".weigh-row.is-done")).to_have_count(done + 1)
            self.settled(page)
        page.get_by_role("button", name="Close the weigh sheet").tap()
        for heading in (
            "Melt the wax",
            "Add the butters",
            "Warm the oils and stir them in",
            "Stir in the powder",
        ):
            expect(page.get_by_role("heading", name=heading, exact=True)).to_be_visible()
            page.get_by_role("button", name="Done", exact=True).tap()
        expect(page.get_by_role("heading", name=re.compile("^Off the heat"))).to_be_visible()
        page.get_by_role("button", name="Done", exact=True).tap()
        expect(page.get_by_role("heading", name="Set test")).to_be_visible()
        page.get_by_role("button", name="Done", exact=True).tap()
        for made, (name, material) in enumerate((("tinted", "Iron oxide"), ("scented", "Spearmint")), 1):
            expect(page.get_by_role("heading", name=f"Finish: {name}")).to_be_visible()
            box = page.get_by_label(re.compile(f"^{material}"))
            box.tap()
            page.keyboard.type("0.2")
            page.keyboard.press("Enter")
            self.wait_for(lambda made=made: FinishWeighIn.objects.count() == made)
            self.settled(page)
            self.assert_fits(page)
            page.get_by_role("button", name="Done", exact=True).tap()
        expect(page.get_by_role("heading", name="Pour", exact=True)).to_be_visible()
        self.assertEqual(FinishWeighIn.objects.count(), 2)
        self.assert_accessible(page)
