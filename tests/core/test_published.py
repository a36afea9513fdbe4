"""The engine beside the figures that it stands on."""

import csv
from pathlib import Path
from unittest import TestCase

import numpy as np

from calmtin.core.data.fitting import fit, parts_for
from calmtin.core.data.loader import components, kinds, library, published_curves, read_table
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import flow_point_c, read, set_point_c, why_not, yield_values
from calmtin.core.engine.ladder import rung_word
from calmtin.core.engine.pure_material import alone_crystal_pct
from calmtin.core.errors import CalmTinError, EmptyFormula

SHELF = library()
TABLE = Path(__file__).parent.parent / "published" / "tried_results.csv"


class TriedResults(TestCase):
    def test_every_figure_of_the_model(self) -> None:
        with TABLE.open() as file:
            for row in csv.DictReader(file):
                parts = [
                    (SHELF[part.split()[0]], float(part.split()[1])) for part in row["formula"].split(";")
                ]
                blended = blend(parts)
                reading = read(blended, [8.0, 21.0, 33.0, 40.0, 45.0])
                with self.subTest(row["formula"]):
                    for i, temp in enumerate((8, 21, 33, 40, 45)):
                        off = reading.rung[i] - float(row[f"rung_{temp}"])
                        # Above 33 C the tail of beeswax has melted; soy follows its corrected curve,
                        # held at 21 C alone; candelilla was refitted (docs/validation.md).
                        if "soy" in row["formula"] and temp != 21:
                            continue
                        self.assertLess(off, 0.3)
                        self.assertGreater(off, -2.0 if temp >= 40 else -0.45)

    def test_waxes_rank_as_published(self) -> None:
        def in_oil(slug: str) -> tuple[float, float]:
            blended = blend([(SHELF[slug], 10.0), (SHELF["sunflower_high_oleic"], 90.0)])
            return float(yield_values(blended, np.array([21.0]))[0]), flow_point_c(blended) or 0.0

        hard = {slug: in_oil(slug)[0] for slug in SHELF if SHELF[slug].group == "wax"}
        self.assertGreater(min(hard["candelilla_wax"], hard["carnauba_wax"]), hard["beeswax_yellow"])
        self.assertGreater(hard["beeswax_yellow"], hard["soy_wax"])
        order = ["carnauba_wax", "rice_bran_wax", "candelilla_wax", "beeswax_yellow", "soy_wax"]
        flows = [in_oil(slug)[1] for slug in order]
        self.assertEqual(flows, sorted(flows, reverse=True))
        self.assertTrue(flows[0] > in_oil("sunflower_wax")[1] > flows[2])

    def test_coconut_softens_cocoa_butter(self) -> None:
        cocoa, coconut = SHELF["cocoa_butter"], SHELF["coconut_rbd"]
        neat = read(blend([(cocoa, 100.0)]), [25.0]).solid_pct[0]
        mixed = read(blend([(cocoa, 70.0), (coconut, 30.0)]), [25.0])
        self.assertLess(mixed.crystal_pct[0, 0], neat - 10.0)


class Curves(TestCase):
    def test_neat_fats_follow_their_curves(self) -> None:
        for slug, curve in published_curves().items():
            temps = np.array(curve.temps_c)
            off = np.abs(alone_crystal_pct(SHELF[slug], temps) - curve.solid_pct)
            with self.subTest(slug):
                self.assertLessEqual(off[temps <= 32.5].max(), 2.05)
                self.assertLessEqual(off[temps <= 35.0].max(), 3.0)

    def test_the_kept_fractions_are_the_script_s(self) -> None:
        parts = parts_for("symmetric")
        again = dict(
            zip([p.slug for p in parts], fit(parts, published_curves()["mango_butter"]), strict=True)
        )
        for component, share in SHELF["mango_butter"].fractions:
            self.assertAlmostEqual(again[component.slug], share, delta=0.003)


class Tables(TestCase):
    def test_shape_and_sums(self) -> None:
        self.assertEqual(len(read_table("materials")), 83)
        self.assertEqual(len(SHELF), 83 + 7 + 51)
        self.assertEqual(len(kinds()), 8)
        self.assertEqual(
            {r["material"] for r in read_table("behaviour")},
            {r["slug"] for r in [*read_table("materials"), *read_table("added_materials")]},
        )
        for material in SHELF.values():
            with self.subTest(material.slug):
                total = sum(share for _, share in material.fractions)
                self.assertAlmostEqual(
                    total, 0.0 if material.is_filler or material.is_wet else 1.0, places=4
                )
                self.assertTrue(0.7 < material.density_solid < 6.0 and material.density_melt > 0.7)

    def test_every_component_is_used(self) -> None:
        used = {component.slug for m in SHELF.values() for component, _ in m.fractions}
        self.assertEqual(used, set(components()))

    def test_unknown_is_not_zero(self) -> None:
        self.assertIsNone(SHELF["carnauba_wax"].bulk_density)
        self.assertIsNone(SHELF["rosehip_oil"].melt_low_c)


class Refusals(TestCase):
    def test_nothing_and_negative(self) -> None:
        oil = SHELF["olive_oil"]
        with self.assertRaises(EmptyFormula):
            blend([(oil, 0.0)])
        for wrong in (-1.0, float("nan"), float("inf")):
            with self.assertRaises(CalmTinError) as refused:
                blend([(oil, wrong)])
            self.assertEqual(refused.exception.material, "olive_oil")

    def test_powder_alone_is_refused_and_wet_things_only_weigh(self) -> None:
        for slug in ("kaolin", "mica", "honey"):
            alone = blend([(SHELF[slug], 100.0)])
            self.assertIn("no oil, butter or wax", why_not(alone))
            self.assertIsNone(set_point_c(alone))
        paste = blend([(SHELF["kaolin"], 90.0), (SHELF["olive_oil"], 10.0)])
        self.assertIn("more powder than the oil can wet", why_not(paste))

    def test_words_of_the_ladder(self) -> None:
        self.assertEqual(rung_word(6.49), "holds an edge, a thumb dents it")
        self.assertEqual(rung_word(6.5), "stands as a stick, glides")
        self.assertEqual((rung_word(-1), rung_word(99)), ("runs like oil", "candle-hard, doesn’t give"))
