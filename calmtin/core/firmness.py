"""How firm a blend is, at any temperature, how sure that is, and what carries it.

The scale is the yield value of a cone penetrometer (Haighton 1959), g/cm2; the
rung is its logarithm on the eleven-step ladder. docs/model.md has the equations
and where they hold.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from calmtin.core.errors import CalmTinError, EmptyFormula
from calmtin.core.materials import Component, Material
from calmtin.core.solids import Array, first_haze_c, liquid_moles, saturation, solid_shares

Parts = Sequence[tuple[Material, float]]

STIFFNESS = 33_000.0  # yield value of a blend whose load-bearing solids are 1, g/cm2
EXPONENT = 3.5  # growth of the yield value with load-bearing solids
FLOWS_BELOW = 10.0  # g/cm2: it no longer holds a shape
FILLER_LIMIT = 0.6  # volume fraction at which a powder jams
RUNGS_PER_E = 10.0 / (EXPONENT * math.log(10.0))  # rungs for a factor e in yield value
BENCH_SD = 0.6  # prior spread of one bench's offset, rungs
Z80 = 1.2815515655446004  # half width of an 80 % band, in standard deviations

LADDER: tuple[str, ...] = (
    "runs like oil",
    "pours slowly",
    "soft cream, no shape",
    "scoops without a push",
    "swirls under a fingertip",
    "firm in the tin, warms to a swirl",
    "holds an edge, a thumb dents it",
    "stands as a stick, glides",
    "hand-held bar, a thumbnail marks it",
    "hard bar, needs warming to give",
    "candle-hard, gives nothing",
)


def rung_word(rung: float) -> str:
    """Return the ladder's words for the rung nearest to `rung`."""
    return LADDER[min(10, max(0, math.floor(rung + 0.5)))]


def raw_rungs(yield_values: Array) -> Array:
    """Return 10 (log10 C - 1) / 3.5, not clipped; -inf where nothing is solid."""
    with np.errstate(divide="ignore"):
        return np.asarray(10.0 * (np.log10(yield_values) - 1.0) / EXPONENT)


def to_rungs(yield_values: Array) -> Array:
    """Return the rung, 0 to 10, of yield values in g/cm2.

    >>> to_rungs(np.array([0.0, 10.0, 1000.0, 1e6])).round(2).tolist()
    [0.0, 0.0, 5.71, 10.0]
    """
    return np.asarray(np.clip(raw_rungs(yield_values), 0.0, 10.0))


def yield_of_rung(rung: float) -> float:
    """Return the yield value, g/cm2, at `rung`; the inverse of `to_rungs`.

    >>> round(yield_of_rung(20 / 3.5))
    1000
    """
    return float(10.0 ** (1.0 + EXPONENT * rung / 10.0))


def filler_factor(volume_fraction: float) -> float:
    """Return how many times a powder stiffens: (1 - v / 0.6)^-1.5.

    After Krieger and Dougherty (1959), with the jamming fraction of loose grains.

    >>> round(filler_factor(0.06), 3)
    1.171
    """
    if volume_fraction >= FILLER_LIMIT:
        raise CalmTinError(
            "There is more powder in this than oil can wet. Bring the powders below half.",
            field="percent",
            limit=FILLER_LIMIT * 100.0,
            unit="%",
        )
    return float((1.0 - volume_fraction / FILLER_LIMIT) ** -1.5)


def whipped_factor(overrun: float) -> float:
    """Return what whipping leaves of the yield value: (1 - a)^2.5, a = overrun / (1 + overrun).

    `overrun` is the gain in volume: 1.0 doubles it.

    >>> round(whipped_factor(1.0), 4)
    0.1768
    """
    if overrun < 0:
        raise CalmTinError("Overrun is a gain in volume: type 0 or more.", field="overrun")
    return float((1.0 + overrun) ** -2.5)


