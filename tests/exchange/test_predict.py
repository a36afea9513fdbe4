"""The command line for the core: what it reads, what it prints, how it refuses."""

from __future__ import annotations

import io
import json
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase, mock

from django.core.management import call_command

from calmtin.core.data.loader import kinds, library

BAR = {
    "format": "calmtin.formula",
    "version": 1,
    "name": "Regatta lotion bar",
    "kind": "lotion_bar",
    "lines": [
        {"material": "beeswax_yellow", "percent": 30.0},
        {"material": "cocoa_butter", "percent": 30},
        {"material": "coconut_rbd", "percent": 20},
        {"material": "sunflower_high_oleic", "percent": 20},
    ],
}


def predict(data: object, *options: str, command: str = "predict") -> tuple[int, str, str]:
    """Run the command on `data`; return its status, output and errors."""
    raw = data if isinstance(data, bytes) else json.dumps(data).encode()
    out, err = io.StringIO(), io.StringIO()
    with mock.patch("sys.stdin", io.TextIOWrapper(io.BytesIO(raw))):
        try:
            call_command(command, "-", *options, stdout=out, stderr=err)
        except SystemExit as stop:
            return int(stop.code or 0), out.getvalue(), err.getvalue()
    return 0, out.getvalue(), err.getvalue()


class Predict(TestCase):
    def test_the_bar_of_the_model(self) -> None:
        status, out, _ = predict(BAR)
        answer = json.loads(out)
        self.assertEqual(status, 0)
        self.assertEqual(list(answer["rung"]), ["8", "21", "33", "40"])
        self.assertAlmostEqual(answer["rung"]["21"], 8.3, delta=0.3)
        self.assertAlmostEqual(answer["yield_g_cm2"]["21"], 7978, delta=500)
        self.assertAlmostEqual(answer["solid_percent"]["21"], 43, delta=1)
        self.assertAlmostEqual(answer["flow_c"], 50.6, delta=1)
        self.assertAlmostEqual(answer["set_c"], 52.5, delta=1)
        low, high = answer["band"]["21"]
        self.assertTrue(low < answer["rung"]["21"] < high)
        self.assertEqual((answer["total_percent"], answer["warnings"]), (100.0, []))

    def test_whipped_and_aged(self) -> None:
        butter = {**BAR, "kind": "whipped_butter", "cooling": "slow_bench"}
        fresh = json.loads(predict({**butter, "overrun": 0.5, "age_days": 1})[1])
        later = json.loads(predict({**butter, "overrun": 0.5, "age_days": 14})[1])
        self.assertGreater(later["rung"]["21"], fresh["rung"]["21"])
        self.assertAlmostEqual(later["rung_in_pot"]["21"] - later["rung"]["21"], 0.75, delta=0.02)
        usual = json.loads(predict(butter)[1])
        self.assertAlmostEqual(usual["rung_in_pot"]["21"] - usual["rung"]["21"], 0.75, delta=0.02)
        liquid = {**BAR, "lines": [{"material": "olive_oil", "percent": 100}]}
        self.assertIsNone(json.loads(predict(liquid)[1])["flow_c"])
        for slug in ("mica", "honey"):
            status, out, _ = predict({**BAR, "lines": [{"material": slug, "percent": 100}]})
            answer = json.loads(out)
            self.assertEqual((status, answer["rung"]["21"], answer["flow_c"]), (0, None, None))
            self.assertIn("no firmness to predict", answer["warnings"][0])
        self.assertEqual(predict({**BAR, "overrun": -1})[0], 2)

    def test_chosen_temperatures(self) -> None:
        answer = json.loads(predict(BAR, "--at", "21", "--at", "33.5")[1])
        self.assertEqual(list(answer["rung"]), ["21", "33.5"])

    def test_other_totals_are_scaled_with_a_warning(self) -> None:
        half = {**BAR, "lines": [{**line, "percent": line["percent"] / 2} for line in BAR["lines"]]}
        answer, whole = json.loads(predict(half)[1]), json.loads(predict(BAR)[1])
        self.assertEqual(answer["rung"], whole["rung"])
        self.assertEqual(answer["total_percent"], 50.0)
        self.assertIn("add up to 50", answer["warnings"][0])

    def test_every_material_and_kind_is_accepted(self) -> None:
        oil = {"material": "olive_oil", "percent": 90}
        for slug in library():
            status, out, err = predict(
                {**BAR, "lines": [oil, {"material": slug, "percent": 10}]}, "--at", "21"
            )
            self.assertEqual(status, 0, err)
            low, high = json.loads(out)["band"]["21"]
            self.assertTrue(0 <= low <= json.loads(out)["rung"]["21"] <= high <= 10, slug)
        for kind in kinds():
            self.assertEqual(predict({**BAR, "kind": kind})[0], 0)

    def test_units_of_a_bench(self) -> None:
        in_c, in_f = (json.loads(predict(BAR, "--at", at)[1])["rung"] for at in ("25", "77F"))
        self.assertEqual(in_c, in_f)
        self.assertEqual(json.loads(predict(BAR, "--at", "77", "--degrees", "F")[1])["rung"], in_c)
        self.assertIn("from −4 to 230 °F", predict(BAR, "--at", "500", "--degrees", "F")[2])
        lines = b"1,5 oz beeswax\n1,234 oz olive oil"
        found = json.loads(predict(lines, "--units", "oz", "--comma", command="read_recipe")[1])["lines"]
        self.assertEqual([line["grams"] for line in found[:1]], [42.52])
        self.assertIn(
            "is read as 1,234; with the other decimal sign it is 1\u202f234", found[1]["question"]
        )

    def test_refusals_are_one_line_and_status_2(self) -> None:
        def one(percent: object, material: object = "olive_oil") -> dict:
            return {**BAR, "lines": [{"material": material, "percent": percent}]}

        wrong = {
            "unknown": one(1, "moon_dust"),
            "not a slug": one(1, ["olive_oil"]),
            "negative": one(-1),
            "text": one("12"),
            "nothing": one(None),
            "true": one(True),
            "nan": one(float("nan")),
            "infinite": one(float("inf")),
            "huge": one(10**400),
            "zero": one(0),
            "empty": {**BAR, "lines": []},
            "no lines": {**BAR, "lines": None},
            "line of text": {**BAR, "lines": ["olive_oil 100"]},
            "kind": {**BAR, "kind": "soap"},
            "format": {**BAR, "format": "recipe"},
            "version": {**BAR, "version": 2},
            "list": [],
            "broken": b'{"format": ',
            "binary": b"\xff\xfe\x00",
            "deep": b"[" * 100_000,
        }
        for name, data in wrong.items():
            with self.subTest(name):
                status, out, err = predict(data)
                self.assertEqual((status, out), (2, ""))
                self.assertEqual(len(err.strip().splitlines()), 1)
                self.assertLess(len(err), 400)

    def test_needs_no_database_and_prints_nothing_else(self) -> None:
        with TemporaryDirectory() as folder:
            file = Path(folder, "bar.json")
            file.write_text(json.dumps(BAR))
            command = [sys.executable, "manage.py", "predict", str(file)]
            root = Path(__file__).parents[2]
            environment = {"PATH": "/usr/bin:/bin", "CALMTIN_DATA": "/nowhere/at/all"}
            run = subprocess.run(
                command, cwd=root, capture_output=True, text=True, env=environment, check=True
            )
            self.assertIn("rung", json.loads(run.stdout))
            gone = subprocess.run(
                [*command[:-1], f"{folder}/none.json"],
                cwd=root,
                capture_output=True,
                text=True,
                env=environment,
            )
            self.assertEqual((gone.returncode, gone.stdout), (2, ""))


