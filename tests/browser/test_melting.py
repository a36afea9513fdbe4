"""The run sheet on a bench and on a phone: what goes in when, how long it takes, and is it dry."""

from __future__ import annotations

import re
from decimal import Decimal

from playwright.sync_api import Page, expect

from calmtin.accounts.services import set_on_bench
from calmtin.pours import services
from calmtin.pours.models import Check, PotWeight, Pour
from tests.bench_data import draft, pour_of, salve
from tests.browser.base import BrowserCase

LINES = [
    ("beeswax_yellow", Decimal(18)),
    ("rosehip_oil", Decimal(10)),
    ("olive_oil", Decimal(60)),
    ("alcohol_tincture", Decimal(10)),
    ("lavender", Decimal(1)),
    ("tocopherols_50", Decimal(1)),
]


class Melting(BrowserCase):
    def pages(self) -> list[Page]:
        return [self.page, self.phone()]

    def pour_with_tincture(self, name: str) -> Pour:
        user = self.formula("Oarlock hand salve").owner
        set_on_bench(user, melting="staged")  # whatever was chosen for the pour before
        return pour_of(user, draft(salve(user, name, LINES)), acknowledged=True)

    def heading(self, page: Page, words: str) -> None:
        expect(page.locator("section[aria-live] h1")).to_have_text(words)

    def done(self, page: Page) -> None:
        before = page.locator("section[aria-live] h1").inner_text()
        page.get_by_role("button", name="Done", exact=True).click()
        expect(page.locator("section[aria-live] h1")).not_to_have_text(before)

    def test_the_sheet_asks_for_what_goes_in_first_and_for_cups_for_what_goes_in_late(self) -> None:
        for number, page in enumerate(self.pages()):
            pour = self.pour_with_tincture(f"Rudder balm {number}")
            self.open(f"/pours/{pour.pk}/", page)
            for name, words in (
                ("Alcohol tincture", "Tare the pot."),
                ("Olive oil", "Tare the pot."),
                ("Beeswax, yellow", "Tare the pot."),
                ("Rosehip seed oil", "Put an empty cup on the scale and tare it. It goes in off the heat."),
                ("Tocopherols 50 %", "It goes in off the heat."),
                ("Lavender", "It goes in last, once the pot has cooled."),
            ):
                expect(page.locator(".now-name")).to_contain_text(name)
                expect(page.locator("section.now")).to_contain_text(words)
                grams = page.locator(".sheet-list .is-next .planned").inner_text()
                page.locator("[data-next]").focus()
                page.keyboard.type(grams)
                page.keyboard.press("Enter")
                expect(page.locator(".now-name")).not_to_contain_text(name)
            self.assert_fits(page)

    def test_a_tincture_is_weighed_until_it_is_dry_and_no_step_contradicts_the_next(self) -> None:
        for number, page in enumerate(self.pages()):
            pour = self.pour_with_tincture(f"Rudder balm {number}")
            for line in pour.lines.all():
                services.weigh(pour.owner, line, line.planned_g)
            services.finish_weighing(pour.owner, pour)
            self.open(f"/pours/{pour.pk}/run/", page)
            self.heading(page, "The tincture first, with the oil")
            wanted = re.search(r"then weigh ([\d.]+) g", page.locator("section[aria-live]").inner_text())
            box = page.get_by_label("Contents of the pot weigh")
            for typed, words in (
                (
                    f"{Decimal(wanted[1]) + 3}",
                    re.compile(r"(2\.9|3\.0|3\.1) g of water and alcohol are still in the pot"),
                ),
                (wanted[1], "The water and alcohol are gone. Add the wax now."),
            ):
                box.fill(typed)
                page.get_by_role("button", name="Save weight").click()
                expect(page.locator("section[aria-live]")).to_contain_text(words)
            self.assertEqual(PotWeight.objects.filter(pour=pour).count(), 2)
            self.done(page)
            self.heading(page, "Melt the wax")
            expect(page.locator("section[aria-live]")).to_contain_text(re.compile(r"\d+ to \d+ minutes"))
            low, high = map(
                int, re.search(r"(\d+) to (\d+) minutes", page.locator("main").inner_text()).groups()
            )
            self.assertTrue(1 <= low < high <= min(2 * low, 20), (low, high))
            page.get_by_role("button", name="Melt everything together instead").click()
            self.heading(page, "Melt everything together")
            page.reload()
            self.heading(page, "Melt everything together")
            self.done(page)
            self.heading(page, "Off the heat: add heat-sensitive ingredients")
            expect(page.locator("section[aria-live]")).to_contain_text(
                "Rosehip seed oil would rather stay below"
            )
            self.assert_fits(page)

    def test_a_set_test_takes_two_presses(self) -> None:
        pour = Pour.objects.get(poured_at=None)
        for line in pour.lines.all():
            services.weigh(pour.owner, line, line.planned_g)
        services.finish_weighing(pour.owner, pour)
        for key in ("melt_wax", "melt_butter", "oils", "late", "scent"):
            services.mark_step(pour.owner, pour, key=key)
        for number, page in enumerate(self.pages(), start=1):
            self.open(f"/pours/{pour.pk}/run/", page)
            self.heading(page, "Set test")
            page.get_by_label("Under your thumb it").select_option("4")
            page.get_by_role("button", name="Save test").click()
            expect(page.get_by_text("(not measured)")).to_have_count(number)
            self.assertEqual(Check.objects.filter(pour=pour, is_temp_guessed=True).count(), number)
