"""How well a bench's own pours correct the predictions: simulated benches with hidden truths.

Run: `PYTHONPATH=. .venv/bin/python bench/learning.py [--benches 200] [--seed 1]`. Each bench has an
offset of its thumb and of its press, strengths and lots of its own, and a law that is wrong in the
ways of the shape terms; or, with `first`, a law of another form. It pours eight formulas, one thumb
test each and every third also at skin temperature, 5 % of them absurd. Told are formulas that it
never poured.
"""

from __future__ import annotations

import argparse
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from calmtin.core.data.loader import library
from calmtin.core.engine.bands import SHAPES, Prior, lot_sd
from calmtin.core.engine.blend import Parts, blend, crystals
from calmtin.core.engine.firmness import read
from calmtin.core.engine.ladder import EXPONENT, RUNGS_PER_E, raw_rungs, yield_of_rungs
from calmtin.core.engine.learning import OFFSET_SD, Observation, learn
from calmtin.core.materials import Material

SHELF = library()
POURS, NEW, ABSURD = 8, 10, 0.05
ROOM_C, SKIN_C = 21.0, 33.0
WAXES = ("beeswax_yellow", "candelilla_wax", "carnauba_wax", "rice_bran_wax")
BUTTERS = ("shea_refined", "cocoa_butter", "mango_butter", "kokum_butter")
SOFT = ("coconut_rbd", "babassu_oil", "lanolin")
OILS = ("sunflower_high_oleic", "olive_oil", "sweet_almond_oil", "jojoba_oil", "castor_oil")


def formula(rng: np.random.Generator, shelf: Sequence[Material]) -> Parts:
    """Return a formula as kitchens make them from what a bench has: wax, butters, soft fat, oils."""
    groups: list[list[Material]] = [
        [m for m in shelf if m.slug in names] for names in (WAXES, BUTTERS, SOFT, OILS)
    ]
    wax = rng.uniform(5.0, 32.0) * (0.5 if rng.random() < 0.2 else 1.0)
    # A bench has a wax that it mostly uses.
    parts = [(groups[0][int(rng.random() < 0.3)], wax)]
    for group, most, often in ((groups[1], 35.0, 0.8), (groups[2], 20.0, 0.6)):
        if rng.random() < often:
            parts.append((group[int(rng.integers(len(group)))], rng.uniform(4.0, most)))
    powder = rng.uniform(1.0, 6.0) if rng.random() < 0.15 else 0.0
    if powder:
        parts.append((SHELF["arrowroot"], powder))
    rest = 100.0 - sum(grams for _, grams in parts)
    first, second = (groups[3][int(n)] for n in rng.choice(len(groups[3]), 2, replace=False))
    share = rng.uniform(0.5, 0.9)
    return [*parts, (first, rest * share), (second, rest * (1.0 - share))]


@dataclass
class Truth:
    """A bench as it is, which nobody sees: offsets, ln strengths, lots, how the law is wrong."""

    thumb: float
    press: float
    strengths: dict[str, float]
    lots: dict[str, float]
    shapes: dict[str, float]
    sooner_c: float
    form: str
    rng: np.random.Generator

    def rung(self, parts: Parts, temp_c: float, miss: float) -> float:
        """Return what the bench's own thumb feels without its noise, not clipped."""
        blended = blend(parts)
        temps = np.array([temp_c + self.sooner_c])
        reading = read(blended, temps)
        load = reading.load if self.form == "second" else _first_form(parts, temps)
        own = np.array([self.strengths[m.slug] + self.lots[m.slug] for m in blended.materials])
        phi = float((load[0] * np.exp(own)).sum())
        stiffer = blended.powder.stiffer if self.form == "second" else 1.0
        network = EXPONENT * RUNGS_PER_E * math.log(max(phi, 1e-9))
        raw = network + float(raw_rungs(np.array(33_000.0 * stiffer)))
        raw += sum(self.shapes[name] * float(value[0]) for name, value in reading.terms.shapes.items())
        liquid = float(reading.liquid[0]) if self.form == "second" else 0.0
        own_rung = float(raw_rungs(yield_of_rungs(np.array(max(raw, -6.0))) + liquid))
        return own_rung + miss + self.thumb


def _first_form(parts: Parts, temps: np.ndarray) -> np.ndarray:
    """Return loads (t, m) by the first form of the law: no lean gels, no warm wax, per mass of all."""
    blended = blend(parts)
    share = crystals(blended, temps)
    factor = np.array([m.strength_factor for m in blended.materials])
    fat = share @ (blended.component_mass * blended.is_fat)
    carried = share * blended.strength
    fat_load = (carried * blended.is_fat) @ blended.mass.T * factor
    wax_load = (carried * ~blended.is_fat) @ blended.mass.T * factor
    return np.asarray(fat_load * (1.0 + 0.8 * np.exp(-fat / 0.15))[:, None] + wax_load)