class SolveCommand(TestCase):
    asked = {
        "formula": BAR,
        "target": {"rung": 7.5, "at_c": 21, "min_rung": 4.0, "hot_c": 36},
        "lock": ["coconut_rbd"],
        "range": {"beeswax_yellow": [15, 30]},
    }

    def solve(self, data: object) -> tuple[int, str, str]:
        return predict(data, command="solve")

    def test_prints_the_least_change(self) -> None:
        status, out, _ = self.solve(self.asked)
        answer = json.loads(out)
        self.assertEqual((status, answer["status"]), (0, "met"))
        percents = {line["material"]: line["percent"] for line in answer["lines"]}
        self.assertEqual(list(percents), [line["material"] for line in BAR["lines"]])
        self.assertEqual(percents["coconut_rbd"], 20.0)
        self.assertTrue(15 <= percents["beeswax_yellow"] <= 30)
        self.assertEqual(round(sum(percents.values()), 9), 100.0)
        self.assertAlmostEqual(answer["rung"]["21"], 7.5, delta=0.05)
        self.assertGreaterEqual(answer["rung"]["36"], 4.0)

    def test_refusals(self) -> None:
        for wrong in (
            {**self.asked, "target": {"rung": "firm"}},
            {**self.asked, "target": {}},
            {**self.asked, "target": {"rung": 12}},
            {**self.asked, "lock": "beeswax_yellow"},
            {**self.asked, "lock": ["shea_refined"]},
            {**self.asked, "range": {"beeswax_yellow": [30]}},
            {**self.asked, "range": {"beeswax_yellow": [True, 30]}},
            {**self.asked, "range": {"beeswax_yellow": [40, 30]}},
            {"target": {"rung": 5}},
            [],
        ):
            with self.subTest(str(wrong)[-80:]):
                status, out, err = self.solve(wrong)
                self.assertEqual((status, out, len(err.strip().splitlines())), (2, "", 1))
