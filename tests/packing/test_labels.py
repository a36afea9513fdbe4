"""From a pour that was made to labels on paper, and where its pieces went."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from io import BytesIO

from django.core.exceptions import PermissionDenied
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from PIL import Image
from pypdf import PdfReader

from calmtin.accounts.models import Bench, User
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.packing.layout import Shape, Sheet, fit, plain_sheets
from calmtin.exchange.demo import load_demo
from calmtin.packing.adapters import label_text, printed
from calmtin.packing.models import LabelPrint, LabelText, PieceGone
from calmtin.packing.queries.deadlines import needs_of
from calmtin.packing.queries.pieces import pieces_view
from calmtin.packing.queries.trace_lot import pours_with
from calmtin.packing.services import (
    add_deadline,
    count_hours,
    keep_label_sheet,
    print_labels,
    send_pieces,
    undo_piece,
)
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import buy_lot
from calmtin.pantry.services.materials import set_own_figures
from calmtin.pictures.labels import LABEL_QUIET, label_type, pages_of, to_pdf, to_png
from calmtin.pictures.qr import qr_code
from calmtin.pours.adapters.filled import filled_of
from calmtin.pours.models import Pour
from calmtin.pours.services import keep_leftovers, record_yield
from tests.bench_data import Reads, draft, maker, pour_of, salve

MM = 72.0 / 25.4
BOTTLE = "Tocopherol (and) Helianthus Annuus (Sunflower) Seed Oil"


class Poured(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        Bench.objects.filter(user=self.user).update(
            label_maker="Tern Quay", currency="£", hour_costs=12, label_costs=Decimal("0.20"), margin_pct=50
        )
        self.user.refresh_from_db()
        set_own_figures(self.user, "tocopherols_50", inci=BOTTLE)
        self.lot = buy_lot(
            self.user,
            material="beeswax_yellow",
            amount_g=Decimal(500),
            price=Decimal(20),
            bought_on=date(2026, 1, 1),
        )
        self.formula = salve(self.user)
        self.pour = pour_of(self.user, draft(self.formula), done=True)
        self.place = self.pour.fillings.get().position
        self.client.force_login(self.user)

    def weigh_pieces(self, *grams: str) -> None:
        each = self.pour.fillings.get().each_g
        record_yield(
            self.user,
            self.pour,
            filled_g=2 * each,
            left_g=Decimal(1),
            pieces={self.place: [each + Decimal(g) for g in grams]},
            counts={self.place: 2},
        )

    def printed(self, **changed: object) -> LabelPrint:
        asked = {"position": self.place, "name": "Thole pin", "sheet": "a4-round-50x50", "count": 2}
        return print_labels(self.user, self.pour, **asked | changed)


class ForOneself(Poured):
    def test_a_name_and_a_date_print_at_once_whatever_the_bottle_says(self) -> None:
        set_own_figures(self.user, "tocopherols_50", inci="")  # a label for others asks for the bottle
        Bench.objects.filter(user=self.user).update(label_maker="")
        address = f"/pours/{self.pour.pk}/labels/"
        page = self.client.get(address)
        self.assertContains(page, 'name="for" value="own" checked')
        self.assertContains(page, 'value="Firm salve"')
        self.assertNotContains(page, "A label must name its maker")
        sent = {"name": "Thole pin", "what": "Hand salve", "for": "own", "sheet": "a4-round-40x40"}
        self.client.post(address, {**sent, "position": self.place, "count": "2", "first": "1"})
        row = LabelPrint.objects.get()
        _, label, pages = printed(row)
        words = PdfReader(BytesIO(to_pdf(pages, title="x"))).pages[0].extract_text()
        self.assertEqual(words.count("Hand salve"), 2)
        self.assertNotIn("Cera Alba", words)
        self.assertEqual(label.form, "own")
        # The next labels of the formula begin as these were; what leaves the house needs more.
        self.assertContains(self.client.get(address), 'name="for" value="own" checked')
        self.assertNotContains(self.client.get(f"/pours/{self.pour.pk}/pieces/"), "print full labels")
        send_pieces(
            self.user, self.pour, position=self.place, went="given", count=1, on=timezone.localdate()
        )
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/pieces/"), "print full labels")
        self.assertContains(self.client.get(f"{address}?for=others"), "Check the bottle")

    def test_a_code_is_printed_once_the_bench_has_an_address_and_leads_to_the_pour(self) -> None:
        address = f"/pours/{self.pour.pk}/labels/"
        self.assertContains(self.client.get(address), "enter the address of this bench")
        Bench.objects.filter(user=self.user).update(label_address="https://192.168.0.7:8443/")
        self.user.refresh_from_db()
        page = self.client.get(address)
        self.assertContains(page, 'class="scan-code"')
        self.assertNotContains(page, "enter the address of this bench")
        _, label, pages = printed(self.printed(sheet="a4-rectangle-64x34"))
        [code] = [run for run in label.runs if run.is_scan]
        self.assertEqual(code.text, f"https://192.168.0.7:8443/pours/{self.pour.pk}/scan/")
        paper = Image.open(BytesIO(to_png(to_pdf(pages, title="x"))))
        x, y, _ = pages[0].placed[0]
        qr = qr_code(code.text, quiet=LABEL_QUIET)
        side = qr.width
        dots = {
            (column, row)
            for column in range(side)
            for row in range(side)
            if paper.getpixel(
                tuple(
                    int((at + (n + 0.5) * code.width / side) * 300 / 25.4)
                    for at, n in ((x + code.x, column), (y + code.top, row))
                )
            )
            < 128
        }
        dark = {(a + n, b) for a, b, length in qr.dark for n in range(length)}
        self.assertEqual(dots, dark)
        here = f"/pours/{self.pour.pk}/"
        self.assertRedirects(self.client.get(f"{here}scan/"), here)
        on_a_phone = self.client.get(f"{here}scan/", HTTP_USER_AGENT="Mozilla/5.0 (Android) Mobile")
        self.assertRedirects(on_a_phone, f"{here}check/")


class Labels(Poured):
    def test_a_sheet_from_the_third_label_on_is_at_its_true_size(self) -> None:
        row = self.printed(count=15, first=3)
        _, _, pages = printed(row)
        self.assertEqual([len(page.placed) for page in pages], [13, 2])
        pdf = PdfReader(BytesIO(to_pdf(pages, title="x")))
        for page in pdf.pages:
            self.assertAlmostEqual(float(page.mediabox.width), 210 * MM, places=2)
            self.assertAlmostEqual(float(page.mediabox.height), 297 * MM, places=2)
        words = pdf.pages[0].extract_text()
        self.assertEqual(words.count(self.pour.code), 13)
        for said in ("Thole pin", "Cera Alba", "Tern Quay", "bee products"):
            self.assertEqual(words.count(said), 13, said)

    def test_every_word_is_on_the_paper_at_25_mm_round(self) -> None:
        row = self.printed(sheet="a4-round-25x25", count=2)
        _, label, pages = printed(row)
        self.assertIn(label.form, ("slip", "least"))
        self.assertIn("would be too small to read", label.says)
        first, slip = (p.extract_text() for p in PdfReader(BytesIO(to_pdf(pages, title="x"))).pages)
        for run in label.runs:
            self.assertIn(run.text.replace("\u00a0", " "), first.replace("\u00a0", " "))
        self.assertIn("Cera Alba (Beeswax)", " ".join(slip.split()))

    def test_the_picture_is_the_print(self) -> None:
        row = self.printed()
        answer = self.client.get(reverse("packing:label_png", args=[row.pk]))
        picture = Image.open(BytesIO(answer.content))
        self.assertEqual(picture.size, (2481, 3508))  # A4 at 300 dpi
        # Ink within the first label, none beside it.
        sheet = plain_sheets()["a4-round-50x50"]
        dots = 300 / 25.4
        left, top = sheet.left_mm * dots, sheet.top_mm * dots
        self.assertLess(picture.crop((left, top, left + 50 * dots, top + 50 * dots)).getextrema()[0], 80)
        self.assertEqual(picture.crop((0, 0, left, 3508)).getextrema()[0], 255)
        svg = self.client.get(reverse("packing:label_svg", args=[row.pk]))
        self.assertEqual(svg["Content-Type"], "image/svg+xml")
        self.assertContains(svg, 'width="210.0mm"')
        self.assertContains(svg, ">Thole pin</text>", count=2)
        pdf = self.client.get(reverse("packing:label_pdf", args=[row.pk]))
        self.assertTrue(pdf.content.startswith(b"%PDF"))

    def test_what_was_printed_stays_as_it_was(self) -> None:
        row = self.printed(note="Tar scent.")
        before = self.client.get(reverse("packing:label_pdf", args=[row.pk])).content
        self.printed(name="Thole pin, new", note="")
        Bench.objects.filter(user=self.user).update(label_maker="Somebody else")
        self.assertEqual(self.client.get(reverse("packing:label_pdf", args=[row.pk])).content, before)
        with self.assertRaises(PermissionDenied):
            row.save()
        self.assertEqual(LabelText.objects.get(formula=self.formula).name, "Thole pin, new")

    def test_claims_are_refused_beside_their_box_with_the_rest_kept(self) -> None:
        address = reverse("packing:labels", args=[self.pour.pk])
        typed = {"position": self.place, "name": "Thole pin", "use": "Heals cracked hands", "note": "x1"}
        typed |= {"count": 2, "first": 1, "sheet": "a4-round-50x50"}
        page = self.client.post(address, typed)
        self.assertContains(page, 'id="use-wrong"')
        self.assertContains(
            page, "“Heals” is a claim. Oils and butters are neither medicine nor sunscreen."
        )
        self.assertContains(page, 'value="x1"')
        self.assertFalse(LabelPrint.objects.exists())
        with self.assertRaises(CalmTinError) as caught:
            self.printed(use="Heals cracked hands")
        self.assertEqual(caught.exception.field, "use")

    def test_what_only_the_bottle_says_has_to_be_read_first(self) -> None:
        set_own_figures(self.user, "tocopherols_50", inci="")
        with self.assertRaisesMessage(
            CalmTinError, "Check the bottle: Calm Tin doesn’t know everything in Tocopherols"
        ):
            self.printed()
        page = self.client.get(reverse("packing:labels", args=[self.pour.pk]))
        self.assertContains(page, "Check the bottle: it lists everything in")
        self.assertContains(page, "disabled>Print")
        # From there to the material, and back once it is written down.
        labels = reverse("packing:labels", args=[self.pour.pk])
        there = f"/pantry/materials/tocopherols_50/?back={labels}"
        self.assertContains(page, f"{there}#own")
        self.assertContains(self.client.get(there), f'name="back" value="{labels}"')
        told = {"own_figures": "yes", "inci": "Tocopherol (and) Helianthus Annuus Seed Oil"}
        self.assertRedirects(self.client.post(there, {**told, "back": labels}), labels)
        away = self.client.post(there, {**told, "back": "//evil.example/"})
        self.assertRedirects(away, "/pantry/materials/tocopherols_50/")

    def test_where_degrees_are_fahrenheit_the_paper_is_letter(self) -> None:
        labels = reverse("packing:labels", args=[self.pour.pk])
        self.assertContains(self.client.get(labels), '<option value="a4-round-50x50" selected')
        Bench.objects.update(temperature_unit="F")
        self.assertContains(self.client.get(labels), '<option value="letter-round-50x50" selected')

    def test_the_net_weight_is_that_of_the_lightest_that_counts(self) -> None:
        self.weigh_pieces("0.4", "-0.3", "-9")
        (filled,) = filled_of(self.pour)
        each = float(self.pour.fillings.get().each_g)
        self.assertAlmostEqual(filled.net_g, each - 0.3, places=6)
        self.assertEqual(len(filled.light), 1)
        page = self.client.get(reverse("packing:labels", args=[self.pour.pk]))
        self.assertContains(page, "1 of 3 weighed is too light")

    def test_a_sheet_of_ones_own(self) -> None:
        grid = {"name": "odd ones", "page": "a4", "kind": "rectangle", "width_mm": "70", "height_mm": "36"}
        grid |= {
            "columns": "3",
            "rows": "8",
            "left_mm": "0",
            "top_mm": "4.5",
            "across_mm": "70",
            "down_mm": "36",
        }
        address = reverse("packing:label_sheets")
        wrong = self.client.post(address, grid | {"across_mm": "71"})
        self.assertContains(wrong, "The last column ends at 212 mm, but the page is 210 mm wide.")
        self.client.post(address, grid)
        (row,) = self.user.label_sheets.all()
        made = self.printed(sheet=row.slug, first=24, count=2)
        self.assertEqual([len(page.placed) for page in printed(made)[2]], [1, 1])
        with self.assertRaisesMessage(CalmTinError, "The sheet has labels 1 to 24."):
            self.printed(sheet=row.slug, first=25)
        sheet = Sheet("odd ones", 210.0, 297.0, Shape("round", 20.0, 20.0), 1, 1, 0.0, 0.0, 20.0, 20.0)
        with self.assertRaisesMessage(CalmTinError, "There is already a sheet called odd ones."):
            keep_label_sheet(self.user, sheet=sheet)

    def test_a_card_to_fold_tells_what_was_printed_and_who_has_it(self) -> None:
        self.printed()
        send_pieces(
            self.user, self.pour, position=self.place, went="given", count=1, who="bow", on=date(2026, 6, 1)
        )
        self.assertContains(
            self.client.get(reverse("packing:card", args=[self.pour.pk])), "1 given away, bow"
        )
        told = self.client.get(reverse("packing:card_file", args=[self.pour.pk])).json()
        self.assertEqual([entry["who"] for entry in told["went"]], ["bow"])
        self.assertEqual(told["printed"][0]["text"]["name"], "Thole pin")


class DemoLabels(TestCase):
    def test_every_label_fits_or_says_why(self) -> None:
        load_demo(with_season=False)
        user = User.objects.get()
        shelf, bench = shelf_for(user), user.bench
        forms = set()
        for pour in Pour.objects.filter(poured_at__isnull=False):
            for filled in filled_of(pour):
                name = pour.version.formula.name
                text, _ = label_text(pour, shelf, bench, filled, name=name, use="", note="", naming="both")
                for slug, sheet in plain_sheets().items():
                    with self.subTest(pour=pour.code, sheet=slug):
                        try:
                            label = fit(text, sheet.shape, label_type())
                        except DoesNotFit as refused:
                            self.assertIn("Choose a larger label", refused.sentence)
                            continue
                        forms.add(label.form)
                        self.assertTrue(label.says)
                        self.assertEqual(label.slip is not None, label.form in ("slip", "least"))
        self.assertEqual(forms, {"full", "short", "slip", "least"})
        png = to_png(to_pdf(pages_of(sheet, label, 1, 1), title="x"))
        self.assertTrue(png.startswith(b"\x89PNG"))


class Pieces(Poured):
    def send(self, went: str, count: int, **more: object) -> PieceGone:
        return send_pieces(
            self.user, self.pour, position=self.place, went=went, count=count, on=date(2026, 6, 1), **more
        )

    def test_no_more_than_there_are_go_and_an_entry_can_be_taken_back(self) -> None:
        gone = self.send("sold", 2, price=Decimal("6.50"), who="fair")
        with self.assertRaisesMessage(DoesNotFit, "Only 0 of the 2 are left."):
            self.send("kept", 1)
        undo_piece(self.user, gone)
        with self.assertRaisesMessage(CalmTinError, "already undone"):
            undo_piece(self.user, gone)
        self.send("kept", 2)
        view = pieces_view(Pour.objects.get(pk=self.pour.pk), self.user.bench)
        self.assertEqual((view.left, view.taken_in), (0, 0))
        self.assertEqual(PieceGone.objects.count(), 3)  # all of it stays on record
        with self.assertRaisesMessage(CalmTinError, "Only pieces that were sold have a price."):
            self.send("given", 1, price=Decimal(1))

    def test_price_by_hand(self) -> None:
        count_hours(self.user, self.pour, hours=Decimal("0.5"))
        self.pour.refresh_from_db()
        wax_g = self.pour.lines.get(material="beeswax_yellow").planned_g
        (row,) = pieces_view(self.pour, self.user.bench).rows
        # The wax at 0.04 a gram and half an hour at 12 shared by two, a label; half of it is margin.
        costs = (wax_g * Decimal("0.04") / 2 + Decimal("0.20") + 3).quantize(Decimal("0.01"))
        self.assertEqual(row.price.costs, costs)
        self.assertAlmostEqual(row.price.asked, 2 * costs, delta=Decimal("0.02"))
        page = self.client.get(reverse("packing:pieces", args=[self.pour.pk]))
        self.assertContains(page, f"<strong>£{row.price.asked}</strong>")
        self.assertContains(page, "The cost is incomplete")

    def test_light_ones_are_to_be_set_aside(self) -> None:
        self.weigh_pieces("0", "-9")
        page = self.client.get(reverse("packing:pieces", args=[self.pour.pk]))
        self.assertContains(page, "1 weighed too light. Keep it for yourself.")
        self.send("aside", 1)
        page = self.client.get(reverse("packing:pieces", args=[self.pour.pk]))
        self.assertNotContains(page, "weighed too light")

    def test_a_count_that_cannot_be_is_told_beside_its_box(self) -> None:
        address = reverse("packing:pieces", args=[self.pour.pk])
        typed = {"position": self.place, "count": "9", "went": "given", "who": "bow", "on": "2026-06-01"}
        page = self.client.post(address, typed)
        self.assertContains(page, "Only 2 of the 2 are left.")
        self.assertContains(page, 'value="bow"')

    def test_from_a_rancid_lot_to_every_piece_also_by_what_was_left_over(self) -> None:
        self.send("given", 1, who="the women’s eight")
        left = keep_leftovers(self.user, self.pour, left_g=Decimal(40), today=date(2026, 6, 1))
        lines = [(left.material, Decimal(50)), ("olive_oil", Decimal(50))]
        other = pour_of(self.user, draft(salve(self.user, "Second life", lines)), done=True)
        found = {item.pour: item for item in pours_with(self.user, self.lot)}
        self.assertEqual(set(found), {self.pour, other})
        wax_g = self.pour.lines.get(material="beeswax_yellow").planned_g
        self.assertEqual((found[self.pour].grams, found[self.pour].left), (wax_g, 1))
        self.assertEqual(found[other].by, f"in the leftovers of {self.pour.code}")
        page = self.client.get(reverse("packing:of_lot", args=[self.lot.pk]))
        self.assertContains(page, "1 given away, the women’s eight")
        self.assertContains(page, "2 pours")


class ReadyBy(Poured):
    def need(self, days: int, **more: object) -> object:
        today = timezone.localdate()
        asked = {"what_for": "the fair", "count": 2, "today": today} | more
        return add_deadline(self.user, self.formula, needed_on=today + timedelta(days=days), **asked)

    def views(self) -> list:
        return needs_of(self.user, shelf_for(self.user), self.user.bench, timezone.localdate())

    def test_the_way_back_from_the_day_and_what_its_pour_has_done(self) -> None:
        self.need(20)
        (view,) = self.views()
        self.assertEqual(view.next_step.slug, "pour")
        self.assertIsNone(view.pour)  # what was poured before it was asked for does not count
        pour = pour_of(self.user, draft(self.formula), done=True)
        (view,) = self.views()
        self.assertEqual((view.pour, view.next_step.slug), (pour, "check"))
        print_labels(
            self.user,
            pour,
            position=pour.fillings.get().position,
            name="Thole pin",
            sheet="a4-round-50x50",
            count=2,
        )
        (view,) = self.views()
        self.assertEqual(view.next_step.slug, "ready")

    def test_what_is_short_is_ordered_first_and_today_says_so(self) -> None:
        self.need(12, count=60)
        (view,) = self.views()
        self.assertEqual(view.next_step.slug, "buy")
        self.assertEqual([material.slug for material, _ in view.short], ["beeswax_yellow"])
        page = self.client.get(reverse("packing:deadlines"))
        self.assertContains(page, "Missing for")
        plan = f"/formulas/{self.formula.pk}/v/1/fill/?way=containers"
        self.assertContains(page, f"{plan}&amp;count=60")
        self.assertEqual(self.client.get(f"{plan}&count=60").context["view"].rows[0].count, "60")
        self.need(4, count=60)
        today = self.client.get(reverse("overview:today"))
        self.assertContains(today, "<strong>order missing ingredients now</strong>")
        self.assertContains(today, "6 days late")

    def test_an_infused_oil_that_is_not_on_the_shelf_is_infused_first(self) -> None:
        lines = [("beeswax_yellow", Decimal(20)), ("infused_oil", Decimal(80))]
        self.formula = salve(self.user, "Calendula salve", lines)
        self.need(60)
        (view,) = self.views()
        self.assertEqual([step.slug for step in view.way.steps][:2], ["infuse", "pour"])
        self.assertContains(self.client.get(reverse("overview:today")), "start the infusion")

    def test_two_never_pour_on_one_day_and_all_days_are_in_the_calendar(self) -> None:
        self.need(20)
        self.need(20)
        days = {view.way.on("pour") for view in self.views()}
        self.assertEqual(len(days), 2)
        calendar = self.client.get(reverse("overview:calendar")).content.decode()
        self.assertEqual(calendar.count("SUMMARY:Pour: Thole pin salve"), 2)
        for day in days:
            self.assertIn(f"DTSTART;VALUE=DATE:{day:%Y%m%d}", calendar)

    def test_a_day_that_is_past_is_refused_beside_its_box(self) -> None:
        typed = {"formula": self.formula.pk, "count": "3", "what_for": "a gift", "needed_on": "2026-01-01"}
        page = self.client.post(reverse("packing:deadlines"), typed)
        self.assertContains(page, "Choose a day in the future.")
        self.assertContains(page, 'value="a gift"')
        page = self.client.post(
            reverse("packing:deadlines"), typed | {"needed_on": "2099-01-01"}, follow=True
        )
        self.assertContains(page, "3 for a gift")
        need = self.user.needs.get()
        page = self.client.post(reverse("packing:deadline_remove", args=[need.pk]), follow=True)
        self.assertContains(page, "No deadlines yet.")


class Recipe(Poured):
    def test_a_recipe_to_send_is_plain_text(self) -> None:
        answer = self.client.get(reverse("formulas:recipe_text", args=[self.formula.pk, 1]))
        self.assertEqual(answer["Content-Type"], "text/plain; charset=utf-8")
        text = answer.content.decode()
        for said in (
            "18.0 g  Beeswax, yellow (18.0 %)",
            "together 100.0 g",
            "2. Melt the wax.",
            "Patch test",
        ):
            self.assertIn(said, text)
        card = self.client.get(reverse("formulas:recipe", args=[self.formula.pk, 1]))
        self.assertContains(card, "by Tern Quay")
        self.assertNotContains(card, "Too little for your scale")

    def test_rules_of_the_place_say_who_decides(self) -> None:
        self.assertContains(self.client.get(reverse("packing:rules")), "your authority decides.")
