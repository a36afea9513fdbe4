"""A number that is a quantity is never written or asked for bare: templates, forms and usual values."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

from django.test import SimpleTestCase

ROOT = Path(__file__).parents[1] / "calmtin"
# Names of values by the kind of quantity that they hold.
QUANTITY = re.compile(r"(?:^|[._])(?:g|grams|ml|c|k|temp|price|brim|batch_g|room_c)$")
VALUE = r"(?P<value>[\w.]+)(?P<filters>(?:\|\w+(?::(?:\"[^\"]*\"|[\w.]+))?)*)"
SHOWN = re.compile(r"\{\{\s*" + VALUE + r"\s*\}\}")
# What a sentence is given, and what names it: {% blocktranslate with at=pour.temp_c|temp:unit %}
GIVES = re.compile(r"\{% (?:blocktranslate|with) (.*?) %\}")
GIVEN = re.compile(r"\b(?P<as>\w+)=" + VALUE)
TAGS = re.compile(r"\{% (?:price|money|unit)[^%]* as (\w+) %\}")
WRITES = {
    "degrees", "grams", "grams_as", "in_steps", "normal", "normal_to", "px", "range_end", "signed_grams",
    "temp", "volume", "weight", "whole_temp",
}  # fmt: skip
# What has a kind of its own already, or is text that somebody typed.
AS_THEY_ARE = re.compile(
    r"^(?:view\.boxes|view\.problems|form|request)\.|_form\.|typed_grams$|grams_typed$"
)
ITS_FIELD = {"g": "WeightField", "ml": "VolumeField", "c": "TemperatureField", "price": "MoneyField"}


def bare_in(name: str, template: str) -> Iterator[str]:
    """Yield each quantity that a template writes without a filter that knows the bench's units."""
    given = [found for tag in GIVES.findall(template) for found in GIVEN.finditer(tag)]
    written = {found["as"] for found in given if _filters(found) & WRITES} | set(TAGS.findall(template))
    for found in (*SHOWN.finditer(template), *given):
        value = found["value"]
        if AS_THEY_ARE.search(value) or value in written or _filters(found) & WRITES:
            continue
        if QUANTITY.search(value):
            yield f"{name}: {found[0]}"


def _filters(found: re.Match[str]) -> set[str]:
    return set(re.findall(r"\|(\w+)", found["filters"]))


def fields_in(name: str, source: str) -> Iterator[str]:
    """Yield each box for a quantity that is a plain number, and each usual value that is digits."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Call):
            field = getattr(node.value.func, "id", "")
            told = str(getattr(node.targets[0], "id", ""))
            kind = "c" if told == "temp" else told.rpartition("_")[2]
            if field == "NumberField" and kind in ITS_FIELD:
                yield f"{name}: {told} is a NumberField, not a {ITS_FIELD[kind]}"
        if isinstance(node, ast.Dict):
            for key, value in zip(node.keys, node.values, strict=True):
                told = key.value if isinstance(key, ast.Constant) and isinstance(key.value, str) else ""
                is_digits = isinstance(value, ast.Constant) and re.fullmatch(r"[\d.]+", str(value.value))
                if is_digits and (told in ("sample", "lost", "pot") or told.endswith(("_g", "_ml", "_c"))):
                    yield f"{name}: {told} is usually {value.value!r}, which is of no unit"  # type: ignore[attr-defined]


class NothingIsBare(SimpleTestCase):
    def test_templates(self) -> None:
        found = [bare for path in ROOT.rglob("*.html") for bare in bare_in(path.name, path.read_text())]
        self.assertEqual(found, [])

    def test_forms_and_usual_values(self) -> None:
        files = [*ROOT.rglob("forms/*.py"), *ROOT.glob("*/forms.py"), *ROOT.rglob("queries/*.py")]
        self.assertGreater(len(files), 40)
        self.assertEqual([bare for path in files for bare in fields_in(path.name, path.read_text())], [])

    def test_it_finds_what_is_bare(self) -> None:
        for template in ("{{ row.grams }}", "{{ c.brim_ml|floatformat }} ml", "{{ step.low_c }}"):
            self.assertEqual(len(list(bare_in("a.html", template))), 1, template)
        self.assertEqual(list(bare_in("a.html", "{{ row.grams|weight }} {{ view.name }}")), [])
        for source in (
            'usual = {"test_g": "1"}',
            "temp = NumberField(high=9)",
            "jar_ml = NumberField(high=9)",
        ):
            self.assertEqual(len(list(fields_in("a.py", source))), 1, source)
        self.assertEqual(list(fields_in("a.py", "jar_ml = VolumeField(high=9)")), [])
