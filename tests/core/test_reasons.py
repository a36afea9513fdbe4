"""What the numbers are explained with: carriers, dissolving, grain, feel, and the reports."""

from pathlib import Path
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from bench import data_card, validation
from calmtin.core.data.loader import library
from calmtin.core.engine.attribution import carriers, dissolving
from calmtin.core.engine.blend import blend
from calmtin.core.engine.feel import feels
from calmtin.core.engine.firmness import read
from calmtin.core.engine.ladder import Z80
from calmtin.core.engine.law import whipped_factor
from calmtin.core.errors import CalmTinError
from calmtin.core.process.grain import COOLING_NAMES, COOLINGS, grain_risk

SHELF = library()
DOCS = Path(__file__).parents[2] / "docs"


def mix(**percents: float) -> object:
    return blend([(SHELF[slug], percent) for slug, percent in percents.items()])


class Reasons(TestCase):
    def test_coconut_is_named_for_soft_cocoa(self) -> None:
        found = dissolving(mix(cocoa_butter=70, coconut_rbd=30), 25.0)
        self.assertEqual((found[0].material.slug, found[0].by.slug), ("cocoa_butter", "coconut_rbd"))
        self.assertLess(found[0].blend_pct, found[0].alone_pct - 10)
        self.assertAlmostEqual(found[0].without_pct, found[0].alone_pct, delta=0.5)
        self.assertEqual(dissolving(mix(cocoa_butter=100), 25.0), [])

    def test_powder_has_its_own_part_of_the_rung(self) -> None:
        with_clay = mix(shea_refined=60, olive_oil=30, kaolin=10)
        clay = next(c for c in carriers(with_clay, 21.0) if c.material.slug == "kaolin")
        # By hand: 10 g of kaolin are 3.846 ml and take up 4.5 g of oil, 4.891 ml.
        most = 3.846 / (3.846 + 4.891)
        share = 3.846 / (
            60 / SHELF["shea_refined"].density_solid + 30 / SHELF["olive_oil"].density_solid + 3.846
        )
        stiffer = (1 - share / most) ** (-2.5 * most)
        self.assertAlmostEqual(clay.rungs, 10 * np.log10(stiffer) / 3.5, places=3)
        self.assertEqual(clay.load_share, 0.0)

    def test_whipping_softens_by_the_rule(self) -> None:
        butter = mix(shea_refined=80, olive_oil=20)
        plain, whipped = read(butter, [21.0]), read(butter, [21.0], overrun=1.0)
        self.assertAlmostEqual(whipped.network[0] / plain.network[0], 0.5**1.5, places=9)
        self.assertAlmostEqual(sum(c.rungs for c in carriers(butter, 21.0, overrun=1.0)), whipped.rung[0])
        with self.assertRaises(CalmTinError):
            whipped_factor(-0.1)

    def test_it_goes_on_hardening(self) -> None:
        """By hand: shea alone lacks 0.8 rungs at once, half of it after two days."""
        butter, done = mix(shea_refined=100), read(mix(shea_refined=100), [21.0]).rung[0]
        for days, lacking in ((0.0, 0.8), (2.0, 0.4), (14.0, 0.8 / 2**7)):
            now = read(butter, [21.0], age_days=days).rung[0]
            self.assertAlmostEqual(done - now, lacking, delta=0.02)
        bar = mix(beeswax_yellow=35, olive_oil=65)
        self.assertAlmostEqual(
            read(bar, [21.0]).rung[0] - read(bar, [21.0], age_days=0.0).rung[0], 0.3, delta=0.02
        )

    def test_band_widens_with_what_is_not_known(self) -> None:
        def width(slug: str) -> float:
            reading = read(mix(**{slug: 30, "olive_oil": 70}), [15.0])
            return float(reading.high[0] - reading.low[0])

        self.assertGreater(width("beeswax_yellow"), 2 * Z80 * 0.6)
        self.assertGreater(width("candelilla_wax"), width("beeswax_yellow"))
        self.assertGreater(width("sunflower_wax"), width("candelilla_wax"))
        known, guessed = SHELF["murumuru_butter"], SHELF["tucuma_butter"]
        self.assertEqual((known.basis, guessed.basis), ("fitted", "estimated"))
        self.assertGreater(width("tucuma_butter"), width("murumuru_butter"))


