"""From a pasted recipe to a draft, and what wet things say."""

from __future__ import annotations

from decimal import Decimal

from calmtin.core.cautions.water import wet_cautions
from calmtin.core.data.loader import library
from calmtin.formulas import services
from calmtin.formulas.models import Formula
from tests.bench_data import draft
from tests.formulas.test_formulas import WithSalve

RECIPE = "1 cup shea butter, melted\n30 g beeswax\n10 drops lavender\nunicorn tears 3 g\nstir well"


class Paste(WithSalve):
    def test_every_line_must_be_settled(self) -> None:
        page = self.client.post("/formulas/paste/", {"text": RECIPE})
        self.assertContains(page, "unicorn tears 3 g")
        self.assertContains(page, "stir well")
        held = self.client.post("/formulas/paste/", {"text": RECIPE, "make": "yes"})
        self.assertContains(held, "Settle every line first")
        self.assertEqual(Formula.objects.count(), 1)

    def test_settled_it_becomes_a_draft_with_what_was_written(self) -> None:
        rows = {
            "material_3": "leave out",
            "material_4": "leave out",
            "material_1": "beeswax_yellow",
            "grams_1": "31,5",
        }
        done = {"text": RECIPE, "make": "yes", "name": "Pasted", "kind": "poured_butter", **rows}
        self.client.post("/formulas/paste/", done)
        version = draft(Formula.objects.get(name="Pasted"))
        percents = self.percents(version)
        self.assertEqual(sum(percents.values()), Decimal(100))
        self.assertAlmostEqual(
            float(percents["beeswax_yellow"]), 3150 / (209.38 + 31.5 + 0.4425), delta=0.02
        )
        self.assertEqual(version.lines.get(material="shea_refined").typed, "1 cup shea butter, melted")
        self.assertAlmostEqual(float(version.batch_g), 241.3, delta=0.1)

    def test_bad_grams_are_named_and_kept(self) -> None:
        page = self.client.post(
            "/formulas/paste/",
            {"text": "30 g beeswax", "material_0": "beeswax_yellow", "grams_0": "lots", "make": "y"},
        )
        self.assertContains(page, "is not a number")
        self.assertContains(page, 'value="lots"')

    def test_empty_and_endless(self) -> None:
        self.assertContains(self.client.post("/formulas/paste/", {"text": " "}), "one material a line")
        self.assertContains(self.client.post("/formulas/paste/", {"text": "1 g x\n" * 300}), "up to 200")


class WetThings(WithSalve):
    def test_each_wet_thing_stops_and_says_what_instead(self) -> None:
        shelf = library()
        for slug, material in shelf.items():
            found = wet_cautions([(material, 5.0), (shelf["olive_oil"], 95.0)], total_g=100.0)
            self.assertEqual(len(found), int(material.is_wet), slug)
            for caution in found:
                self.assertEqual(caution.level, "stop")
                self.assertTrue(caution.instead and caution.rule)

    def test_tincture_says_what_must_leave_the_pot(self) -> None:
        services.add_line(self.user, self.version, slug="alcohol_tincture", percent=Decimal(10), seen=0)
        page = self.client.get(f"/formulas/{self.formula.pk}/")
        self.assertContains(page, "has lost 9.7 g")
        line = self.line("alcohol_tincture")
        self.post(f"lines/{line.key}/strength/", strength="120", scale="proof")
        line.refresh_from_db()
        self.assertEqual(line.alcohol_pct, 60.0)
        wrong = self.post(f"lines/{line.key}/strength/", strength="120", scale="percent")
        self.assertContains(wrong, "0 to 100 %")


class Acknowledging(WithSalve):
    def test_a_reason_is_kept_and_the_caution_steps_back(self) -> None:
        services.add_line(self.user, self.version, slug="honey", percent=Decimal(2), seen=0)
        empty = self.post("acknowledge/", key="wet", material="honey", level="stop", reason=" ")
        self.assertContains(empty, "Say in a few words")
        page = self.post(
            "acknowledge/", key="wet", material="honey", level="stop", reason="a scrub, used at once"
        )
        view = next(c for c in page.context["view"].cautions if c.caution.key == "wet")
        self.assertEqual(view.reason, "a scrub, used at once")
        self.assertIs(page.context["view"].cautions[-1], view)

    def test_what_grows_to_a_stop_is_said_again(self) -> None:
        self.post("lines/", material="lavender", percent="4")
        seen = {"key": "scent_total", "material": "", "level": "think", "reason": "for feet only"}
        page = self.post("acknowledge/", **seen)
        self.assertTrue(
            next(c for c in page.context["view"].cautions if c.caution.key == "scent_total").reason
        )
        page = self.post(f"lines/{self.line('lavender').key}/percent/", percent="7")
        caution = page.context["view"].cautions[0]
        self.assertEqual(
            (caution.caution.key, caution.caution.level, caution.reason), ("scent_total", "stop", "")
        )

    def test_audience_changes_the_ceiling(self) -> None:
        services.add_line(self.user, self.version, slug="lavender", percent=Decimal("1.5"), seen=0)
        form = {"name": "Thole pin salve", "kind": "firm_salve", "audience": "adult_lips", "sees_sun": "on"}
        address = f"/formulas/{self.formula.pk}/"

        def keys() -> list[str]:
            return [c.caution.key for c in self.client.get(address).context["view"].cautions]

        self.assertNotIn("scent_total", keys())
        self.client.post(f"{address}details/", form)
        self.assertIn("scent_total", keys())
