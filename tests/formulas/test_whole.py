"""Steps back and forth, doses on top of the base, all lines at once, finishes and switches."""

from __future__ import annotations

from contextlib import suppress
from datetime import date
from decimal import Decimal
from random import Random

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.composition import of_base, of_total
from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.core.measured import Measured
from calmtin.core.process.pots import split_pot
from calmtin.core.recipe.doses import read_dose
from calmtin.formulas import services
from calmtin.formulas.models import Formula, Step
from calmtin.pantry.services.lots import buy_lot
from calmtin.pantry.services.materials import add_material
from tests.bench_data import draft, pour_of
from tests.formulas.test_formulas import WithSalve


class Doses(SimpleTestCase):
    @given(st.lists(st.decimals("0.05", "30", places=2), min_size=1, max_size=4))
    def test_on_top_and_back(self, on_top: list[Decimal]) -> None:
        totals = of_total(on_top)
        for part, percent in zip(on_top, totals, strict=True):
            self.assertAlmostEqual(of_base(percent, sum(totals)), part, delta=Decimal("0.006"))
        self.assertLessEqual(sum(totals), sum(on_top))

    def test_as_typed(self) -> None:
        wax = library()["beeswax_yellow"]
        for typed, percent, grams, on_top in (
            ("17,5", "17.5", None, None),
            ("17.5 %", "17.5", None, None),
            (".4", "0.4", None, None),
            ("12 g", None, "12", None),
            (".4 oz", None, "11.340", None),
            ("1 lb 4 oz", None, "566.990", None),
            ("+3", "3", None, True),
            ("3 % on top", "3", None, True),
            ("3% of the base", "3", None, True),
            ("+1 1/2 tsp, melted", None, "6.210", True),
            ("2 of all", "2", None, False),
        ):
            dose = read_dose(typed, wax)
            self.assertEqual(dose.on_top, on_top, typed)
            self.assertEqual(dose.percent, percent and Decimal(percent), typed)
            self.assertEqual(dose.measured and dose.measured.grams, grams and Decimal(grams), typed)
        for typed, words in {
            "2 parts": "Edit as a table",
            "4 thumbs": "is not a number",
            "70 °C": "isn’t an amount of an ingredient",
            "-3": "cannot be below 0",
            "-3 g": "can’t be below 0",
            "120": "cannot be above 100",
        }.items():
            with self.assertRaisesRegex(CalmTinError, words):
                read_dose(typed, wax)

    @given(
        st.integers(10, 5000), st.lists(st.integers(0, 9), min_size=1, max_size=6).filter(any), st.data()
    )
    def test_a_pot_is_shared_out_to_the_last_step(
        self, steps: int, shares: list[int], data: st.DataObject
    ) -> None:
        step = data.draw(st.sampled_from([Decimal("0.1"), Decimal("0.5"), Decimal(1)]))
        pot = steps * step
        portions = split_pot(pot, [Decimal(s) for s in shares], [[] for _ in shares], resolution=step)
        self.assertEqual(sum(p.base_g for p in portions), pot)
        for share, portion in zip(shares, portions, strict=True):
            self.assertLess(abs(portion.base_g - pot * share / sum(shares)), step)


class OnTop(WithSalve):
    def dose(self, slug: str, typed: str) -> object:
        return self.post(f"lines/{self.line(slug).key}/percent/", percent=typed)

    def test_the_base_keeps_its_proportions(self) -> None:
        before = self.percents()
        self.post("lines/", material="lavender", percent="+3")
        now = self.percents()
        self.assertEqual(now["lavender"], Decimal("2.913"))
        self.assertEqual(sum(now.values()), 100)
        for slug, percent in before.items():
            self.assertAlmostEqual(now[slug], percent / Decimal("1.03"), delta=Decimal("0.002"))
        page = self.dose("lavender", "2")
        self.assertContains(page, 'value="+2.0"')
        self.assertEqual(self.line("lavender").percent, Decimal("1.961"))
        self.post(f"lines/{self.line('lavender').key}/remove/")
        self.assertEqual({s: p.quantize(Decimal("0.01")) for s, p in self.percents().items()}, before)

    def test_locks_hold_beneath_it(self) -> None:
        services.set_lock(
            self.user, self.version, key=self.line("beeswax_yellow").key, is_locked=True, seen=0
        )
        self.post("lines/", material="lavender", percent="3 on top")
        self.assertEqual(self.percents()["beeswax_yellow"], 18)
        self.assertEqual(sum(self.percents().values()), 100)

    def test_said_anew_when_something_else_moves_it(self) -> None:
        self.post("lines/", material="lavender", percent="+3")
        scent, oil = self.line("lavender"), self.line("olive_oil")
        self.post(f"lines/{scent.key}/trade/", percent="2", other=oil.key)
        self.assertEqual(self.line("lavender").on_top_pct, Decimal("2.041"))
        self.dose("lavender", "1.5 of all")
        self.assertIsNone(self.line("lavender").on_top_pct)
        self.assertEqual(self.line("lavender").percent, Decimal("1.5"))

    def test_too_much_is_refused(self) -> None:
        before = self.percents()
        self.assertContains(self.dose("coconut_rbd", "+31"), "Up to 30 % can go on top")
        self.assertContains(self.dose("coconut_rbd", "+500 g"), "Up to 30 % can go on top")
        self.assertContains(self.dose("coconut_rbd", "60 kg"), "A batch must be from 1 to 50,000 g")
        self.assertContains(self.dose("coconut_rbd", "2 parts"), "Edit as a table")
        self.assertEqual(self.percents(), before)


class InThePot(WithSalve):
    """A measure changes the pot: the other lines keep their grams."""

    def dose(self, slug: str, typed: str) -> object:
        return self.post(f"lines/{self.line(slug).key}/percent/", percent=typed)

    def grams(self) -> dict[str, float]:
        self.version.refresh_from_db()
        return {line.material: float(line.grams) for line in self.version.lines.all()}

    def test_the_others_keep_their_grams_and_the_words_stay_while_they_are_true(self) -> None:
        before = self.grams()
        page = self.dose("beeswax_yellow", "10 g")
        after = self.grams()
        self.assertAlmostEqual(after.pop("beeswax_yellow"), 10, delta=0.002)
        for slug, grams in after.items():
            self.assertAlmostEqual(grams, before[slug], delta=0.002)
        self.assertContains(page, "10 g</span>")
        words = '<span class="quiet small">10 g</span>'
        for change in (
            lambda: self.dose("coconut_rbd", "20"),  # the balancing line gives way, the batch stays
            lambda: self.dose("coconut_rbd", "33 g"),
        ):
            self.assertContains(change(), words)
        self.assertContains(self.post("batch/", batch_g="200"), words, 0)
        self.assertContains(self.post("undo/"), words)
        self.assertContains(self.dose("beeswax_yellow", "21"), words, 0)

    def test_the_preview_says_what_happens_as_keeping_it_does(self) -> None:
        key = self.line("beeswax_yellow").key

        def told(text: str, **of: str) -> str:
            asked = {"percent": text, **(of or {"key": key})}
            return self.client.get(
                f"/formulas/{self.formula.pk}/v/1/lines/preview/", asked
            ).content.decode()

        self.assertIn("10.0 g makes 10.9 %", told("10 g"))
        self.assertIn("The others keep their weight, and the batch becomes", told("10 g"))
        self.assertIn("the batch stays 100.0 g", told("10"))
        self.assertIn(
            "68.6 g (34 to 99.4 g: 236.6 ml each; taken as pellets at 0.58 g/ml) makes 45.6 %",
            told("½ cup"),
        )
        self.assertIn("on top; the base makes room", told("+3", material="lavender"))
        self.assertIn("cannot be above 100", told("500"))
        self.assertIn("1 cup would be about 137 g, but the other amount is 60 g", told("1 cup (60 g)"))
        self.assertEqual(told("", key=key).strip(), "")

    def test_a_lock_that_would_move_is_named(self) -> None:
        self.post(f"lines/{self.line('coconut_rbd').key}/lock/", lock="yes")
        before = self.percents()
        page = self.dose("beeswax_yellow", "10 g")
        self.assertContains(page, "Coconut oil, refined is locked at")
        self.assertContains(page, "type this line in percent")
        self.assertEqual(self.percents(), before)

    def test_an_empty_tin_is_filled_line_by_line_by_weight(self) -> None:
        made = services.start_formula(self.user, name="Bung balm", kind="firm_salve")
        self.formula, self.version = made, draft(made)
        for slug, typed in (("beeswax", "1 oz"), ("shea butter", ".5 lb"), ("olive oil", "3 oz wt")):
            self.post("lines/", material=slug, percent=typed)
        self.version.refresh_from_db()
        self.assertEqual(self.version.batch_g, Decimal("340.20"))
        self.assertAlmostEqual(self.grams()["shea_refined"], 226.796, delta=0.01)

    def test_one_press_confirms_a_weight(self) -> None:
        page = self.dose("beeswax_yellow", "½ cup")
        self.assertContains(page, "Weigh it once to be sure")
        wide = page.context["view"].firmness.room
        page = self.post(f"lines/{self.line('beeswax_yellow').key}/confirm/")
        self.assertContains(page, "Weigh it once to be sure", 0)
        sure = page.context["view"].firmness.room
        self.assertEqual(sure.rung, wide.rung)
        self.assertGreater(wide.high - wide.low, sure.high - sure.low + 0.5)


