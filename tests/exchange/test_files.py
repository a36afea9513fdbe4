"""Formula files out and in: stable to the byte, and harmless when hostile."""

from __future__ import annotations

import json
from itertools import cycle
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from jsonschema import Draft202012Validator

from calmtin.accounts.models import User
from calmtin.core.errors import CalmTinError
from calmtin.core.process.grain import COOLINGS
from calmtin.exchange.demo import load_demo
from calmtin.exchange.formats.formula import import_formula, write_formula
from calmtin.formulas.models import Audience, Formula, Version
from tests.bench_data import Reads, draft, maker, salve

DOCS = Path(__file__).parents[2] / "docs"


class Files(Reads, TestCase):
    def test_every_demo_formula_comes_back_to_the_byte(self) -> None:
        load_demo(with_season=False)
        schema = Draft202012Validator(json.loads((DOCS / "formula.schema.json").read_text()))
        user = User.objects.get(username="tern_quay")
        for version in list(Version.objects.of(user)):
            text = write_formula(version)
            schema.validate(json.loads(text))
            again = draft(import_formula(user, text))
            self.assertEqual(write_formula(again), text)
        schema.validate(json.loads((DOCS / "example-formula.json").read_text()))

    def test_every_cooling_route_and_audience_comes_back(self) -> None:
        version = draft(salve(maker()))
        other = maker("bow")
        for audience, cooling in zip(Audience.values, cycle(COOLINGS), strict=False):
            version.formula.audience, version.cooling = audience, cooling
            text = write_formula(version)
            again = draft(import_formula(other, text))
            self.assertEqual(write_formula(again), text)

    def test_locks_and_balancing_come_along(self) -> None:
        user = maker()
        version = draft(salve(user))
        version.lines.filter(material="coconut_rbd").update(is_locked=True)
        again = draft(import_formula(maker("bow"), write_formula(version)))
        self.assertTrue(again.lines.get(material="coconut_rbd").is_locked)
        self.assertTrue(again.lines.get(material="olive_oil").is_balancing)

    def test_hostile_files_change_nothing_and_say_why(self) -> None:
        user = maker()
        self.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        line = {"material": "olive_oil", "percent": 100}
        good = {"format": "calmtin.formula", "version": 1, "kind": "gloss", "lines": [line]}
        hostile = [
            b"",
            b"{",
            b"\xff\xfe",
            b"[" * 50_000,
            json.dumps({**good, "kind": "../../etc"}).encode(),
            json.dumps({**good, "lines": [{**line, "percent": -1}]}).encode(),
            json.dumps({**good, "lines": [{**line, "material": "my_secret"}]}).encode(),
            json.dumps({**good, "lines": [line] * 501}).encode(),
        ]
        for raw in hostile:
            page = self.client.post("/formulas/import/", {"file": SimpleUploadedFile("f.json", raw)})
            self.assertContains(page, 'class="wrong"')
        self.assertFalse(Formula.objects.exists())
        with self.assertRaises(CalmTinError):
            materials = ["olive_oil", "castor_oil", "argan_oil"] * 20
            many = [{"material": f"{m}", "percent": 1} for m in materials]
            import_formula(
                user, json.dumps({**good, "lines": [*many, {"material": "nothing", "percent": 1}]})
            )
        name = json.dumps({**good, "name": "<script>alert(1)</script>", "batch_g": 60}).encode()
        self.client.post("/formulas/import/", {"file": SimpleUploadedFile("f.json", name)})
        page = self.client.get(f"/formulas/{Formula.objects.get().pk}/")
        self.assertContains(page, "&lt;script&gt;alert(1)")

    def test_csv_of_lines(self) -> None:
        user = maker()
        self.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        formula = salve(user)
        text = self.client.get(f"/formulas/{formula.pk}/v/1/csv/").content.decode()
        self.assertIn('beeswax_yellow,"Beeswax, yellow (filtered)",18.000,18.00', text)
