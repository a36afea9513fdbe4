"""Adding a material as CONTRIBUTING says works, to the letter, in a copy of the core."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from calmtin.core.custom_material import own_material
from calmtin.core.data.loader import library, read_table
from calmtin.core.engine.blend import blend
from calmtin.core.engine.storage import hardening
from calmtin.core.process.grain import grain_risk

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


class TraitTests(TestCase):
    def test_a_makers_own_material_behaves_like_its_model(self):
        shelf = library()
        own = own_material(
            shelf["shea_refined"], slug="own", name="Quay shea", group="butter", inci="", grain_prone=True
        )
        self.assertEqual((own.graininess, own.slow_to_harden), (1.0, True))
        for material in (shelf["shea_refined"], own):
            parts = blend([(material, 60.0), (shelf["olive_oil"], 40.0)])
            self.assertAlmostEqual(grain_risk(parts, "slow_bench").risk, 0.982, places=3)
            self.assertEqual(hardening(material), (0.8, 2.0))

    def test_each_trait_is_of_a_material_and_of_the_model(self):
        rows = read_table("traits")
        self.assertEqual({row["trait"] for row in rows}, {"graininess", "slow_to_harden", "own_scent"})
        self.assertEqual({row["material"] for row in rows} - set(library()), set())
        self.assertTrue(all(row["source"] for row in rows))
