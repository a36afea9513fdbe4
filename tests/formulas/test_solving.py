"""Targets, swaps and locks on the formula's pages."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from django.core.signing import dumps

from calmtin.accounts.models import Bench
from calmtin.formulas import services
from calmtin.formulas.models import Formula
from calmtin.pantry.services.lots import buy_lot
from tests.bench_data import draft, pour_of
from tests.formulas.test_formulas import WithSalve


class Targets(WithSalve):
    def target(self, **typed: str) -> object:
        return self.client.get(f"/formulas/{self.formula.pk}/v/1/target/", typed)

    def apply(self, proposal: str, seen: int | None = None) -> object:
        self.version.refresh_from_db()
        revision = self.version.revision if seen is None else seen
        return self.client.post(
            f"/formulas/{self.formula.pk}/v/1/apply/", {"proposal": proposal, "seen": revision}
        )

    def test_proposed_applied_as_a_whole(self) -> None:
        proposal = self.target(rung="5.5", min_rung="", hot="").context["proposal"]
        self.assertEqual(proposal.solution.status, "met")
        self.assertAlmostEqual(proposal.firmness.room.rung, 5.5, delta=0.1)
        self.assertEqual(sum(line.now for line in proposal.lines), 100)
        kept = next(line for line in proposal.lines if line.after.slug == "tocopherols_50")
        self.assertFalse(kept.change)
        self.apply(proposal.token)
        self.assertEqual(self.percents(), {line.after.slug: line.now for line in proposal.lines})

    def test_in_fahrenheit(self) -> None:
        Bench.objects.filter(user=self.user).update(temperature_unit="F")
        page = self.target()
        self.assertContains(page, 'name="hot" inputmode="decimal" autocomplete="off" data-was="91.4"')
        asked = self.target(rung="5.2", min_rung="3", hot="95").context["proposal"]
        self.assertEqual(set(asked.solution.rungs), {21.0, 35.0})

    def test_groups_and_skin_melt_hold(self) -> None:
        found = self.target(rung="4.9", min_rung="", hot="", low_wax="18.95", high_wax="19.05")
        proposal = found.context["proposal"]
        wax = sum(line.now for line in proposal.lines if line.shown.layer == "wax")
        self.assertEqual(proposal.solution.status, "met")
        self.assertTrue(Decimal("18.95") <= wax <= Decimal("19.05"))
        melting = self.target(rung="4.5", min_rung="", hot="", skin_melt="35").context["proposal"]
        self.assertGreaterEqual(melting.solution.skin_melt, 0.345)
        self.assertContains(self.target(min_rung="3", hot=""), "the temperature of the hot day")
        usual = self.target(rung="7", min_rung="", hot="", usual="yes").context["proposal"]
        self.assertEqual(usual.solution.status, "not_met")
        self.assertLessEqual(sum(li.now for li in usual.lines if li.shown.layer == "wax"), 24)

    def test_beyond_the_usual_is_met_and_says_so(self) -> None:
        page = self.target(rung="7", min_rung="", hot="")
        self.assertEqual(page.context["proposal"].solution.status, "met")
        (words,) = page.context["proposal"].beyond
        self.assertRegex(words, r"^3\d % wax where a firm salve in a tin usually has 14–24$")
        self.assertContains(page, f"points change, with {words}")
        self.assertEqual(self.target(rung="5", min_rung="", hot="").context["proposal"].beyond, [])

    def test_a_proposal_is_for_the_state_that_it_was_worked_out_for(self) -> None:
        old = self.target(rung="5.5", min_rung="", hot="").context["proposal"].token
        self.post("batch/", batch_g="120")
        before = self.percents()
        self.apply(old)
        self.assertEqual(self.percents(), before)

    def test_locks_and_ranges_hold(self) -> None:
        coconut, wax = self.line("coconut_rbd"), self.line("beeswax_yellow")
        services.set_lock(self.user, self.version, key=coconut.key, is_locked=True, seen=0)
        found = self.target(rung="6", min_rung="", hot="", **{f"high_{wax.key}": "20"}).context["proposal"]
        now = {line.after.slug: line.now for line in found.lines}
        self.assertEqual((found.solution.status, now["coconut_rbd"]), ("not_met", Decimal(12)))
        self.assertLessEqual(now["beeswax_yellow"], 20)
        self.assertTrue(any("at most 20 %" in words for words in found.stops))

    def test_a_locked_line_does_not_move_by_hand_either(self) -> None:
        wax = self.line("beeswax_yellow")
        self.post(f"lines/{wax.key}/lock/", lock="yes")
        refused = self.post(f"lines/{wax.key}/percent/", percent="30")
        self.assertContains(refused, "This line is locked")
        self.assertContains(self.post(f"lines/{wax.key}/balance/"), "This line is locked")
        self.assertContains(
            self.post(f"lines/{self.line('olive_oil').key}/lock/", lock="yes"), "makes up the rest"
        )
        self.post(f"lines/{wax.key}/lock/", lock="no")
        self.post(f"lines/{wax.key}/percent/", percent="20")
        self.assertEqual(self.percents()["beeswax_yellow"], 20)

    def test_bad_boxes_are_named_and_kept(self) -> None:
        for box, kind in (("rung", "number"), ("min_rung", "number"), ("hot", "temperature")):
            page = self.target(**{"rung": "5", "min_rung": "3", "hot": "33", box: "firmish"})
            self.assertContains(page, f"“firmish” is not a {kind}. Type")
            self.assertContains(page, 'value="firmish"')
        self.assertContains(self.target(rung="14"), "cannot be above 10")
        crossed = {
            f"low_{self.line('beeswax_yellow').key}": "30",
            f"high_{self.line('beeswax_yellow').key}": "20",
        }
        self.assertContains(self.target(rung="5", **crossed), "must run from 0 up to 100")

    def test_stale_or_forged_proposals_change_nothing(self) -> None:
        token = self.target(rung="5.5").context["proposal"].token
        before = self.percents()
        forged = dumps([[self.line("olive_oil").key, "olive_oil", "100"]])
        flipped = token[:5] + ("A" if token[5] != "A" else "B") + token[6:]
        for proposal, seen in (
            (token, 99),
            (flipped, None),
            (forged, None),
            (token[:-1], None),
            ("", None),
        ):
            self.assertContains(self.apply(proposal, seen), 'role="alert"')
            self.assertEqual(self.percents(), before)

    def test_applying_to_a_poured_version_starts_the_next(self) -> None:
        pour_of(self.user, self.version)
        before = self.percents()
        self.apply(self.target(rung="5.5").context["proposal"].token)
        self.assertEqual(self.percents(), before)
        self.assertEqual(draft(self.formula).number, 2)


class Swaps(WithSalve):
    def swaps(self, slug: str, query: str = "") -> list:
        address = f"/formulas/{self.formula.pk}/v/1/lines/{self.line(slug).key}/swap/{query}"
        return self.client.get(address).context["candidates"]

    def test_plant_wax_at_equal_firmness(self) -> None:
        found = {c.material.slug: c for c in self.swaps("beeswax_yellow", "?free=bee")}
        self.assertNotIn("beeswax_white", found)
        candelilla = found["candelilla_wax"]
        wax = next(line for line in candelilla.equal.lines if line.after.slug == "candelilla_wax")
        today = self.client.get(f"/formulas/{self.formula.pk}/").context["view"].firmness.room.rung
        self.assertTrue(candelilla.is_equal)
        self.assertAlmostEqual(candelilla.equal.firmness.room.rung, round(today, 1), delta=0.05)
        self.assertAlmostEqual(candelilla.factor, float(wax.now) / 18, places=6)
        self.assertTrue(
            all(f"{c.equal.firmness.room.rung:.1f}" == f"{today:.1f}" for c in found.values() if c.is_equal)
        )
        self.assertGreater(candelilla.rung_one_for_one, today + 0.5)
        self.assertLess(wax.now, 16)
        self.assertEqual(candelilla.changes[:2], ["without bee products", "vegan"])
        self.assertIn("0.6 × (0.5-0.7). Harder, glossier", candelilla.lore)

    def test_names_the_allergens_that_come_and_go(self) -> None:
        found = {c.material.slug: c for c in self.swaps("olive_oil")}
        self.assertEqual(found["sweet_almond_oil"].changes[0], "brings nuts")
        self.assertFalse(any("brings" in words for words in found["jojoba_oil"].changes))
        soft = {c.material.slug: c for c in self.swaps("coconut_rbd")}
        self.assertIn("without coconut", soft["babassu_oil"].changes)

    def test_ranked_by_how_little_else_changes(self) -> None:
        found = [c for c in self.swaps("coconut_rbd") if c.equal.solution.status == "met"]
        self.assertEqual([c.equal.moved for c in found], sorted(c.equal.moved for c in found))
        self.assertIn(found[0].material.slug, ("coconut_virgin", "babassu_oil", "palm_kernel_oil"))

    def test_only_what_i_have(self) -> None:
        self.assertEqual(self.swaps("olive_oil", "?mine=yes"), [])


class NewFormula(WithSalve):
    answers = {"name": "Weir stick", "kind": "lip_balm", "free": ["bee", "coconut"], "sees_sun": "on"}

    def test_three_worked_formulas_and_one_press_to_a_draft(self) -> None:
        page = self.client.post("/formulas/new/", {**self.answers, "show": "yes"})
        worked = page.context["worked"]
        self.assertEqual([w.starter.label for w in worked], ["soft", "middle", "firm"])
        self.client.post("/formulas/new/", {**self.answers, "take": worked[1].token})
        made = Formula.objects.get(name="Weir stick")
        self.assertEqual(made.audience, "adult_lips")
        self.assertEqual(self.percents(draft(made)), {m.slug: p for m, p in worked[1].starter.lines})
        self.assertNotIn("beeswax_yellow", self.percents(draft(made)))

    def test_cost_only_where_every_material_has_a_price(self) -> None:
        lots = {"beeswax_yellow": 2, "cocoa_butter": 2, "shea_refined": 2, "coconut_rbd": 2, "olive_oil": 1}
        for slug, price in {**lots, "sunflower_high_oleic": 1, "tocopherols_50": 9}.items():
            buy_lot(
                self.user, material=slug, amount_g=Decimal(100), bought_on=date(2026, 5, 1), price=price
            )
        shown = {**self.answers, "free": [], "use_stock": "on", "show": "yes"}
        worked = self.client.post("/formulas/new/", shown).context["worked"]
        self.assertTrue(all(1 <= w.cost_100_g <= 2.2 for w in worked))
        bare = {**self.answers, "free": [], "show": "yes", "kind": "gloss"}
        self.assertIsNone(self.client.post("/formulas/new/", bare).context["worked"][0].cost_100_g)

    def test_forged_lines_change_nothing(self) -> None:
        for token in ("moon_dust:100", "olive_oil:1e9", ":", "olive_oil:200;castor_oil:3"):
            page = self.client.post("/formulas/new/", {**self.answers, "take": token})
            self.assertContains(page, 'role="alert"')
        self.assertFalse(Formula.objects.filter(name="Weir stick").exists())


class TrioMap(WithSalve):
    def trio(self, **typed: str) -> object:
        return self.client.get(f"/formulas/{self.formula.pk}/v/1/map/", typed)

    def test_moving_the_point_rescales_the_groups(self) -> None:
        pour_of(self.user, self.version, done=True)
        view = self.trio(wax="20", butter="20", oil="60").context["trio"]
        now = {line.after.slug: line.now for line in view.proposal.lines}
        self.assertEqual(sum(now.values()), 100)
        self.assertEqual(now["tocopherols_50"], 1)
        self.assertAlmostEqual(float(now["beeswax_yellow"]), 19.8, delta=0.11)
        self.assertEqual(len(view.map.marks), 1)
        self.assertTrue(view.map.band and len(view.map.contours) >= 7)

    def test_table_says_what_the_map_shows(self) -> None:
        view = self.trio().context["trio"]
        table = dict(view.table)
        oils = [rung for rung in table[0] if rung is not None]
        self.assertEqual(oils, sorted(oils, reverse=True))
        self.assertIsNone(table[20][-1])

    def test_bad_shares(self) -> None:
        self.assertContains(self.trio(wax="much", butter="1", oil="1"), "is not a number")
        self.assertContains(self.trio(wax="0", butter="0", oil="0"), "shares are 0")
        services.remove_line(self.user, self.version, key=self.line("coconut_rbd").key, seen=0)
        self.assertContains(self.trio(wax="20", butter="20", oil="60"), "Add one first")


class Trading(WithSalve):
    def trade(self, percent: str, other: str = "coconut_rbd") -> object:
        wax, across = self.line("beeswax_yellow"), self.line(other)
        return self.post(f"lines/{wax.key}/trade/", percent=percent, other=across.key)

    def test_only_two_layers_move(self) -> None:
        self.trade("21.5")
        now = self.percents()
        self.assertEqual((now["beeswax_yellow"], now["coconut_rbd"]), (Decimal("21.5"), Decimal("8.5")))
        self.assertEqual(now["olive_oil"], 69)

    def test_more_than_both_or_locked_changes_nothing(self) -> None:
        before = self.percents()
        self.assertContains(self.trade("30.5"), "add up to 30 %")
        self.assertContains(self.trade("10", "beeswax_yellow"), "a different line to trade with")
        services.set_lock(self.user, self.version, key=self.line("coconut_rbd").key, is_locked=True, seen=0)
        self.assertContains(self.trade("20"), "locked")
        self.assertEqual(self.percents(), before)

    def test_versions_side_by_side(self) -> None:
        pour_of(self.user, self.version)
        self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent="25")
        diff = self.client.get(f"/formulas/{self.formula.pk}/versions/?a=1&b=2").context["diff"]
        self.assertEqual([row.change for row in diff.rows if row.change], [7, -7])
        self.assertGreater(diff.firmness_b.room.rung, diff.firmness_a.room.rung)
        odd = self.client.get(f"/formulas/{self.formula.pk}/versions/?a=x&b=99")
        self.assertEqual((odd.context["diff"].a.number, odd.context["diff"].b.number), (1, 2))
