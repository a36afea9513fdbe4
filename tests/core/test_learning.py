"""What a bench's own test pours teach: by hand, on simulated benches, and what must not mislead it."""

from __future__ import annotations

import math
import time
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from bench.learning import ROOM_C, SKIN_C, run
from calmtin.core.data.loader import library
from calmtin.core.engine.bands import Prior
from calmtin.core.engine.batch_readings import Many
from calmtin.core.engine.blend import Parts, blend
from calmtin.core.engine.firmness import read, rung_at, yield_values
from calmtin.core.engine.ladder import to_rungs
from calmtin.core.engine.learning import (
    THUMB_SD,
    Learned,
    Observation,
    _log_of,
    _rungs,
    _surprise,
    learn,
)
from calmtin.core.engine.press import press_yield
from calmtin.core.engine.storage import in_lower_form, still_to_come
from calmtin.core.errors import CalmTinError
from calmtin.core.solver.space import Space

SHELF = library()


def of(**grams: float) -> Parts:
    return [(SHELF[slug], g) for slug, g in grams.items()]


SALVE = of(beeswax_yellow=18, coconut_rbd=12, olive_oil=70)
BALM = of(beeswax_yellow=25, shea_refined=15, olive_oil=60)
BUTTER = of(shea_refined=70, olive_oil=30)
GLOSS = of(beeswax_white=4, castor_oil=96)
STICK = of(candelilla_wax=14, cocoa_butter=22, coconut_rbd=20, olive_oil=44)


def told(parts: Parts, prior: Prior, at_c: float = 21.0) -> float:
    return float(read(blend(parts, prior), [at_c]).rung[0])


def firmer(parts: Parts, by: float, at_c: float = 21.0, **more: object) -> Observation:
    return Observation(parts, at_c, felt=min(max((rung_at(parts, at_c) or 0.0) + by, 0.0), 10.0), **more)