class Grain(TestCase):
    shea = mix(shea_refined=70, olive_oil=30)

    def risk(self, cooling: str = "rest_then_chill", **percents: float) -> float:
        return grain_risk(mix(**percents) if percents else self.shea, cooling).risk

    def test_the_rule_by_hand(self) -> None:
        # 15 % shea, slowly: 1 - 1/e; with 20 % wax six tenths of it.
        tube = {"shea_refined": 15, "olive_oil": 85}
        self.assertAlmostEqual(self.risk("slow_bench", **tube), 0.6321, places=4)
        held = {"shea_refined": 15, "olive_oil": 65, "beeswax_yellow": 20}
        self.assertAlmostEqual(self.risk("slow_bench", **held), 0.3793, places=4)
        self.assertEqual(self.risk(beeswax_yellow=20, olive_oil=80), 0.0)

    def test_the_levels_that_makers_see(self) -> None:
        level = {way: grain_risk(self.shea, way).level for way in COOLINGS}
        self.assertEqual((level["slow_bench"], level["rest_then_chill"]), ("high", "some"))
        self.assertEqual((level["never_melted"], level["tubes_at_once"]), ("low", "some"))
        self.assertGreater(self.risk(), self.risk(cocoa_butter=70, olive_oil=30))

    def test_it_never_advises_what_is_chosen(self) -> None:
        for way in COOLINGS:
            advice = grain_risk(self.shea, way).advice.lower()
            self.assertNotIn(COOLING_NAMES[way].lower(), advice)
            if way == "rest_then_chill":
                self.assertNotIn("rest it", advice)
        slow = grain_risk(self.shea, "slow_bench")
        self.assertEqual(slow.advice, "Rest it 10 to 15 minutes, then chill, or add wax.")
        self.assertIn("slowly on the bench", slow.raises)
        self.assertTrue(any("shea" in reason for reason in slow.raises))

    @given(st.floats(0, 100), st.sampled_from(COOLINGS))
    def test_more_shea_never_lowers_it(self, shea: float, cooling: str) -> None:
        less, more = (mix(shea_refined=s, olive_oil=100.5 - s) for s in (shea * 0.9, shea))
        self.assertLessEqual(grain_risk(less, cooling).risk, grain_risk(more, cooling).risk + 1e-9)


class Feels(TestCase):
    def test_order_of_well_known_things(self) -> None:
        bar = feels(mix(beeswax_yellow=35, cocoa_butter=40, sweet_almond_oil=25), 21.0)
        shea = feels(mix(shea_refined=75, sweet_almond_oil=25), 21.0)
        dusted = feels(mix(shea_refined=65, sweet_almond_oil=25, arrowroot=10), 21.0)
        light = feels(mix(shea_refined=20, mct_oil=80), 21.0)
        self.assertGreater(shea[0].level, bar[0].level)
        self.assertGreater(shea[1].level, bar[1].level)
        self.assertLess(dusted[2].level, shea[2].level)
        self.assertLess(light[2].level, shea[2].level)
        for feel in (*bar, *shea, *dusted, *light):
            self.assertTrue(0.0 <= feel.level <= 1.0 and feel.words and feel.basis)


class Reports(TestCase):
    def test_kitchen_formulas_hold(self) -> None:
        rows = validation.kitchen()
        self.assertGreaterEqual(len(rows), 25)
        self.assertEqual(len({row.kind for row in rows}), 8)
        self.assertGreaterEqual(sum(row.is_hit for row in rows) / len(rows), 22 / 25)

    def test_reports_are_those_of_this_engine(self) -> None:
        for name, lines in (("validation", validation.report()), ("materials", data_card.report())):
            written = (DOCS / f"{name}.md").read_text(encoding="utf-8")
            self.assertEqual(written, "\n".join(lines) + "\n", f"run script/docs: docs/{name}.md is old")
