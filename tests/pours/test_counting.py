"""Counting what was filled takes what is known."""

from __future__ import annotations

from decimal import Decimal

from django.test import TestCase

from calmtin.pantry.adapters import container_for
from calmtin.pantry.models import OwnContainer
from calmtin.pantry.services.containers import add_container
from calmtin.pours import services
from calmtin.pours.models import Yield
from calmtin.pours.pour_day import counted_pours
from tests.bench_data import pour_of
from tests.pours.test_pour_day import WithSheet


class Counting(WithSheet, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.close()
        self.filling = self.pour.fillings.get()

    def count(self, **typed: str) -> Yield:
        self.post("count/", **typed)
        return Yield.objects.latest("pk")

    def test_single_weights_without_a_count(self) -> None:
        made = self.count(pieces_0="50.2 49.8", count_0="", each_0="", left_g="")
        self.assertEqual((made.counts, made.filled_g, made.left_g), ([[0, 2]], Decimal(100), Decimal(0)))

    def test_a_count_without_weights_is_of_planned_ones(self) -> None:
        made = self.count(count_0="2", each_0="", pieces_0="", left_g="")
        self.assertEqual((made.counts, made.filled_g), ([[0, 2]], 2 * self.filling.each_g))

    def test_a_second_count_starts_from_the_first(self) -> None:
        self.count(count_0="1", each_0="", pieces_0="", left_g="12.5")
        page = self.client.get(self.address, HTTP_HX_REQUEST="")
        form = page.context["counted"]
        self.assertEqual((form["count_0"].value(), form["left_g"].value()), ("1", "12.5"))

    def test_more_than_the_pot_held_is_refused_with_all_that_was_typed(self) -> None:
        typed = {"count_0": "40", "each_0": "", "pieces_0": "", "left_g": ""}
        page = self.client.post(f"{self.address}count/", typed, HTTP_HX_REQUEST="")
        self.assertContains(page, "Check the counts and weights")
        self.assertContains(page, 'value="40"')
        self.assertFalse(Yield.objects.exists())

    def test_what_is_lost_is_of_what_was_really_weighed(self) -> None:
        services.add_to_pot(self.user, self.pour, material="olive_oil", grams=Decimal(10))
        weighed = sum(line.planned_g for line in self.pour.lines.all()) + 10
        self.count(count_0="2", each_0="50", pieces_0="", left_g="5")
        [counted] = counted_pours(self.user, 5)
        self.assertAlmostEqual(counted.melt_g, float(weighed))
        self.assertAlmostEqual(counted.lost_g, float(weighed - 105 - self.pour.test_g))

    def test_containers_on_hand_go_down_and_come_back_when_counted_again(self) -> None:
        row = add_container(self.user, name="Shell-house tin", brim_ml=60.0, on_hand=3)
        self.pour = pour_of(self.user, self.version, into=container_for(self.user, row.slug), done=True)
        self.address = f"/pours/{self.pour.pk}/"
        self.count(count_0="2", each_0="30", pieces_0="", left_g="")
        self.assertEqual(OwnContainer.objects.get().on_hand, 1)
        self.assertContains(self.client.get("/", HTTP_HX_REQUEST=""), "1 left; the last pour used 2")
        self.count(count_0="1", each_0="30", pieces_0="", left_g="")
        self.assertEqual(OwnContainer.objects.get().on_hand, 2)
        self.assertNotContains(self.client.get("/", HTTP_HX_REQUEST=""), "Containers running low")

    def test_a_mould_is_used_again(self) -> None:
        row = add_container(self.user, name="Bar mould", brim_ml=60.0, on_hand=2, cavities=6)
        self.pour = pour_of(self.user, self.version, into=container_for(self.user, row.slug), done=True)
        self.address = f"/pours/{self.pour.pk}/"
        self.count(count_0="2", each_0="30", pieces_0="", left_g="")
        self.assertEqual(OwnContainer.objects.get().on_hand, 2)
