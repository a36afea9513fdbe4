"""An edit that was refused is always seen, kept, and sent again; letters in a box are letters."""

from __future__ import annotations

from decimal import Decimal

from django.contrib.sessions.models import Session
from django.db import OperationalError
from playwright.sync_api import Page, Route, expect

from calmtin.formulas.models import Line
from calmtin.pantry.models import Lot
from calmtin.pours.models import Pour, WeighIn
from tests.browser.base import BrowserCase, line


class Refused(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.bar = self.formula("Regatta lotion bar")
        self.salve = self.formula("Slipway foot balm")

    def tearDown(self) -> None:
        # The browser itself mentions every answer that is an error.
        self.complaints = [
            c for c in self.complaints if "status of" not in c and "Response Status" not in c
        ]
        super().tearDown()

    def stored(self) -> Decimal:
        version = self.salve.versions.last()
        return version.lines.get(material="beeswax_yellow").percent

    def answer_with(self, page: Page, status: int, body: str = "", kind: str = "text/html") -> None:
        """Let the server's next answers to edits be an error."""

        def refuse(route: Route) -> None:
            if route.request.method == "POST":
                route.fulfill(status=status, body=body, content_type=kind)
            else:
                route.continue_()

        page.route("**/percent/", refuse)
        page.route("**/weigh/*/", refuse)

    def type_17(self, page: Page) -> None:
        line(page, "Beeswax, yellow").click()
        page.keyboard.type("17")
        page.keyboard.press("Tab")

    def test_an_error_stands_beside_the_box_until_it_is_saved(self) -> None:
        page = self.open(f"/formulas/{self.salve.pk}/")
        box = line(page, "Beeswax, yellow")
        note = page.locator(".not-saved")
        self.answer_with(page, 500)
        self.type_17(page)
        expect(note).to_contain_text("That did not work, so this is not saved yet")
        self.answer_with(page, 503, "The bench is busy just now.", "text/plain; charset=utf-8")
        page.get_by_role("button", name="Try again").click()
        expect(note).to_contain_text("The bench is busy just now.")
        expect(box).to_have_value("17")
        expect(box).to_have_class("percent is-unsaved")
        self.assertEqual(self.stored(), 15)
        page.wait_for_timeout(1500)  # nothing wipes the message after a while
        expect(note).to_be_visible()
        self.assert_accessible()
        page.unroute("**/percent/")
        # Another edit that works does not make this one look saved.
        line(page, "Lanolin, anhydrous").fill("7")
        page.keyboard.press("Tab")
        expect(line(page, "Lanolin, anhydrous")).to_have_value("7.0")
        expect(box).to_have_value("17")
        expect(note).to_be_visible()
        page.get_by_role("button", name="Try again").click()
        expect(box).to_have_value("17.0")
        expect(note).to_have_count(0)
        expect(box).to_have_class("percent")
        self.assertEqual(self.stored(), 17)

    def test_the_server_cannot_be_reached(self) -> None:
        page = self.open(f"/formulas/{self.salve.pk}/")
        self.context.set_offline(True)
        self.type_17(page)
        expect(page.locator(".not-saved")).to_contain_text("cannot be reached")
        self.context.set_offline(False)
        page.get_by_role("button", name="Try again").click()
        expect(line(page, "Beeswax, yellow")).to_have_value("17.0")
        self.assertEqual(self.stored(), 17)
        self.complaints.clear()

    def test_signed_out_during_an_edit(self) -> None:
        page = self.open(f"/formulas/{self.salve.pk}/")
        owner = self.salve.owner
        owner.set_password("oar-and-tallow-7")
        owner.save()
        Session.objects.all().delete()
        self.type_17(page)
        expect(page.locator(".not-saved")).to_contain_text("You are signed out")
        expect(page.get_by_role("heading", name="Slipway foot balm")).to_be_visible()
        page.get_by_role("link", name="Sign in again").click()
        page.get_by_label("Username").fill(owner.username)
        page.get_by_label("Password").fill("oar-and-tallow-7")
        page.get_by_role("button", name="Sign in").click()
        expect(line(page, "Beeswax, yellow")).to_have_value("17")
        expect(page.locator(".not-saved")).to_contain_text("not saved yet")
        page.get_by_role("button", name="Save it now").click()
        expect(line(page, "Beeswax, yellow")).to_have_value("17.0")
        self.assertEqual(self.stored(), 17)

    def test_a_page_that_was_open_for_too_long(self) -> None:
        page = self.open(f"/formulas/{self.salve.pk}/")
        self.context.clear_cookies(name="csrftoken")
        self.type_17(page)
        expect(page.locator(".not-saved")).to_contain_text("open for too long")
        page.get_by_role("link", name="Reload the page").click()
        expect(line(page, "Beeswax, yellow")).to_have_value("17")
        page.get_by_role("button", name="Save it now").click()
        expect(page.locator(".not-saved")).to_have_count(0)
        self.assertEqual(self.stored(), 17)

    def test_the_weigh_sheet_too(self) -> None:
        pour = Pour.objects.get(poured_at=None)
        page = self.open(f"/pours/{pour.pk}/")
        before = WeighIn.objects.count()
        self.answer_with(page, 500)
        page.keyboard.type("12.3")
        page.keyboard.press("Enter")
        expect(page.locator(".not-saved")).to_contain_text("is not saved yet")
        self.assertEqual(WeighIn.objects.count(), before)
        page.unroute("**/weigh/*/")
        page.get_by_role("button", name="Try again").click()
        expect(page.locator(".not-saved")).to_have_count(0)
        self.assertEqual(WeighIn.objects.last().grams, Decimal("12.3"))

    def test_a_form_sent_while_signed_out_comes_back_filled_in(self) -> None:
        page = self.open("/pantry/materials/jojoba_oil/")
        owner = self.salve.owner
        owner.set_password("oar-and-tallow-7")
        owner.save()
        page.get_by_label("Amount").fill("250 ml")
        page.get_by_label("Price", exact=True).fill("8.40")
        Session.objects.all().delete()
        page.get_by_role("button", name="Add to the pantry").click()
        page.get_by_label("Username").fill(owner.username)
        page.get_by_label("Password").fill("oar-and-tallow-7")
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_text("This was not saved yet")).to_be_visible()
        expect(page.get_by_label("Amount")).to_have_value("250 ml")
        page.get_by_role("button", name="Add to the pantry").click()
        expect(page.get_by_text("On the shelf:")).to_be_visible()
        self.assertEqual(Lot.objects.filter(material="jojoba_oil").get().price, Decimal("8.40"))
        page.reload()
        expect(page.get_by_label("Amount")).to_have_value("")

    def test_a_locked_database_says_so(self) -> None:
        page = self.open(f"/formulas/{self.salve.pk}/")
        real = Line.save

        def locked(*_: object, **__: object) -> None:
            raise OperationalError("database is locked")

        Line.save = locked  # type: ignore[method-assign]
        self.addCleanup(setattr, Line, "save", real)
        self.type_17(page)
        expect(page.locator(".not-saved")).to_contain_text("Calm Tin is busy")
        self.assertEqual(self.stored(), 15)
        Line.save = real  # type: ignore[method-assign]
        page.get_by_role("button", name="Try again").click()
        expect(line(page, "Beeswax, yellow")).to_have_value("17.0")