@dataclass(frozen=True, eq=False)
class Blend:
    """A composition made ready for the engine; build it with `blend`.

    `percent` (m,) sums to 100. `mass` (m, k) is each component's share of the
    total that comes with each material; the component arrays are (k,).
    """

    materials: tuple[Material, ...]
    percent: Array
    mass: Array
    melt_c: Array
    enthalpy_kj: Array
    molar_mass: Array
    strength: Array
    is_fat: NDArray[np.bool_]
    filler_volume: float

    @cached_property
    def component_mass(self) -> Array:
        """Mass of each component in 1 g of the whole (k,)."""
        return np.asarray(self.mass.sum(axis=0))

    @cached_property
    def moles(self) -> Array:
        """Moles of each component in 1 g of the whole (k,)."""
        return self.component_mass / self.molar_mass

    @cached_property
    def carrying(self) -> Array:
        """Load that 1 g of crystals of each component carries (k,), before the
        fat crystals' own rule: strength, times each material's own factor."""
        factor = np.array([m.strength_factor for m in self.materials])
        whole = np.where(self.component_mass > 0.0, self.component_mass, 1.0)
        return np.asarray(self.strength * (factor @ self.mass) / whole)

    @cached_property
    def weights(self) -> Array:
        """Per mole of crystals (k, 3): mass of fat, load of fat, load of wax."""
        load = self.molar_mass * self.carrying
        return np.stack([self.molar_mass * self.is_fat, load * self.is_fat, load * ~self.is_fat], -1)

    def saturated(self, temps_c: Array) -> Array:
        """Return what the melt can hold of each component (t, k) at `temps_c` (t,)."""
        return _saturated(temps_c.tobytes(), self.melt_c.tobytes(), self.enthalpy_kj.tobytes())


@lru_cache(maxsize=256)
def _saturated(temps_c: bytes, melt_c: bytes, enthalpy_kj: bytes) -> Array:
    """Return `saturation`, kept: an edit changes amounts, seldom materials or temperatures."""
    held = saturation(*(np.frombuffer(column) for column in (temps_c, melt_c, enthalpy_kj)))
    held.flags.writeable = False
    return held


@dataclass(frozen=True, eq=False)
class Reading:
    """What a blend does at each of `temps_c` (t,).

    `solid_pct` is crystal, % of the whole (powder not counted); `load` (t, m) is
    each material's part of the load-bearing solids; `crystal_pct` (t, m) is the
    percent of each material that is crystal there.
    """

    temps_c: Array
    solid_pct: Array
    load: Array
    crystal_pct: Array
    yield_value: Array
    rung: Array
    low: Array
    high: Array


@dataclass(frozen=True, slots=True)
class Carrier:
    """One line of the "why": a material and what it does at one temperature.

    `rungs` sum over the carriers to the predicted rung, `load_share` to 1.
    """

    material: Material
    percent: float
    crystal_pct: float
    alone_crystal_pct: float
    load_share: float
    rungs: float


def blend(parts: Parts) -> Blend:
    """Prepare `parts`, materials with masses in any one unit, for the engine.

    Lines of the same material are put together. Raises `EmptyFormula` when
    nothing has weight and `CalmTinError` for a negative or endless mass.
    """
    masses: dict[Material, float] = {}
    for material, mass in parts:
        if not (mass >= 0.0 and math.isfinite(mass)):
            raise CalmTinError(
                f"{material.name} has a weight of {mass}. Weights are 0 or more.",
                field="percent",
                material=material.slug,
            )
        masses[material] = masses.get(material, 0.0) + mass
    total = math.fsum(masses.values())
    if total <= 0.0:
        raise EmptyFormula(
            "Nothing in this formula has any weight yet. Give at least one line a percentage.",
            field="percent",
        )
    present = [(material, mass / total) for material, mass in masses.items() if mass > 0.0]
    column: dict[Component, int] = {}
    for material, _ in present:
        for component, _ in material.fractions:
            column.setdefault(component, len(column))
    mass_table = np.zeros((len(present), max(1, len(column))))
    filler = whole = 0.0
    for row, (material, share) in enumerate(present):
        volume = share / material.density_solid
        whole += volume
        filler += volume if material.is_filler else 0.0
        for component, fraction in material.fractions:
            mass_table[row, column[component]] = share * fraction
    # A formula of powder alone still needs one column: an oil that is not there.
    grid = list(column) or [Component("none", -12.0, 80.0, 875.0, 1.0, "fat")]
    return Blend(
        materials=tuple(material for material, _ in present),
        percent=np.array([100.0 * share for _, share in present]),
        mass=mass_table,
        melt_c=np.array([c.melt_c for c in grid]),
        enthalpy_kj=np.array([c.enthalpy_kj_mol for c in grid]),
        molar_mass=np.array([c.molar_mass for c in grid]),
        strength=np.array([c.strength for c in grid]),
        is_fat=np.array([c.network == "fat" for c in grid]),
        filler_volume=filler / whole,
    )


