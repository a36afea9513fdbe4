"""The fill plan's page, what a pour takes over from it, and what is left for the next formula."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from uuid import uuid4

from django.utils import timezone

from calmtin.accounts.models import Bench, FineScale
from calmtin.formulas.models import Version
from calmtin.formulas.services import add_finish, add_line, set_batch
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, OwnBlend, Vessel
from calmtin.pantry.services import add_container
from calmtin.pantry.services.lots import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.models import Pour
from tests.bench_data import draft, pour_of
from tests.formulas.test_formulas import WithSalve

DAY = date(2026, 5, 1)


class WithPlan(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        self.address = f"/formulas/{self.formula.pk}/v/1/fill/"
        set_batch(self.user, self.version, batch_g=Decimal(250), seen=0)

    def plan(self, **typed: object) -> Any:
        return self.client.get(self.address, typed)

    def rows(self, *rows: tuple[str, str, str], **more: object) -> dict[str, object]:
        found: dict[str, object] = dict(more)
        for n, (container, count, fill) in enumerate(rows):
            found |= {
                f"container_{n}": container,
                f"count_{n}": count,
                f"fill_{n}": fill,
                f"was_{n}": container,
            }
        return found


class Plan(WithPlan):
    def test_opens_with_the_formulas_own_batch_and_the_makers_last_containers(self) -> None:
        page = self.plan()
        self.assertEqual(page.context["view"].plan.batch_g, 250)
        self.assertContains(page, "<strong>9 × 1 oz tin</strong>")
        pour_of(self.user, self.version)
        page = self.plan()
        self.assertEqual([r.container for r in page.context["view"].rows], ["tin_2oz"])
        self.assertFalse(Pour.objects.exclude(poured_at=None).exists())

    def test_from_the_pot_into_tubes_and_tins(self) -> None:
        page = self.plan(**self.rows(("lip_tube_standard", "20", ""), ("tin_2oz", "", "55 ml"), pot="250"))
        made = page.context["view"].plan
        self.assertEqual([f.count for f in made.fillings], [20, 3])
        self.assertEqual(sum(line.weighing.grams for line in page.context["view"].lines), made.batch_g)
        self.assertContains(page, "20 × standard lip balm tube")
        self.assertContains(page, "lost in the pot")
        self.assertContains(page, "left over")

    def test_containers_first_asks_for_the_pot(self) -> None:
        rows = (("lip_tube_standard", "12", "4.3 g"), ("tin_2oz", "4", "55 ml"))
        page = self.plan(**self.rows(*rows, way="containers"))
        made = page.context["view"].plan
        self.assertAlmostEqual(made.grams_of(made.fillings[0]), 51.6, places=6)
        self.assertAlmostEqual(
            float(made.batch_g) - made.filled_g - made.clung_g - 1, made.left_g, places=6
        )
        back = self.plan(**self.rows(*rows, way="pot", pot=str(made.batch_g)))
        self.assertEqual([f.count for f in back.context["view"].plan.fillings], [12, 4])

    def test_as_much_as_one_thing_allows_and_a_test_as_it_is(self) -> None:
        wax = self.line("beeswax_yellow").key
        page = self.plan(**self.rows(("tin_2oz", "", "")), have=wax, have_g="2 oz")
        self.assertEqual(page.context["view"].plan.batch_g, Decimal("315.0"))  # 56.7 g at 18 %
        page = self.plan(**self.rows(("jar_120ml", "", "")), way="whole", pot="50")
        self.assertEqual(page.context["view"].plan.count, 1)
        self.assertContains(
            self.plan(**self.rows(("jar_5ml", "", "")), way="whole", pot="50"), "holds 5 ml"
        )

    def test_what_cannot_be_read_is_told_at_its_box_with_everything_kept(self) -> None:
        for box, typed, words in (
            ("count_0", "0", "The count cannot be below 1"),
            ("fill_0", "120", "The fill cannot be above 100"),
            ("fill_0", "90 ml", "The fill cannot be above 60"),
            ("pot", "much", "is not a number"),
            ("cling_pct", "99", "cannot be above 50"),
            ("test_g", "-1", "cannot be below 0"),
            ("have_g", "lots", "is not a number"),
        ):
            typed_too = {"have": self.line("olive_oil").key} if box == "have_g" else {}
            page = self.plan(**self.rows(("tin_2oz", "4", "95")) | {"pot": "250", box: typed, **typed_too})
            self.assertContains(page, words)
            self.assertContains(page, f'value="{typed}"')
            self.assertIsNone(page.context["view"].plan)
            sent = self.rows(("tin_2oz", "4", "95")) | {"pot": "250", box: typed, **typed_too}
            self.assertEqual(self.client.post(self.address, sent).status_code, 200)
        self.assertFalse(Pour.objects.exists())

    def test_pressing_start_twice_is_one_pour_with_all_its_fillings(self) -> None:
        data = self.rows(("lip_tube_standard", "20", ""), ("tin_2oz", "", "55 ml"), pot="250")
        self.version.refresh_from_db()
        data |= {"request_key": str(uuid4()), "seen": self.version.revision}
        for _ in range(2):
            self.client.post(self.address, data)
        pour = Pour.objects.get()
        self.assertEqual(pour.into, "20 × Standard lip balm tube, 3 × 2 oz tin")
        self.assertEqual(sum(line.planned_g for line in pour.lines.all()), pour.batch_g)
        self.assertContains(self.client.get("/pours/", HTTP_HX_REQUEST=""), pour.into)
        late = self.client.post(self.address, {**data, "request_key": str(uuid4()), "seen": 0})
        self.assertContains(late, "has changed since this plan")

    def test_a_batch_that_does_not_come_out_even_is_poured_in_a_way_of_the_makers_choice(self) -> None:
        data = self.rows(("jar_60ml", "", "80"), pot="158")
        page = self.plan(**data)
        self.assertEqual([f.way for f in page.context["view"].fits], ["less", "fuller", "part"])
        for words in ("4 × 60 ml jar</strong>, each filled to 72 %", "3 × 60 ml jar</strong>, each filled"):
            self.assertContains(page, words)
        self.version.refresh_from_db()
        data |= {"request_key": str(uuid4()), "seen": self.version.revision, "fit": "part"}
        self.client.post(self.address, data)
        pour = Pour.objects.get()
        self.assertEqual([f.count for f in pour.fillings.order_by("position")], [3, 1])
        whole, part = pour.fillings.order_by("position")
        self.assertEqual(round(whole.each_ml / 60, 2), 0.8)
        self.assertLess(part.each_ml, whole.each_ml)

    def test_too_little_for_one_is_no_dead_end(self) -> None:
        page = self.plan(**self.rows(("jar_120ml", "", ""), pot="95"))
        self.assertContains(page, "<strong>1 × 120 ml jar</strong>, filled to 86 %")
        self.assertContains(page, 'name="fit" value="less"')
        page = self.plan(**self.rows(("jar_5ml", "", "")), way="whole", pot="50")
        self.assertContains(page, "holds 5 ml")
        self.assertContains(page, "Start the pour")

    def test_a_small_batch_opens_with_a_container_that_it_fills(self) -> None:
        set_batch(self.user, self.version, batch_g=Decimal(14), seen=self.version.revision)
        row = self.plan().context["view"].rows[0]
        self.assertEqual(row.container, "tin_half_oz")
        add_container(self.user, name="Shell tin", brim_ml=12.0, on_hand=6)
        self.assertEqual(self.plan().context["view"].rows[0].container, "my_1")

    def test_a_whipped_butter_says_how_many_jars_give_or_take(self) -> None:
        Version.objects.filter(pk=self.version.pk).update(overrun_pct=60)
        page = self.plan(**self.rows(("jar_60ml", "", "")), pot="500")
        few, many = page.context["view"].counts
        self.assertLess(few, many)
        self.assertContains(page, f"({few}–{many}, depending on whipping)")

    def test_one_full_jar_teaches_how_far_it_is_whipped(self) -> None:
        Version.objects.filter(pk=self.version.pk).update(overrun_pct=60)
        jars = self.rows(("jar_60ml", "", ""), pot="500")
        before = self.plan(**jars).context["view"].plan
        pour = pour_of(self.user, self.version, done=True)
        services.record_check(self.user, pour, temp_c=21.0, felt_rung=None, notes="one jar", overrun_pct=90)
        after = self.plan(**jars).context["view"].plan
        self.assertEqual((before.melt.overrun, after.melt.overrun), (0.6, 0.9))
        self.assertGreater(after.count, before.count)

    def test_what_a_maker_would_count_stands_beside_a_small_weight(self) -> None:
        for slug, percent in (("lavender", "0.8"), ("kaolin", "2")):
            self.post("lines/", material=slug, percent=percent)
        page = self.plan(**self.rows(("tin_2oz", "", "")), pot="100")
        self.assertContains(page, "about 18 drops")
        self.assertContains(page, "tsp")
        self.assertContains(page, "sinks as they set. Keep back")

    def test_a_small_part_has_three_ways_out(self) -> None:
        self.post(f"lines/{self.line('tocopherols_50').key}/percent/", percent="0.2")
        page = self.plan(**self.rows(("tin_2oz", "", "")), pot="250")
        self.assertContains(page, "Too little for your scale")
        self.assertContains(page, "Make a batch of 500.0 g")
        self.assertContains(page, "of it 10 % in olive oil")
        before = page.context["view"].lines
        self.version.refresh_from_db()
        key = self.line("tocopherols_50").key
        self.client.post(f"{self.address}dilute/{key}/", {"pot": "250", "seen": self.version.revision})
        self.version.refresh_from_db()
        blend = OwnBlend.objects.get()
        self.assertEqual(
            (blend.name, self.percents()[blend.slug]), ("Tocopherols 50 % 10 % in olive oil", 2)
        )
        after = self.plan(**self.rows(("tin_2oz", "", "")), pot="250").context["view"]
        self.assertEqual(after.small, [])
        self.assertEqual(
            sum(li.weighing.grams for li in before), sum(li.weighing.grams for li in after.lines)
        )
        page = self.client.get(f"/formulas/{self.formula.pk}/")
        self.assertContains(page, "soy")  # what is in the dilution is told, not its name

    def test_the_fine_scale_takes_it(self) -> None:
        self.post(f"lines/{self.line('tocopherols_50').key}/percent/", percent="0.2")
        scale = {"name": "fine scale", "step": "0.01", "capacity_g": "50", "least_g": ""}
        self.client.post("/settings/scales/", scale)
        self.assertContains(
            self.client.post("/settings/scales/", scale), "already have a scale called fine scale"
        )
        page = self.plan(**self.rows(("tin_2oz", "", "")), pot="250")
        self.assertContains(page, "on the fine scale")
        self.assertEqual(page.context["view"].small, [])
        self.client.post(f"/settings/scales/{FineScale.objects.get().pk}/remove/")
        self.assertEqual(FineScale.objects.count(), 0)

    def test_pots_and_bowls_are_held_against_the_plan(self) -> None:
        self.client.post(
            "/pantry/containers/", {"vessel_name": "small pot", "use": "pot", "vessel_ml": "200"}
        )
        page = self.plan(**self.rows(("tin_2oz", "", "")), pot="250")
        self.assertContains(page, "small pot holds 200 ml")
        self.client.post(
            "/pantry/containers/", {"vessel_name": "big pot", "use": "pot", "vessel_ml": "2 cups"}
        )
        self.assertContains(self.plan(pot="250"), "big pot holds it with room to stir in")
        bath = {"vessel_name": "saucepan bath", "use": "bath", "vessel_ml": "300"}
        self.client.post("/pantry/containers/", bath)
        self.assertContains(self.plan(pot="250"), "big pot doesn’t fit in saucepan bath")
        self.client.post("/pantry/containers/", {"remove": Vessel.objects.get(name="big pot").pk})
        self.assertEqual(Vessel.objects.count(), 2)

    def test_the_sheet_prints_on_one_page(self) -> None:
        page = self.client.get(f"{self.address}sheet/", {"pot": "250"})
        self.assertContains(page, "Weigh sheet")
        self.assertContains(page, "Remember")
        self.assertContains(page, 'class="square"', 5)


class Series(WithPlan):
    def series(self, **typed: object) -> Any:
        return self.client.get(f"/formulas/{self.formula.pk}/v/1/series/", typed)

    def test_a_ladder_becomes_a_series_of_pours(self) -> None:
        page = self.series(shares="15, 18, 21", sample="12 g", lost="0.5")
        view = page.context["view"]
        self.assertEqual(sum(grams for _, grams in view.start), view.ladder.start_g)
        self.assertContains(page, "one pot comes closer")
        rungs = [sample.rung for sample in view.samples]
        self.assertEqual(rungs, sorted(rungs))
        data = {"shares": "15, 18, 21", "sample": "12 g", "lost": "0.5", "container": "jar_15ml"}
        data |= {"request_key": str(uuid4())}
        for _ in range(2):
            self.client.post(f"/formulas/{self.formula.pk}/v/1/series/", data)
        pours = list(Pour.objects.order_by("pk"))
        self.assertEqual([p.into for p in pours], ["1 × 15 ml jar"] * 3)
        for pour, sample in zip(pours, view.samples, strict=True):
            lines = {line.material: line for line in pour.version.lines.all()}
            share = 100 * sample.alone.share
            self.assertAlmostEqual(lines["beeswax_yellow"].percent, share, delta=Decimal("0.001"))
            self.assertEqual(sum(line.percent for line in lines.values()), 100)
            ratio = lines["coconut_rbd"].percent / lines["olive_oil"].percent
            self.assertAlmostEqual(ratio, Decimal(12) / 69, 3)
            self.assertEqual(pour.batch_g, 12)
        self.assertEqual([p.version.number for p in pours], [2, 3, 4])

    def test_what_no_pot_can_do_is_told(self) -> None:
        for box, typed, words in (
            ("shares", "21, 18", "must rise"),
            ("shares", "15", "Type from 2 to 8 percentages"),
            ("shares", "15, lots", "is not a number"),
            ("sample", "much", "is not a number"),
            ("lost", "-1", "cannot be below 0"),
        ):
            self.assertContains(self.series(**{box: typed}), words)
        address = f"/formulas/{self.formula.pk}/v/1/series/"
        self.client.post(address, {"sample": "12", "container": "jar_5ml"})
        self.assertEqual((Pour.objects.count(), self.formula.versions.count()), (0, 1))


class Supplies(WithPlan):
    def buy(self, slug: str, grams: int, price: str | None = "10", days: int = 400) -> Lot:
        best = timezone.localdate() + timedelta(days=days)
        cost = None if price is None else Decimal(price)
        return buy_lot(
            self.user, material=slug, amount_g=Decimal(grams), bought_on=DAY, price=cost, best_before=best
        )

    def test_what_is_short_and_what_the_shelf_allows(self) -> None:
        self.buy("beeswax_yellow", 40)
        self.buy("olive_oil", 1000)
        page = self.plan(**self.rows(("tin_2oz", "", "")), pot="250")
        supply = page.context["supply"]
        self.assertEqual([(s.short, s.packs) for s in supply.shopping], [(5, 1)])
        self.assertContains(page, "5.0 g short")
        self.assertContains(page, "1 × 40.0 g (last pack size)")
        self.assertEqual(supply.best_g, Decimal("222.2"))
        self.assertContains(page, "Without shopping you can make 222.2 g")
        taken = self.plan(**self.rows(("tin_2oz", "", "")), pot=str(supply.best_g))
        self.assertEqual(taken.context["supply"].shopping, [])

    def test_first_to_expire_first_and_what_another_sheet_holds_is_not_counted_twice(self) -> None:
        # The salve itself keeps 12 months for its olive oil, and 1.3 times that for its tocopherols.
        late, soon = self.buy("beeswax_yellow", 100, days=600), self.buy("beeswax_yellow", 30, days=90)
        supply = self.plan(pot="250").context["supply"]
        wax = next(s for s in supply.supplies if s.line.part.material.slug == "beeswax_yellow")
        self.assertEqual(
            [(t.lot, t.grams, t.is_first_to_go) for t in wax.takes], [(soon, 30, True), (late, 15, False)]
        )
        pour = pour_of(self.user, self.version)
        held = pour.lines.get(material="beeswax_yellow").planned_g
        supply = self.plan(pot="250").context["supply"]
        self.assertEqual(supply.best_g, (100 * (130 - held) / 18).quantize(Decimal("0.1"), "ROUND_DOWN"))
        wax = next(s for s in supply.supplies if s.line.part.material.slug == "beeswax_yellow")
        self.assertEqual([t.grams for t in wax.takes], [30 - held, 45 - (30 - held)])

    def test_another_lot_can_be_chosen_and_the_pour_uses_it(self) -> None:
        late, soon = self.buy("beeswax_yellow", 100), self.buy("beeswax_yellow", 100, days=90)
        wax = self.line("beeswax_yellow").key
        data = self.rows(("tin_2oz", "", ""), pot="100") | {f"lot_{wax}": str(late.pk)}
        supply = self.plan(**data).context["supply"]
        (take,) = next(s for s in supply.supplies if s.line.part.key == wax).takes
        self.assertEqual(take.lot, late)
        self.version.refresh_from_db()
        self.client.post(self.address, {**data, "seen": self.version.revision})
        line = Pour.objects.get().lines.get(material="beeswax_yellow")
        services.weigh(self.user, line, line.planned_g)
        self.assertEqual((balance(late), balance(soon)), (82, 100))

    def test_cost_with_containers_and_what_has_no_price(self) -> None:
        self.buy("olive_oil", 1000, "10")
        self.buy("beeswax_yellow", 100, None)
        add_container(
            self.user, name="Shell tin", brim_ml=60.0, usual_level_pct=100.0, price=Decimal("0.5")
        )
        page = self.plan(**self.rows(("my_1", "2", "")), pot="250")
        cost = page.context["supply"].cost
        self.assertEqual((cost.melt, cost.containers), (Decimal("1.725"), Decimal("1.0")))
        self.assertContains(page, "No price yet for: beeswax, yellow (45.0 g)")
        each = dict(page.context["supply"].each)["Shell tin"]
        plan = page.context["view"].plan
        self.assertAlmostEqual(float(each), 1.725 / 2 + 0.5, delta=0.001)
        self.assertAlmostEqual(plan.filled_g / plan.count * 2, plan.filled_g)

    def test_a_mould_costs_its_share_of_its_uses(self) -> None:
        self.buy("olive_oil", 1000, "10")
        mould = {"brim_ml": 60.0, "cavities": 4, "price": Decimal(8)}
        add_container(self.user, name="Shell mould", **mould)
        add_container(self.user, name="Star mould", uses=100, **mould)
        page = self.plan(**self.rows(("my_1", "2", "")), pot="250")
        self.assertEqual(page.context["supply"].cost.containers, 0)
        page = self.plan(**self.rows(("my_2", "2", "")), pot="250")
        self.assertEqual(page.context["supply"].cost.containers, Decimal("0.04"))


class Finishes(WithPlan):
    def test_one_pot_becomes_one_pour_with_several_finishes(self) -> None:
        add_finish(self.user, self.formula, name="minty", parts=[("peppermint", Decimal("0.5"))])
        add_finish(self.user, self.formula, name="clear", parts=[])
        data = self.rows(("mould_30ml", "6", ""), ("tin_2oz", "2", "")) | {
            "finish_0": "minty",
            "finish_1": "clear",
        }
        page = self.plan(**data, pot="400")
        minty, clear = page.context["view"].shares
        self.assertEqual((minty.name, minty.count, clear.doses), ("minty", 6, []))
        dose = minty.doses[0]
        self.assertEqual(dose.grams, (minty.base_g / 200 * 10).to_integral_value() / 10)
        self.assertAlmostEqual(dose.each_g * 6, float(minty.base_g) * 0.005, places=6)
        self.assertContains(page, "Too few drops to scent each container")
        made = page.context["view"].plan
        # The finish is part of what is filled, so the pot gives a little less.
        self.assertAlmostEqual(made.grams_of(made.fillings[0]) * 1.005, 6 * made.each_g(made.fillings[0]))
        self.version.refresh_from_db()
        self.client.post(self.address, {**data, "pot": "400", "seen": self.version.revision})
        pour = Pour.objects.get()
        self.assertEqual([f.finish for f in pour.fillings.all()], ["minty", "clear"])
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, pour)
        self.assertContains(self.client.get(f"/pours/{pour.pk}/", HTTP_HX_REQUEST=""), "minty: Peppermint")

    def test_drops_of_a_finish_are_those_of_what_the_scale_cannot_show(self) -> None:
        Bench.objects.filter(user=self.user).update(scale_step="1")
        add_finish(self.user, self.formula, name="minty", parts=[("peppermint", Decimal("0.4"))])
        add_finish(self.user, self.formula, name="limey", parts=[("peppermint", Decimal("0.4"))])
        data = self.rows(("mould_30ml", "1", ""), ("mould_30ml", "1", "")) | {
            "finish_0": "minty",
            "finish_1": "limey",
            "pot": "100",
        }
        page = self.plan(**data)
        planned = [round(share.doses[0].each_drops) for share in page.context["view"].shares]
        self.assertEqual([share.doses[0].grams for share in page.context["view"].shares], [0, 0])
        self.version.refresh_from_db()
        self.client.post(self.address, {**data, "seen": self.version.revision})
        pour = Pour.objects.get()
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, pour)
        told = []
        for _ in range(30):
            view = self.client.get(f"/pours/{pour.pk}/run/").context["view"]
            if view.next_step is None:
                break
            told += [row.about for row in view.finish_rows]
            services.mark_step(self.user, pour, key=view.next_step.step.key, title="", is_done=True)
        self.assertEqual(told, [f"about {drops} drops" for drops in planned])


class Leftovers(WithPlan):
    def poured(self, grams: str = "250") -> Pour:
        buy_lot(
            self.user,
            material="olive_oil",
            amount_g=Decimal(1000),
            bought_on=DAY,
            price=Decimal(10),
            best_before=date(2027, 3, 1),
        )
        self.version.refresh_from_db()
        data = self.rows(("tin_2oz", "3", "55 ml"), pot=grams, seen=self.version.revision)
        self.client.post(self.address, data)
        pour = Pour.objects.get()
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        return services.finish_weighing(self.user, pour)

    def count(self, pour: Pour, left: str, **more: str) -> Any:
        filling = pour.fillings.get()
        data = {"count_0": "3", "each_0": f"{filling.each_g}", "left_g": left, "to_pantry": "on", **more}
        return self.client.post(f"/pours/{pour.pk}/count/", data, HTTP_HX_REQUEST="")

    def test_what_is_left_is_a_material_of_its_true_composition(self) -> None:
        pour = self.poured()
        self.count(pour, "90 g")
        lot = Lot.objects.get(note=f"left over from {pour.code}")
        self.assertEqual((lot.amount_g, lot.best_before), (90, date(2027, 3, 1)))
        self.assertAlmostEqual(float(lot.price), 0.01 * 172.5 * 90 / 250, delta=0.006)
        shelf = shelf_for(self.user)
        blend = shelf[lot.material]
        inside = {material.slug: round(100 * share, 1) for material, share in blend.made_of}
        self.assertEqual(inside["beeswax_yellow"], 18.0)
        self.assertEqual(set(blend.allergens), {"bee", "coconut", "soy"})
        # In the next formula it reads as what it is made of, and its cautions are those of its parts.
        made = self.formula_of(blend.slug)
        page = self.client.get(f"/formulas/{made.formula_id}/", HTTP_HX_REQUEST="")
        first = self.client.get(f"/formulas/{self.formula.pk}/", HTTP_HX_REQUEST="")
        rungs = [p.context["view"].firmness.room.rung for p in (page, first)]
        self.assertAlmostEqual(*rungs, delta=0.02)
        self.assertContains(page, "Contains bee products, coconut, soy")
        again = self.count(pour, "80")
        self.assertContains(again, "already in the pantry")

    def formula_of(self, slug: str) -> Version:
        from calmtin.formulas.services import start_formula

        made = start_formula(self.user, name="Second pot", kind="firm_salve")
        version = draft(made)
        add_line(self.user, version, slug=slug, percent=Decimal(100), seen=0)
        return version

    def test_the_next_plan_knows_what_clings(self) -> None:
        pour = self.poured()
        filled = 3 * pour.fillings.get().each_g
        left = 250 - filled - pour.test_g - 5
        self.count(pour, str(left))
        page = self.client.get(f"/pours/{pour.pk}/", HTTP_HX_REQUEST="")
        self.assertContains(page, "lost in the pot 5.0 g")
        view = self.plan().context["view"]
        self.assertTrue(view.is_learned)
        self.assertAlmostEqual(view.plan.clung_g, 0.02 * 250, delta=0.01)

    def test_a_test_that_was_planned_as_an_ounce_by_mistake_teaches_nothing(self) -> None:
        pour = self.poured()
        left = 250 - 3 * pour.fillings.get().each_g - 6
        Pour.objects.filter(pk=pour.pk).update(test_g=Decimal("28.35"))
        self.count(pour, str(left))
        page = self.plan()
        self.assertFalse(page.context["view"].is_learned)
        words = "was counted as more than was in its pot, so it doesn’t count towards your usual loss."
        self.assertContains(page, words)

    def test_more_than_was_in_the_pot_is_refused(self) -> None:
        pour = self.poured()
        page = self.count(pour, "200")
        self.assertContains(page, "more than the 250.0 g in the pot")
        self.assertContains(page, 'value="200"')
        self.assertEqual((pour.yields.count(), OwnBlend.objects.count()), (0, 0))
