"""Laws that hold for every formula, whatever is in it."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.engine.attribution import carriers
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import flow_point_c, network_values, read, set_point_c, yield_values
from calmtin.core.engine.firmness_map import trio_of, trio_yield_values
from calmtin.core.engine.solids import liquid_moles, saturation

SHELF = library()
MELTING = [m for m in SHELF.values() if m.fractions]
TEMPS = np.linspace(0.0, 70.0, 36)

material = st.sampled_from(list(SHELF.values()))
mass = st.floats(0.01, 100.0)
formula = st.lists(st.tuples(material, mass), min_size=1, max_size=12).filter(
    lambda parts: sum(m for material, m in parts if material.is_filler) < 0.3 * sum(m for _, m in parts)
)


def slow_liquid_moles(moles: np.ndarray, held: np.ndarray) -> float:
    """The largest root of N = sum min(n, x N) by bisection: the text of the model, nothing else."""

    def surplus(liquid: float) -> float:
        return float(np.minimum(moles, held * liquid).sum()) - liquid

    low, high = 0.0, float(moles.sum())
    if surplus(high) >= 0.0:
        return high
    if surplus(high * 1e-13) <= 0.0:
        return 0.0
    low = high * 1e-13
    for _ in range(200):
        middle = (low + high) / 2.0
        low, high = (middle, high) if surplus(middle) > 0.0 else (low, middle)
    return (low + high) / 2.0


class Laws(TestCase):
    @settings(max_examples=150)
    @given(
        st.lists(st.tuples(st.floats(1e-4, 1.0), st.floats(-30.0, 0.0)), min_size=1, max_size=14),
        st.booleans(),
    )
    def test_exact_solver_agrees_with_bisection(
        self, rows: list[tuple[float, float]], with_oil: bool
    ) -> None:
        moles = np.array([n for n, _ in rows] + [0.3] * with_oil)
        held = np.exp(np.array([e for _, e in rows] + [0.0] * with_oil))
        # At a sum of exactly 1 every N up to the first break point is a root.
        assume(with_oil or abs(held.sum() - 1.0) > 1e-6)
        slow = slow_liquid_moles(moles, held)
        self.assertAlmostEqual(float(liquid_moles(moles, held)), slow, delta=1e-9 * moles.sum())

    @given(formula)
    def test_solids_and_yield_fall_as_it_warms(self, parts: list) -> None:
        reading = read(blend(parts), TEMPS)
        self.assertLessEqual(float(np.diff(reading.solid_pct).max()), 1e-9)
        self.assertLessEqual(float(np.diff(reading.network / 33_000.0).max()), 1e-9)
        # What melts off lanolin is thick as honey: the liquid may resist a hundredth of a rung more.
        rise = np.diff(reading.yield_value) - 0.008 * reading.yield_value[:-1]
        self.assertLessEqual(float(rise.max()), 0.1)

    @given(formula, st.floats(1e-3, 1e3))
    def test_scaling_every_mass_changes_nothing(self, parts: list, factor: float) -> None:
        one, other = blend(parts), blend([(m, g * factor) for m, g in parts])
        np.testing.assert_allclose(one.percent, other.percent, rtol=1e-12)
        np.testing.assert_allclose(
            yield_values(one, TEMPS), yield_values(other, TEMPS), rtol=1e-7, atol=1e-9
        )

    @given(formula, st.randoms(use_true_random=False))
    def test_order_of_lines_does_not_matter(self, parts: list, random: object) -> None:
        shuffled = list(parts)
        random.shuffle(shuffled)  # type: ignore[attr-defined]
        np.testing.assert_allclose(
            read(blend(parts), TEMPS).rung, read(blend(shuffled), TEMPS).rung, atol=1e-7
        )

    @given(formula, st.integers(0, 11))
    def test_a_line_in_two_halves_is_the_same_line(self, parts: list, which: int) -> None:
        i = which % len(parts)
        material, grams = parts[i]
        split = [*parts[:i], (material, grams / 2), *parts[i + 1 :], (material, grams / 2)]
        one, other = read(blend(parts), TEMPS), read(blend(split), TEMPS)
        np.testing.assert_allclose(one.rung, other.rung, atol=1e-7)
        np.testing.assert_allclose(one.low, other.low, atol=1e-7)

    @given(
        st.sampled_from([m for m in MELTING if m.group == "wax"]),
        st.sampled_from([m for m in MELTING if m.group == "oil" and m.slug != "jojoba_oil"]),
        st.sampled_from([m for m in MELTING if m.group in ("butter", "soft_fat")]),
        st.floats(1.0, 60.0),
        st.floats(0.0, 30.0),
        st.floats(0.1, 10.0),
        st.floats(8.0, 60.0),
    )
    def test_more_wax_for_oil_never_softens(
        self,
        wax: object,
        oil: object,
        fat: object,
        wax_pct: float,
        fat_pct: float,
        more: float,
        temp: float,
    ) -> None:
        assume(wax_pct + fat_pct + more < 100.0)
        rest = 100.0 - wax_pct - fat_pct
        before = blend([(wax, wax_pct), (fat, fat_pct), (oil, rest)])
        after = blend([(wax, wax_pct + more), (fat, fat_pct), (oil, rest - more)])
        at = np.array([temp])
        solid_wax = next(
            crystal
            for m, crystal in zip(before.materials, read(before, at).crystal_pct[0], strict=True)
            if m is wax
        )
        assume(solid_wax > 0.0)
        # The ideal solution wiggles a little where a fat has just dissolved.
        self.assertGreaterEqual(read(after, at).rung[0], read(before, at).rung[0] - 0.05)

    @given(formula)
    def test_nothing_is_solid_above_the_first_haze(self, parts: list) -> None:
        blended = blend(parts)
        assume(blended.moles.sum() > 0.0)
        haze = set_point_c(blended)
        above, below = read(blended, [haze + 0.05, haze - 0.5]).solid_pct
        self.assertEqual(above, 0.0)
        self.assertGreater(below, 0.0)
        flow = flow_point_c(blended)
        if flow is not None:
            firm, soft = network_values(blended, np.array([flow - 0.02, flow + 0.02]))
            self.assertGreaterEqual(firm, 10.0)
            self.assertLess(soft, 10.0)

    @given(formula, st.floats(0.0, 60.0))
    def test_carriers_add_up_to_the_whole(self, parts: list, temp: float) -> None:
        blended = blend(parts)
        found, reading = carriers(blended, temp), read(blended, [temp])
        self.assertAlmostEqual(sum(c.rungs for c in found), float(reading.rung[0]), places=9)
        self.assertAlmostEqual(sum(c.percent for c in found), 100.0, places=9)
        if reading.load.sum() > 0.0:
            self.assertAlmostEqual(sum(c.load_share for c in found), 1.0, places=9)
        solid = sum(c.percent * c.crystal_pct / 100.0 for c in found)
        self.assertAlmostEqual(solid, float(reading.solid_pct[0]), places=9)

    @given(formula)
    def test_band_holds_the_prediction(self, parts: list) -> None:
        reading = read(blend(parts), TEMPS)
        self.assertTrue((reading.low <= reading.rung).all() and (reading.rung <= reading.high).all())
        self.assertTrue((reading.low >= 0.0).all() and (reading.high <= 10.0).all())

    @given(formula, st.floats(5.0, 60.0))
    def test_trio_at_today_is_the_formula_itself(self, parts: list, temp: float) -> None:
        trio = trio_of(parts)
        assume(trio.free > 0.0)
        here = trio_yield_values(trio, trio.here[None, :], temp)[0]
        direct = yield_values(trio.blended, np.array([temp]))[0]
        self.assertAlmostEqual(here / 33_000.0, direct / 33_000.0, delta=1e-9)

    @given(formula, st.sampled_from([m for m in SHELF.values() if m.is_filler]), st.floats(0.1, 30.0))
    def test_powder_never_softens(self, parts: list, powder: object, more: float) -> None:
        before, after = blend(parts), blend([*parts, (powder, more)])
        assume(np.isfinite(after.powder.stiffer) and np.isfinite(before.powder.stiffer))
        self.assertTrue((read(after, TEMPS).rung >= read(before, TEMPS).rung - 1e-9).all())

    @given(
        formula,
        st.sampled_from([m for m in MELTING if m.layer == "oil" and m.group == "oil"]),
        st.floats(5, 90),
    )
    def test_a_thicker_oil_never_softens(self, parts: list, oil: object, share: float) -> None:
        thick = replace(oil, viscosity_pa_s=oil.viscosity_pa_s * 3.0)
        thin, thicker = (read(blend([*parts, (one, share)]), TEMPS) for one in (oil, thick))
        assume(np.isfinite(thin.rung).all())
        self.assertTrue((thicker.rung >= thin.rung - 1e-9).all())

    @given(formula)
    def test_warmer_is_never_firmer(self, parts: list) -> None:
        self.assertTrue((np.diff(read(blend(parts), TEMPS).rung) <= 1e-9).all())

    def test_two_percent_of_cetyl_alcohol_firms(self) -> None:
        for fat in ("shea_refined", "mango_butter", "cocoa_butter"):
            plain = blend([(SHELF[fat], 72.0), (SHELF["olive_oil"], 28.0)])
            bodied = blend([(SHELF[fat], 72.0), (SHELF["olive_oil"], 26.0), (SHELF["cetyl_alcohol"], 2.0)])
            self.assertGreater(read(bodied, [21.0]).rung[0], read(plain, [21.0]).rung[0] - 0.05)

    def test_solver_of_many_compositions_is_that_of_one(self) -> None:
        random = np.random.default_rng(1)
        moles = random.uniform(0.0, 1.0, (40, 7)) * (random.random((40, 7)) > 0.2)
        held = saturation(np.array([21.0]), np.linspace(-10, 70, 7), np.full(7, 100.0))
        together = liquid_moles(moles, held)
        apart = [float(liquid_moles(row, held[0])) for row in moles]
        np.testing.assert_allclose(together, apart, rtol=1e-12)
