"""From the set pour to a printed label sheet; and everything along to another bench."""

from __future__ import annotations

import re
from io import BytesIO

from django.urls import reverse
from playwright.sync_api import expect
from pypdf import PdfReader

from calmtin.accounts.models import User
from calmtin.packing.models import PieceGone
from calmtin.pours.models import Pour
from tests.browser.base import BrowserCase


class Pack(BrowserCase):
    def test_from_the_set_pour_to_a_printed_label_sheet(self) -> None:
        page = self.open("/")
        page.get_by_role("link", name="Pours", exact=True).click()
        page.get_by_role("link", name="OH-02", exact=True).click()
        # A few pieces on the scale first: the label says what the lightest holds.
        page.get_by_label("or weights of single pieces, g, such as 14.2 14.6 13.9").click()
        page.keyboard.type("53.9 53.2 54.4")
        page.get_by_label("Left over, g").click()
        page.keyboard.type("0")
        page.get_by_role("button", name="Save count").press("Enter")
        expect(page.get_by_text("Count saved.")).to_be_visible()
        page.get_by_role("link", name="Labels", exact=True).click()
        expect(page.get_by_text("that of the lightest of 3 weighed")).to_be_visible()
        name = page.get_by_label("Name")
        name.click()
        page.keyboard.press("Control+a")
        page.keyboard.type("Oarlock healing salve")
        expect(page.get_by_text("“healing” is a claim.")).to_be_visible()
        expect(page.get_by_role("button", name="Print")).to_be_disabled()
        expect(name).to_be_focused()
        page.keyboard.press("Control+a")
        page.keyboard.type("Oarlock")
        expect(page.get_by_text("is a claim")).to_have_count(0)
        page.get_by_label("Start at label").click()
        page.keyboard.press("Control+a")
        page.keyboard.type("3")
        expect(page.locator(".label-pair")).to_contain_text("53 g (1.86 oz)")
        third = re.compile(r"translate\(133\.0 ")  # the third of three columns
        expect(page.locator(".label-page g").first).to_have_attribute("transform", third)
        self.settled()
        self.assert_accessible()
        page.get_by_role("button", name="Print 12 labels").press("Enter")
        expect(page.get_by_role("heading", name="12 labels")).to_be_visible()
        self.assert_accessible()
        address = page.get_by_role("link", name="Open the sheet to print").get_attribute("href")
        answer = self.context.request.get(f"{self.live_server_url}{address}")
        pdf = PdfReader(BytesIO(answer.body()))
        text = pdf.pages[0].extract_text()
        self.assertEqual((text.count("OH-02"), text.count("53 g (1.86 oz)")), (12, 12))
        self.assertEqual(round(float(pdf.pages[0].mediabox.height) / 72 * 25.4), 297)
        # And away they go.
        page.get_by_role("link", name="Pieces").click()
        page.get_by_label("How many").click()
        page.keyboard.press("Control+a")
        page.keyboard.type("3")
        page.get_by_label("Outcome").select_option("given away")
        page.get_by_label("Recipient").click()
        page.keyboard.type("the stroke side")
        page.get_by_role("button", name="Save pieces", exact=True).click()
        expect(page.get_by_text("3 given away, the stroke side")).to_be_visible()
        self.assertEqual(PieceGone.objects.latest("pk").pour, Pour.objects.get(code="OH-02"))
        self.assert_accessible()

    def test_what_is_needed_by_a_day_is_on_today(self) -> None:
        page = self.open(reverse("packing:deadlines"))
        page.get_by_label("Formula").select_option("Slipway foot balm")
        page.get_by_label("Needed for").click()
        page.keyboard.type("the winter run")
        page.get_by_label("Ready by").fill("2099-05-01")
        page.get_by_role("button", name="Add deadline").press("Enter")
        expect(page.get_by_text("12 for the winter run")).to_be_visible()
        self.assert_accessible()
        self.open("/")
        expect(page.get_by_text("12 for the winter run")).to_be_visible()

    def test_the_dark_page_can_be_read(self) -> None:
        page = self.open(reverse("accounts:settings"))
        page.get_by_role("radio", name="dark").check()
        page.get_by_role("button", name="Save").click()
        expect(page.locator("html")).to_have_attribute("data-bs-theme", "dark")
        for address in (
            "/",
            "/formulas/",
            reverse("packing:pieces", args=[Pour.objects.get(code="HL-03").pk]),
        ):
            self.open(address)
            self.assert_accessible()


class Along(BrowserCase):
    def test_everything_out_a_fresh_bench_in_and_the_same_today(self) -> None:
        page = self.open(reverse("exchange:records"))
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Export everything").click()
        file = waiting.value.path()
        today = self.open("/").locator("main").inner_text()
        User.objects.create_user("bow", password="oar-and-tallow-7")
        fresh = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(fresh.close)
        page = fresh.new_page()
        self.open("/sign-in/", page)
        page.get_by_label("Name").click()
        page.keyboard.type("bow")
        page.get_by_label("Password").click()
        page.keyboard.type("oar-and-tallow-7")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Save and continue").press("Enter")
        expect(page.get_by_text("Start your first balm")).to_be_visible()
        self.open(reverse("exchange:records"), page)
        page.get_by_label("An exported file").set_input_files(file)
        # What takes long says so, to a reader too.
        page.evaluate("document.addEventListener('submit', (event) => event.preventDefault())")
        page.get_by_role("button", name="Check the file").press("Enter")
        expect(page.locator(".think-note")).to_contain_text("A large file takes up to a minute")
        expect(page.locator("#spoken")).to_contain_text("nothing changes yet")
        self.open(reverse("exchange:records"), page)
        page.get_by_label("An exported file").set_input_files(file)
        page.get_by_role("button", name="Check the file").press("Enter")
        expect(page.get_by_text("New:")).to_be_visible()
        self.assert_accessible(page)
        page.get_by_role("button", name="Import", exact=True).press("Enter")
        expect(page.get_by_text("Imported:")).to_be_visible()
        self.assertEqual(self.open("/", page).locator("main").inner_text(), today)
