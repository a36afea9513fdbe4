"""Run sheets of several formulas, pressed through at both widths: their times, temperatures and words."""

from __future__ import annotations

import re
from decimal import Decimal
from itertools import pairwise
from typing import NamedTuple

from playwright.sync_api import Page, expect

from calmtin.accounts.services import set_on_bench
from calmtin.formulas.services import set_process
from calmtin.pantry.adapters import container_for
from calmtin.pours import services
from tests.bench_data import draft, pour_of, salve
from tests.browser.base import BrowserCase


class Shown(NamedTuple):
    """What the page says of the step that is next, in °F and minutes."""

    title: str
    words: str
    low: int | None
    high: int | None
    minutes: tuple[int, int] | None


SMALL_WAX = [("beeswax_yellow", 16), ("rosehip_oil", 20), ("olive_oil", 62), ("lavender", 2)]
BUTTER_ALONE = [("shea_refined", 99), ("lavender", 1)]
WHIPPED = [("shea_refined", 70), ("mango_butter", 10), ("sunflower_high_oleic", 19), ("lavender", 1)]


class RunSheets(BrowserCase):
    def run_page(
        self, page: Page, name: str, lines: list, cooling: str, overrun: int, into: str, melting: str
    ) -> None:
        """Weigh a pour of a formula of its own out, and open its run sheet."""
        user = self.formula("Oarlock hand salve").owner
        set_on_bench(user, melting=melting, temperature_unit="F")
        version = draft(salve(user, name, [(slug, Decimal(share)) for slug, share in lines]))
        version = set_process(user, version, cooling=cooling, overrun_pct=overrun, seen=version.revision)
        pour = pour_of(user, version, acknowledged=True, into=container_for(user, into))
        for line in pour.lines.all():
            services.weigh(user, line, line.planned_g)
        services.finish_weighing(user, pour)
        self.open(f"/pours/{pour.pk}/run/", page)

    def shown(self, page: Page) -> Shown:
        now = page.locator("section[aria-live]")
        words = now.inner_text()
        window = now.locator(".run-window")
        stated = window.inner_text() if window.count() else ""
        degrees = [int(n) for n in re.findall(r"(\d+)°", stated)]
        low = degrees[0] if degrees and "below" not in stated else None
        high = degrees[-1] if degrees and "above" not in stated else None
        took = re.search(r"(\d+) to (\d+) minutes, until", words)
        minutes = (int(took[1]), int(took[2])) if took else None
        return Shown(now.locator("h1").inner_text(), words, low, high, minutes)

    def pressed_through(self, page: Page) -> list[Shown]:
        """Press every step done, and return what the page said of each."""
        steps: list[Shown] = []
        while page.get_by_role("heading", name="All steps done").count() == 0:
            steps.append(self.shown(page))
            self.assertLess(len(steps), 15)
            self.assert_fits(page)
            page.get_by_role("button", name="Done", exact=True).click()
            expect(page.locator("section[aria-live] h1")).not_to_have_text(steps[-1].title)
            self.settled(page)
        return steps

    def assert_one_plan(self, steps: list[Shown]) -> None:
        """Times span a factor of two at most; no step needs a hotter pot than the one before allows."""
        for step in steps:
            if step.minutes:
                low, high = step.minutes
                self.assertTrue(1 <= low < high <= 2 * low, step)
            if step.low is not None and step.high is not None:
                self.assertLessEqual(step.low, step.high, step)
        melts = [step for step in steps if step.title.startswith(("Melt", "Add the butters", "Warm"))]
        for before, after in pairwise(melts):
            if before.high is not None and after.low is not None:
                self.assertLessEqual(after.low, before.high + 1, (before.title, after.title))

    def at_both_widths(self, name: str, lines: list, cooling: str, **more: object) -> list[Shown]:
        both = []
        for width, page in (("desk", self.page), ("phone", self.phone())):
            chosen = {"overrun": 0, "into": "tin_2oz", "melting": "staged", **more}
            self.run_page(page, f"{name} {width}", lines, cooling, **chosen)
            both.append(self.pressed_through(page))
            self.assert_one_plan(both[-1])
        desk, phone = both
        self.assertEqual([s.title for s in desk], [s.title for s in phone])
        return desk

    def test_a_little_wax_takes_minutes_and_a_delicate_oil_never_meets_the_hot_pot(self) -> None:
        steps = {s.title: s for s in self.at_both_widths("Bung balm", SMALL_WAX, "rest_then_chill")}
        self.assertLessEqual(steps["Melt the wax"].minutes[1], 20)
        self.assertGreater(steps["Melt the wax"].low or 0, 140)  # °F
        oils = steps["Warm the oils and stir them in"]
        self.assertNotIn("Rosehip", oils.words)
        late = steps["Off the heat: add heat-sensitive ingredients"]
        self.assertIn("Rosehip seed oil", late.words)

    def test_a_butter_alone_is_melted_by_itself_and_takes_its_time(self) -> None:
        steps = self.at_both_widths("Bowline butter", BUTTER_ALONE, "slow_bench", into="jar_250ml")
        melt = next(s for s in steps if "butter" in s.title.lower())
        self.assertGreaterEqual(melt.minutes[0], 10)
        self.assertNotIn("hot already", melt.words)
        self.assertNotIn("wax", " ".join(s.title for s in steps))

    def test_a_butter_that_is_never_melted_meets_no_bath_and_no_thermometer(self) -> None:
        steps = self.at_both_widths(
            "Fender butter", WHIPPED, "never_melted", overrun=60, into="jar_250ml", melting="together"
        )
        self.assertFalse([s.title for s in steps if s.title.startswith("Melt")])
        self.assertEqual([s.title for s in steps if s.low is not None or s.high is not None], [])
        self.assertNotIn("bath", " ".join(s.words for s in steps))

    def test_a_butter_with_lumps_left_is_not_asked_to_be_clear(self) -> None:
        steps = self.at_both_widths("Gunwale butter", WHIPPED, "lumps_left", overrun=60, into="jar_250ml")
        melt = next(s for s in steps if s.title == "Melt the butters")
        self.assertIn("small lumps", melt.words)
        self.assertIn("don’t wait until it is clear", melt.words)