def crystals(blended: Blend, temps_c: Array) -> Array:
    """Return the solid share of each component (t, k) at `temps_c` (t,)."""
    return solid_shares(blended.moles, blended.saturated(temps_c))


def few_fat_crystals(fat: Array) -> Array:
    """Return how much better fat crystals carry when they are few: 1 + 0.8 exp(-f / 0.15).

    `fat` (...) is the mass of fat crystals as a share of the whole.

    >>> few_fat_crystals(np.array([0.0, 0.15])).round(4).tolist()
    [1.8, 1.2943]
    """
    return np.asarray(1.0 + 0.8 * np.exp(fat / -0.15))


def yield_values(blended: Blend, temps_c: Array) -> Array:
    """Return the yield value, g/cm2 (t,), and nothing else: the quick way."""
    return yield_values_of(blended, blended.component_mass, temps_c)


def yield_values_of(blended: Blend, component_mass: Array, temps_c: Array) -> Array:
    """Return yield values (...) for other amounts of the components of `blended`.

    `component_mass` (..., k), parts of 1 g of the whole, is broadcast against
    `temps_c` (...); the powder is that of `blended`.
    """
    moles = component_mass / blended.molar_mass
    held, weights = blended.saturated(temps_c), blended.weights
    if len(temps_c) == 1:
        # At one temperature, what is liquid there dissolves the rest as one.
        melted = blended.melt_c <= temps_c[0]
        pool = moles[..., melted].sum(axis=-1, keepdims=True)
        moles = np.concatenate([moles[..., ~melted], pool], axis=-1)
        held = np.concatenate([held[..., ~melted], np.ones_like(held[..., :1])], axis=-1)
        weights = np.concatenate([weights[~melted], np.zeros((1, 3))])
    liquid = liquid_moles(moles, held)[..., None]
    solid = held * liquid
    np.subtract(moles, solid, out=solid)
    sums = np.maximum(solid, 0.0, out=solid) @ weights
    load = sums[..., 2] + sums[..., 1] * few_fat_crystals(sums[..., 0])
    return np.asarray(STIFFNESS * load**EXPONENT * filler_factor(blended.filler_volume))


def read(blended: Blend, temps_c: Sequence[float] | Array, *, overrun: float = 0.0) -> Reading:
    """Return the full reading at `temps_c`, whipped by `overrun` where it is above 0.

    The band is the 80 % interval of the prior: the bench's own offset, each
    material's strength and the natural spread of its curve, taken as independent
    and to first order. A material that carries nothing adds nothing to it.
    """
    temps = np.asarray(temps_c, dtype=float)
    share = crystals(blended, temps)
    few = few_fat_crystals(share @ (blended.component_mass * blended.is_fat))
    per_gram = share * blended.strength * np.where(blended.is_fat, few[:, None], 1.0)
    factor = np.array([m.strength_factor for m in blended.materials])
    load = per_gram @ blended.mass.T * factor
    phi = load.sum(axis=-1)
    value = STIFFNESS * phi**EXPONENT * filler_factor(blended.filler_volume)
    value = value * whipped_factor(overrun)
    raw = raw_rungs(value)
    half = Z80 * _rung_sd(blended, temps, load, phi)
    solid = share @ blended.mass.T
    return Reading(
        temps_c=temps,
        solid_pct=100.0 * solid.sum(axis=-1),
        load=load,
        crystal_pct=100.0 * solid / np.maximum(blended.percent / 100.0, 1e-300),
        yield_value=value,
        rung=np.clip(raw, 0.0, 10.0),
        low=np.clip(raw - half, 0.0, 10.0),
        high=np.clip(raw + half, 0.0, 10.0),
    )


