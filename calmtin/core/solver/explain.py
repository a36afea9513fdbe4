"""What stops a target, and what would let it be met: facts, worded above the core."""

from __future__ import annotations

from collections.abc import Callable
from copy import copy
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from calmtin.core.engine.solids import Array
from calmtin.core.materials import Layer, Material
from calmtin.core.solver.problem import Problem

WORTH_SAYING = 0.1  # rungs that letting a line go must be worth to be named
NEAR = 0.05  # rungs from a wish that count as met
MOST_WAYS = 2

# Nobody makes a balm firmer with more of these.
NEVER_MORE = ("scent", "antioxidant", "preservative", "colour")


@dataclass(frozen=True, slots=True)
class Missed:
    """A wish that the closest formula misses: its value and the wanted one.

    `what` is the rung at `at_c`, the rung on the hot day, or the share that melts on skin.
    """

    what: Literal["rung", "hot_rung", "skin_melt"]
    reads: float
    wanted: float
    at_c: float


@dataclass(frozen=True, slots=True)
class Bound:
    """A line at its end: more or less of it would help, but it is locked or held to a range."""

    material: Material
    is_locked: bool
    helps: Literal["more", "less"]
    percent: float


@dataclass(frozen=True, slots=True)
class LayerBound:
    """A layer whose total stands at an end of its range, %."""

    layer: Layer
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Exhausted:
    """Nothing is in the way but the materials themselves."""


@dataclass(frozen=True, slots=True)
class AllowLine:
    """Letting one line go to `percent` would do."""

    material: Material
    percent: float
    is_up: bool


@dataclass(frozen=True, slots=True)
class AllowLayer:
    """Letting the total of a layer go to `percent` would do."""

    layer: Layer
    percent: float
    is_up: bool


@dataclass(frozen=True, slots=True)
class AddMaterial:
    """Something that is not in it yet would help: something harder, or an oil."""

    what: Literal["harder", "softer"]
    has_wax: bool


@dataclass(frozen=True, slots=True)
class TakeRung:
    """A rung that these limits can reach."""

    rung: float


Reason = Missed | Bound | LayerBound | Exhausted
WayOut = AllowLine | AllowLayer | AddMaterial | TakeRung
MetAt = Callable[[Problem], Array | None]


def reasons_for(problem: Problem, point: Array) -> tuple[Reason, ...]:
    """Return what the closest `point` misses and which limits keep it there."""
    missed = _missed(problem, point)
    bounds: list[Reason] = [*_bounds(problem, point, _wants_firmer(missed))]
    bounds += _layer_bounds(problem, point)
    return (*missed, *(bounds or [Exhausted()]))


def ways_out_of(problem: Problem, point: Array, met_at: MetAt) -> tuple[WayOut, ...]:
    """Return up to two changes of the limits that would let the target be met.

    `met_at` searches another problem and tells where it would be met, if anywhere.
    """
    missed = _missed(problem, point)
    firmer = _wants_firmer(missed)
    ways: list[WayOut] = []
    for bound in _bounds(problem, point, firmer):
        if len(ways) < MOST_WAYS and (line := _freed_line(problem, bound, met_at)):
            ways.append(line)
    for layer in _layer_bounds(problem, point):
        if len(ways) < MOST_WAYS and (freed := _freed_layer(problem, layer.layer, met_at)):
            ways.append(freed)
    has_wax = any(material.group == "wax" for material in problem.materials)
    ways.append(AddMaterial("harder" if firmer else "softer", has_wax))
    reads = float(np.clip(problem.space.rungs(point[None, :], problem.target.at_c)[0], 0.0, 10.0))
    ways.append(TakeRung(round(reads, 1)))
    return tuple(dict.fromkeys(ways))[:MOST_WAYS]


