"""A Stop reaches whatever is poured or printed: read, answered with a reason, and kept on the record."""

from __future__ import annotations

import json
from decimal import Decimal
from typing import Any

from django.test import TestCase
from django.urls import reverse

from calmtin.core.process.scales import Scale
from calmtin.exchange.formats.formula import read_formula_file
from calmtin.formulas.queries.stops import StopFirst
from calmtin.formulas.services import acknowledge, add_finish, rename
from calmtin.packing import services as packing_services
from calmtin.packing.models import LabelPrint
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.plans.adapters import Variant
from calmtin.pours import services as pours
from calmtin.pours.models import PotAddition, Pour, Series
from calmtin.pours.services.starting import start_pour
from tests.bench_data import Reads, draft, maker, plan_for, pour_of, salve

SCENTED = [("beeswax_yellow", Decimal(18)), ("olive_oil", Decimal(81)), ("lavender", Decimal(1))]
PLAIN = [("beeswax_yellow", Decimal(18)), ("olive_oil", Decimal(82))]
INFANT = "infant_under_3_months"
REASON = "asked the midwife"


class Stops(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def formula(self, lines: Any = SCENTED, *, audience: str = INFANT) -> Any:
        formula = salve(self.user, "Cox’s salve", lines)
        return rename(self.user, formula, name=formula.name, kind=formula.kind, audience=audience, notes="")

    def answer(self, formula: Any) -> None:
        """Acknowledge every stop that stands on the page of a fill plan."""
        version = draft(formula)
        page = self.client.get(f"/formulas/{formula.pk}/v/{version.number}/fill/")
        for stop in page.context["stops"]:
            acknowledge(
                self.user, formula, key=stop.key, material=stop.material, level="stop", reason=REASON
            )

    def start(self, formula: Any, **told: Any) -> Pour:
        version = draft(formula)
        plan = plan_for(self.user, version)
        pour: Pour = start_pour(self.user, version, plan, scale_step_g=Decimal("0.1"), **told)
        return pour

    def test_it_stands_in_the_way_of_a_pour_until_it_is_answered(self) -> None:
        formula = self.formula()
        address = f"/formulas/{formula.pk}/v/1/fill/"
        page = self.client.get(address)
        self.assertContains(page, 'aria-label="Stop: ')
        page = self.client.post(address, {"container_0": "tin_2oz", "count_0": "2", "fill_0": "95 %"})
        self.assertContains(page, "Read the caution and give your reason to go on")
        self.assertFalse(Pour.objects.exists())
        self.assertFalse(draft(formula).is_poured)
        with self.assertRaises(StopFirst):
            self.start(formula)
        for stop in page.context["stops"]:
            told = {"key": stop.key, "material": stop.material, "level": "stop", "back": address}
            there = self.client.post(f"/formulas/{formula.pk}/v/1/acknowledge/", {**told, "reason": REASON})
            self.assertRedirects(there, address)
        self.assertNotContains(self.client.get(address), 'aria-label="Stop: ')
        pour = pour_of(self.user, draft(formula), done=True)
        record = self.client.get(reverse("pours:pour", args=[pour.pk]))
        self.assertContains(record, f"Acknowledged: {REASON}")

    def test_a_reason_is_asked_for(self) -> None:
        formula = self.formula()
        [stop, *_] = self.client.get(f"/formulas/{formula.pk}/v/1/fill/").context["stops"]
        told = {"key": stop.key, "material": stop.material, "level": "stop", "back": "/formulas/"}
        page = self.client.post(f"/formulas/{formula.pk}/v/1/acknowledge/", told, follow=True)
        self.assertContains(page, "Give your reason to go on in a few words.")
        self.assertFalse(formula.acknowledgements.exists())

    def test_a_series_and_a_finish_bring_theirs(self) -> None:
        formula = self.formula(PLAIN)
        version = draft(formula)
        keys = {line.material: line.key for line in version.lines.all()}
        rows = (
            (keys["beeswax_yellow"], "beeswax_yellow", Decimal(18)),
            (keys["olive_oil"], "olive_oil", Decimal(81)),
            ("+", "lavender", Decimal(1)),
        )
        with self.assertRaises(StopFirst):
            pours.start_series(
                self.user, version, variants=[Variant(), Variant(rows=rows)], varies="lavender",
                sample_g=Decimal(12), container=container_for(self.user, "tin_2oz"),
                scales=[Scale("kitchen", Decimal("0.1"))],
            )  # fmt: skip
        self.assertFalse(Series.objects.exists() or Pour.objects.exists())
        add_finish(self.user, formula, name="scented", parts=[("lavender", Decimal(1))])
        lavender = shelf_for(self.user)["lavender"]
        with self.assertRaises(StopFirst):
            self.start(formula, finish_parts=[("scented", lavender, Decimal(1), Decimal("0.5"))])
        for page in ("series", "vary"):
            shown = self.client.get(f"/formulas/{self.formula().pk}/v/1/{page}/")
            self.assertContains(shown, 'aria-label="Stop: ')

    def test_by_feel_it_does_not_go_in_and_no_label_is_printed(self) -> None:
        formula = self.formula(PLAIN)
        pour = pour_of(self.user, draft(formula), done=True)
        with self.assertRaises(StopFirst):
            pours.add_to_pot(self.user, pour, material="lavender", grams=Decimal(2), by_feel=True)
        self.assertFalse(PotAddition.objects.exists())
        # What was made for adults is not labelled for babies.
        adults = self.formula(audience="adult_body_leave_on")
        made = pour_of(self.user, draft(adults), done=True)
        rename(self.user, adults, name=adults.name, kind=adults.kind, audience=INFANT)
        told = {"position": 0, "name": "Salve", "sheet": "a4-round-50x50", "count": 1}
        with self.assertRaises(StopFirst):
            packing_services.print_labels(self.user, made, **told)
        page = self.client.post(reverse("packing:labels", args=[made.pk]), {"name": "Salve", "count": "1"})
        self.assertContains(page, 'aria-label="Stop: ')
        self.assertFalse(LabelPrint.objects.exists())

    def test_a_scent_weighed_ten_times_over_stops_the_closing_of_its_sheet(self) -> None:
        lines = [
            ("beeswax_yellow", Decimal(18)),
            ("olive_oil", Decimal("81.9")),
            ("lavender", Decimal("0.1")),
        ]
        formula = self.formula(lines, audience="adult_lips")
        pour = pour_of(self.user, draft(formula))
        for line in pour.lines.all():
            pours.weigh(self.user, line, Decimal(9) if line.material == "lavender" else line.planned_g)
        with self.assertRaises(StopFirst):
            pours.finish_weighing(self.user, pour)
        page = self.client.post(reverse("pours:finish", args=[pour.pk]), follow=True)
        self.assertContains(page, 'aria-label="Stop: ')
        stop = page.context["stops"][0]
        told = {"key": stop.key, "material": stop.material, "level": "stop", "reason": "for the feet only"}
        for stop in page.context["stops"]:
            acknowledge(self.user, formula, **{**told, "key": stop.key, "material": stop.material})
        self.assertIsNotNone(pours.finish_weighing(self.user, pour).poured_at)

    def test_a_file_says_it_too(self) -> None:
        lines = [{"material": slug, "percent": float(percent)} for slug, percent in SCENTED]
        told = {
            "format": "calmtin.formula",
            "version": 1,
            "kind": "firm_salve",
            "name": "Salve",
            "lines": lines,
        }
        file = read_formula_file(json.dumps(told | {"audience": INFANT}), shelf_for(self.user))
        self.assertTrue(any(words.startswith("Stop: ") for words in file.warnings), file.warnings)
        for_all = read_formula_file(json.dumps(told), shelf_for(self.user))
        self.assertEqual([words for words in for_all.warnings if words.startswith("Stop: ")], [])

    def test_a_rehearsal_and_old_notes_are_not_held_up(self) -> None:
        formula = self.formula()
        version = draft(formula)
        plan = plan_for(self.user, version)
        pours.rehearse(self.user, version, plan, scale_step_g=Decimal("0.1"), seed=1)
        self.assertIsNotNone(self.start(formula, is_history=True).pk)
