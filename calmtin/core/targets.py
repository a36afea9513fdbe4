"""Find the formula that meets a target with the least change, or say what stops it.

Least squares of percentage points, the sum held at 100, locked lines held, ranges
a hard limit; scipy's SLSQP from several starts, because the yield value bends. The
wishes are first approached within the linear limits alone: that is quick, and tells
what cannot be met before the least change is looked for.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

import numpy as np
from scipy.optimize import linprog, minimize

from calmtin.core.composition import WHOLE
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.firmness import (
    EXPONENT,
    FILLER_LIMIT,
    STIFFNESS,
    blend,
    few_fat_crystals,
    raw_rungs,
)
from calmtin.core.materials import Layer, Material
from calmtin.core.solids import Array, liquid_moles, saturation
from calmtin.core.weighing import share_out

SKIN_C = 33.0
CLOSE = 0.02  # a target counts as met within this, rungs; far below what a thumb can tell
SURE = 0.05  # and is reported as met within this
LOWEST_RUNG = -6.0  # what "nothing is solid" counts as, so that a search has a slope
FINEST = Decimal("0.001")
Stop = Callable[[], bool]
LAYER_MARGIN = 0.02  # percent
SAMPLES = 240
APPROACHES = 4  # starts from which it is tried whether a target can be met
STARTS = 5
ENOUGH = 3  # starts that come to the same change have found the least there is
FEW_LINES = 8  # up to which every start is followed until enough of them agree
WORTH_SAYING = 0.1  # rungs that letting a line go must be worth to be named


@dataclass(frozen=True, slots=True)
class Target:
    """What a formula must do: `rung` at `at_c`; at least `min_rung` at `hot_c`; and
    `skin_melt` (0 to 1) of its crystals at `at_c` gone at 33 C."""

    rung: float
    at_c: float = 21.0
    min_rung: float | None = None
    hot_c: float | None = None
    skin_melt: float | None = None


@dataclass(frozen=True, slots=True)
class Limits:
    """What a change must respect: locked slugs, ranges of percent by slug and by layer."""

    locked: frozenset[str] = frozenset()
    ranges: Mapping[str, tuple[float, float]] | None = None
    layers: Mapping[Layer, tuple[float, float]] | None = None


@dataclass(frozen=True, slots=True)
class Solution:
    """The proposal: percents that sum to 100.000 in the order of the lines.

    `rungs` are those of the proposal at the target's temperatures. When the target
    is not met it is the closest there is; `limits` say what stops it and `ways_out`
    what would help. `stopped` says that the search was cut short, so that there may
    be a better one.
    """

    status: Literal["met", "not_met"]
    percents: tuple[Decimal, ...]
    rungs: Mapping[float, float]
    skin_melt: float
    limits: tuple[str, ...]
    ways_out: tuple[str, ...]
    stopped: bool = False


class Stopped(Exception):
    """The search was told to stop; what it has found so far is the answer."""


def never() -> bool:
    """Go on: the `stop` of a search that may take its time."""
    return False


class Space:
    """The formulas that can be made of some materials: percents in, rungs out."""

    def __init__(self, materials: Sequence[Material]) -> None:
        self.materials = tuple(materials)
        even = blend([(material, 1.0) for material in materials])
        row = {material: i for i, material in enumerate(even.materials)}
        order = [row[material] for material in materials]
        self.fractions: Array = (even.mass / (even.percent[:, None] / 100.0))[order]
        self._even = even
        self._factor = np.array([m.strength_factor for m in materials])
        self._volume = np.array([1.0 / m.density_solid for m in materials])
        self._filler = np.array([m.is_filler for m in materials], dtype=float)

    def crystals(self, percents: Array, temp_c: float) -> Array:
        """Return crystal masses (p, k) in 1 g of each of `percents` (p, m)."""
        mass = percents / 100.0 @ self.fractions
        moles = mass / self._even.molar_mass
        held = saturation(np.array([temp_c]), self._even.melt_c, self._even.enthalpy_kj)
        liquid = liquid_moles(moles, held)[:, None]
        return np.asarray(np.maximum(moles - held * liquid, 0.0) * self._even.molar_mass)

    def rungs(self, percents: Array, temp_c: float) -> Array:
        """Return the rung (p,) of each of `percents` (p, m), not clipped to 0..10."""
        solid = self.crystals(percents, temp_c)
        mass = percents / 100.0 @ self.fractions
        own = (percents / 100.0 * self._factor) @ self.fractions
        strength = self._even.strength * np.divide(own, mass, out=np.ones_like(mass), where=mass > 0.0)
        fat = solid @ self._even.is_fat.astype(float)
        weight = np.where(self._even.is_fat, few_fat_crystals(fat)[:, None], 1.0)
        load = (solid * strength * weight).sum(axis=-1)
        volume = percents @ self._volume
        filler = np.minimum(percents @ (self._volume * self._filler) / volume, 0.99 * FILLER_LIMIT)
        with np.errstate(over="ignore"):
            value = STIFFNESS * load**EXPONENT * (1.0 - filler / FILLER_LIMIT) ** -1.5
        return np.maximum(raw_rungs(value), LOWEST_RUNG)

    def skin_melt(self, percents: Array, room_c: float) -> Array:
        """Return the share (p,) of the crystals at `room_c` that are gone at 33 C."""
        room, skin = (self.crystals(percents, t).sum(axis=-1) for t in (room_c, SKIN_C))
        return np.asarray(1.0 - np.divide(skin, room, out=np.zeros_like(room), where=room > 1e-9))


def solve(
    parts: Sequence[tuple[Material, float]],
    target: Target,
    limits: Limits | None = None,
    *,
    stop: Stop = never,
) -> Solution:
    """Return the formula nearest to `parts` (materials and percents) that meets `target`.

    Each material stands once. `stop` is asked at every step of the search; once it
    says True, the best found so far is returned. Raises `CalmTinError` for limits
    that contradict each other or the sum of 100.
    """
    problem = _Problem(parts, target, limits or Limits(), stop)
    best, is_met = problem.search()
    found, is_met = problem.solution(best, is_met)
    if is_met:
        return replace(found, stopped=problem.stopped)
    said, ways = problem.reasons(best)
    return replace(found, status="not_met", limits=said, ways_out=ways, stopped=problem.stopped)


def solve_if_met(
    parts: Sequence[tuple[Material, float]],
    target: Target,
    limits: Limits | None = None,
    *,
    stop: Stop = never,
) -> Solution | None:
    """Return what `solve` returns where the target is met, and None at once where it is not."""
    problem = _Problem(parts, target, limits or Limits(), stop)
    found, is_met = problem.solution(*problem.search())
    return found if is_met else None


class _Problem:
    def __init__(
        self, parts: Sequence[tuple[Material, float]], target: Target, limits: Limits, stop: Stop
    ) -> None:
        self.stop, self.stopped = stop, False
        slugs = [material.slug for material, _ in parts]
        for layer, (least, most) in (limits.layers or {}).items():
            if not 0.0 <= least <= most <= 100.0:
                words = layer.replace("_", " ")
                raise CalmTinError(f"The range of {words} must run from 0 up to 100 %.", field=layer)
        if len(set(slugs)) != len(slugs):
            raise CalmTinError("Each material must stand in one line.", field="lines")
        for slug in [*limits.locked, *(limits.ranges or {})]:
            if slug not in slugs:
                raise CalmTinError(f"{slug} is not in the formula.", field="material", material=slug)
        if target.min_rung is not None and target.hot_c is None:
            raise CalmTinError("A rung on the hot day needs the hot day's temperature.", field="hot_c")
        self.target, self.limits = target, limits
        self.materials = [material for material, _ in parts]
        self.space = Space(self.materials)
        self.start = np.array([percent for _, percent in parts], dtype=float)
        self.low, self.high = self._bounds(slugs)
        self._check_sum()

    def _bounds(self, slugs: list[str]) -> tuple[Array, Array]:
        low, high = np.zeros(len(slugs)), np.full(len(slugs), 100.0)
        for i, slug in enumerate(slugs):
            if slug in self.limits.locked:
                low[i] = high[i] = self.start[i]
            elif self.limits.ranges and slug in self.limits.ranges:
                low[i], high[i] = self.limits.ranges[slug]
                if not 0.0 <= low[i] <= high[i] <= 100.0:
                    raise CalmTinError(
                        f"The range of {self.materials[i].label.lower()} must run from 0 up to 100 %.",
                        field="range",
                        material=slug,
                    )
        return low, high

    def _check_sum(self) -> None:
        if self.low.sum() > 100.0 + 1e-6:
            raise DoesNotAddUp(
                f"Locks and ranges alone make {self.low.sum():.1f} %. Loosen one of them.", field="range"
            )
        if self.high.sum() < 100.0 - 1e-6:
            raise DoesNotAddUp(
                f"Locks and ranges leave room for {self.high.sum():.1f} % only. Loosen one of them.",
                field="range",
            )
        rows = self.layer_rows()
        if rows and not self._has_room(rows):
            raise DoesNotAddUp(
                "The ranges of groups and lines leave no way to make 100 %. Loosen one of them.",
                field="range",
            )

    def _has_room(self, rows: list[tuple[Layer, Array, float, float]]) -> bool:
        """Return whether any formula respects every lock and range."""
        members = np.array([member for _, member, _, _ in rows])
        found = linprog(
            np.zeros(len(self.start)),
            A_ub=np.concatenate([members, -members]),
            b_ub=[*(high for _, _, _, high in rows), *(-low for _, _, low, _ in rows)],
            A_eq=np.ones((1, len(self.start))),
            b_eq=[100.0],
            bounds=list(zip(self.low, self.high, strict=True)),
        )
        return bool(found.status == 0)

    def layer_rows(self) -> list[tuple[Layer, Array, float, float]]:
        """Return each layer's member vector with its range, a crumb inside what was asked.

        So it still holds to the letter once the percents are rounded.
        """
        rows = []
        for layer, (low, high) in (self.limits.layers or {}).items():
            member = np.array([float(m.layer == layer) for m in self.materials])
            if member.any():
                inside = min(LAYER_MARGIN, (high - low) / 2.0)
                rows.append((layer, member, low + inside * (low > 0.0), high - inside * (high < 100.0)))
        return rows

    def breaks_layers(self, point: Array) -> bool:
        """Return whether the total of a layer is outside the range that was asked."""
        return any(
            not low - 1e-9 <= float(point @ [m.layer == layer for m in self.materials]) <= high + 1e-9
            for layer, (low, high) in (self.limits.layers or {}).items()
            if high - low >= LAYER_MARGIN and any(m.layer == layer for m in self.materials)
        )

    def _residuals(self, points: Array) -> Array:
        """Return (p, r) how far each point (p, m) is from each wish, in rungs: 0 where it is met."""
        t = self.target
        columns = [self.space.rungs(points, t.at_c) - t.rung]
        if t.min_rung is not None and t.hot_c is not None:
            columns.append(np.minimum(self.space.rungs(points, t.hot_c) - t.min_rung, 0.0))
        if t.skin_melt is not None:
            columns.append(10.0 * np.minimum(self.space.skin_melt(points, t.at_c) - t.skin_melt, 0.0))
        return np.stack(columns, axis=-1)

    def misses(self, points: Array) -> Array:
        """Return how far each point (p, m) is from the target, rungs; layers count in percent."""
        far = np.abs(self._residuals(points)).sum(axis=-1)
        for _, member, low, high in self.layer_rows():
            share = points @ member
            far = far + np.maximum(low - share, 0.0) + np.maximum(share - high, 0.0)
        return np.asarray(far)

    def solution(self, point: Array, is_met: bool) -> tuple[Solution, bool]:
        """Return the rounded solution at `point`, and whether it meets the target to the letter."""
        t, percents = self.target, self.rounded(point)
        exact = np.array([[float(p) for p in percents]])
        temps = [t.at_c] if t.hot_c is None else [t.at_c, t.hot_c]
        rungs = {temp: float(np.clip(self.space.rungs(exact, temp)[0], 0.0, 10.0)) for temp in temps}
        melt = float(self.space.skin_melt(exact, t.at_c)[0])
        holds = is_met and bool(self.misses(exact)[0] <= SURE) and not self.breaks_layers(exact[0])
        return Solution("met", percents, rungs, melt, (), ()), holds

    def search(self) -> tuple[Array, bool]:
        """Return the least change that meets the target, or the closest point, and whether met.

        First come as near as the linear limits let it, which is quick and tells whether
        the target can be met at all; only then look for the least change that meets it.
        Told to stop, it returns the best that it has.
        """
        if np.allclose(self.low, self.high):
            return self.low.copy(), False
        starts = self._starts()
        near: list[Array] = []
        try:
            for start in starts[:APPROACHES]:
                near.append(self._approach(start))
                if self.misses(near[-1][None, :])[0] <= CLOSE:
                    break
        except Stopped:
            self.stopped = True
            near += starts[:APPROACHES]
        points = np.array(near)
        far = self.misses(points)
        if far.min() > CLOSE + 5e-3:
            return np.asarray(points[far.argmin()]), bool(far.min() <= SURE)
        best, least, agreeing = near[far.argmin()], np.inf, 0
        order = [near[-1], *starts[len(near) :], *starts[: len(near)]]
        for start in order[: len(order) if len(self.start) <= FEW_LINES else ENOUGH]:
            if self.stopped:
                break
            try:
                point = self._descend(start)
            except Stopped:
                self.stopped = True
                break
            if self.misses(point[None, :])[0] > CLOSE + 5e-3:
                continue
            change = float(((point - self.start) ** 2).sum())
            agreeing += abs(change - least) <= 1e-3 * max(change, 50.0)
            if change < least * (1.0 - 1e-3):
                agreeing = 1
            if change < least:
                best, least = point, change
            if agreeing == ENOUGH:
                break
        return np.asarray(best), True

    def _tick(self) -> None:
        """Raise `Stopped` when the search is to end."""
        if self.stop():
            raise Stopped

    def _starts(self) -> list[Array]:
        """Return today's formula, fitted into the limits, and spread points near the target."""
        random = np.random.default_rng(100)
        here = self._fitted(self.start[None, :])
        room = self.high - self.low
        spread = self.low + room * random.random((SAMPLES, len(room)))
        # Half of them stay near today: a small change is what is wanted.
        near = here + random.normal(size=(SAMPLES, len(room))) * np.minimum(room, 12.0)
        points = np.concatenate([here, self._fitted(np.concatenate([spread, near]))])
        change = np.sqrt(((points - self.start) ** 2).sum(axis=-1))
        rank = np.argsort(self.misses(points) * 10.0 + change * 0.2)
        chosen = [points[0]]
        for i in rank:
            if len(chosen) > STARTS:
                break
            if min(np.abs(points[i] - other).max() for other in chosen) > 2.0:
                chosen.append(points[i])
        return chosen

    def _fitted(self, points: Array) -> Array:
        """Return points moved into bounds and onto the sum of 100, sharing out by room."""
        x = np.clip(points, self.low, self.high)
        for _ in range(30):
            lack = 100.0 - x.sum(axis=-1, keepdims=True)
            room = np.where(lack > 0.0, self.high - x, x - self.low)
            total = room.sum(axis=-1, keepdims=True)
            x = np.clip(x + lack * room / np.where(total > 0.0, total, 1.0), self.low, self.high)
        return np.asarray(x)

    def _slopes(self, function: object, point: Array) -> Array:
        """Return central differences (m,) of a vectorised function of points."""
        step = 1e-4
        shifts = np.concatenate([np.eye(len(point)), -np.eye(len(point))]) * step
        values = np.asarray(function(np.maximum(point + shifts, 0.0)))  # type: ignore[operator]
        n = len(point)
        return np.asarray((values[:n] - values[n:]) / (2.0 * step))

    def _constraints(self) -> list[dict[str, object]]:
        t, space = self.target, self.space
        wanted: list[Callable[[Array], Array]] = []
        if t.min_rung is not None and t.hot_c is not None:
            hot_c, least = t.hot_c, t.min_rung
            wanted.append(lambda x: space.rungs(x, hot_c) - least)
        if t.skin_melt is not None:
            melt = t.skin_melt
            wanted.append(lambda x: 10.0 * (space.skin_melt(x, t.at_c) - melt))

        def band(x: Array) -> Array:
            off = float(space.rungs(x[None, :], t.at_c)[0]) - t.rung
            return np.array([CLOSE - off, CLOSE + off])

        def band_slopes(x: Array) -> Array:
            slopes = self._slopes(lambda points: space.rungs(points, t.at_c), x)
            return np.stack([-slopes, slopes])

        rows = self._linear()
        rows.append(
            {
                "type": "ineq",
                "fun": band,
                "jac": band_slopes,
            }
        )
        for function in wanted:
            rows.append(
                {
                    "type": "ineq",
                    "fun": lambda x, f=function: float(f(x[None, :])[0]),
                    "jac": lambda x, f=function: self._slopes(f, x),
                }
            )
        return rows

    def _linear(self) -> list[dict[str, object]]:
        """Return the sum of 100 and the ranges of the layers, as SLSQP takes them."""
        rows: list[dict[str, object]] = [
            {"type": "eq", "fun": lambda x: x.sum() - 100.0, "jac": lambda x: np.ones_like(x)}
        ]
        for _, member, low, high in self.layer_rows():
            rows.append(
                {"type": "ineq", "fun": lambda x, m=member, v=low: x @ m - v, "jac": lambda x, m=member: m}
            )
            rows.append(
                {
                    "type": "ineq",
                    "fun": lambda x, m=member, v=high: v - x @ m,
                    "jac": lambda x, m=member: -m,
                }
            )
        return rows

    def _descend(self, start: Array) -> Array:
        def change(x: Array) -> float:
            self._tick()
            return float(((x - self.start) ** 2).sum())

        run = minimize(
            change,
            start,
            jac=lambda x: 2.0 * (x - self.start),
            bounds=list(zip(self.low, self.high, strict=True)),
            constraints=self._constraints(),
            method="SLSQP",
            options={"maxiter": 60, "ftol": 1e-6},
        )
        return np.asarray(np.clip(run.x, self.low, self.high))

    def _approach(self, start: Array) -> Array:
        """Come as near to the target as the linear limits let it: least squares of the residuals."""

        def far(points: Array) -> Array:
            change = ((points - self.start) ** 2).sum(axis=-1)
            return np.asarray((self._residuals(points) ** 2).sum(axis=-1) + 1e-6 * change)

        def miss(x: Array) -> float:
            self._tick()
            return float(far(x[None, :])[0])

        run = minimize(
            miss,
            start,
            jac=lambda x: self._slopes(far, x),
            bounds=list(zip(self.low, self.high, strict=True)),
            constraints=self._linear(),
            method="SLSQP",
            options={"maxiter": 60, "ftol": 1e-8},
        )
        return np.asarray(np.clip(run.x, self.low, self.high))

    def rounded(self, point: Array) -> tuple[Decimal, ...]:
        """Return percents to a thousandth that sum to 100.000; locked lines to the letter."""
        exact = [Decimal(repr(round(float(x), 6))) for x in np.clip(point, self.low, self.high)]
        held = [i for i in range(len(exact)) if self.low[i] == self.high[i]]
        free = [i for i in range(len(exact)) if self.low[i] < self.high[i]]
        if not free:
            return tuple(exact)
        left = WHOLE - sum((exact[i] for i in held), Decimal(0))
        at_limit = {
            i
            for i in free
            if exact[i] in (Decimal(repr(float(self.low[i]))), Decimal(repr(float(self.high[i]))))
        }
        movable = [i for i in free if i not in at_limit] or free
        left -= sum((exact[i] for i in free if i not in movable), Decimal(0))
        # What is left over of a thousandth, where a lock has more decimals, goes to the largest line.
        crumb = left - left.quantize(FINEST, rounding="ROUND_FLOOR")
        wanted = [exact[i] for i in movable]
        wanted[-1] += left - crumb - sum(wanted, Decimal(0))
        shared = share_out(wanted, FINEST)
        for i, value in zip(movable, shared, strict=True):
            exact[i] = value
        largest = max(movable, key=lambda i: exact[i])
        exact[largest] += crumb
        return tuple(exact)

    def reasons(self, point: Array) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Return what stops the target at the closest `point`, and two ways out."""
        here = point[None, :]
        t = self.target
        rung = float(np.clip(self.space.rungs(here, t.at_c)[0], 0.0, 10.0))
        said = []
        is_soft = rung < t.rung - SURE
        if abs(rung - t.rung) > SURE:
            side = "below" if is_soft else "above"
            said.append(
                f"The closest is {rung:.1f} at {t.at_c:g} °C, {abs(t.rung - rung):.1f} {side} the target."
            )
        if t.min_rung is not None and t.hot_c is not None:
            hot = float(np.clip(self.space.rungs(here, t.hot_c)[0], 0.0, 10.0))
            if hot < t.min_rung - SURE:
                is_soft = True
                said.append(
                    f"At {t.hot_c:g} °C it reads {hot:.1f}, {t.min_rung - hot:.1f} below what is wanted."
                )
        if t.skin_melt is not None:
            melt = float(self.space.skin_melt(here, t.at_c)[0])
            if melt < t.skin_melt - 0.005:
                said.append(f"Only {100 * melt:.0f} % of it melts on skin.")
        temp = t.hot_c if t.hot_c is not None and t.min_rung is not None and len(said) > 1 else t.at_c
        slope = self._slopes(lambda x: self.space.rungs(x, temp), point) * (1.0 if is_soft else -1.0)
        order = np.argsort(-slope)
        ways: list[str] = []
        for i in order:
            name = self.materials[i].label
            helps = slope[i] > float(np.median(slope)) + 1e-6
            at_high = point[i] >= self.high[i] - 1e-3
            if helps and at_high and self.high[i] < 100.0:
                word = "locked at" if self.low[i] == self.high[i] else "held to at most"
                said.append(f"{name} is {word} {self.high[i]:g} %; more of it would help.")
                ways += self._freed(int(i)) if len(ways) < 2 else []
        for i in order[::-1]:
            name = self.materials[i].label
            hurts = slope[i] < float(np.median(slope)) - 1e-6
            worth = (float(np.median(slope)) - slope[i]) * self.low[i] >= WORTH_SAYING
            if hurts and worth and point[i] <= self.low[i] + 1e-3:
                word = "locked at" if self.low[i] == self.high[i] else "held to at least"
                said.append(f"{name} is {word} {self.low[i]:g} %; less of it would help.")
                ways += self._freed(int(i)) if len(ways) < 2 else []
        for layer, member, low, high in self.layer_rows():
            share = float(point @ member)
            if share >= high - 1e-3 or share <= low + 1e-3:
                words = f"All of the {layer.replace('_', ' ')} together"
                least, most = (self.limits.layers or {})[layer]
                said.append(f"{words} is held from {least:g} to {most:g} %.")
                ways += self._freed_layer(layer) if len(ways) < 2 else []
        if len(said) == (1 if abs(rung - t.rung) > SURE else 0) or not said:
            said.append("These materials cannot go further in any proportion.")
        if len(ways) < 2:
            ways.append(
                "Add a harder wax or butter, such as candelilla or kokum."
                if is_soft
                else "Add a liquid oil, or take wax out."
            )
        if len(ways) < 2:
            ways.append(f"Take {rung:.1f} as the target, which these limits can reach.")
        return tuple(dict.fromkeys(said)), tuple(dict.fromkeys(ways))[:2]

    def _freed_layer(self, layer: Layer) -> list[str]:
        """Return what letting a layer's total go would ask of it, if it would do."""
        other = copy(self)
        layers = {name: span for name, span in (self.limits.layers or {}).items() if name != layer}
        other.limits = replace(self.limits, layers=layers)
        best, is_met = other.search()
        if not is_met:
            return []
        share = float(best @ [m.layer == layer for m in self.materials])
        _, high = (self.limits.layers or {})[layer]
        if share > high:
            return [f"Allow {np.ceil(share * 2) / 2:g} % of {layer.replace('_', ' ')} in all."]
        return [f"Allow as little as {np.floor(share * 2) / 2:g} % of {layer.replace('_', ' ')} in all."]

    def _freed(self, i: int) -> list[str]:
        """Return what letting one line go would ask of it, if it would do."""
        other = copy(self)
        other.low, other.high = self.low.copy(), self.high.copy()
        other.low[i], other.high[i] = 0.0, 100.0
        best, is_met = other.search()
        if not is_met:
            return []
        name = self.materials[i].label
        if best[i] > self.high[i]:
            return [f"Allow {name.lower()} up to {np.ceil(best[i] * 2) / 2:g} %."]
        return [f"Allow {name.lower()} down to {np.floor(best[i] * 2) / 2:g} %."]