class Steps(WithSalve):
    def set(self, percent: str) -> None:
        self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent=percent)

    def wax(self) -> Decimal:
        return self.line("beeswax_yellow").percent

    def test_back_and_forth(self) -> None:
        before = list(self.version.lines.values())
        self.set("20")
        self.post("batch/", batch_g="250")
        self.post("undo/")
        self.version.refresh_from_db()
        self.assertEqual((self.wax(), self.version.batch_g), (20, 100))
        self.post("undo/")
        plain = [{k: v for k, v in row.items() if k != "id"} for row in before]
        self.assertEqual(
            [{k: v for k, v in r.items() if k != "id"} for r in self.version.lines.values()], plain
        )
        self.assertContains(self.post("undo/"), "nothing to undo")
        self.post("redo/")
        self.post("redo/")
        self.version.refresh_from_db()
        self.assertEqual((self.wax(), self.version.batch_g), (20, 250))
        self.assertContains(self.post("redo/"), "nothing to redo")

    def test_another_edit_takes_the_way_and_loses_nothing(self) -> None:
        self.set("20")
        self.post("undo/")
        self.set("25")
        self.assertContains(self.post("redo/"), "nothing to redo")
        self.post("undo/")
        self.post("redo/")
        self.assertEqual(self.wax(), 25)
        kept = [line["percent"] for step in Step.objects.all() for line in step.state["lines"]]
        self.assertIn("20.000", kept)

    def test_a_poured_version_is_never_undone(self) -> None:
        self.set("20")
        pour_of(self.user, self.version)
        self.assertContains(self.post("undo/"), "nothing to undo")
        self.assertEqual(self.wax(), 20)
        self.set("22")
        self.version = draft(self.formula)
        self.post("undo/")
        self.assertEqual((self.version.number, self.wax()), (2, 20))

    def test_another_tab_is_not_undone(self) -> None:
        self.set("20")
        address = f"/formulas/{self.formula.pk}/v/1/undo/"
        self.assertContains(self.client.post(address, {"seen": 0}), "another tab")
        self.assertEqual(self.wax(), 20)