def bench(rng: np.random.Generator, form: str) -> tuple[Truth, list[Material]]:
    """Return a bench with a shelf: two waxes, two butters, two soft fats, three oils."""
    shelf = []
    for names, count in ((WAXES, 2), (BUTTERS, 2), (SOFT, 2), (OILS, 3)):
        shelf += [SHELF[str(name)] for name in rng.choice(names, count, replace=False)]
    everything = [*shelf, SHELF["arrowroot"]]
    truth = Truth(
        thumb=rng.normal(0.0, OFFSET_SD["thumb"]),
        press=rng.normal(0.0, 0.6),
        strengths={m.slug: rng.normal(0.0, max(m.ln_strength_sd, 1e-3)) for m in everything},
        lots={m.slug: rng.normal(0.0, 0.5 * float(lot_sd(m, np.array([ROOM_C]))[0])) for m in everything},
        shapes={name: rng.normal(0.0, sd) if form == "second" else 0.0 for name, sd in SHAPES.items()},
        sooner_c=rng.normal(0.0, 0.6),
        form=form,
        rng=rng,
    )
    return truth, shelf


def _miss(rng: np.random.Generator, temp_c: float) -> float:
    return float(rng.normal(0.0, 0.2) + rng.normal(0.0, 0.25) * (temp_c - ROOM_C) / 12.0)


@dataclass
class Told:
    """Misses of formulas never poured, by temperature: before, after, and how often in the band."""

    before: dict[float, list[float]]
    after: dict[float, list[float]]
    inside: dict[float, list[bool]]


def one(rng: np.random.Generator, form: str, with_press: float | None, told: Told) -> None:
    """Pour eight on one bench and tell ten more."""
    truth, shelf = bench(rng, form)
    seen: list[Observation] = []
    for n in range(POURS):
        parts = formula(rng, shelf)
        temps = [ROOM_C, SKIN_C] if n % 3 == 2 else [ROOM_C]
        for temp_c in temps:
            true = truth.rung(parts, temp_c, _miss(rng, temp_c))
            felt = round(min(max(true + rng.normal(0.0, 0.8), 0.0), 10.0))
            if rng.random() < ABSURD:
                felt = int(rng.integers(0, 11))
            seen.append(Observation(parts, temp_c, felt=float(felt)))
            if with_press is not None and temp_c == ROOM_C:
                shown = true - truth.thumb + truth.press + rng.normal(0.0, 0.35)
                pressed = float(yield_of_rungs(np.array(shown))) * with_press
                seen.append(Observation(parts, temp_c, pressed=pressed))
    learned = learn(seen)
    for _ in range(NEW):
        parts = formula(rng, shelf)
        for temp_c in (ROOM_C, SKIN_C):
            true = min(max(truth.rung(parts, temp_c, _miss(rng, temp_c)), 0.0), 10.0)
            for prior, misses in ((Prior(), told.before), (learned, told.after)):
                reading = read(blend(parts, prior), [temp_c])
                misses[temp_c].append(abs(float(reading.rung[0]) - true))
            told.inside[temp_c].append(bool(reading.low[0] <= true <= reading.high[0]))


def run(benches: int, seed: int, form: str = "second", with_press: float | None = None) -> Told:
    """Return what `benches` simulated benches came to."""
    empty: Callable[[], dict[float, list]] = lambda: {ROOM_C: [], SKIN_C: []}  # noqa: E731
    told = Told(empty(), empty(), empty())
    for n in range(benches):
        one(np.random.default_rng([seed, n]), form, with_press, told)
    return told


def main() -> None:
    """Print the recovery."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--benches", type=int, default=200)
    options.add_argument("--seed", type=int, default=1)
    given = options.parse_args()
    print(f"{given.benches} benches, seed {given.seed}: {POURS} pours, {NEW} formulas never poured")
    print("truth            press    at   median before  after   in the likely range")
    for form, press in (("second", None), ("first", None), ("second", 1.0), ("second", 4.0)):
        told = run(given.benches, given.seed, form, press)
        for temp_c in (ROOM_C, SKIN_C):
            before, after = (float(np.median(m[temp_c])) for m in (told.before, told.after))
            inside = 100.0 * float(np.mean(told.inside[temp_c]))
            name = "none" if press is None else f"x {press:g}"
            print(f"{form:<16} {name:<8} {temp_c:.0f} C  {before:10.2f} {after:10.2f} {inside:12.0f} %")


if __name__ == "__main__":
    main()