def _missed(problem: Problem, point: Array) -> list[Missed]:
    here, t = point[None, :], problem.target
    found = []
    rung = float(np.clip(problem.space.rungs(here, t.at_c)[0], 0.0, 10.0))
    if abs(rung - t.rung) > NEAR:
        found.append(Missed("rung", rung, t.rung, t.at_c))
    if t.min_rung is not None and t.hot_c is not None:
        hot = float(np.clip(problem.space.rungs(here, t.hot_c)[0], 0.0, 10.0))
        if hot < t.min_rung - NEAR:
            found.append(Missed("hot_rung", hot, t.min_rung, t.hot_c))
    if t.skin_melt is not None:
        melt = float(problem.space.skin_melt(here, t.at_c)[0])
        if melt < t.skin_melt - 0.005:
            found.append(Missed("skin_melt", melt, t.skin_melt, t.at_c))
    return found


def _wants_firmer(missed: list[Missed]) -> bool:
    if any(miss.what == "hot_rung" for miss in missed):
        return True
    return any(miss.what == "rung" and miss.reads < miss.wanted for miss in missed)


def _bounds(problem: Problem, point: Array, firmer: bool) -> list[Bound]:
    """Return the lines at an end that matters, what would help most first.

    What is held for its own sake is no limit that anybody set, and is not named.
    """
    t = problem.target
    hot = t.hot_c is not None and t.min_rung is not None and firmer
    temp_c = t.hot_c if hot and t.hot_c is not None else t.at_c
    _, slopes = problem.with_slopes(lambda x: problem.space.rungs(x, temp_c), point)
    slope = slopes * (1.0 if firmer else -1.0)
    usual = float(np.median(slope))
    found: list[Bound] = []
    for i in np.argsort(-slope):
        material = problem.materials[i]
        at_end = point[i] >= problem.high[i] - 1e-3 and problem.high[i] < 100.0
        if slope[i] > usual + 1e-6 and at_end and _may_be_named(problem, material, more=True):
            locked = material.slug in problem.limits.locked
            found.append(Bound(material, locked, "more", float(problem.high[i])))
    for i in np.argsort(slope):
        material = problem.materials[i]
        worth = (usual - slope[i]) * problem.low[i] >= WORTH_SAYING
        at_end = point[i] <= problem.low[i] + 1e-3
        if slope[i] < usual - 1e-6 and worth and at_end and _may_be_named(problem, material, more=False):
            locked = material.slug in problem.limits.locked
            found.append(Bound(material, locked, "less", float(problem.low[i])))
    return found


def _may_be_named(problem: Problem, material: Material, *, more: bool) -> bool:
    if material.slug in problem.limits.held:
        return False
    return not (more and material.group in NEVER_MORE)


def _layer_bounds(problem: Problem, point: Array) -> list[LayerBound]:
    found = []
    for layer, member, low, high in problem.layer_rows():
        share = float(point @ member)
        if share >= high - 1e-3 or share <= low + 1e-3:
            found.append(LayerBound(layer, *problem.limits.layers[layer]))
    return found


def _freed_line(problem: Problem, bound: Bound, met_at: MetAt) -> AllowLine | None:
    """Return what letting one line go would ask of it, if it would do."""
    other = copy(problem)
    i = problem.materials.index(bound.material)
    other.low, other.high = problem.low.copy(), problem.high.copy()
    other.low[i], other.high[i] = 0.0, 100.0
    point = met_at(other)
    if point is None:
        return None
    is_up = bool(point[i] > problem.high[i])
    percent = np.ceil(point[i] * 2) / 2 if is_up else np.floor(point[i] * 2) / 2
    return AllowLine(bound.material, float(percent), is_up)


def _freed_layer(problem: Problem, layer: Layer, met_at: MetAt) -> AllowLayer | None:
    """Return what letting a layer's total go would ask of it, if it would do."""
    other = copy(problem)
    layers = {name: span for name, span in problem.limits.layers.items() if name != layer}
    other.limits = replace(problem.limits, layers=layers)
    point = met_at(other)
    if point is None:
        return None
    share = float(point @ [m.layer == layer for m in problem.materials])
    is_up = share > problem.limits.layers[layer][1]
    return AllowLayer(layer, float(np.ceil(share * 2) / 2 if is_up else np.floor(share * 2) / 2), is_up)