class AllAtOnce(WithSalve):
    def send(self, unit: str, **amounts: str) -> object:
        shown = {line.material: f"{line.percent.normalize():f}" for line in self.version.lines.all()}
        boxes = {f"amount_{self.line(s).key}": amounts.get(s, text) for s, text in shown.items()}
        return self.post("amounts/", unit=unit, was=unit, **boxes)

    def test_grams_make_the_batch(self) -> None:
        self.send("g", beeswax_yellow="30", coconut_rbd="20", olive_oil="100", tocopherols_50="0")
        self.version.refresh_from_db()
        self.assertEqual((self.version.batch_g, self.percents()["beeswax_yellow"]), (150, 20))
        self.assertEqual(sum(self.percents().values()), 100)

    def test_parts_keep_the_batch(self) -> None:
        self.send("part", beeswax_yellow="1", coconut_rbd="1", olive_oil="1", tocopherols_50="0")
        self.version.refresh_from_db()
        self.assertEqual(
            sorted(self.percents().values()), [0, Decimal("33.333"), Decimal("33.333"), Decimal("33.334")]
        )
        self.assertEqual(self.version.batch_g, 100)

    def test_left_alone_nothing_moves(self) -> None:
        self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent="17.123")
        before = self.percents()
        page = self.client.get(f"/formulas/{self.formula.pk}/v/1/amounts/?unit=part")
        boxes = {f"amount_{key}": text for key, text in page.context["form"].shown.items()}
        self.post("amounts/", unit="part", was="part", **boxes)
        self.assertEqual(self.percents(), before)

    def test_another_unit_shows_what_was_typed(self) -> None:
        keys = {line.material: line.key for line in self.version.lines.all()}
        typed = {"beeswax_yellow": "1 oz", "coconut_rbd": "30", "olive_oil": "", "tocopherols_50": "1"}
        boxes = {f"amount_{keys[slug]}": text for slug, text in typed.items()}
        address = f"/formulas/{self.formula.pk}/v/1/amounts/"
        shown = {}
        for unit in ("oz", "part", "percent"):
            form = self.client.get(address, {**boxes, "unit": unit, "was": "g"}).context["form"]
            shown[unit] = [form[f"amount_{keys[slug]}"].value() for slug in typed]
        self.assertEqual(shown["oz"], ["1", "1.058", "", "0.035"])
        self.assertEqual(shown["part"], ["4.78", "5.05", "", "0.17"])
        self.assertEqual(shown["percent"], ["47.77", "50.55", "", "1.68"])

    def test_new_lines_beside_the_others_and_what_is_wrong_with_them(self) -> None:
        new = {"material_0": "cocoa butter", "amount_0": "1 oz", "material_1": "", "amount_1": "3"}
        address, boxes = f"/formulas/{self.formula.pk}/v/1/amounts/", {"unit": "g", "was": "g", **new}
        page = self.client.get(address, boxes)
        self.assertContains(page, "Type a material from your shelf")
        self.send_new(boxes | {"amount_1": "", "material_1": "olive oil"}, "is already in the formula")
        self.post("amounts/", **boxes | {"amount_1": "", "material_1": ""}, **self.as_shown())
        self.version.refresh_from_db()
        self.assertEqual(self.version.batch_g, Decimal("128.35"))
        self.assertEqual(self.line("cocoa_butter").measured_in_batch.words, "1 oz")

    def as_shown(self) -> dict[str, str]:
        form = self.client.get(f"/formulas/{self.formula.pk}/v/1/amounts/").context["form"]
        return {f"amount_{key}": text for key, text in form.shown.items()}

    def send_new(self, boxes: dict[str, str], words: str) -> None:
        self.assertContains(self.post("amounts/", **boxes, **self.as_shown()), words)

    def test_refused_with_everything_kept(self) -> None:
        before = self.percents()
        page = self.send("g", beeswax_yellow="lots", coconut_rbd="7")
        self.assertContains(page, "is not a number")
        self.assertContains(page, 'value="7"')
        nothing = dict.fromkeys(before, "0")
        self.assertContains(self.send("part", **nothing), "more than 0")
        services.set_lock(self.user, self.version, key=self.line("coconut_rbd").key, is_locked=True, seen=0)
        self.assertContains(self.send("g", coconut_rbd="40"), "is locked at 12 %")
        self.assertEqual(self.percents(), before)


class Scents(WithSalve):
    def test_made_to_fit_the_strictest_ceiling(self) -> None:
        self.post("lines/", material="lavender", percent="3")
        page = self.post("lines/", material="clove_bud", percent="1")
        scents = page.context["view"].scents
        self.assertAlmostEqual(scents.fitted, 3.0)
        drops = {row.part.material.slug: row.drops for row in scents.rows}
        self.assertAlmostEqual(drops["lavender"][0], 3 / 0.885 * 20, places=6)
        fitted = self.post("scents/fit/").context["view"].scents
        self.assertTrue(fitted.fits)
        self.assertEqual(
            (self.percents()["clove_bud"], self.percents()["lavender"]),
            (Decimal("0.428"), Decimal("2.571")),
        )
        self.assertEqual(sum(self.percents().values()), 100)

    def test_a_locked_scent_is_not_moved(self) -> None:
        self.post("lines/", material="clove_bud", percent="1")
        self.post(f"lines/{self.line('clove_bud').key}/lock/", lock="yes")
        self.assertContains(self.post("scents/fit/"), "Clove bud is locked")
        self.assertEqual(self.percents()["clove_bud"], 1)


