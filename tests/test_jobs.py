"""Eleven makers go from paper to a labelled, checked tin, and press nothing but what is on the page.

A form that is not there, a box that no form has, or a page that answers with an error fails the walk.
"""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import lxml.html
from django.test import TestCase
from django.utils import timezone

from calmtin.checks.models import PatchTest
from calmtin.checks.queries.calibration import forget
from calmtin.formulas.models import Formula, Version
from calmtin.packing.models import LabelPrint, PackingItem
from calmtin.pantry.models import Lot
from calmtin.pours.models import Check, Pour
from tests.bench_data import maker

PAPER = "20 g beeswax\n30 g shea butter\n50 g olive oil"


class Walk(TestCase):
    """A maker with an empty bench, who reads pages and presses buttons."""

    def setUp(self) -> None:
        forget()
        self.user = maker("bow")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def get(self, address: str) -> Any:
        return self.checked(self.client.get(address, follow=True))

    def checked(self, answer: Any) -> Any:
        self.assertEqual(answer.status_code, 200)
        answer.tree = lxml.html.fromstring(answer.content.decode())
        led = getattr(answer, "redirect_chain", None)
        answer.at = led[-1][0] if led else answer.request["PATH_INFO"]
        return answer

    def says(self, answer: Any, words: str) -> None:
        text = " ".join(answer.tree.text_content().split())
        self.assertIn(words, text)

    def press(self, answer: Any, words: str, **typed: str) -> Any:
        """Press a button of a page, with its form's boxes as they are but for those typed into."""
        buttons = [b for b in answer.tree.iter("button") if " ".join(b.text_content().split()) == words]
        buttons = [b for b in buttons if b.get("disabled") is None]
        self.assertTrue(buttons, f"{answer.at} has no button {words!r}")
        form = next((b for b in buttons[0].iterancestors("form")), None)
        self.assertIsNotNone(form)
        assert form is not None
        sent: dict[str, Any] = {}
        picked = [c for c in form.iter("input") if c.get("type") == "radio" and c.checked]
        empty = {c.get("name") for c in picked if not c.get("value")}
        for name, value in form.form_values():  # which takes an empty value for "on"
            sent.setdefault(name, []).append("" if name in empty else value)
        boxes = {c.get("name") for c in form.iter("input", "select", "textarea")}
        self.assertLessEqual(typed.keys(), boxes, f"{answer.at} has no such box")
        sent |= {name: [value] for name, value in typed.items()}
        if buttons[0].get("name"):
            sent[buttons[0].get("name")] = [buttons[0].get("value", "")]
        to = buttons[0].get("formaction") or form.get("action") or answer.at
        to = answer.at if to.startswith("#") else to
        method = buttons[0].get("formmethod") or form.get("method", "get")
        send = self.client.post if method == "post" else self.client.get
        return self.checked(send(to, sent, follow=True))

    def follow(self, answer: Any, words: str) -> Any:
        """Follow a link of a page by its words."""
        links = [a for a in answer.tree.iter("a") if words in " ".join(a.text_content().split())]
        self.assertTrue(links, f"{answer.at} has no link {words!r}")
        return self.get(links[0].get("href"))

    def paste(self, text: str, name: str, **answers: str) -> Version:
        page = self.press(self.get("/formulas/paste/"), "Read recipe", text=text)
        if answers:
            page = self.press(page, "Calculate", **answers)
        self.press(page, "Create formula", name=name)
        return Formula.objects.get(name=name).versions.latest("number")

    def plan(self, version: Version, **typed: str) -> Any:
        return self.get(f"/formulas/{version.formula_id}/v/{version.number}/fill/?" + "&".join(
            f"{name}={value}" for name, value in typed.items()
        ))  # fmt: skip

    def weigh(self, answer: Any) -> tuple[Pour, Any]:
        """Weigh what is wanted on the sheet that opened, close it and pour."""
        pour = Pour.objects.latest("pk")
        for line in pour.lines.filter(weigh_ins=None):
            answer = self.press(answer, "Save and next", grams=f"{line.planned_g:f}")
        answer = self.press(answer, "Close the weigh sheet")
        self.press(answer, "Mark as poured")
        return pour, self.get(f"/pours/{pour.pk}/")

    def finish(self, pour: Pour, *, felt: str = "5", feels: str = "right", who: str = "own") -> Any:
        """Check a pour a day later, and print its labels."""
        Pour.objects.filter(pk=pour.pk).update(poured_at=timezone.now() - timedelta(days=1))
        again = "Check again" if pour.checks.exists() else "Check this pour"
        page = self.follow(self.get(f"/pours/{pour.pk}/"), again)
        self.says(self.press(page, "Save check", felt_rung=felt, feels=feels), "Check saved.")
        labels = self.get(f"/pours/{pour.pk}/labels/?for={who}")
        printed = next(b for b in labels.tree.iter("button") if "Print" in b.text_content())
        return self.press(labels, " ".join(printed.text_content().split()))

    def whole(self, version: Version, **plan: str) -> Pour:
        pour, _ = self.weigh(self.press(self.plan(version, **plan), "Start the pour"))
        self.finish(pour)
        self.assertEqual((pour.checks.count(), LabelPrint.objects.filter(pour=pour).count()), (1, 1))
        return pour


