"""One language for amounts: the same phrase means the same grams in every box that takes one."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable
from contextlib import suppress
from datetime import date
from decimal import Decimal
from unittest.mock import patch

from django.core.exceptions import ObjectDoesNotExist
from django.core.management import call_command
from django.db import transaction
from django.test import TestCase

from calmtin.exchange.formats.pantry import COLUMNS, import_pantry
from calmtin.formulas import services
from calmtin.formulas.models import FinishPart
from calmtin.pantry.models import Infusion, Lot, OwnContainer, Rendering
from calmtin.pantry.services.lots import balance, buy_lot
from tests.bench_data import Reads, draft, maker, pour_of, salve

WAX = "beeswax_yellow"
# Weights mean the same of anything; measures mean the same wherever the material is known.
WEIGHTS = {
    "29.8 g": "29.8",
    ".4 oz wt": "11.34",
    "2 oz wt": "56.7",
    "1 lb 4 oz": "566.99",
    "1,000 g": "1000",
    "1 000 g": "1000",
    "1.000,5 g": "1000.5",
    "0,4 kg": "400",
    "half a pound": "226.8",
    "1/3 kg": "333.33",
    "6 oz or 170 g": "170",
}
# A recipe may say a range; a scale shows one weight.
RANGES = {"25-35 g": "30"}
MEASURES = {
    "½ tsp": "1.43",
    "+1 1/2 tsp": "4.28",
    "12 drops": "0.57",
    "a dozen drops": "0.57",
    "1 cup, melted": "198.73",
    "2 tbsp (26 g)": "26",
}


class EveryBox(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user)
        self.formula = salve(self.user, lines=[("olive_oil", Decimal(50)), (WAX, Decimal(50))])
        self.version = draft(self.formula)
        services.set_batch(self.user, self.version, batch_g=Decimal(10_000), seen=0)
        self.address = f"/formulas/{self.formula.pk}/v/1/"

    def post(self, address: str, **data: object) -> object:
        self.version.refresh_from_db()
        return self.client.post(address, {"seen": self.version.revision, **data})

    def wax(self) -> object:
        return draft(self.formula).lines.get(material=WAX)

    # One function a box: what it makes of a phrase, g.
    def line_box(self, phrase: str) -> Decimal:
        self.post(f"{self.address}lines/{self.wax().key}/percent/", percent=phrase)
        return self.wax().typed_g

    def add_box(self, phrase: str) -> Decimal:
        self.post(f"{self.address}lines/{self.wax().key}/remove/")
        self.post(f"{self.address}lines/", material="beeswax", percent=phrase)
        return self.wax().typed_g

    def all_at_once(self, phrase: str) -> Decimal:
        boxes = {
            f"amount_{line.key}": phrase if line.material == WAX else "5000"
            for line in self.version.lines.all()
        }
        self.post(f"{self.address}amounts/", unit="g", was="g", **boxes)
        return self.wax().grams

    def all_at_once_in_ounces(self, phrase: str) -> Decimal:
        boxes = {
            f"amount_{line.key}": phrase if line.material == WAX else "100"
            for line in self.version.lines.all()
        }
        self.post(f"{self.address}amounts/", unit="oz", was="oz", **boxes)
        return self.wax().grams

    def all_at_once_from_nothing(self, phrase: str) -> Decimal:
        made = services.start_formula(self.user, name="Empty", kind="firm_salve")
        self.client.post(
            f"/formulas/{made.pk}/v/1/amounts/",
            {"seen": 0, "unit": "g", "was": "g", "material_0": "beeswax", "amount_0": phrase}
            | {"material_1": "olive oil", "amount_1": "500 g"},
        )
        return draft(made).lines.get(material=WAX).grams

    def finish(self, phrase: str) -> Decimal:
        self.post(
            f"{self.address}finishes/", name=phrase[:40], material_0=WAX, percent_0=phrase.lstrip("+")
        )
        return FinishPart.objects.get(finish__name=phrase[:40]).percent * 100

    def paste(self, phrase: str) -> Decimal:
        page = self.client.post("/formulas/paste/", {"text": f"{phrase} beeswax"})
        return page.context["pasted"].rows[0].grams

    def paste_grams_box(self, phrase: str) -> Decimal:
        page = self.client.post("/formulas/paste/", {"text": "5 g beeswax"})
        key = page.context["pasted"].rows[0].key
        boxes = {f"grams_{key}": phrase, f"was_{key}": "5.0", "shown": "yes"}
        page = self.client.post("/formulas/paste/", {"text": "5 g beeswax", **boxes})
        return page.context["pasted"].rows[0].grams

    def purchase(self, phrase: str) -> Decimal:
        data = {"amount": phrase, "bought_on": "2026-05-01"}
        self.client.post(f"/pantry/materials/{WAX}/", data)
        return Lot.objects.latest("pk").amount_g

    def lot(self) -> Lot:
        return buy_lot(self.user, material=WAX, amount_g=Decimal(2000), bought_on=date(2026, 5, 1))

    def what_is_left(self, phrase: str) -> Decimal:
        lot = self.lot()
        self.client.post(f"/pantry/lots/{lot.pk}/", {"actual": phrase, "reason": "weighed"})
        return balance(lot)

    def purchase_put_right(self, phrase: str) -> Decimal:
        lot = self.lot()
        data = {"fix-amount_g": phrase, "fix-bought_on": "2026-05-01", "fix-reason": "a slip", "act": "fix"}
        self.client.post(f"/pantry/lots/{lot.pk}/", data)
        lot.refresh_from_db()
        return lot.amount_g

    def csv_file(self, phrase: str) -> Decimal:
        cells = {"what": "lot", "material": WAX, "amount_g": f'"{phrase}"', "bought_on": "2026-05-01"}
        row = ",".join(cells.get(column, "") for column in COLUMNS)
        import_pantry(self.user, f"{','.join(COLUMNS)}\n{row}\n")
        return Lot.objects.latest("pk").amount_g

    def weigh_sheet(self, phrase: str) -> Decimal:
        pour = pour_of(self.user, self.version)
        line = pour.lines.get(material=WAX)
        self.client.post(f"/pours/{pour.pk}/weigh/{line.position}/", {"grams": phrase})
        return line.weigh_ins.latest("pk").grams

    def corrected_weight(self, phrase: str) -> Decimal:
        pour = pour_of(self.user, self.version, done=True)
        line = pour.lines.get(material=WAX)
        data = {"line": line.position, "grams": phrase, "reason": "misread"}
        self.client.post(f"/pours/{pour.pk}/correct/", data)
        return line.weigh_ins.latest("pk").grams

    def command_line(self, phrase: str) -> Decimal:
        out = io.StringIO()
        with patch("sys.stdin", io.TextIOWrapper(io.BytesIO(f"{phrase} beeswax".encode()))):
            call_command("read_recipe", "-", stdout=out)
        (line,) = json.loads(out.getvalue())["lines"]
        return Decimal(str(line["grams"]))

    def batch(self, phrase: str) -> Decimal:
        self.post(f"{self.address}batch/", batch_g=phrase)
        return draft(self.formula).batch_g

    def pot_of_finishes(self, phrase: str) -> Decimal:
        page = self.client.get(f"{self.address}finishes/", {"pot": phrase})
        self.assertEqual(page.context["pot"].problems, {})
        return page.context["pot"].pot_g

    def own_container(self, phrase: str) -> Decimal:
        self.client.post(
            "/pantry/containers/",
            {"name": "Jar", "brim_ml": "60", "usual_level_pct": "95", "cavities": "1", "empty_g": phrase},
        )
        return OwnContainer.objects.latest("pk").tare_g

    def infusion_oil(self, phrase: str) -> Decimal:
        data = {"herb": "calendula", "herb_g": "10", "oil": "olive_oil", "oil_g": phrase, "method": "cold"}
        self.client.post("/pantry/making/", {**data, "started_on": "2026-05-01", "is_dried": "on"})
        return Infusion.objects.latest("pk").oil_g

    def rendered_comb(self, phrase: str) -> Decimal:
        data = {"kind": "comb", "raw_g": phrase, "clean_g": "0.2", "started_on": "2026-05-01"}
        self.client.post("/pantry/making/", data)
        return Rendering.objects.latest("pk").raw_g

    OF_THE_MATERIAL = (
        line_box, add_box, all_at_once, all_at_once_in_ounces, all_at_once_from_nothing, finish, paste,
        paste_grams_box, purchase, what_is_left, purchase_put_right, csv_file, weigh_sheet, command_line,
    )  # fmt: skip
    OF_ANYTHING = (batch, pot_of_finishes, own_container, infusion_oil, rendered_comb, corrected_weight)

    READINGS = (what_is_left, weigh_sheet, own_container, rendered_comb, corrected_weight)

    def check(self, boxes: tuple[Callable[..., Decimal], ...], phrases: dict[str, str]) -> None:
        for place, box in enumerate(boxes):
            # The line's own box takes them all, each other one every second, in turn.
            every = 1 if box is EveryBox.line_box else 2
            for phrase, grams in list(phrases.items())[place % every :: every]:
                with self.subTest(f"{phrase} in {box.__name__}"):
                    start = transaction.savepoint()
                    read = box(self, phrase)
                    transaction.savepoint_rollback(start)
                    self.version.refresh_from_db()
                    # A finish and a line keep thousandths of a percent of some kilograms.
                    self.assertAlmostEqual(read, Decimal(grams), delta=Decimal("0.06"))

    def test_a_weight_is_the_same_in_every_box(self) -> None:
        self.check(self.OF_THE_MATERIAL + self.OF_ANYTHING, WEIGHTS)

    def test_a_range_is_read_where_nothing_was_weighed_and_refused_where_it_was(self) -> None:
        boxes = self.OF_THE_MATERIAL + self.OF_ANYTHING
        self.check(tuple(box for box in boxes if box not in self.READINGS), RANGES)
        for box in self.READINGS:
            with self.subTest(box.__name__), transaction.atomic():
                with suppress(ObjectDoesNotExist):  # nothing was recorded
                    self.assertNotEqual(box(self, "25-35 g"), Decimal(30))
                transaction.set_rollback(True)

    def test_an_ounces_bench_reads_and_shows_ounces_and_keeps_grams(self) -> None:
        settings = {"cold_name": "cold", "cold_c": "8", "room_c": "21", "hot_name": "hot", "hot_c": "45"}
        settings |= {"temperature_unit": "C", "scale_step": "0.01oz", "decimal_comma": "", "cups": "metric"}
        settings |= {"margin_pct": "40", "buying_days": "7", "theme": "light"}
        self.client.post("/settings/", settings)
        self.assertEqual(self.batch("10"), Decimal("283.50"))
        page = self.client.get(self.address)
        self.assertContains(page, '<span class="line-grams">5 oz</span>')
        self.assertEqual(self.what_is_left("16"), Decimal("453.59"))
        self.assertContains(self.client.get(f"/pantry/lots/{Lot.objects.latest('pk').pk}/"), "16<span")
        self.assertEqual(self.line_box("1 cup, melted"), Decimal("210.000"))
        self.batch("10")
        fill = {"container": "tin_2oz", "count": "2", "level": "100", "loss": "5"}
        page = self.client.get(f"{self.address}fill/", fill)
        self.assertContains(page, "in steps of 0.01 oz")
        pour = pour_of(self.user, self.version)
        line = pour.lines.get(material=WAX)
        page = self.client.post(f"/pours/{pour.pk}/weigh/{line.position}/", {"grams": "1.9"}, follow=True)
        self.assertContains(page, '<span class="weighed">1.9</span>')
        self.assertEqual(line.weigh_ins.latest("pk").grams, Decimal("53.86"))
        # A box that is left as it was shown means what stands there, to the letter.
        lot = self.lot()
        self.assertContains(self.client.get(f"/pantry/lots/{lot.pk}/"), 'value="70.55"')
        self.assertEqual(self.purchase_put_right_as_shown(lot, "70.55"), Decimal("2000.00"))

    def purchase_put_right_as_shown(self, lot: Lot, shown: str) -> Decimal:
        page = self.client.get(f"/pantry/lots/{lot.pk}/").content.decode()
        sealed = re.search(r'name="fix-amount_g-shown"\s+value="([^"]+)"', page)
        assert sealed is not None
        data = {"fix-amount_g": shown, "fix-amount_g-shown": sealed[1], "act": "fix"}
        data |= {"fix-bought_on": "2026-05-02", "fix-reason": "a day"}
        self.client.post(f"/pantry/lots/{lot.pk}/", data)
        lot.refresh_from_db()
        return lot.amount_g

    def test_the_browsers_language_says_how_decimals_are_written_until_the_bench_does(self) -> None:
        german = {"HTTP_ACCEPT_LANGUAGE": "de-DE,de;q=0.9,en;q=0.8"}
        for bench, headers, grams in (("", {}, 1234), ("", german, 1.23), ("False", german, 1234)):
            self.user.bench.decimal_comma = {"": None, "False": False}[bench]
            self.user.bench.save()
            self.version.refresh_from_db()
            data = {"seen": self.version.revision, "batch_g": "1,234 g"}
            self.client.post(f"{self.address}batch/", data, **headers)
            self.assertEqual(draft(self.formula).batch_g, Decimal(str(grams)))

    def test_a_measure_is_the_same_wherever_the_material_is_known(self) -> None:
        self.check(self.OF_THE_MATERIAL, MEASURES)