class Finishes(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        self.address = f"/formulas/{self.formula.pk}/v/1/finishes/"

    def add(self, name: str, *parts: tuple[str, str]) -> object:
        boxes = {f"material_{n}": slug for n, (slug, _) in enumerate(parts)}
        boxes |= {f"percent_{n}": percent for n, (_, percent) in enumerate(parts)}
        return self.client.post(self.address, {"name": name, **boxes}, headers={"hx-request": "false"})

    def test_one_pot_in_three(self) -> None:
        self.add("clear")
        self.add("tinted", ("mica", "2"), ("iron_oxide", "0.5"))
        self.add("scented", ("lavender", "1"))
        clear, tinted, scented = self.formula.finishes.all()
        shares = {f"share_{clear.pk}": "2", f"share_{tinted.pk}": "1", f"share_{scented.pk}": "1"}
        pot = self.client.get(self.address, {"pot": "400", **shares}).context["pot"]
        self.assertEqual([p.portion.base_g for p in pot.portions], [200, 100, 100])
        self.assertEqual([part.grams for part in pot.portions[1].portion.parts], [2, Decimal("0.5")])
        ((_, drops),) = pot.portions[2].doses
        self.assertAlmostEqual(drops, 1 / 0.885 * 20, places=3)
        bad = self.client.get(self.address, {"pot": "much", f"share_{clear.pk}": "-1"})
        self.assertContains(bad, "is not a number")
        self.assertContains(bad, "cannot be below 0")

    def test_branched_off_with_the_base_beneath(self) -> None:
        self.add("scented", ("lavender", "2"))
        finish = self.formula.finishes.get()
        self.client.post(
            f"/formulas/{self.formula.pk}/v/1/copy/", {"name": "Thole pin, scented", "finish": finish.pk}
        )
        made = Formula.objects.get(name="Thole pin, scented")
        now, before = self.percents(draft(made)), self.percents()
        self.assertEqual((now["lavender"], sum(now.values())), (Decimal("1.961"), 100))
        self.assertAlmostEqual(
            now["olive_oil"], before["olive_oil"] / Decimal("1.02"), delta=Decimal("0.002")
        )
        self.assertEqual(made.came_from, self.version)
        self.assertEqual(self.percents(), before)

    def test_refused(self) -> None:
        self.add("clear")
        self.assertContains(self.add("Clear"), "already")
        self.assertContains(self.add("", ("mica", "2")), "Give the finish a name")
        self.assertContains(self.add("dear", ("mica", "45")), "cannot be above 30")
        self.assertContains(self.add("dear", ("mica", "")), "Type how much")
        self.assertContains(self.add("dear", ("mica", "1"), ("mica", "1")), "once")
        self.assertEqual(self.formula.finishes.count(), 1)
        self.add("oily", ("olive_oil", "5"))
        oily = self.formula.finishes.get(name="oily")
        page = self.client.post(f"/formulas/{self.formula.pk}/v/1/copy/", {"name": "x", "finish": oily.pk})
        self.assertContains(page, "is already in the base")
        self.assertEqual(Formula.objects.count(), 1)

    def test_taken_out_and_brought_back(self) -> None:
        self.add("tinted", ("mica", "2"))
        finish = self.formula.finishes.get()
        self.client.post(f"{self.address}{finish.pk}/remove/")
        page = self.client.get(self.address)
        self.assertEqual((page.context["pot"].portions, page.context["pot"].taken_out), ([], [finish]))
        self.add("tinted", ("mica", "3"))
        page = self.client.post(f"{self.address}{finish.pk}/remove/", {"back": "yes"}, follow=True)
        self.assertEqual(len(page.context["pot"].portions), 1)
        self.client.post(f"{self.address}{self.formula.finishes.last().pk}/remove/")
        self.client.post(f"{self.address}{finish.pk}/remove/", {"back": "yes"})
        pot = self.client.get(self.address).context["pot"]
        self.assertEqual([p.finish for p in pot.portions], [finish])

    def test_a_copy_is_sent_once_and_prints(self) -> None:
        key = "6f9619ff-8b86-4d01-b42d-00cf4fc964ff"
        for _ in range(2):
            self.client.post(f"/formulas/{self.formula.pk}/v/1/copy/", {"name": "Twin", "request_key": key})
        twin = Formula.objects.get(name="Twin")
        self.assertEqual(self.percents(draft(twin)), self.percents())
        sheet = self.client.get(f"/formulas/{twin.pk}/v/1/sheet/")
        self.assertContains(sheet, "Beeswax, yellow")
        self.assertEqual(sum(row.grams for row in sheet.context["sheet"].rows), 100)


class Switches(WithSalve):
    def switch(self, **query: object) -> object:
        return self.client.get(f"/formulas/{self.formula.pk}/v/1/without/", query)

    def test_without_animal_products_as_firm(self) -> None:
        page = self.switch(without="vegan")
        proposal = page.context["proposal"]
        self.assertAlmostEqual(
            proposal.firmness.room.rung, page.context["view"].firmness.room.rung, delta=0.12
        )
        self.post("apply/", proposal=proposal.token)
        self.assertTrue(all(library()[slug].vegan for slug in self.percents()))
        self.assertEqual(sum(self.percents().values()), 100)

    def test_vitamin_e_is_not_replaced_by_what_guards_nothing(self) -> None:
        now = {line.shown.slug: line.now for line in self.switch(without="soy").context["proposal"].lines}
        self.assertNotIn("tocopheryl_acetate", now)
        self.assertLessEqual(now["rosemary_extract"], Decimal("0.5"))

    def test_what_nothing_can_stand_in_for_goes(self) -> None:
        starch = {"group": "powder", "behaves_like": "corn_starch", "allergens": "wheat"}
        slug = add_material(self.user, name="Mill starch", **starch).slug
        self.post("lines/", material=slug, percent="2")
        proposal = self.switch(without="wheat").context["proposal"]
        self.assertEqual([line.before.slug for line in proposal.lines if line.after is None], [slug])
        self.post("apply/", proposal=proposal.token)
        self.assertNotIn(slug, self.percents())

    def test_a_lot_is_used_up_as_far_as_it_goes(self) -> None:
        buy = {"bought_on": date(2026, 5, 1)}
        small = buy_lot(self.user, material="coconut_rbd", amount_g=Decimal(20), **buy)
        large = buy_lot(self.user, material="shea_refined", amount_g=Decimal(900), **buy)
        use = self.switch(lot=small.pk).context["use"]
        self.assertTrue(use.uses_all)
        self.assertEqual(use.used_g, 20)
        page = self.switch(lot=large.pk)
        self.assertNotIn("use", page.context)  # no butter in this formula
        services.add_line(
            self.user, self.version, slug="mango_butter", percent=Decimal(5), seen=self.version.revision
        )
        page = self.switch(lot=large.pk)
        use = page.context["use"]
        self.assertFalse(use.uses_all)
        self.assertLessEqual(use.used_g, 25)
        self.assertContains(page, "would use all 900.0 g")
        self.post("apply/", proposal=use.proposal.token)
        self.assertEqual(self.percents()["shea_refined"], use.used_g)

    def test_lots_are_folded_after_the_first_dozen_unless_one_of_them_is_chosen(self) -> None:
        lots = [
            buy_lot(self.user, material="coconut_rbd", amount_g=Decimal(20), bought_on=date(2026, 5, n))
            for n in range(1, 15)
        ]
        page = self.switch()
        self.assertContains(page, "2 more lots")
        self.assertContains(page, '<details class="why"><summary>2 more')
        order = [view.lot for view, _ in [*page.context["lots"], *page.context["more_lots"]]]
        self.assertEqual({lot.pk for lot in order}, {lot.pk for lot in lots})
        self.assertContains(self.switch(lot=order[13].pk), '<details class="why" open><summary>2 more')
        self.assertNotContains(self.switch(lot=order[0].pk), "open><summary>2 more")

    def test_odd_wishes(self) -> None:
        for query in ({"without": "moonlight"}, {"lot": "x"}, {"lot": "99"}, {"without": "wheat"}):
            self.assertNotIn("use", self.switch(**query).context)
        self.assertContains(self.switch(without="wheat"), "contains none of that")


class AnyEdits(WithSalve):
    """What a pot depends on: whatever is done in whatever order, the lines make 100 and nothing is lost."""

    def edit(self, chance: Random) -> None:
        lines = list(self.version.lines.all())
        key = chance.choice(lines).key
        spare = chance.choice(["mica", "lavender", "shea_refined", "castor_oil", "candelilla_wax"])
        small = Decimal(chance.randrange(0, 20_000)) / 1000
        act, values = chance.choice(
            [
                (services.set_percent, {"key": key, "percent": small}),
                (services.set_percent, {"key": key, "percent": small, "on_top": True}),
                (services.set_percent, {"key": key, "percent": small, "on_top": False}),
                (services.add_line, {"slug": spare, "percent": small, "on_top": chance.random() < 0.5}),
                (services.remove_line, {"key": key} if len(lines) > 2 else {"key": "none"}),
                (services.trade, {"key": key, "other": chance.choice(lines).key, "percent": small}),
                (services.set_lock, {"key": key, "is_locked": chance.random() < 0.5}),
                (services.balance_with, {"key": key}),
                (services.fit_scents, {}),
                (services.set_weight, {"key": key, "measured": Measured.of("x", *[float(small)] * 3)}),
                (services.set_batch, {"batch_g": 50 + small}),
            ]
        )
        with suppress(CalmTinError):
            act(self.user, self.version, seen=self.version.revision, **values)

    def test_the_lines_make_100_locks_hold_and_every_edit_can_be_undone(self) -> None:
        for seed in range(4):
            chance, seen = Random(seed), [self.percents()]
            for _ in range(40):
                locked = {line.key: line for line in self.version.lines.filter(is_locked=True)}
                step = self.version.step
                self.edit(chance)
                self.version.refresh_from_db()
                lines = list(self.version.lines.all())
                self.assertEqual(sum(line.percent for line in lines), 100)
                self.assertEqual(sum(line.is_balancing for line in lines), 1)
                for line in lines:
                    # A lock holds the percent of all, or on top of the base the percent of it.
                    was = locked.get(line.key, line)
                    kept = was.is_on_top and was.on_top_pct == line.on_top_pct
                    self.assertTrue(kept or was.percent == line.percent, (was.percent, line.percent))
                top = [line for line in lines if line.is_on_top]
                for line, percent in zip(top, of_total([li.on_top_pct for li in top]), strict=True):
                    self.assertAlmostEqual(line.percent, percent, delta=Decimal("0.002"))
                if self.version.step != step:
                    seen.append(self.percents())
            for before in reversed(seen[:-1]):
                services.undo(self.user, self.version, seen=self.version.revision)
                self.assertEqual(self.percents(), before)


class OnTheScale(WithSalve):
    def test_what_is_on_top_is_weighed_as_its_share_of_the_base(self) -> None:
        self.post("lines/", material="lavender", percent="+3")
        self.version.refresh_from_db()
        pour = pour_of(self.user, self.version)
        grams = {line.material: line.planned_g for line in pour.lines.all()}
        self.assertEqual(sum(grams.values()), pour.batch_g)
        base = pour.batch_g - grams["lavender"]
        self.assertAlmostEqual(grams["lavender"], base * 3 / 100, delta=Decimal("0.15"))


class Versions(WithSalve):
    def test_what_changed_comes_first_and_branches_are_named(self) -> None:
        pour_of(self.user, self.version)
        self.post("batch/", batch_g="200")
        second = draft(self.formula)
        wax = second.lines.get(material="beeswax_yellow").key
        services.set_percent(self.user, second, key=wax, percent=Decimal(20), seen=second.revision)
        services.branch(self.user, second, name="Twin")
        page = self.client.get(f"/formulas/{self.formula.pk}/versions/?a=1&b=2")
        diff = page.context["diff"]
        self.assertEqual([r.material.slug for r in diff.changed], ["beeswax_yellow", "olive_oil"])
        self.assertEqual([r.change for r in diff.changed], [2, -2])
        self.assertEqual({r.material.slug for r in diff.kept}, {"coconut_rbd", "tocopherols_50"})
        self.assertEqual(diff.other_process, [("Batch", "100 g", "200 g")])
        self.assertContains(page, 'class="before"', 1)
        self.assertContains(page, "2 lines unchanged")
        self.assertContains(page, "Twin")
