"""Print what a prediction costs, beside a plain root-finding implementation.

Run with `script/bench`. The plain implementation solves the same equations with
scipy's root_scalar (Brent's method), one temperature and one composition at a time, as a reader of
docs/model.md would first write them down.
"""

from __future__ import annotations

import math
import timeit
from collections.abc import Callable

import numpy as np
from scipy.optimize import root_scalar

from calmtin.core.data.loader import library
from calmtin.core.engine.blend import Blend, blend
from calmtin.core.engine.firmness import read, yield_values
from calmtin.core.engine.firmness_map import triangle, trio_of, trio_yield_values
from calmtin.core.engine.solids import ZERO_C, R

FORMULA = {
    "beeswax_yellow": 20.0,
    "candelilla_wax": 2.0,
    "cocoa_butter": 14.0,
    "shea_refined": 8.0,
    "coconut_rbd": 18.0,
    "sweet_almond_oil": 24.2,
    "castor_oil": 12.0,
    "tocopherols_50": 0.8,
    "peppermint": 1.0,
}


def plain_yield(blended: Blend, mass: np.ndarray, temp_c: float) -> float:
    """Return the yield value of component masses (k,) at one temperature, the plain way."""
    t = temp_c + ZERO_C
    moles = mass / blended.molar_mass
    held = np.minimum(
        1.0, np.exp(-(blended.enthalpy_kj * 1000.0 / R) * (1.0 / t - 1.0 / (blended.melt_c + ZERO_C)))
    )

    def excess(liquid: float) -> float:
        return float(np.minimum(moles, held * liquid).sum() - liquid)

    total = float(moles.sum())
    liquid = total if excess(total) >= 0 else 0.0
    if not liquid and excess(1e-9 * total) > 0:
        liquid = root_scalar(excess, bracket=(1e-9 * total, total)).root
    solid = (moles - np.minimum(moles, held * liquid)) * blended.molar_mass
    fat, wax = float(solid[blended.is_fat].sum()), float(solid[~blended.is_fat].sum())
    few_fat = 1.0 + 0.8 * math.exp(-fat / 0.15)
    few_wax = (1.0 + 1.2 * math.exp(-wax / 0.05)) * math.exp(-0.006 * (temp_c - 21.0))
    phi = float((solid * blended.strength * np.where(blended.is_fat, few_fat, few_wax)).sum())
    melt = mass - solid
    eta = math.exp(float(melt @ blended.ln_viscosity) / float(melt.sum()) - 0.035 * (temp_c - 25.0))
    return 33_000.0 * phi**3.5 + float(melt.sum()) * 10.0 ** (1.0 + 0.35 * math.log10(eta / 0.1))


def best_ms(work: Callable[[], object], number: int) -> float:
    """Return the best of sixty timings of `work`, milliseconds a call: noise only ever adds."""
    return min(timeit.repeat(work, number=number, repeat=60)) / number * 1000.0


def main() -> None:
    """Time both implementations on the same work and print the ratios."""
    shelf = library()
    parts = [(shelf[slug], percent) for slug, percent in FORMULA.items()]
    blended = blend(parts)
    temps = np.linspace(0.0, 60.0, 61)
    masses = blended.component_mass
    trio = trio_of(parts)
    grid = triangle(50)
    points = trio.rest + trio.free * (grid @ trio.corners)

    ours = best_ms(lambda: yield_values(blended, temps), 50)
    full = best_ms(lambda: read(blended, temps), 50)
    plain = best_ms(lambda: [plain_yield(blended, masses, t) for t in temps], 2)
    worst = max(
        abs(a / b - 1.0)
        for a, b in zip(
            yield_values(blended, temps),
            [plain_yield(blended, masses, t) for t in temps],
            strict=True,
        )
        if b > 1e-6
    )
    print(f"{len(blended.melt_c)} components; largest relative difference {worst:.1e}")
    report("one prediction over 61 temperatures", ours, plain)
    report("  with bands and attribution", full, plain)
    ours = best_ms(lambda: trio_yield_values(trio, grid, 21.0), 5)
    plain = best_ms(lambda: [plain_yield(blended, p, 21.0) for p in points], 1)
    report(f"{len(points):,} compositions at 21 C", ours, plain)


def report(what: str, ours: float, plain: float) -> None:
    """Print one line: our time, the plain one's and their ratio."""
    print(f"{what:38} {ours:8.3f} ms   plain {plain:8.2f} ms   {plain / ours:5.0f} times")


if __name__ == "__main__":
    main()