class Jobs(Walk):
    def test_1_cups_and_spoons_that_share_an_amount(self) -> None:
        text = "1 cup of olive oil\n2 tablespoons of beeswax and lanolin\n1 heaped tsp arrowroot"
        version = self.paste(text, "Thwart balm")
        self.assertEqual(version.lines.count(), 4)
        self.whole(version)

    def test_2_a_percent_recipe_with_a_capsule(self) -> None:
        text = "20 % beeswax\n79 % almond oil\n1 vitamin E capsule"
        version = self.paste(text, "Stern stick", batch="100 g")
        self.assertEqual(version.lines.count(), 3)
        self.whole(version)

    def test_3_a_pot_a_little_short_of_its_jar(self) -> None:
        version = self.paste("9 g beeswax\n36 g olive oil", "Short pot")
        page = self.plan(version, container_0="jar_60ml", was_0="jar_60ml", pot="45")
        pour, _ = self.weigh(self.press(page, "Start with this"))
        self.assertEqual(sum(filling.count for filling in pour.fillings.all()), 1)
        self.finish(pour)

    def test_4_from_comb_to_a_tin(self) -> None:
        page = self.press(self.get("/pantry/making/"), "Start", raw_g="400")
        for _ in range(6):
            page = self.press(page, "Done")
        self.says(self.press(page, "Put it in the pantry", clean_g="180"), "45 %")
        self.whole(self.paste(PAPER, "Comb balm"))
        self.assertLess(sum(m.grams for m in Lot.objects.get().movements.all()), 180)

    def test_5_an_infusion_that_a_formula_is_short_of(self) -> None:
        facts = {"herb": "calendula", "herb_g": "2 cups", "oil": "olive_oil", "oil_g": "300 g"}
        page = self.press(self.get("/pantry/making/"), "Start infusion", is_dried="on", **facts)
        page = self.press(page, "Done")
        self.press(page, "Save as strained", recovered_g="255")
        oil = Lot.objects.get()
        version = self.paste(f"20 g beeswax\n80 g {self.name_of(oil)}", "Calendula tin")
        again = self.follow(self.plan(version, pot="500"), "of calendula in")
        self.says(again, "Start an infusion")
        self.whole(version)

    def name_of(self, lot: Lot) -> str:
        from calmtin.pantry.adapters import shelf_for

        return str(shelf_for(self.user)[lot.material].name)

    def test_6_a_base_kept_and_filled_another_day(self) -> None:
        version = self.paste(PAPER.replace("20", "40").replace("30 g", "60 g").replace("50", "100"), "Base")
        _, record = self.weigh(self.press(self.plan(version), "Start the pour"))
        self.press(record, "Save count", count_0="0", left_g="180", to_pantry="on")
        lot = self.get(f"/pantry/lots/{Lot.objects.get().pk}/")
        again, _ = self.weigh(self.press(self.follow(lot, "Melt some and fill it"), "Start the pour"))
        self.assertEqual([line.key for line in again.lines.all()], ["base"])
        self.finish(again)

    def test_7_a_label_for_oneself_and_then_one_is_sold(self) -> None:
        pour, record = self.weigh(self.press(self.plan(self.paste(PAPER, "Gift tin")), "Start the pour"))
        count = str(pour.count)
        self.press(record, "Save count", count_0=count)
        self.finish(pour)
        self.press(self.get("/packing/items/"), "Add", name="Ribbon", on_hand="9", price="0.20")
        page = self.get(f"/pours/{pour.pk}/pieces/")
        page = self.press(page, "Save packing", packed="2")
        self.assertEqual(PackingItem.objects.get().on_hand, 7)
        page = self.press(page, "Save pieces", went="sold", count="1", price="6")
        full = self.follow(page, "print full labels")
        self.says(full, "Cera Alba")

    def test_8_felt_too_early_and_again_when_it_is_set(self) -> None:
        pour, record = self.weigh(self.press(self.plan(self.paste(PAPER, "Warm tin")), "Start the pour"))
        page = self.follow(record, "Check this pour")
        self.says(page, "Still warm")
        self.press(page, "Save check", felt_rung="2")
        self.finish(pour, felt="5")
        self.assertEqual([check.moment for check in Check.objects.all()], ["mould", ""])

    def test_9_a_flare_up_is_traced_to_its_cause(self) -> None:
        pour = self.whole(self.paste("20 g beeswax\n5 g lanolin\n75 g olive oil", "Red tin"))
        page = self.press(
            self.get(f"/pours/{pour.pk}/check/"), "Save check", felt_rung="5", complaints="irritates"
        )
        page = self.press(page, "Find the cause")
        for _ in range(PatchTest.objects.count() + 2):
            page = self.press(page, "Nothing happened")
        self.says(self.press(page, "It reacted"), "A patch of it alone reacted")

    def test_10_summer_and_winter(self) -> None:
        version = self.paste(PAPER, "Year tin")
        page = self.get(f"/formulas/{version.formula_id}/v/1/seasons/")
        self.press(page, "Create the other one", season="winter", summer_from="25")
        summer = Formula.objects.get(season="summer").versions.get()
        self.says(self.plan(summer), "Open the winter version")
        self.whole(version)
        self.assertIn("winter", LabelPrint.objects.get().text["name"])

    def test_11_old_notes_and_then_a_series_from_one_pot(self) -> None:
        text = "Balm\tMade\tWhat I used\nOar grip\t2026-05-31\t20 g beeswax; 80 g olive oil\n"
        page = self.checked(self.client.post("/pours/import/", {"text": text}))
        named = {"column_0": "formula", "column_1": "poured", "column_2": "materials"}
        self.press(self.press(page, "Check with these columns", **named), "Import all 1")
        version = Formula.objects.get(name="Oar grip").versions.latest("number")
        page = self.follow(self.get(f"/formulas/{version.formula_id}/"), "Try several")
        pour, _ = self.weigh(self.press(page, "Start from one pot"))
        for _ in range(2):
            self.finish(pour)
            pour, _ = self.weigh(self.press(self.get(f"/pours/{pour.pk}/"), "Start the next sample"))
        self.finish(pour)
        self.assertEqual(Check.objects.count(), 3)
