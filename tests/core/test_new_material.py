"""Adding a material as CONTRIBUTING says works, to the letter, in a copy of the core."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

ROOT = Path(__file__).parents[2]
ROW = re.compile(r"^    (\w+\.csv): (.+)$", re.M)
USE = """
from calmtin.core.data.loader import drops_per_ml, library, synonyms
from calmtin.core.engine.firmness import rung_at
from calmtin.core.recipe.reader import read_recipe

shelf = library()
reed, olive = shelf["reed_butter"], shelf["olive_oil"]
recipe = read_recipe("20 g reed fat", shelf, synonyms=synonyms(), drops_per_ml=drops_per_ml())
firm, soft = (rung_at([(reed, share), (olive, 100 - share)], 21.0) for share in (60.0, 30.0))
print(recipe.lines[0].material, firm > soft > 1)
"""


class NewMaterialTests(TestCase):
    def test_the_rows_of_contributing_make_a_material(self):
        rows = ROW.findall((ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8"))
        self.assertGreaterEqual(len(rows), 8)
        with TemporaryDirectory() as place:
            (Path(place) / "calmtin").mkdir()
            shutil.copy(ROOT / "calmtin" / "__init__.py", Path(place) / "calmtin")
            shutil.copytree(ROOT / "calmtin" / "core", Path(place) / "calmtin" / "core")
            tables = Path(place) / "calmtin" / "core" / "data"
            before = (tables / "fractions.csv").read_text()
            for table, row in rows:
                with (tables / table).open("a", encoding="utf-8") as file:
                    file.write(f"{row}\n")
            self.run_in(place, "-m", "calmtin.core.data.fitting", "reed_butter")
            after = (tables / "fractions.csv").read_text()
            self.assertEqual(self.without_reed(after), before.splitlines())
            self.assertEqual(self.run_in(place, "-c", USE), "reed_butter True\n")

    def without_reed(self, text: str) -> list[str]:
        return [line for line in text.splitlines() if not line.startswith("reed_butter,")]

    def run_in(self, place: str, *args: str) -> str:
        done = subprocess.run(
            [sys.executable, *args], cwd=place, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout
