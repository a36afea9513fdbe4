"""Worked formulas to start from: soft, middle and firm for a kind, of what may be used."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.errors import DoesNotAddUp, EmptyFormula
from calmtin.core.kinds import Kind
from calmtin.core.materials import Layer, Material, Shelf
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
    stop: Stop = never,
) -> list[Starter]:
    """Return three formulas at the soft, middle and firm part of the kind's band.

    `avoid` are allergen flags, and "vegan" for anything of an animal; `stock` the
    slugs that are on the shelf; `hot_c` where it will live at its hottest, C.
    Raises `EmptyFormula` when nothing that is left can make the kind.
    """
    chosen = {layer: _choose(layer, shelf, kind, avoid, stock) for layer in _HOW_MANY}
    start: list[tuple[Material, float]] = []
    for layer, materials in chosen.items():
        low, high = kind.ranges[layer]
        middle = (low + high) / 2.0
        if materials and middle >= _LEAST_PART:
            start += [(material, middle / len(materials)) for material in materials]
    if not any(material.layer == "oil" for material, _ in start):
        raise EmptyFormula("Nothing is left to make this of. Avoid fewer things.", field="avoid")
    guard = next(
        ((shelf[s], p) for s, p in _ANTIOXIDANTS if s in shelf and not shelf[s].has_any(avoid)), None
    )
    fixed = guard[1] if guard else 0.0
    scale = (100.0 - fixed) / sum(percent for _, percent in start)
    parts = [(material, percent * scale) for material, percent in start]
    if guard:
        parts.append(guard)
    held = frozenset({guard[0].slug} if guard else ())
    hottest = hot_c if hot_c is not None and kind.hold_c is not None else kind.hold_c
    low, high = kind.target
    found = []
    for label, share in (("soft", 0.15), ("middle", 0.5), ("firm", 0.85)):
        rung = low + share * (high - low)
        layers: dict[Layer, tuple[float, float]] = {layer: kind.ranges[layer] for layer in _HOW_MANY}
        target = Target(rung, at_c, min_rung=kind.hold_rung, hot_c=hottest, overrun=kind.usual_overrun)
        found.append(
            Starter(label, rung, tuple(m for m, _ in parts), _solve(parts, target, held, layers, stop))
        )
    return found


def _solve(
    parts: Sequence[tuple[Material, float]],
    target: Target,
    held: frozenset[str],
    layers: dict[Layer, tuple[float, float]],
    stop: Stop,
) -> Solution:
    """Solve within the kind's ranges; where they leave no way, within none."""
    with suppress(DoesNotAddUp):
        if first := solve_if_met(parts, target, Limits(held=held, layers=layers), stop=stop):
            return first
    return solve(parts, target, Limits(held=held), stop=stop)


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