class Learning(TestCase):
    def test_without_a_log_it_is_the_plain_prior(self) -> None:
        self.assertEqual(learn([]), Prior())
        powder = Observation(of(arrowroot=10), 21.0, felt=3.0)
        self.assertEqual(learn([powder]), Prior())

    def test_what_is_felt_firmer_is_predicted_firmer_and_more_surely(self) -> None:
        learned = learn([firmer(SALVE, 1.0), firmer(BALM, 1.0), firmer(SALVE, 1.0)])
        for parts in (SALVE, BALM, of(beeswax_yellow=22, olive_oil=78)):
            moved = told(parts, learned) - told(parts, Prior())
            self.assertTrue(0.35 < moved < 1.0, moved)
            widths = [float(np.ptp([r.low[0], r.high[0]])) for r in self.readings(parts, learned)]
            self.assertLess(widths[1], widths[0])

    def readings(self, parts: Parts, learned: Prior) -> list:
        return [read(blend(parts, prior), [21.0]) for prior in (Prior(), learned)]

    def test_solver_trio_map_and_reading_say_the_same_of_a_bench(self) -> None:
        taught = [firmer(p, by, at) for p, by, at in ((SALVE, 0.9, 21.0), (STICK, 1.4, 33.0))]
        taught += [firmer(BUTTER, -0.8, 21.0, overrun=0.5), firmer(of(beeswax_white=6, olive_oil=94), 1.0)]
        learned = learn(taught)
        powdery = of(beeswax_yellow=12, soy_wax=8, coconut_rbd=10, olive_oil=58, arrowroot=12)
        for parts, overrun in ((SALVE, 0.0), (STICK, 0.0), (BUTTER, 0.5), (powdery, 0.0)):
            for at_c in (8.0, 21.0, 33.0):
                blended, temps = blend(parts, learned), np.array([at_c])
                said = float(read(blended, temps, overrun=overrun).rung[0])
                quick = float(to_rungs(yield_values(blended, temps, overrun=overrun))[0])
                space = Space([m for m, _ in parts], overrun=overrun, prior=learned)
                whole = sum(g for _, g in parts)
                solved = float(space.rungs(np.array([[100 * g / whole for _, g in parts]]), at_c)[0])
                self.assertAlmostEqual(quick, said, delta=0.02)
                self.assertAlmostEqual(max(solved, 0.0), quick, delta=0.02)
                plain = rung_at(parts, at_c, overrun=overrun) or 0.0
                if at_c == 21.0:
                    self.assertGreater(abs(said - plain), 0.1)

    def test_a_wax_that_is_stronger_here_is_told_from_the_thumb(self) -> None:
        seen = [firmer(STICK, 1.5) for _ in range(4)] + [firmer(SALVE, 0.0) for _ in range(4)]
        learned = learn(seen)
        candelilla, beeswax = (learned.of("strength", s)[0] for s in ("candelilla_wax", "beeswax_yellow"))
        self.assertGreater(candelilla, 0.1)
        self.assertGreater(candelilla, beeswax + 0.1)
        self.assertAlmostEqual(told(SALVE, learned), rung_at(SALVE, 21.0), delta=0.4)

    def test_one_thumb_by_hand(self) -> None:
        """Beeswax in oil: its strength and the thumb's offset stand in one sum."""
        learned = learn([firmer(of(beeswax_yellow=20, olive_oil=80), 1.0)])
        offset = learned.of("offset", "thumb")[0]
        strength = learned.of("strength", "beeswax_yellow")[0]
        # Both stand in the same sum, so that they move in the ratio of their prior variances times G.
        g = 10.0 / math.log(10.0)
        sd = SHELF["beeswax_yellow"].ln_strength_sd
        self.assertAlmostEqual(strength / offset, g * sd**2 / 0.6**2, delta=0.05)

    def test_a_press_test_and_its_offset(self) -> None:
        self.assertAlmostEqual(press_yield(340.0, 3.0), 1.3 * 340 / (math.pi * 0.15**2), places=6)
        with self.assertRaises(CalmTinError):
            press_yield(0.0, 3.0)
        pressed = [
            Observation(p, 21.0, pressed=4.0 * float(read(blend(p), [21.0]).yield_value[0]))
            for p in (SALVE, BALM, STICK, BUTTER)
        ]
        learned = learn(pressed)
        self.assertAlmostEqual(learned.of("offset", "press")[0], 10 * math.log10(4) / 3.5, delta=0.5)
        for parts in (SALVE, BALM, STICK):  # a wrong rod moves no prediction
            self.assertAlmostEqual(told(parts, learned), told(parts, Prior()), delta=0.25)

    def test_one_absurd_answer_moves_nothing_else_and_is_pointed_out(self) -> None:
        seen = [firmer(p, 0.3) for p in (SALVE, BALM, BUTTER, STICK)]
        sane = learn(seen)
        absurd = learn([*seen, Observation(GLOSS, 21.0, felt=10.0)])
        self.assertEqual(absurd.doubtful, (4,))
        for parts in (SALVE, BALM, BUTTER, STICK, GLOSS):
            for at_c in (21.0, 33.0):
                self.assertAlmostEqual(told(parts, absurd, at_c), told(parts, sane, at_c), delta=0.2)

    def test_excluding_and_restoring_gives_the_identical_prediction(self) -> None:
        seen = [firmer(SALVE, 1.0), firmer(BALM, -2.0), firmer(STICK, 0.5)]
        self.assertEqual(told(SALVE, learn(seen, excluded=[1])), told(SALVE, learn([seen[0], seen[2]])))
        self.assertEqual(told(SALVE, learn(seen)), told(SALVE, learn(list(seen))))

    def test_a_lot_is_learned_beside_its_material(self) -> None:
        lots = {"shea_refined": "7"}
        learned = learn([firmer(BUTTER, 1.2, lots=lots) for _ in range(3)])
        self.assertGreater(learned.of("lot", "shea_refined 7")[0], 0.0)
        self.assertIsNone(learned.of("lot", "shea_refined 8"))

    def test_a_young_pour_is_held_against_its_age(self) -> None:
        at_once = rung_at(BUTTER, 21.0, age_days=0.0)
        young = learn([Observation(BUTTER, 21.0, felt=at_once, age_days=0.0)])
        self.assertAlmostEqual(young.offset, 0.0, delta=0.05)
        old = learn([Observation(BUTTER, 21.0, felt=at_once, age_days=30.0)])
        self.assertLess(old.offset, -0.05)

    def test_two_answers_or_none_are_refused(self) -> None:
        for wrong in ({}, {"felt": 5.0, "pressed": 300.0}, {"felt": 11.0}, {"pressed": 0.0}):
            with self.subTest(wrong), self.assertRaises(CalmTinError):
                Observation(SALVE, 21.0, **wrong)

    @settings(max_examples=25, deadline=None)
    @given(
        st.lists(
            st.tuples(st.sampled_from([SALVE, BALM, BUTTER, STICK, GLOSS]), st.integers(0, 10)),
            min_size=1,
            max_size=6,
        ),
        st.integers(0, 2**31),
    )
    def test_the_slope_is_exact(self, rows: list, seed: int) -> None:
        log, _ = _log_of(
            [Observation(parts, 21.0 + 3 * n, felt=float(felt)) for n, (parts, felt) in enumerate(rows)]
        )
        x = np.random.default_rng(seed).normal(0.0, 0.3, len(log.names))
        _, slope = _surprise(log, x)
        for k in range(len(x)):
            step = np.zeros_like(x)
            step[k] = 1e-5
            by_hand = (_surprise(log, x + step)[0] - _surprise(log, x - step)[0]) / 2e-5
            self.assertAlmostEqual(slope[k], by_hand, delta=1e-4 * max(1.0, abs(by_hand)))

    def test_the_log_of_an_observation_is_its_reading(self) -> None:
        seen = [firmer(p, 0.0, at_c) for p in (SALVE, BALM, STICK, GLOSS) for at_c in (8.0, 21.0, 33.0)]
        log, _ = _log_of(seen)
        rungs, _, _ = _rungs(log, np.zeros(len(log.names)))
        for row, shown in zip(seen, rungs, strict=True):
            self.assertAlmostEqual(float(np.clip(shown, 0, 10)), rung_at(row.parts, row.at_c), places=6)

    def test_many_pots_at_once_are_each_read_as_alone(self) -> None:
        powdery = of(beeswax_yellow=12, soy_wax=8, coconut_rbd=10, olive_oil=58, arrowroot=12)
        states = ((0.0, None, False), (0.6, 1.0, False), (0.0, 0.5, True), (0.0, 20.0, True))
        pots = [
            Observation(p, at_c, felt=5.0, overrun=overrun, age_days=age, careless=careless)
            for p in (SALVE, BUTTER, STICK, GLOSS, powdery)
            for at_c in (8.0, 21.0, 33.0, 50.0)
            for overrun, age, careless in states
        ]
        many = Many(pots)
        for n, pot in enumerate(pots):
            blended = blend(pot.parts)
            if pot.careless:
                blended = in_lower_form(blended, pot.age_days)
            alone = read(blended, [pot.at_c], overrun=pot.overrun)
            for material, load in zip(blended.materials, alone.load[0], strict=True):
                self.assertAlmostEqual(many.load[n, many.materials.index(material)], load, places=12)
            self.assertAlmostEqual(many.liquid[n], alone.liquid[0], places=9)
            self.assertAlmostEqual(many.slope[n], alone.terms.slope[0], places=6)
            self.assertAlmostEqual(
                many.softer[n], still_to_come(blended, alone.load, pot.age_days)[0], places=12
            )
            for name, value in alone.terms.shapes.items():
                self.assertAlmostEqual(many.shapes[name][n], value[0], places=9)