class Letters(BrowserCase):
    def test_measures_can_be_typed_into_a_line(self) -> None:
        page = self.open(f"/formulas/{self.formula('Slipway foot balm').pk}/")
        for typed, shown in (("1 oz", "28.35"), ("12 ml", "6.96"), ("1 tbsp", "8.6"), ("9 g", "9.0")):
            line(page, "Beeswax, yellow").click()
            page.keyboard.type(typed)
            expect(line(page, "Beeswax, yellow")).to_have_value(typed)
            page.keyboard.press("Enter")
            self.settled()
            expect(page.locator(".line", has_text="Beeswax, yellow")).to_contain_text(typed)
            grams = page.locator(".line", has_text="Beeswax, yellow").locator(".line-grams").inner_text()
            self.assertAlmostEqual(float(grams.removesuffix(" g")), float(shown), delta=0.06)
        self.assertNotIn("lock", page.url)
        expect(page.get_by_role("heading", name="Slipway foot balm")).to_be_visible()

    def test_letters_act_out_of_a_box_and_can_be_switched_off(self) -> None:
        page = self.open(f"/formulas/{self.formula('Slipway foot balm').pk}/")
        line(page, "Lanolin, anhydrous").click()
        page.keyboard.press("Escape")
        page.keyboard.press("l")
        expect(page.get_by_role("button", name="Lock Lanolin, anhydrous")).to_have_attribute(
            "aria-pressed", "true"
        )
        page.keyboard.press("t")
        page.wait_for_url("**/target/")
        self.open("/settings/")
        page.get_by_label("Use single-letter shortcuts").uncheck()
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Saved.")).to_be_visible()
        page.keyboard.press("?")
        page.keyboard.press("g")
        page.keyboard.press("f")
        page.wait_for_timeout(300)
        expect(page.get_by_role("dialog")).to_have_count(0)
        self.assertIn("/settings/", page.url)
