"""Starter formulas for a kind: soft, middle and firm, from the permitted materials."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.engine.bands import Prior
from calmtin.core.errors import DoesNotAddUp, EmptyFormula
from calmtin.core.kinds import Kind
from calmtin.core.materials import Layer, Material, Shelf
from calmtin.core.messages import said
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Solution, Stop, never, solve, solve_if_met

# What a practitioner reaches for first, layer by layer; what is in stock comes before it.
_USUAL: dict[Layer, tuple[str, ...]] = {
    "wax": ("beeswax_yellow", "candelilla_wax", "rice_bran_wax", "sunflower_wax", "soy_wax"),
    "butter": ("cocoa_butter", "shea_refined", "mango_butter", "kokum_butter", "cupuacu_butter"),
    "soft_fat": ("coconut_rbd", "babassu_oil", "palm_kernel_oil"),
    "oil": ("olive_oil", "sunflower_high_oleic", "jojoba_oil", "castor_oil", "sweet_almond_oil"),
}
_GLOSS_OILS = ("castor_oil", "jojoba_oil", "mct_oil")
_ANTIOXIDANTS = (("tocopherols_50", 0.5), ("rosemary_extract", 0.2))
_HOW_MANY: dict[Layer, int] = {"wax": 1, "butter": 2, "soft_fat": 1, "oil": 2}
_LEAST_PART = 2.0  # a layer whose middle is below this is left out, %
LEAST_LINE = Decimal(1)  # less of a wax or a butter is no line of its own, %
SHARES = {"soft": 0.15, "middle": 0.5, "firm": 0.85}  # of the way through the kind's band


@dataclass(frozen=True, slots=True)
class Starter:
    """One worked formula: where in the band it aims, its materials, and how the solver met it."""

    label: str
    target: float
    materials: tuple[Material, ...]
    solution: Solution

    @property
    def lines(self) -> list[tuple[Material, Decimal]]:
        """The materials with their percents, without those that came to nothing."""
        pairs = zip(self.materials, self.solution.percents, strict=True)
        return [(material, percent) for material, percent in pairs if percent > 0]


def starters(
    shelf: Shelf,
    kind: Kind,
    *,
    avoid: Sequence[str] = (),
    stock: frozenset[str] = frozenset(),
    at_c: float = 21.0,
    hot_c: float | None = None,
    prior: Prior | None = None,
    stop: Stop = never,
) -> list[Starter]:
    """Return three formulas at the soft, middle and firm part of the kind's band, on one path.

    They are of the same materials, and from soft to firm no line turns back.

    `avoid` are allergen flags, and "vegan" for anything of an animal; `stock` the
    slugs that are on the shelf; `hot_c` where it will live at its hottest, C; `prior` what is known
    of the bench.
    Raises `EmptyFormula` when nothing that is left can make the kind.
    """
    chosen = {layer: _choose(layer, shelf, kind, avoid, stock) for layer in _HOW_MANY}
    start: list[tuple[Material, float]] = []
    for layer, materials in chosen.items():
        low, high = kind.ranges[layer]
        usual = (low + high) / 2.0
        if materials and usual >= _LEAST_PART:
            start += [(material, usual / len(materials)) for material in materials]
    if not any(material.layer == "oil" for material, _ in start):
        raise EmptyFormula(
            said("No materials are left to make this from. Exclude fewer things."), field="avoid"
        )
    guard = next(
        ((shelf[s], p) for s, p in _ANTIOXIDANTS if s in shelf and not shelf[s].has_any(avoid)), None
    )
    fixed = guard[1] if guard else 0.0
    scale = (100.0 - fixed) / sum(percent for _, percent in start)
    parts = [(material, percent * scale) for material, percent in start]
    if guard:
        parts.append(guard)
    hottest = hot_c if hot_c is not None and kind.hold_c is not None else kind.hold_c
    low, high = kind.target

    def at(share: float) -> Target:
        rung = low + share * (high - low)
        return Target(
            rung,
            at_c,
            min_rung=kind.hold_rung,
            hot_c=hottest,
            overrun=kind.usual_overrun,
            prior=prior,
        )

    path = _Path(kind, parts, frozenset({guard[0].slug} if guard else ()), stop)
    middle = path.first(at(SHARES["middle"]))
    # The two ends lie to either side of the middle; whichever is found first points the way.
    soft = path.beside(middle, at(SHARES["soft"]))
    firm = path.beside(middle, at(SHARES["firm"]), away_from=soft)
    if firm.status != "met":
        firm = path.beside(middle, at(SHARES["firm"]))
        soft = path.beside(middle, at(SHARES["soft"]), away_from=firm)
    found = {"soft": soft, "middle": middle, "firm": firm}
    return [
        Starter(label, at(SHARES[label]).rung, tuple(path.materials), solution)
        for label, solution in found.items()
    ]


class _Path:
    """Formulas of the same materials, each solved from the middle one."""

    def __init__(
        self, kind: Kind, parts: Sequence[tuple[Material, float]], held: frozenset[str], stop: Stop
    ) -> None:
        self.layers: dict[Layer, tuple[float, float]] = {layer: kind.ranges[layer] for layer in _HOW_MANY}
        self.parts, self.held, self.stop = list(parts), held, stop

    @property
    def materials(self) -> list[Material]:
        """What the formulas are made of."""
        return [material for material, _ in self.parts]

    def first(self, target: Target) -> Solution:
        """Return the middle of the path, without waxes and butters that would come to less than a line."""
        while True:
            found = self._solve(self.parts, target, {})
            small = [
                i
                for i, (material, _) in enumerate(self.parts)
                if material.layer in ("wax", "butter") and found.percents[i] < LEAST_LINE
            ]
            if not small or len(small) == len(self.parts):
                return found
            # The smallest goes; what it was is shared out by its neighbours.
            gone = min(small, key=lambda i: found.percents[i])
            rest = [pair for i, pair in enumerate(self.parts) if i != gone]
            free = sum(percent for m, percent in rest if m.slug not in self.held)
            lost = self.parts[gone][1]
            self.parts = [
                (m, percent if m.slug in self.held else percent * (1.0 + lost / free))
                for m, percent in rest
            ]

    def beside(self, middle: Solution, target: Target, away_from: Solution | None = None) -> Solution:
        """Return a formula to one side of the middle: wax does not fall on the way from soft to firm.

        No line turns back that moved on the other side, which is `away_from`.
        """
        here = [float(percent) for percent in middle.percents]
        firmer = target.rung > middle.rungs[target.at_c]
        ranges = {}
        for i, material in enumerate(self.materials):
            low = min(float(LEAST_LINE), here[i]) if material.layer in ("wax", "butter") else 0.0
            high = 100.0
            moved = 0.0 if away_from is None else float(away_from.percents[i]) - here[i]
            if moved < 0.0 or (material.layer == "wax" and firmer):
                low = here[i]
            elif moved > 0.0 or material.layer == "wax":
                high = here[i]
            if material.slug not in self.held:
                ranges[material.slug] = (low, high)
        parts = list(zip(self.materials, here, strict=True))
        return self._solve(parts, target, ranges)

    def _solve(
        self,
        parts: Sequence[tuple[Material, float]],
        target: Target,
        ranges: dict[str, tuple[float, float]],
    ) -> Solution:
        """Solve within the kind's ranges; where they leave no way, within none."""
        limits = Limits(held=self.held, ranges=ranges, layers=self.layers)
        with suppress(DoesNotAddUp):
            if found := solve_if_met(parts, target, limits, stop=self.stop):
                return found
        return solve(parts, target, Limits(held=self.held, ranges=ranges), stop=self.stop)


def _choose(
    layer: Layer, shelf: Shelf, kind: Kind, avoid: Sequence[str], stock: frozenset[str]
) -> list[Material]:
    usual = _GLOSS_OILS if layer == "oil" and kind.slug == "gloss" else _USUAL[layer]
    own = [slug for slug in stock if slug in shelf and shelf[slug].layer == layer and slug not in usual]
    ranked = sorted(usual, key=lambda slug: slug not in stock) + sorted(own)
    allowed = [
        shelf[s] for s in ranked if s in shelf and not shelf[s].has_any(avoid) and not shelf[s].is_wet
    ]
    return allowed[: _HOW_MANY[layer]]