def _rung_sd(blended: Blend, temps: Array, load: Array, phi: Array) -> Array:
    """Return one standard deviation of the rung (t,) from the priors."""
    part = load / np.where(phi > 0.0, phi, 1.0)[:, None]
    strength = np.array([m.ln_strength_sd for m in blended.materials])
    lots = np.stack([_lot_sd(m, temps) for m in blended.materials], axis=-1)
    variance = (part**2 * (strength**2 + lots**2)).sum(axis=-1)
    return np.asarray(np.sqrt(BENCH_SD**2 + (EXPONENT * RUNGS_PER_E) ** 2 * variance))


def _lot_sd(material: Material, temps: Array) -> Array:
    """Return the relative spread (t,) of a material's crystals between lots.

    Its spread in points is an 80 % half width; nobody knows better than "none or
    twice as much", so it stops at 1.
    """
    if not material.curve_spread_pct:
        return np.zeros_like(temps)
    alone = np.maximum(alone_crystal_pct(material, temps), 1e-9)
    return np.asarray(np.minimum(material.curve_spread_pct / Z80 / alone, 1.0))


def alone_crystal_pct(material: Material, temps_c: Array) -> Array:
    """Return the percent of the neat material that is crystal at `temps_c` (t,)."""
    grid, solid = _neat_curve(material.fractions)
    return np.interp(temps_c, grid, solid)


@lru_cache(maxsize=512)
def _neat_curve(fractions: tuple[tuple[Component, float], ...]) -> tuple[Array, Array]:
    grid = np.arange(-20.0, 110.25, 0.25)
    if not fractions:
        return grid, np.zeros_like(grid)
    neat = blend([(Material("neat", "neat", "other", "given", fractions), 1.0)])
    return grid, 100.0 * (crystals(neat, grid) @ neat.mass[0])


def flow_point_c(blended: Blend) -> float | None:
    """Return the lowest temperature, C, at which it no longer holds a shape (C < 10).

    None when it holds none at 0 C or above. Good to 0.01 C: two passes of a grid
    and a straight line in the logarithm, since the yield value only falls.
    """
    low, high = 0.0, 110.0
    for _ in range(2):
        grid = np.linspace(low, high, 111)
        flows = yield_values(blended, grid) < FLOWS_BELOW
        if flows[0]:
            return None
        first = int(flows.argmax())
        low, high = float(grid[first - 1]), float(grid[first])
    return (low + high) / 2.0


def set_point_c(blended: Blend) -> float | None:
    """Return the highest temperature, C, at which crystals can appear on cooling.

    None for powders and wet things alone: nothing in them sets.
    """
    return first_haze_c(blended.moles, blended.melt_c, blended.enthalpy_kj)


def why_not(blended: Blend) -> str:
    """Return why a blend has no firmness, in a sentence; nothing where it has one.

    >>> from calmtin.core.data.loader import library
    >>> why_not(blend([(library()["honey"], 1.0)]))
    'There is no oil, butter or wax in it, so it has no firmness to predict.'
    """
    if not blended.component_mass.any():
        return "There is no oil, butter or wax in it, so it has no firmness to predict."
    if blended.filler_volume >= FILLER_LIMIT:
        return "There is more powder in it than the oil can wet. Bring the powders below half."
    return ""


