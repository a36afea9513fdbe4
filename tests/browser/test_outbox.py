"""What was typed without a connection arrives: from any page, sent once, and as nobody else's."""

from __future__ import annotations

from decimal import Decimal

from playwright.sync_api import Page, expect

from calmtin.pours.adapters import newest_grams
from calmtin.pours.models import Pour, WeighIn, WeighLine
from tests.bench_data import maker
from tests.browser.base import BrowserCase

PASSWORD = "oar-and-tallow-7"


class Outbox(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.pour = Pour.objects.get(poured_at=None)
        self.line = next(line for line in self.pour.lines.all() if not line.weigh_ins.exists())
        self.before = WeighIn.objects.count()

    def grams(self) -> Decimal | None:
        return newest_grams(WeighLine.objects.get(pk=self.line.pk))

    def weigh_while_away(self, page: Page, typed: str = "12.3") -> None:
        page.goto(f"{self.live_server_url}/pours/{self.pour.pk}/?line={self.line.position}")
        page.wait_for_load_state("load")
        self.context.set_offline(True)
        page.locator("[data-next]").click()
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
        expect(page.locator(".not-saved")).to_contain_text("cannot be reached")
        expect(page.locator("#waiting")).to_have_attribute("data-stored", "1")
        self.assertEqual(WeighIn.objects.count(), self.before)

    def come_back(self) -> None:
        self.context.set_offline(False)
        self.complaints.clear()

    def sign_in(self, page: Page, name: str) -> None:
        page.get_by_label("Username").fill(name)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("button", name="Sign out")).to_be_visible()

    def test_a_closed_tab_loses_nothing_and_any_page_sends_it(self) -> None:
        self.weigh_while_away(self.page)
        self.page.close()
        self.come_back()
        page = self.page = self.new_page()
        page.goto(f"{self.live_server_url}/pantry/")
        expect(page.locator("#waiting")).to_contain_text("Saved now:")
        expect(page.locator("#waiting")).to_contain_text("12.3")
        self.assertEqual(self.grams(), Decimal("12.3"))
        page.reload()
        expect(page.locator("#waiting")).to_be_hidden()
        page.goto(f"{self.live_server_url}/pours/{self.pour.pk}/")
        expect(page.locator(".not-saved")).to_have_count(0)
        self.assertEqual(WeighIn.objects.count(), self.before + 1)  # sent once
        self.assert_accessible()

    def test_today_says_what_waits_while_the_bench_is_away(self) -> None:
        today = self.new_page()
        self.weigh_while_away(self.page)
        self.page.close()
        self.page = today
        self.context.set_offline(False)
        today.route("**/weigh/*/", lambda route: route.abort())
        today.goto(f"{self.live_server_url}/")
        expect(today.locator("#waiting")).to_contain_text("Waiting for the bench:")
        expect(today.locator("#waiting")).to_contain_text("12.3")
        today.unroute("**/weigh/*/")
        expect(today.locator("#waiting")).to_contain_text("Saved now:")
        self.assertEqual(self.grams(), Decimal("12.3"))
        self.complaints.clear()

    def test_what_the_bench_refuses_leads_back_to_its_box(self) -> None:
        self.weigh_while_away(self.page, "a lot")
        self.page.close()
        self.come_back()
        page = self.page = self.new_page()
        page.goto(f"{self.live_server_url}/")
        expect(page.locator("#waiting")).to_contain_text("Not saved yet:")
        page.get_by_role("link", name="Open its page").click()
        box = page.locator(f"#grams-{self.line.position}")
        expect(box).to_have_value("a lot")
        box.fill("12.3")
        box.press("Enter")
        self.wait_for(lambda: self.grams() == Decimal("12.3"))
        page.goto(f"{self.live_server_url}/")
        expect(page.locator("#waiting")).to_be_hidden()

    def test_another_maker_neither_sends_nor_sees_it(self) -> None:
        maker("stroke")
        self.weigh_while_away(self.page)
        self.page.close()
        self.come_back()
        owner = self.pour.owner
        owner.set_password(PASSWORD)
        owner.save()  # which ends every session of theirs
        page = self.page = self.new_page()
        page.goto(f"{self.live_server_url}/")
        self.sign_in(page, "stroke")
        expect(page.locator("#waiting")).to_contain_text("It is kept until they sign in.")
        expect(page.locator("#waiting")).not_to_contain_text("12.3")
        self.assertEqual(WeighIn.objects.count(), self.before)
        page.get_by_role("button", name="Sign out").click()
        self.sign_in(page, owner.username)
        expect(page.locator("#waiting")).to_contain_text("Saved now:")
        self.assertEqual(self.grams(), Decimal("12.3"))
