"""What a maker is told is told in the units of the bench, whoever says it."""

from __future__ import annotations

import re
from datetime import date
from decimal import Decimal
from html import unescape
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from calmtin.accounts.models import Bench
from calmtin.core.errors import UnreadableNumber
from calmtin.core.limits import LOT_G
from calmtin.core.units import read_number
from calmtin.pantry.services.lots import buy_lot
from calmtin.pours.models import Pour
from calmtin.pours.services import weigh
from tests.bench_data import Reads, draft, maker, pour_of, salve

IN_GRAMS = re.compile(r"\d ?g\b|°C")


class InDigits(Reads, TestCase):
    def test_a_limit_of_a_million_is_told_in_digits(self) -> None:
        self.client.force_login(maker(), backend="django.contrib.auth.backends.ModelBackend")
        file = SimpleUploadedFile("pantry.csv", b"what,material,amount_g\nlot,olive_oil,\n")
        self.assertContains(self.client.post("/pantry/import/", {"file": file}), "from 0.01 to 1,000,000 g")
        data = {"amount": "2000000 g", "bought_on": "2026-05-01"}
        page = self.client.post("/pantry/materials/olive_oil/", data)
        self.assertContains(page, "A lot must be from 0.01 to 1,000,000 g")
        with self.assertRaisesMessage(UnreadableNumber, "cannot be above 1000000. Type a number from 0.01"):
            read_number("3000000", name="A lot", low=0.01, high=LOT_G[1])


class InOuncesAndFahrenheit(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        Bench.objects.filter(user=self.user).update(scale_step="0.01oz", temperature_unit="F")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.formula = salve(self.user)
        self.version = draft(self.formula)

    def says(self, page: Any, *words: str) -> None:
        """Hold that a page says `words`, and nothing in grams or Celsius but what is quoted."""
        for each in words:
            self.assertContains(page, each)
        told = re.findall(r'class="(?:wrong|alert|notice)[^>]*>(.*?)</', page.content.decode(), re.DOTALL)
        for sentence in told:
            self.assertIsNone(IN_GRAMS.search(re.sub("“[^”]*”", "", unescape(sentence))), sentence)

    def test_drops_that_the_scale_rounds_to_nothing_are_told_where_they_are_weighed(self) -> None:
        Bench.objects.filter(user=self.user).update(scale_step="0.1oz")
        formula = salve(self.user, lines=[("beeswax_yellow", Decimal(99)), ("peppermint", Decimal(1))])
        plan = {"way": "pot", "pot": "0.7", "container_0": "lip_tube_standard"}
        self.client.post(f"/formulas/{formula.pk}/v/1/fill/", plan)
        pour = Pour.objects.latest("pk")
        drops = pour.lines.get(material="peppermint")
        self.assertEqual(drops.planned_g, 0)
        self.assertContains(self.client.get(f"/pours/{pour.pk}/"), "about 4 drops")

    def test_what_the_scale_cannot_have_said(self) -> None:
        pour = pour_of(self.user, self.version)
        line = pour.lines.get(material="olive_oil")
        page = self.client.post(f"/pours/{pour.pk}/weigh/{line.position}/", {"grams": "300", "after": "0"})
        self.says(page, "300 oz is far more than the", "far more than the planned")
        page = self.client.post(
            f"/pours/{pour.pk}/weigh/{line.position}/", {"grams": "5 parts", "after": "0"}
        )
        self.says(page, "Type a weight, such as “29.8 g” or “2 oz”.")

    def test_what_a_pour_cannot_have_given(self) -> None:
        pour = pour_of(self.user, self.version, done=True)
        page = self.client.post(f"/pours/{pour.pk}/count/", {"left_g": "90", "count_0": "2", "each_0": "1"})
        self.says(page, "oz is more than the", "oz in the pot")

    def test_a_lot_that_weighed_more(self) -> None:
        lot = buy_lot(self.user, material="olive_oil", amount_g=Decimal(500), bought_on=date(2026, 5, 1))
        pour = pour_of(self.user, self.version)
        weigh(self.user, pour.lines.get(material="olive_oil"), Decimal("56.7"), lot=lot)
        data = {"act": "fix", "fix-amount_g": "1", "fix-bought_on": "2026-05-01", "fix-reason": "a slip"}
        page = self.client.post(f"/pantry/lots/{lot.pk}/", data)
        self.says(page, "2 oz of it have been used")
        data = {"amount": "1 lb", "bought_on": "2026-05-01"}
        page = self.client.post("/pantry/materials/olive_oil/", data, follow=True)
        self.says(page, "On the shelf: 16 oz")

    def test_a_plan_beyond_any_pot(self) -> None:
        plan = {"way": "containers", "container_0": "jar_250ml", "count_0": "400"}
        self.says(
            self.client.get(f"/formulas/{self.formula.pk}/v/1/fill/", plan),
            "oz. Plan at most 1763.7 oz",
        )
