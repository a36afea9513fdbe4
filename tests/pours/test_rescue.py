"""A pot that is saved on its page: scaled up on the scale, melted again once it was poured."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any
from uuid import uuid4

from calmtin.core.errors import CalmTinError
from calmtin.pantry.services.containers import add_vessel
from calmtin.pantry.services.lots import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.models import PotAddition, Replan
from tests.bench_data import pour_of
from tests.formulas.test_formulas import WithSalve

DAY = date(2026, 5, 1)


class OverPour(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        self.pour = pour_of(self.user, self.version)
        self.address = f"/pours/{self.pour.pk}/"
        self.lines = list(self.pour.lines.all())

    def weigh(self, place: int, grams: str) -> Any:
        return self.client.post(f"{self.address}weigh/{place}/", {"grams": grams})

    def test_the_rest_is_scaled_up_and_the_plan_stays_on_record(self) -> None:
        wax, fat, oil, last = self.lines
        self.weigh(0, str(wax.planned_g))
        page = self.weigh(1, str((fat.planned_g * Decimal("1.25")).quantize(Decimal("0.1"))))
        over = page.context["view"].rescue.over_g.quantize(Decimal("0.1"))
        self.assertContains(page, f"{over} g too much coconut oil, refined")
        self.assertContains(page, "Scale the rest up to")
        self.assertContains(page, "Check that your pot can hold it.")  # nobody knows before there is one
        larger = page.context["view"].rescue.larger_g
        each = self.pour.fillings.get().each_g
        self.assertEqual(
            page.context["view"].rescue.more.startswith("That fills"), larger * 19 / 20 >= each
        )
        add_vessel(self.user, name="Enamel jug", use="pot", brim_ml=60)
        again = self.client.get(self.address)
        self.assertContains(again, "Enamel jug holds 60 ml, and with room to stir in this takes")
        key = str(uuid4())
        for _ in range(2):
            page = self.client.post(f"{self.address}scale-up/", {"request_key": key})
        self.assertEqual(Replan.objects.count(), 1)
        view = page.context["view"]
        self.assertEqual(view.next_row.line, wax)  # the wax lacks a quarter now
        self.assertContains(page, f"<strong>{wax.planned_g:.1f} g</strong> in the pot of")
        self.weigh(0, f"+{view.next_row.lacking}")
        for line in (oil, last):
            row = next(r for r in self.client.get(self.address).context["view"].rows if r.line == line)
            self.weigh(line.position, str(row.target_g))
        services.finish_weighing(self.user, self.pour)
        view = self.client.get(self.address, HTTP_HX_REQUEST="").context["view"]
        whole = sum(row.actual_g for row in view.rows)
        for row in view.rows:
            self.assertAlmostEqual(100 * row.actual_g / whole, row.line.percent, delta=Decimal("0.12"))
        self.assertEqual(
            [line.planned_g for line in self.pour.lines.all()], [li.planned_g for li in self.lines]
        )
        self.assertContains(self.client.get(self.address, HTTP_HX_REQUEST=""), f"first {wax.planned_g:.1f}")

    def test_a_step_that_the_plan_lacks_is_asked_for_and_one_of_the_hand_is_not(self) -> None:
        wax, fat, oil, _ = self.lines
        step = self.pour.scale_step_g
        self.weigh(0, str(wax.planned_g + step))
        self.weigh(1, str(fat.planned_g))
        services.scale_up(self.user, self.pour)
        rows = self.client.get(self.address).context["view"].rows
        self.assertEqual(rows[1].target_g - fat.planned_g, step)
        self.assertTrue(rows[1].is_next)
        self.weigh(1, f"+{step}")
        page = self.weigh(2, str(rows[2].target_g - step))
        self.assertEqual(page.context["view"].next_row.line, self.lines[3])
        self.assertEqual(oil.position, 2)

    def test_a_slip_of_the_hand_is_no_alarm_and_nothing_over_is_refused(self) -> None:
        page = self.weigh(0, str(self.lines[0].planned_g + Decimal("0.1")))
        self.assertIsNone(page.context["view"].rescue)
        with self.assertRaises(CalmTinError):
            services.scale_up(self.user, pour_of(self.user, self.version))

    def test_what_the_shelf_lacks_for_it_is_told_before_it_is_taken(self) -> None:
        buy_lot(self.user, material="olive_oil", amount_g=Decimal(75), bought_on=DAY)
        page = self.weigh(0, str(self.lines[0].planned_g * Decimal("1.5")))
        self.assertContains(page, "Your shelf is short of: olive oil")


class MeltAgain(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        for slug in ("beeswax_yellow", "cocoa_butter", "olive_oil"):
            buy_lot(self.user, material=slug, amount_g=Decimal(500), bought_on=DAY, price=Decimal(5))
        self.pour = pour_of(self.user, self.version, done=True)
        self.client.defaults.pop("HTTP_HX_REQUEST")
        self.address = f"/pours/{self.pour.pk}/"

    def test_too_soft_is_melted_again_with_the_least_that_does_it(self) -> None:
        view = self.client.get(self.address).context["rescue"]
        self.assertEqual(view.ways, [])  # nobody asked yet
        wanted = view.now + 0.8
        page = self.client.get(self.address, {"wanted": f"{wanted:.2f}"})
        ways = page.context["rescue"].ways
        self.assertEqual(ways[0].addition.material.slug, "beeswax_yellow")
        self.assertEqual([w.addition.grams for w in ways], sorted(w.addition.grams for w in ways))
        way = ways[0].addition
        self.assertContains(page, f"{way.grams:f} g beeswax, yellow</strong> makes it {way.rung:.1f}")
        lot = self.user.lots.get(material="beeswax_yellow")
        before = balance(lot)
        data = {"material": way.material.slug, "grams": f"{way.grams:f} g", "request_key": str(uuid4())}
        for _ in range(2):
            self.client.post(f"{self.address}add/", data)
        self.assertEqual(PotAddition.objects.count(), 1)
        self.assertEqual(balance(lot), before - way.grams)
        page = self.client.get(self.address)
        self.assertAlmostEqual(page.context["view"].so_far.room.rung, wanted, delta=0.08)
        self.assertContains(page, "melted again and added")
        self.assertEqual(
            page.context["view"].planned.room.rung,
            self.client.get(self.address).context["view"].planned.room.rung,
        )

    def test_too_hard_takes_oil_and_what_cannot_be_read_is_told(self) -> None:
        now = self.client.get(self.address).context["rescue"].now
        page = self.client.get(self.address, {"wanted": f"{now - 0.8:.2f}"})
        self.assertEqual({w.addition.material.layer for w in page.context["rescue"].ways} & {"wax"}, set())
        self.assertTrue(page.context["rescue"].ways)
        self.assertContains(self.client.get(self.address, {"wanted": "soft"}), "is not a number")
        self.assertContains(
            self.client.get(self.address, {"wanted": "10"}), "No single material on your shelf"
        )

    def test_only_a_pour_that_is_done_is_added_to(self) -> None:
        weighing = pour_of(self.user, self.version)
        with self.assertRaisesRegex(CalmTinError, "Close the weigh sheet first"):
            services.add_to_pot(self.user, weighing, material="olive_oil", grams=Decimal(5))
        page = self.client.post(f"{self.address}add/", {"material": "olive_oil", "grams": "lots"})
        self.assertContains(page, "is not a number")
