"""The batch card, how long a pour keeps, and the way back from a lot to its pours."""

from __future__ import annotations

import json
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.test import TestCase
from django.utils import timezone

from calmtin.checks import services as checks_services
from calmtin.core.errors import CalmTinError
from calmtin.pantry.models import Lot
from calmtin.pantry.services.lots import buy_lot
from calmtin.pours import services
from calmtin.pours.models import Pour
from tests.bench_data import Reads, draft, maker, pour_of, salve


class BatchCard(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker("stroke")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.today = timezone.localdate()
        self.lot = self.bought("olive_oil", days=100)
        self.bought("beeswax_yellow", days=900)
        self.version = draft(salve(self.user))
        self.pour = pour_of(self.user, self.version, done=True)
        self.pour.refresh_from_db()

    def bought(self, slug: str, *, days: int) -> Lot:
        return buy_lot(
            self.user,
            material=slug,
            amount_g=Decimal(2000),
            bought_on=date(2026, 1, 1),
            best_before=self.today + timedelta(days=days),
        )

    def card(self) -> Any:
        return self.client.get(f"/pours/{self.pour.pk}/card/")

    def test_everything_of_a_pour_on_one_page_and_as_json(self) -> None:
        services.record_check(
            self.user,
            self.pour,
            temp_c=20.0,
            felt_rung=Decimal(5),
            verdict="keep",
            signs={"grain": 0},
            notes="Neat.",
        )
        checks_services.keep(self.user, self.pour)
        page = self.card()
        for words in (
            self.pour.code, "Cera Alba", "bought 1 Jan 2026", "felt 5.0, firm in the tin", "grain: smooth",
            "Neat.", "Olea Europaea (Olive) Fruit Oil, Cera Alba (Beeswax)", "Check the bottle",
            "The formula is kept as made in this pour.", "throw it away",
        ):  # fmt: skip
            self.assertContains(page, words)
        told = json.loads(self.client.get(f"/pours/{self.pour.pk}/card.json").content)
        self.assertEqual(
            (told["format"], told["version"], told["code"]), ("calmtin.pour", 1, self.pour.code)
        )
        self.assertAlmostEqual(sum(line["percent"] for line in told["lines"]), 100.0, delta=0.01)
        oil = next(line for line in told["lines"] if line["material"] == "olive_oil")
        self.assertEqual(oil["lot"]["number"], self.lot.pk)
        self.assertEqual(told["checks"][0]["signs"], {"grain": 0})
        self.assertTrue(told["kept"])
        self.assertEqual(told["keeps"]["best_before"], (self.today + timedelta(days=100)).isoformat())

    def test_the_lot_that_goes_first_sets_the_day_and_a_warm_place_shortens_it(self) -> None:
        self.assertEqual(self.pour.use_by, self.today + timedelta(days=100))
        self.assertContains(self.card(), "The lot of olive oil expires then")
        later = pour_of(self.user, draft(salve(self.user, "Of other lots")), done=True)
        Lot.objects.filter(pk=self.lot.pk).update(best_before=self.today + timedelta(days=900))
        self.client.post(f"/pours/{later.pk}/storage/", {"storage": "room"})
        room = Pour.objects.get(pk=later.pk).use_by
        self.client.post(f"/pours/{later.pk}/storage/", {"storage": "car"})
        car = Pour.objects.get(pk=later.pk).use_by
        self.assertLess(car, room)
        self.assertAlmostEqual((car - self.today).days / (room - self.today).days, 0.5, delta=0.02)
        with self.assertRaisesMessage(CalmTinError, "Choose how it is stored"):
            services.store_at(self.user, later, storage="attic")
        with self.assertRaisesMessage(CalmTinError, "Finish weighing to see"):
            services.store_at(self.user, pour_of(self.user, self.version), storage="car")

    def test_today_says_what_to_use_up(self) -> None:
        self.assertNotContains(self.client.get("/"), "Use up")
        Pour.objects.filter(pk=self.pour.pk).update(use_by=self.today + timedelta(days=20))
        today = self.client.get("/")
        self.assertContains(today, "Use up")
        self.assertContains(today, "crayons or old nuts")
        Pour.objects.filter(pk=self.pour.pk).update(use_by=self.today - timedelta(days=3))
        self.assertContains(self.client.get("/"), "was best before")

    def test_from_a_lot_to_every_pour_that_has_it_added_later_too(self) -> None:
        other = pour_of(self.user, draft(salve(self.user, "Added later")), done=True)
        lanolin = self.bought("lanolin", days=300)
        services.add_to_pot(self.user, other, material="lanolin", grams=Decimal(5))
        for lot, pours in ((self.lot, {self.pour.pk, other.pk}), (lanolin, {other.pk})):
            page = self.client.get(f"/pantry/lots/{lot.pk}/pours/")
            self.assertEqual({item.pour.pk for item in page.context["found"]}, pours)
            page = self.client.get("/pours/", {"lot": lot.pk})
            self.assertEqual({p.pk for p, _ in page.context["pours"]}, pours)
        self.assertContains(self.client.get(f"/pantry/lots/{self.lot.pk}/"), "Pours with it")
        found = self.client.get("/pours/", {"q": other.code.lower()})  # and from a jar's code back
        self.assertEqual([p.pk for p, _ in found.context["pours"]], [other.pk])