def rung_at(parts: Parts, temp_c: float) -> float | None:
    """Return the rung of masses of materials at `temp_c`, C; None where it cannot be predicted."""
    if not any(mass > 0.0 for _, mass in parts):
        return None
    blended = blend(parts)
    return None if why_not(blended) else float(read(blended, [temp_c]).rung[0])


def skin_melt(blended: Blend, room_c: float, skin_c: float = 33.0) -> float:
    """Return the share, 0 to 1, of the crystals at `room_c` that are gone at `skin_c`."""
    at_room, on_skin = read(blended, [room_c, skin_c]).solid_pct
    return float(1.0 - on_skin / at_room) if at_room > 0.0 else 1.0


def carriers(blended: Blend, temp_c: float) -> list[Carrier]:
    """Return what each material does at `temp_c`, the strongest first.

    The load-bearing solids add up over the materials, so their shares are exact.
    The rung is divided in the same proportion after the powder's own part,
    log-additive in the yield value, is taken off for the powders.
    """
    reading = read(blended, [temp_c])
    load, rung = reading.load[0], float(reading.rung[0])
    phi = float(load.sum())
    stiffer = 10.0 * math.log10(filler_factor(blended.filler_volume)) / EXPONENT
    from_filler = min(stiffer, rung)
    filler_percent = sum(p for m, p in zip(blended.materials, blended.percent, strict=True) if m.is_filler)
    temps = np.array([temp_c])
    found = []
    for i, material in enumerate(blended.materials):
        percent = float(blended.percent[i])
        share = float(load[i] / phi) if phi > 0.0 else 0.0
        rungs = share * (rung - from_filler)
        if material.is_filler:
            rungs = from_filler * percent / filler_percent
        found.append(
            Carrier(
                material=material,
                percent=percent,
                crystal_pct=float(reading.crystal_pct[0, i]),
                alone_crystal_pct=float(alone_crystal_pct(material, temps)[0]),
                load_share=share,
                rungs=rungs,
            )
        )
    return sorted(found, key=lambda c: (-c.rungs, -c.percent))


@dataclass(frozen=True, slots=True)
class Dissolving:
    """A fat that is less solid in the blend than alone, and what dissolves it most.

    `without_pct` is the percent of `material` that would be crystal if `by` were
    left out and the rest kept its proportions.
    """

    material: Material
    alone_pct: float
    blend_pct: float
    by: Material
    without_pct: float


def dissolving(blended: Blend, temp_c: float, *, least_pct: float = 5.0) -> list[Dissolving]:
    """Return which materials others dissolve at `temp_c`, by `least_pct` points or more.

    Each material is left out in turn, so this costs as many predictions as there
    are lines. The fats that weigh most come first.
    """
    now = read(blended, [temp_c]).crystal_pct[0]
    temps = np.array([temp_c])
    parts = list(zip(blended.materials, blended.percent, strict=True))
    losers = [
        i
        for i, (material, _) in enumerate(parts)
        if float(alone_crystal_pct(material, temps)[0]) - now[i] >= least_pct
    ]
    if not losers or len(parts) < 2:
        return []
    without = []
    for left_out in range(len(parts)):
        rest = blend([part for i, part in enumerate(parts) if i != left_out])
        found = read(rest, [temp_c]).crystal_pct[0]
        without.append(np.insert(found, left_out, 0.0))
    table = np.array(without)
    np.fill_diagonal(table, -1.0)
    pairs = []
    for i in losers:
        worst = int(table[:, i].argmax())
        material = parts[i][0]
        pairs.append(
            Dissolving(
                material=material,
                alone_pct=float(alone_crystal_pct(material, temps)[0]),
                blend_pct=float(now[i]),
                by=parts[worst][0],
                without_pct=float(table[worst, i]),
            )
        )
    return sorted(pairs, key=lambda pair: -blended.percent[blended.materials.index(pair.material)])