class Recovery(TestCase):
    def test_simulated_benches_are_told_twice_as_well(self) -> None:
        """A small draw of bench/learning.py, which docs/learning.md has whole."""
        found = run(25, seed=20261125)
        for temp_c in (ROOM_C, SKIN_C):
            before, after = (float(np.median(m[temp_c])) for m in (found.before, found.after))
            self.assertLess(after, 0.6 * before)
            self.assertTrue(0.72 <= float(np.mean(found.inside[temp_c])) <= 0.93)

    def test_a_prediction_costs_after_learning_what_it_did_before(self) -> None:
        learned = learn([firmer(p, 0.5) for p in (SALVE, BALM, BUTTER, STICK)])
        self.assertIsInstance(learned, Learned)
        many = [SALVE, BALM, BUTTER, STICK, GLOSS] * 20

        # One after the other, in the time of this process: other work on the machine meets both alike.
        pairs = [
            [self.timed([blend(p, prior) for p in many]) for prior in (learned, Prior())] for _ in range(9)
        ]
        after, before = (min(costs) for costs in zip(*pairs, strict=True))
        self.assertLess(after, 1.6 * before)

    def timed(self, ready: list) -> float:
        begun = time.process_time()
        for blended in ready:
            read(blended, [21.0])
        return time.process_time() - begun

    def test_many_answers_of_a_noisy_thumb_come_to_its_offset(self) -> None:
        rng = np.random.default_rng(4)
        kept = [
            Observation(parts, 21.0, felt=float(np.clip(round((rung_at(parts, 21.0) or 0.0) + e), 0, 10)))
            for parts, e in zip(
                [SALVE, BALM, BUTTER, STICK, GLOSS] * 60, rng.normal(0.4, THUMB_SD, 300), strict=True
            )
        ]
        learned = learn(kept)
        self.assertAlmostEqual(told(SALVE, learned) - told(SALVE, Prior()), 0.4, delta=0.25)
