"""A closed pour says what it said, whatever is corrected, renamed or set otherwise afterwards."""

from __future__ import annotations

import json
import re
from decimal import Decimal
from typing import Any

import lxml.html
from django.test import TestCase
from django.urls import reverse

from calmtin.accounts.models import Bench
from calmtin.formulas.services import rename
from calmtin.pantry import services as pantry
from calmtin.pantry.models import Lot
from calmtin.pours.models import Closing, Pour
from calmtin.pours.services import add_to_pot, correct_weight
from calmtin.pours.services.closing import keep_missing_closings
from tests.bench_data import Reads, draft, past_stops, pour_of, salve
from tests.exchange.test_records import InAFolder
from tests.whole_bench import DAY, whole_bench


class Closed(InAFolder, Reads, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.user = whole_bench("stroke")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        # One more, of everything that a maker can know better: an own wax, an own figure, an own tin.
        self.own = self.user.ownmaterial_set.get(name="Reed bed wax")
        lot = {"amount_g": Decimal(500), "bought_on": DAY, "price": Decimal("6.60")}
        pantry.buy_lot(self.user, material=self.own.slug, **lot)
        self.formula = salve(
            self.user, "Slipway foot balm", [(self.own.slug, Decimal(25)), ("olive_oil", Decimal(74)),
                                             ("tocopherols_50", Decimal(1))],
        )  # fmt: skip
        self.pour = pour_of(self.user, draft(self.formula), done=True)
        self.codes = ["OH-01", self.pour.code]

    def said(self) -> dict[str, Any]:
        """Return all that pages, cards and files say of the closed pours, forms left out."""
        told: dict[str, Any] = {}
        for pour in Pour.objects.filter(owner=self.user, code__in=self.codes):
            for name in ("pours:pour", "packing:card"):
                told[f"{pour.code} {name.partition(':')[2]}"] = self.words(reverse(name, args=[pour.pk]))
            card = self.client.get(reverse("packing:card_file", args=[pour.pk]))
            told[f"{pour.code} json"] = json.loads(card.content)
        for row in self.client.get("/pours.csv").getvalue().decode().splitlines():
            code = next((code for code in self.codes if f",{code}," in row), "")
            if code:
                told[f"{code} csv {row[:0]}{len(told)}"] = row
        return told

    def words(self, address: str) -> str:
        page = lxml.html.fromstring(self.client.get(address).content.decode())
        main = page.get_element_by_id("main")
        for form in main.xpath(".//form | .//details | .//*[@data-now]"):
            form.drop_tree()
        return re.sub(r"\s+", " ", main.text_content())

    def edit_every_master(self) -> None:
        user = self.user
        pantry.set_own_figures(
            user, "tocopherols_50", inci="Something Else", density=0.5, strength_pct=40.0, limit_pct=0.1
        )
        facts = {
            "inci": "Reed Cera",
            "strength_pct": 40.0,
            "allergens": "soy",
            "vegan": False,
            "density": 2.0,
        }
        pantry.correct_material(
            user,
            self.own,
            reason="all wrong",
            name="Sedge wax",
            group="butter",
            behaves_like="cocoa_butter",
            **facts,
        )
        for formula in user.formulas.all():
            rename(
                user, formula, name=f"{formula.name}, renamed", kind="gloss", audience="child_2_to_6_years"
            )
        for lot in Lot.objects.of(user).filter(voided_at=None):
            pantry.correct_lot(
                user, lot, reason="all wrong", price=Decimal(33), best_before=DAY.replace(year=2027),
                bought_on=DAY.replace(month=4),
            )  # fmt: skip
        tin = user.owncontainer_set.get()
        pantry.correct_container(
            user, tin, reason="all wrong", name="Bucket", brim_ml=999.0, price=Decimal(9)
        )
        Bench.objects.filter(user=user).update(
            room_c=30.0, cold_c=-5.0, hot_c=60.0, cold_name="loft", hot_name="kiln", currency="€",
            hour_costs=90, label_costs=9, margin_pct=90,
        )  # fmt: skip

    def test_every_page_card_and_file_is_as_it_was(self) -> None:
        before = self.said()
        self.assertGreaterEqual(len(before), 8)
        self.assertIn("Reed bed wax", before[f"{self.pour.code} card"])
        self.edit_every_master()
        after = self.said()
        for name, told in before.items():
            now = after[name].replace(" (now called Slipway foot balm, renamed)", "").replace(
                " (now called Oarlock hand salve, renamed)", ""
            ) if isinstance(told, str) else after[name]  # fmt: skip
            self.assertEqual(now, told, name)
        page = self.client.get(reverse("pours:pour", args=[self.pour.pk]))
        self.assertContains(page, "(now called Slipway foot balm, renamed)")
        # Labels that are printed anew have the corrected names.
        labels = self.client.get(reverse("packing:labels", args=[self.pour.pk]), {"for": "others"})
        self.assertContains(labels, "Reed Cera")

    def test_a_correction_of_the_pot_itself_shows_with_the_prices_of_then(self) -> None:
        closing = Closing.objects.get(pour=self.pour)
        planned, made = closing.planned, closing.made
        self.edit_every_master()
        line = self.pour.lines.get(material=self.own.slug)
        correct_weight(self.user, line, line.planned_g + 2, reason="misread")
        more = {"material": "coconut_rbd", "grams": Decimal(3), "why": "drags"}
        past_stops(self.user, self.formula, lambda: add_to_pot(self.user, self.pour, **more))
        closing.refresh_from_db()
        self.assertEqual(closing.planned, planned)
        self.assertNotEqual(closing.made, made)
        self.assertEqual(closing.materials[self.own.slug]["name"], "Reed bed wax")
        self.assertIn("coconut_rbd", closing.materials)
        prices = dict(closing.lots.values_list("lot__material", "price"))
        self.assertEqual((prices[self.own.slug], prices["coconut_rbd"]), (Decimal("6.60"), Decimal(33)))

    def test_pours_closed_before_the_upgrade_keep_what_they_say_today(self) -> None:
        before = self.said()
        from calmtin.common.triggers import guards_open

        with guards_open("as a book of 1.0.2"):
            Closing.objects.all().delete()
        self.assertGreater(keep_missing_closings(), 1)
        self.assertEqual(keep_missing_closings(), 0)
        self.edit_every_master()
        after = self.said()
        self.assertEqual(after[f"{self.pour.code} json"], before[f"{self.pour.code} json"])

    def test_an_open_pour_and_a_rehearsal_keep_nothing_yet(self) -> None:
        started = pour_of(self.user, draft(self.formula))
        self.assertFalse(Closing.objects.filter(pour=started).exists())
        self.assertFalse(Closing.objects.filter(pour__stove__isnull=False).exists())
