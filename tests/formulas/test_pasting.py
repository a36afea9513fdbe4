"""From a pasted recipe to a draft, and what wet things say."""

from __future__ import annotations

import hashlib
from decimal import Decimal
from random import Random

from calmtin.core.cautions.water import wet_cautions
from calmtin.core.data.loader import library
from calmtin.formulas import services
from calmtin.formulas.models import Formula
from tests.bench_data import draft
from tests.formulas.test_formulas import WithSalve

RECIPE = "1 cup shea butter, melted\n30 g beeswax\n10 drops lavender\nunicorn tears 3 g\nstir well"


def key_of(text: str, nth: int = 1) -> str:
    return f"{hashlib.sha256(text.encode()).hexdigest()[:10]}{nth}"


class Paste(WithSalve):
    def test_every_line_must_be_settled(self) -> None:
        page = self.client.post("/formulas/paste/", {"text": RECIPE})
        self.assertContains(page, "unicorn tears 3 g")
        self.assertContains(page, "stir well")
        held = self.client.post("/formulas/paste/", {"text": RECIPE, "make": "yes"})
        self.assertContains(held, "Choose a material and a weight for every line")
        self.assertEqual(Formula.objects.count(), 1)

    def test_settled_it_becomes_a_draft_with_what_was_written(self) -> None:
        wax, tears, stir = (key_of(text) for text in ("30 g beeswax", "unicorn tears 3 g", "stir well"))
        rows = {
            f"material_{tears}": "leave out",
            f"material_{stir}": "leave out",
            f"material_{wax}": "beeswax_yellow",
            f"grams_{wax}": "31,5",
            f"was_{wax}": "30.0",
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
            {"text": "30 g beeswax", f"grams_{key_of('30 g beeswax')}": "lots", "make": "y"},
        )
        self.assertContains(page, "is not a number")
        self.assertContains(page, 'value="lots"')

    def read(self, text: str, before: object = None, **more: str) -> object:
        """Post the page as a browser does: every box of the page that was answered before goes along."""
        boxes = dict(before.boxes) if before else {}
        page = self.client.post("/formulas/paste/", {**boxes, "text": text, **more})
        rows = page.context["pasted"].rows if "pasted" in page.context else []
        page.boxes = {"shown": "yes"}
        for row in rows:
            page.boxes[f"was_{row.key}"] = row.shown
            if not row.remark:
                page.boxes[f"grams_{row.key}"] = row.typed_grams
                page.boxes[f"material_{row.key}"] = (
                    "leave out" if row.is_left_out else row.material.slug if row.material else ""
                )
        page.rows = {row.text: row for row in rows}
        return page

    def test_what_was_settled_follows_its_line_and_a_changed_line_is_read_anew(self) -> None:
        page = self.read("1 cup shea butter, melted\n30 g beeswax\nunicorn tears 3 g")
        page.boxes[f"material_{key_of('unicorn tears 3 g')}"] = "argan_oil"
        page.boxes[f"grams_{key_of('30 g beeswax')}"] = "31.5"
        page = self.read(
            "20 g olive oil\n1/2 cup shea butter, melted\nunicorn tears 3 g\n30 g beeswax", page
        )
        grams = {text: (row.material.slug, str(row.grams), row.news) for text, row in page.rows.items()}
        self.assertEqual(
            grams,
            {
                "20 g olive oil": ("olive_oil", "20.0", "changed"),
                "1/2 cup shea butter, melted": ("shea_refined", "104.69", "changed"),
                "unicorn tears 3 g": ("argan_oil", "3.0", ""),
                "30 g beeswax": ("beeswax_yellow", "31.50", ""),
            },
        )

    def test_what_nobody_has_seen_makes_no_draft(self) -> None:
        page = self.read("30 g beeswax\n70 g olive oil")
        again = self.read("40 g beeswax\n70 g olive oil", page, make="yes")
        self.assertContains(again, "Some lines have changed")
        self.assertEqual(Formula.objects.count(), 1)
        made = self.client.post(
            "/formulas/paste/", {**again.boxes, "text": "40 g beeswax\n70 g olive oil", "make": "yes"}
        )
        self.assertEqual(made.status_code, 302)
        self.assertEqual(draft(Formula.objects.first()).batch_g, 110)

    def test_another_material_is_weighed_by_its_own_density(self) -> None:
        page = self.read("1 cup olive oil")
        page.boxes[f"material_{key_of('1 cup olive oil')}"] = "castor_oil"
        row = self.read("1 cup olive oil", page).rows["1 cup olive oil"]
        self.assertAlmostEqual(float(row.grams), 236.588 * library()["castor_oil"].density_solid, delta=0.1)

    def test_percent_beside_a_spoon_ask_for_the_batch_and_follow_it(self) -> None:
        text = "80% olive oil\n20% beeswax\n1 tsp vitamin E"
        page = self.read(text)
        self.assertContains(page, "The percentages are for a batch of")
        page = self.read(text, page, batch="200 g")
        self.assertEqual(str(page.rows["80% olive oil"].grams), "160.0")
        page = self.read(text, page, batch="half a pound")
        self.assertEqual(str(page.rows["20% beeswax"].grams), "45.36")
        self.assertEqual(page.rows["20% beeswax"].news, "was 40.0")
        self.assertContains(self.read(text, page, batch="lots"), "is not a number")

    def test_parts_beside_a_spoon_ask_once_what_one_part_weighs(self) -> None:
        text = "equal parts beeswax, shea butter and olive oil\n1 tsp vitamin E"
        page = self.read(text)
        self.assertContains(page, "One part weighs", 1)
        self.assertNotContains(page, "The percentages are for a batch of")
        page = self.read(text, page, part="2 oz")
        rows = page.context["pasted"].rows
        self.assertEqual([str(row.grams) for row in rows[:3]], ["56.7"] * 3)
        self.assertTrue(page.context["pasted"].is_settled)
        self.assertContains(self.read(text, page, part="some"), 'id="part-wrong"')

    def test_several_on_a_line_with_nothing_between(self) -> None:
        for text in (
            "20 g beeswax 30 g shea butter 40 g olive oil 10 g coconut oil",
            "beeswax 20 g shea butter 30 g olive oil 40 g coconut oil 10 g",
        ):
            rows = self.read(text).context["pasted"].rows
            found = [(row.material.slug, str(row.grams)) for row in rows]
            wanted = ["beeswax_yellow", "shea_refined", "olive_oil", "coconut_rbd"]
            self.assertEqual(found, list(zip(wanted, ("20.0", "30.0", "40.0", "10.0"), strict=True)))

    def test_an_unknown_name_is_asked_with_three_of_its_own_group(self) -> None:
        for text, group in (
            ("2 ml dewdrop essential oil", "scent"),
            ("1 g brown eyeshadow", "colour"),
            ("3 g grumble wax", "wax"),
        ):
            (row,) = self.read(text).context["pasted"].rows
            self.assertEqual({material.group for material in row.offers}, {group}, text)
        (row,) = self.read("2 g optiphen preservative").context["pasted"].rows
        self.assertTrue(all("preservative" in material.slug for material in row.offers))

    def test_the_kind_is_guessed_shown_and_never_silently_a_salve(self) -> None:
        for text, kind, because in (
            ("Nan's lip balm:\n30 g beeswax\n70 g olive oil", "lip_balm", "It says “lip balm”."),
            ("60 g shea butter\n20 g olive oil", "whipped_butter", "nearest to that"),
            ("35 g beeswax\n30 g cocoa butter\n35 g almond oil", "lotion_bar", "nearest to that"),
            ("18 g beeswax\n82 g olive oil", "firm_salve", "nearest to that"),
        ):
            with self.subTest(text):
                page = self.read(text)
                self.assertContains(page, because)
                self.assertContains(page, f'<option value="{kind}" selected>')
                made = self.client.post("/formulas/paste/", {**page.boxes, "text": text, "make": "yes"})
                self.assertEqual(made.status_code, 302)
                self.assertEqual(Formula.objects.latest("pk").kind, kind)
        # What the maker chose stays, whatever is guessed of an edited recipe.
        page = self.read("60 g shea butter\n20 g olive oil", kind="gloss", guessed="whipped_butter")
        self.assertContains(page, '<option value="gloss" selected>')

    def test_any_edit_of_any_line_leaves_the_others_as_they_were_settled(self) -> None:
        random = Random(11)
        some = ["30 g beeswax", "1 cup olive oil", "12-16 drops lavender", "2 tbsp shea butter", "salt"]
        for _ in range(12):
            lines = random.choices(some, k=random.randint(1, 5))
            page = self.read("\n".join(lines))
            keys = [key_of(text, lines[: n + 1].count(text)) for n, text in enumerate(lines)]
            left = {key: Decimal(random.randint(1, 400)) for key in keys}
            page.boxes |= {f"grams_{key}": str(value) for key, value in left.items()}
            page.boxes |= {f"material_{key}": "argan_oil" for key in keys}
            place = random.randrange(len(lines))
            changed = [*lines[:place], "5 g cocoa butter", *lines[place + 1 :]]
            random.shuffle(changed)
            for row in self.read("\n".join(changed), page).context["pasted"].rows:
                if row.text == "5 g cocoa butter":
                    self.assertEqual((row.grams, row.news), (Decimal("5.0"), "changed"))
                else:
                    self.assertEqual((row.grams, row.material.slug), (left[row.key], "argan_oil"))

    def test_empty_and_endless(self) -> None:
        self.assertContains(self.client.post("/formulas/paste/", {"text": " "}), "one material per line")
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
        self.assertContains(empty, "Give your reason to go on")
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
