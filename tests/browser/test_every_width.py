"""Every page at four widths, with the longest names that it can hold: nothing goes sideways."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.test import override_settings
from django.urls import resolve
from playwright.sync_api import expect

from calmtin.accounts.models import User
from calmtin.checks.services import trace_reaction
from calmtin.formulas.models import Formula
from calmtin.formulas.services import add_finish
from calmtin.packing.models import LabelPrint
from calmtin.packing.services import add_deadline
from calmtin.pantry import services as pantry
from calmtin.pantry.models import Infusion, Lot, OwnContainer, OwnMaterial, Vessel
from calmtin.pours.models import Pour
from calmtin.pours.services import record_check
from tests.browser.base import BrowserCase, browser
from tests.pages import PAGES

WIDTHS = (320, 390, 820, 1280)
PARTED_AT = (390, 1280)  # where a figure and its unit could part
READ_AT = 390  # where axe reads every page too; other tests let it read some of them at 1280
# What a finger presses: controls, not links or explained words within a sentence; a tick is pressed by its
# words too.
SMALL = """() => {
  const found = [];
  const pressed = "button:not(.term), select, textarea, summary, input, .btn-ink, .btn-plain, nav a";
  for (const one of document.querySelectorAll(pressed)) {
    const at = one.type === "checkbox" || one.type === "radio" ? one.closest("label") ?? one : one;
    const {width, height} = at.getBoundingClientRect();
    // A form may begin with what Enter does in its boxes, out of sight and out of reach.
    if (one.matches(".visually-hidden[tabindex='-1']")) continue;
    if (one.type === "hidden" || !one.checkVisibility({checkVisibilityCSS: true}) || !width) continue;
    if (height < 43.5 || width < 43.5)
      found.push(`${one.tagName} ${one.className} ${one.name || one.textContent}: ${width} x ${height}`);
  }
  return found;
}"""
# Boxes for numbers that would bring up letters, or take away the unit that may be typed.
KEYPAD = """() => [...document.querySelectorAll("input.box, input[type=number]")]
  .filter((box) => box.type === "number" || !["decimal", "text", "numeric"].includes(box.inputMode))
  .map((box) => box.name)"""
# Words and marks of pictures that a reader's own colours do not reach: fainter than 4.5 to 1 on the page.
FAINT = """() => {
  const shade = (colour) => {
    const [red, green, blue] = colour.match(/[\\d.]+/g).map((part) => {
      const share = part / 255;
      return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
    });
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue + 0.05;
  };
  const ground = shade(getComputedStyle(document.body).backgroundColor);
  return [...document.querySelectorAll("svg:not(.label-print) text:not(.tin-label)")]
    .filter((words) => {
      const ink = shade(getComputedStyle(words).fill);
      return Math.max(ink, ground) / Math.min(ink, ground) < 4.5;
    })
    .map((words) => words.textContent);
}"""
# Figures in cells that stand on another line than their unit.
PARTED = r"""() => [...document.querySelectorAll("td.num")].flatMap((cell) => {
  const found = [];
  const walk = document.createTreeWalker(cell, NodeFilter.SHOW_TEXT);
  for (let node = walk.nextNode(); node; node = walk.nextNode())
    for (const {index, 0: told} of node.textContent.matchAll(/[0-9] (?=\S)/g)) {
      const [figure, unit] = [index, index + told.length].map((at) => {
        const range = document.createRange();
        range.setStart(node, at);
        range.setEnd(node, at + 1);
        return range.getBoundingClientRect();
      });
      if (unit.top > figure.top + 4) found.push(cell.textContent.trim());
    }
  return found;
})"""
# Words and controls that something else lies upon.
COVERED = """() => [...document.querySelectorAll("main th, main summary, main button, main h2, main label")]
  .filter((one) => {
    if (!one.checkVisibility({checkVisibilityCSS: true})) return false;
    one.scrollIntoView({block: "center", behavior: "instant"});
    const {left, top, width, height} = one.getBoundingClientRect();
    if (width < 4 || height < 4) return false;
    const upon = document.elementFromPoint(left + width / 2, top + height / 2);
    return upon && !one.contains(upon) && !upon.contains(one);
  })
  .map((one) => `${one.tagName} ${one.textContent.trim().slice(0, 40)}`)"""
BESIDE = """() => [...document.querySelectorAll("main button, main input, main select")]
  .filter((one) => one.checkVisibility() && one.getBoundingClientRect().right > innerWidth)
  .map((one) => one.name || one.textContent)"""
NOWHERE = "/nowhere/"
LONG = "Uncommonlylongwordthatnobodybreaks for the winter regatta of the northern boathouse"


class EveryWidth(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.stick = self.formula("Headwind lip stick")
        user = self.stick.owner
        self.poured = Pour.objects.get(code="HL-03")
        looked: dict[str, Any] = {"temp_c": 21.0, "felt_rung": Decimal(6), "signs": {"grain": "1"}}
        record_check(user, self.poured, **looked, verdict="keep", notes=LONG * 3)
        add_finish(user, self.stick, name=LONG[:40], parts=[("peppermint", Decimal(1))])
        Formula.objects.filter(pk=self.stick.pk).update(name=LONG[:80], notes=LONG * 4)
        wax = pantry.add_material(user, name=LONG[:80], group="wax", behaves_like="soy_wax", notes=LONG)
        pantry.buy_lot(user, material=wax.slug, amount_g=Decimal(50), bought_on=date(2026, 5, 1), note=LONG)
        User.objects.filter(pk=user.pk).update(is_staff=True)
        self.other = User.objects.create_user(LONG[:22])
        OwnContainer.objects.update(name=LONG[:80])
        Vessel.objects.create(owner=user, name=LONG[:60], brim_ml=900.0)
        add_deadline(
            user,
            self.stick,
            what_for=LONG[:80],
            needed_on=date(2090, 1, 1),
            count=40,
            today=date(2026, 1, 1),
        )

    def addresses(self) -> list[str]:
        """Return every kind of page."""
        version = self.stick.versions.order_by("-number")[0]
        of = f"/formulas/{self.stick.pk}/"
        here = f"{of}v/{version.number}/"
        line = version.lines.first()
        weighing = next(p for p in Pour.objects.all() if p.is_weighing)
        done = f"/pours/{self.poured.pk}/"
        pages = ["/", "/formulas/", "/formulas/new/", "/formulas/paste/", "/formulas/import/", "/pours/"]
        pages += [of, f"{of}?why=room", f"{of}details/", f"{of}versions/", f"{of}pours/", f"{of}next/"]
        pages += [f"{of}story/"]
        pages += [
            here + page
            for page in ("amounts/", "without/", "finishes/", "seasons/", "copy/", "sheet/", "recipe/")
        ]
        pages += [here + page for page in ("target/", "map/", "fill/", "fill/sheet/", "vary/")]
        pages += [f"{here}lines/{line.key}/swap/", f"{here}without/?without=bee"]
        pages += [f"{here}map/?wax=28&butter=42&oil=30", f"{here}target/?rung=9.9"]
        pages += [f"/formulas/{self.formula('Bow-light gloss').pk}/v/1/finishes/?pot=240"]
        pages += [done + page for page in ("", "run/", "check/", "press/", "card/", "labels/", "pieces/")]
        pages += [f"/pours/{weighing.pk}/", f"/pours/{weighing.pk}/run/"]
        pages += [
            f"/labels/{LabelPrint.objects.get().pk}/",
            "/labels/sheets/",
            "/labels/rules/",
            "/deadlines/",
        ]
        pages += [
            "/calibration/",
            "/pours/import/",
            "/records/",
            "/settings/",
            "/settings/password/",
            "/first/",
        ]
        pages += [
            "/pantry/",
            "/pantry/making/",
            "/pantry/containers/",
            "/pantry/import/",
            "/packing/items/",
        ]
        pages += ["/pantry/materials/new/", f"/pantry/materials/{OwnMaterial.objects.latest('pk').slug}/"]
        lot = Lot.objects.latest("pk").pk
        pages += [f"/pantry/lots/{lot}/", f"/pantry/lots/{lot}/pours/", NOWHERE]
        pages += [f"/compare/?pour={self.poured.pk}&pour={Pour.objects.get(code='HL-02').pk}"]
        pages += ["/help/", "/help/rancid/", "/away/", f"{here}series/", here]
        pages += [f"/pantry/containers/{OwnContainer.objects.latest('pk').pk}/"]
        pages += [f"/pantry/making/{Infusion.objects.latest('pk').pk}/"]
        pages += self.made()
        pages += [f"/pantry/materials/{OwnMaterial.objects.latest('pk').slug}/correct/"]
        pages += [f"/pours/{weighing.pk}/route/", "/household/", f"/household/{self.other.pk}/password/"]
        return pages

    def made(self) -> list[str]:
        """Return a rendering, and a flare-up that is traced."""
        user = self.stick.owner
        comb = pantry.start_rendering(user, kind="comb", raw_g=Decimal(90), started_on=date(2026, 5, 1))
        flared = record_check(user, self.poured, temp_c=21.0, felt_rung=None, signs={"flare_up": "1"})
        reaction = trace_reaction(user, flared, suspects=["peppermint", "lanolin"])
        return [f"/pantry/rendering/{comb.pk}/", f"/reactions/{reaction.pk}/"]

    @override_settings(DEMO=False)
    def test_nothing_goes_sideways_or_fades(self) -> None:
        addresses = self.addresses()
        walked = {resolve(told.split("?")[0]).view_name for told in addresses if told != NOWHERE}
        self.assertEqual(PAGES - walked, set())
        wide, small, no_keypad, faint, parted, covered, words = [], [], [], [], [], [], 0
        for address in addresses:
            page = self.open(address)
            for width in WIDTHS:
                page.set_viewport_size({"width": width, "height": 844})
                over = page.evaluate(
                    "document.documentElement.scrollWidth - document.documentElement.clientWidth"
                )
                if over > 0:
                    wide.append(f"{address} at {width}: {over} px")
                if width in PARTED_AT:
                    self.settled(page)
                    parted += [f"{address} at {width}: {told}" for told in page.evaluate(PARTED)]
                if width == READ_AT:
                    self.assert_accessible(page)
                    covered += [f"{address}: {told}" for told in page.evaluate(COVERED)]
                    small += [f"{address}: {told}" for told in page.evaluate(SMALL)]
                    no_keypad += [f"{address}: {name}" for name in page.evaluate(KEYPAD)]
            # A reader's own high contrast, dark and light, reaches the words of pictures too.
            for scheme in ("dark", "light"):
                page.emulate_media(forced_colors="active", color_scheme=scheme)  # type: ignore[arg-type]
                faint += [f"{address}, {scheme}: {told}" for told in page.evaluate(FAINT)]
            page.emulate_media(forced_colors="none", color_scheme="light")
            words += page.locator("svg text").count()
        # A page that is not there is an answer of its own, which a browser mentions.
        self.complaints = [said for said in self.complaints if "404" not in said]
        self.assertEqual(wide, [])
        self.assertEqual(no_keypad, [])
        self.assertEqual(small, [])
        self.assertEqual(parted, [])
        self.assertEqual(covered, [])
        self.assertEqual(faint, [])
        self.assertGreater(words, 100)

    def test_what_a_phone_was_asked_for_is_on_its_screen(self) -> None:
        """Boxes and buttons of a recipe that was read and of what can stand in: none beside the screen."""
        page = self.phone()
        self.open("/formulas/paste/", page)
        page.get_by_label("One material per line").tap()
        page.keyboard.type("20 g beeswax\n1/2 cup olive oil\n20 drops lavender\n3 g moon dust")
        page.get_by_role("button", name="Read recipe").tap()
        expect(page.get_by_label("g for 20 g beeswax")).to_be_in_viewport()
        self.assertEqual(page.evaluate(BESIDE), [])
        self.assert_accessible(page)
        line = self.stick.versions.order_by("-number")[0].lines.get(material="beeswax_yellow")
        number = self.stick.versions.count()
        self.open(f"/formulas/{self.stick.pk}/v/{number}/lines/{line.key}/swap/", page)
        self.assertEqual(page.evaluate(BESIDE), [])
        self.open(f"/formulas/{self.stick.pk}/v/{number}/without/", page)
        page.get_by_role("button", name="bee products").tap()
        expect(page.locator(".reading .big-number")).to_be_in_viewport()

    def test_type_of_twice_the_size(self) -> None:
        """Whoever reads with larger type gets the pages of a narrower screen, nothing cut or sideways."""
        large = browser("--blink-settings=defaultFontSize=32").new_context(
            viewport={"width": 1280, "height": 800},
            storage_state=self.open("/").context.storage_state(),
            service_workers="block",
        )
        self.addCleanup(large.close)
        page = large.new_page()
        for address in self.addresses():
            page.goto(self.live_server_url + address)
            size = page.evaluate("parseFloat(getComputedStyle(document.body).fontSize)")
            self.assertGreaterEqual(size, 32.0, address)
            over = page.evaluate(
                "document.documentElement.scrollWidth - document.documentElement.clientWidth"
            )
            self.assertLessEqual(over, 0, address)
