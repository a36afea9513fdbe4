"""script/manage learn: a log of test pours in, offsets, strengths and predictions out."""

from __future__ import annotations

import io
import json
import tempfile
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.test import SimpleTestCase

SALVE = {"beeswax_yellow": 18, "coconut_rbd": 12, "olive_oil": 70}
STICK = {"candelilla_wax": 14, "cocoa_butter": 22, "coconut_rbd": 20, "olive_oil": 44}


def formula(lines: dict[str, float], kind: str = "firm_salve") -> dict[str, Any]:
    return {
        "format": "calmtin.formula",
        "version": 1,
        "name": "Thole pin salve",
        "kind": kind,
        "lines": [{"material": slug, "percent": percent} for slug, percent in lines.items()],
    }


class Learn(SimpleTestCase):
    def learn(self, data: Any) -> Any:
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            json.dump(data, file)
            file.flush()
            out = io.StringIO()
            call_command("learn", file.name, stdout=out)
        return json.loads(out.getvalue())

    def refused(self, data: Any) -> str:
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "log.json"
            file.write_text(json.dumps(data))
            err = io.StringIO()
            with self.assertRaises(SystemExit) as left:
                call_command("learn", str(file), stderr=err)
        self.assertEqual(left.exception.code, 2)
        return err.getvalue()

    def test_a_log_is_learned_from(self) -> None:
        thumb = {"formula": formula(SALVE), "at_c": 21, "age_days": 1, "thumb": 6}
        press = {"formula": formula(STICK), "at_c": 21, "press": {"grams": 340, "rod_mm": 3}}
        asked = [{"formula": formula(SALVE), "at_c": 21}, {"formula": formula(SALVE), "at_c": 33}]
        plain = self.learn({"observations": [], "predict": asked})
        self.assertEqual(plain["offsets"], {"thumb": 0.0, "press": 0.0})
        self.assertEqual((plain["materials"], plain["doubtful"]), ({}, []))
        told = self.learn({"observations": [thumb, thumb, thumb, press], "predict": asked})
        self.assertGreater(told["offsets"]["thumb"], 0.2)
        self.assertIn("candelilla_wax", told["materials"])
        for before, after in zip(plain["predictions"], told["predictions"], strict=True):
            self.assertGreater(after["rung"], before["rung"] + 0.2)
            self.assertLess(after["high"] - after["low"], before["high"] - before["low"])

    def test_an_absurd_answer_is_pointed_out(self) -> None:
        gloss = formula({"beeswax_white": 4, "castor_oil": 96}, "gloss")
        sane = {"formula": formula(SALVE), "at_c": 21, "thumb": 5}
        told = self.learn({"observations": [sane, {"formula": gloss, "at_c": 21, "thumb": 10}]})
        self.assertEqual(told["doubtful"], [1])

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        good = {"formula": formula(SALVE), "at_c": 21, "thumb": 5}
        for wrong, words in (
            ({**good, "thumb": None}, 'number 1: give one of "thumb" and "press"'),
            ({**good, "press": {"grams": 5, "rod_mm": 3}}, "give one of"),
            ({**good, "at_c": "warm"}, '"at_c" is a number'),
            ({**good, "at_c": 900}, "The temperature must be from"),
            ({**good, "thumb": 12}, "Firmness must be from 0 to 10"),
            ({"at_c": 21, "thumb": 5}, 'there is no "formula"'),
            ({**good, "thumb": None, "press": 5}, '"press" has "grams" and "rod_mm"'),
        ):
            with self.subTest(words):
                self.assertIn(words, self.refused({"observations": [wrong]}))
        self.assertIn("is a list of objects", self.refused({"observations": {}}))
        self.assertIn("The file is an object", self.refused([]))
