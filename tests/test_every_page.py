"""Whatever a maker can reach, every page answers: odd formulas, odd weights, odd addresses."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.db import IntegrityError, connection, transaction
from django.test import TestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.formulas.models import Formula
from calmtin.formulas.services import add_line, remove_line, set_percent, start_formula
from calmtin.pantry.services.lots import buy_lot
from calmtin.pantry.services.materials import add_material
from calmtin.pours import services as pours
from calmtin.pours.models import Pour
from tests.bench_data import Reads, draft, maker, pour_of, salve

DAY = date(2026, 5, 1)
OF_VERSION = (
    "",
    "?why=room",
    "amounts/",
    "without/",
    "finishes/",
    "copy/",
    "sheet/",
    "target/",
    "map/",
    "fill/",
)
OF_VERSION += ("file/", "csv/")
EVERYWHERE = ("/", "/formulas/", "/pours/", "/pantry/", "/pantry/making/", "/pantry/containers/")
EVERYWHERE += ("/formulas/new/", "/formulas/paste/", "/settings/", "/pantry/csv/")


class Visitor:
    """Asks for every page of a formula or a pour and holds that it answers."""

    def sign_in(self: Any) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def visit(self: Any, *addresses: str) -> None:
        for address in addresses:
            with self.subTest(address):
                self.assertLess(self.client.get(address).status_code, 400, address)

    def visit_formula(self: Any, formula: Formula, *, swaps: bool = True) -> None:
        version = draft(formula)
        base = f"/formulas/{formula.pk}/v/{version.number}/"
        self.visit(*(base + page for page in OF_VERSION))
        self.visit(f"/formulas/{formula.pk}/versions/", f"/formulas/{formula.pk}/pours/")
        if swaps and version.lines.exists():
            self.visit(f"{base}lines/{version.lines.first().key}/swap/")
        self.visit("/", "/formulas/")


class OneMaterialAlone(Visitor, Reads, TestCase):
    def test_a_formula_of_any_one_material(self) -> None:
        self.sign_in()
        odd = [slug for slug, m in library().items() if not m.fractions or m.is_filler or m.is_wet]
        self.assertGreaterEqual(len(odd), 15)
        for slug in odd[::3]:
            formula = start_formula(self.user, name=slug, kind="gloss", lines=[(slug, Decimal(100))])
            with self.subTest(slug):
                self.visit_formula(formula, swaps=False)
        page = self.client.get(f"/formulas/{formula.pk}/").content.decode()
        self.assertIn("No prediction", page)

    def test_all_others_by_their_own_page(self) -> None:
        self.sign_in()
        self.visit(*(f"/pantry/materials/{slug}/" for slug in sorted(library())[::4]))

    def test_powder_that_no_oil_can_wet_says_so(self) -> None:
        self.sign_in()
        lines = [("kaolin", Decimal(95)), ("olive_oil", Decimal(5))]
        formula = start_formula(self.user, name="Dust", kind="gloss", lines=lines)
        page = self.client.get(f"/formulas/{formula.pk}/")
        self.assertContains(page, "more powder than the oil can wet")
        self.visit_formula(formula)

    def test_weigh_ins_of_nothing(self) -> None:
        self.sign_in()
        pour = pour_of(self.user, draft(salve(self.user)))
        for line in pour.lines.all():
            pours.weigh(self.user, line, Decimal(0))
            self.visit(f"/pours/{pour.pk}/", f"/pours/{pour.pk}/run/", "/", "/pours/")
        with self.assertRaisesRegex(CalmTinError, "Every weight is 0"):
            pours.finish_weighing(self.user, pour)
        wet = start_formula(self.user, name="Wet", kind="gloss", lines=[("honey", Decimal(100))])
        pour = pour_of(self.user, draft(wet), done=True, acknowledged=True)
        pours.record_check(self.user, pour, temp_c=21.0, felt_rung=Decimal(0), notes="Sticky.")
        self.visit(
            f"/pours/{pour.pk}/",
            f"/pours/{pour.pk}/run/",
            f"/formulas/{wet.pk}/pours/",
            f"/formulas/{wet.pk}/",
            "/pours/",
        )


class AnyDraft(Visitor, HypothesisCase):
    @settings(max_examples=5, deadline=None)
    @given(st.data())
    def test_every_reachable_draft_and_pour_renders(self, data: st.DataObject) -> None:
        self.sign_in()
        slugs = st.sampled_from(sorted(library()))
        percents = st.decimals("0", "100", places=1)
        formula = start_formula(
            self.user, name="Any", kind=data.draw(st.sampled_from(["gloss", "whipped_butter"]))
        )
        for _ in range(data.draw(st.integers(1, 8))):
            version = draft(formula)
            try:
                act = data.draw(st.sampled_from(["add", "add", "set", "remove"]))
                seen = version.revision
                if act == "add":
                    add_line(
                        self.user, version, slug=data.draw(slugs), percent=data.draw(percents), seen=seen
                    )
                elif version.lines.exists():
                    key = data.draw(st.sampled_from(list(version.lines.values_list("key", flat=True))))
                    if act == "remove":
                        remove_line(self.user, version, key=key, seen=seen)
                    else:
                        set_percent(self.user, version, key=key, percent=data.draw(percents), seen=seen)
            except CalmTinError:
                pass
        self.visit_formula(formula)
        if draft(formula).lines.filter(percent__gt=0).exists():
            pour = pour_of(self.user, draft(formula), acknowledged=True)
            for line in pour.lines.all():
                weight = data.draw(st.sampled_from([Decimal(0), line.planned_g]))
                pours.weigh(self.user, line, weight)
            self.visit(
                f"/pours/{pour.pk}/", f"/pours/{pour.pk}/run/", "/", f"/formulas/{formula.pk}/pours/"
            )


class OddNumbers(Visitor, Reads, TestCase):
    def setUp(self) -> None:
        self.sign_in()
        self.formula = salve(self.user)

    def test_a_typo_in_a_lot_is_refused_where_it_stands(self) -> None:
        for amount in ("999999999 g", "1e9 g", "99999999999999999999 kg"):
            page = self.client.post(
                "/pantry/materials/olive_oil/", {"amount": amount, "bought_on": "2026-05-01"}
            )
            self.assertContains(page, 'class="wrong"')
        with self.assertRaises(CalmTinError):
            buy_lot(self.user, material="olive_oil", amount_g=Decimal(999_999_999), bought_on=DAY)
        self.visit(*EVERYWHERE)

    def test_the_database_takes_no_number_that_a_page_cannot_show(self) -> None:
        lot = buy_lot(self.user, material="olive_oil", amount_g=Decimal(100), bought_on=DAY)
        pour_of(self.user, draft(self.formula))
        wild = ("1e300", "-1e300", "9999999999", "-1")
        columns = {
            "pantry_lot": ("amount_g", "price"),
            "formulas_version": ("batch_g", "overrun_pct"),
            "accounts_bench": ("room_c", "cold_c", "hot_c"),
            "pours_pour": ("count", "level", "loss", "container_ml"),
        }
        for table, names in columns.items():
            for name in names:
                for value in wild:
                    sql = f"UPDATE {table} SET {name} = {value}"
                    if (name, value) == ("cold_c", "-1"):
                        continue
                    with self.subTest(sql), self.assertRaises(IntegrityError), transaction.atomic():
                        connection.cursor().execute(sql)
        with self.assertRaises(IntegrityError), transaction.atomic():
            connection.cursor().execute("UPDATE pantry_lot SET bought_on = '9999-12-31'")
        lot.refresh_from_db()
        self.visit(*EVERYWHERE)

    def test_odd_addresses_and_queries(self) -> None:
        huge = "9" * 5000
        pk = self.formula.pk
        for address in (
            f"/formulas/{huge}/", f"/formulas/{2**70}/", f"/formulas/{pk}/v/{2**65}/",
            f"/formulas/{pk}/versions/?a={huge}&b=²", f"/formulas/{pk}/v/1/copy/?finish={huge}",
            f"/pours/{2**64}/", f"/formulas/{pk}/v/1/target/?rung={huge}", f"/pantry/lots/{huge}/",
            f"/formulas/{pk}/v/1/map/?wax={huge}&butter=1&oil=1", "/pantry/?q=%00",
            f"/formulas/{pk}/v/1/finishes/?pot={huge}", f"/formulas/{pk}/v/1/without/?lot={huge}",
            f"/formulas/{pk}/v/1/fill/?count={huge}&level=-5&loss=1e3", f"/formulas/{pk}/?why=%F0%9F%98%80",
        ):  # fmt: skip
            self.assertLess(self.client.get(address).status_code, 500, address[:80])
        for seen in (huge, "²", "-1", "1e9", ""):
            answer = self.client.post(f"/formulas/{pk}/v/1/batch/", {"batch_g": "50", "seen": seen})
            self.assertLess(answer.status_code, 500)

    def test_files_with_numbers_and_characters_that_nobody_can_keep(self) -> None:
        line = '{"material": "olive_oil", "percent": %s}'
        whole = '{"format": "calmtin.formula", "version": 1, "kind": "gloss", "name": "%s", "lines": [%s]}'
        for name, lines, place in (
            ("x", f"{line % '1e308'}, {line % '1e308'}", "too large"),
            ("x", line % "NaN", "not a number"),
            ("\\\\ud800".replace("\\\\", "\\"), line % "1", "a broken character"),
            (
                "x",
                '{"material": "olive_oil", "percent": 1, "on_top_percent": "lots"}',
                "lines[0].on_top_percent",
            ),
            ("x", '{"material": "olive_oil", "percent": 1, "locked": 1}', "lines[0].locked"),
        ):
            page = self.client.post("/formulas/import/", {"text": whole % (name, lines)})
            self.assertContains(page, place, msg_prefix=str(page.content[-900:]))
        self.assertEqual(Formula.objects.count(), 1)
        self.client.post("/formulas/import/", {"text": whole % ("x", line % "1e308")})
        self.visit_formula(Formula.objects.first())

    def test_days_at_the_end_of_time_and_names_in_any_script(self) -> None:
        infusion = {"herb": "x", "herb_g": "1", "oil": "olive_oil", "oil_g": "10", "method": "cold"}
        page = self.client.post(
            "/pantry/making/", {**infusion, "started_on": "9999-12-31", "is_dried": "on"}
        )
        self.assertContains(page, "Type a day up to 2100")
        for _ in range(1005):
            material = add_material(self.user, name="蜜蝋", group="wax", behaves_like="soy_wax")
        self.assertEqual(material.slug, "my_material_1005")
        self.visit("/pantry/", f"/formulas/{self.formula.pk}/")

    def test_head_is_answered_and_bare_answers_wear_the_apps_clothes(self) -> None:
        for address in ("/", f"/formulas/{self.formula.pk}/", "/settings/", "/pantry/"):
            self.assertEqual(self.client.head(address).status_code, 200)
        wrong_way = self.client.get(f"/formulas/{self.formula.pk}/v/1/batch/")
        self.assertEqual(wrong_way.status_code, 405)
        self.assertIn("calm.css", wrong_way.content.decode())
        bad = self.client.get("/", headers={"host": "evil.example"})
        self.assertEqual(bad.status_code, 400)
        self.assertIn("calm.css", bad.content.decode())

    def test_codes_of_pours_are_unique_on_a_bench(self) -> None:
        codes = []
        for name in ("Hand salve", "Harbour stick", "Hold seam", "Hand salve"):
            codes.append(pour_of(self.user, draft(salve(self.user, name))).code)
            codes.append(pour_of(self.user, draft(Formula.objects.first())).code)
        self.assertEqual(len(set(codes)), len(codes))
        self.assertEqual(codes[0], "HS-01")
        again = pour_of(other := maker("bow"), draft(salve(other, "Hand salve")))
        self.assertEqual((again.code, Pour.objects.filter(code="HS-01").count()), ("HS-01", 2))
