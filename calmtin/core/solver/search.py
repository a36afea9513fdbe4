"""Find the formula that meets a target with the least change, or come as near as the limits let it.

Least squares of percentage points, the sum held at 100, locked lines held, ranges
a hard limit; scipy's SLSQP from several starts, because the yield value bends. The
wishes are first approached within the linear limits alone: that is quick, and tells
what cannot be met before the least change is looked for. Nearness is the sum of the
absolute misses.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

import numpy as np
from scipy.optimize import minimize

from calmtin.core.engine.solids import Array
from calmtin.core.materials import Material
from calmtin.core.solver.explain import Reason, WayOut, reasons_for, ways_out_of
from calmtin.core.solver.problem import Limits, Problem, Target

CLOSE = 0.02  # a target counts as met within this, rungs; far below what a thumb can tell
SURE = 0.05  # and is reported as met within this
SAMPLES = 240
APPROACHES = 4  # starts from which it is tried whether a target can be met
STARTS = 5
ENOUGH = 3  # starts that come to the same change have found the least there is
FEW_LINES = 8  # up to which every start is followed until enough of them agree
ROUND = 0.02  # rungs within which a miss is rounded off, so that the search has a slope

Stop = Callable[[], bool]


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
    limits: tuple[Reason, ...]
    ways_out: tuple[WayOut, ...]
    stopped: bool = False


class Stopped(Exception):
    """The search was stopped; its best point so far is the answer."""


def never() -> bool:
    """Go on: the `stop` of a search that may take its time."""
    return False


def solve(
    parts: Sequence[tuple[Material, float]],
    target: Target,
    limits: Limits | None = None,
    *,
    stop: Stop = never,
    with_ways_out: bool = True,
) -> Solution:
    """Return the formula nearest to `parts` (materials and percents) that meets `target`.

    Each material stands once. `stop` is asked at every step of the search; once it
    says True, the best found so far is returned. Ways out take several searches more
    and can be left for later. Raises `CalmTinError` for limits that contradict each
    other or the sum of 100.
    """
    problem = Problem(parts, target, limits or Limits())
    search = Search(problem, stop)
    best, is_met = search.run()
    found, is_met = search.solution(best, is_met)
    if is_met:
        return replace(found, stopped=search.stopped)
    said = reasons_for(problem, best)
    ways = ways_out_of(problem, best, _met_at(stop)) if with_ways_out else ()
    return replace(found, status="not_met", limits=said, ways_out=ways, stopped=search.stopped)


def solve_if_met(
    parts: Sequence[tuple[Material, float]],
    target: Target,
    limits: Limits | None = None,
    *,
    stop: Stop = never,
) -> Solution | None:
    """Return the result of `solve` if the target is met; None as soon as it cannot be."""
    search = Search(Problem(parts, target, limits or Limits()), stop)
    found, is_met = search.solution(*search.run())
    return found if is_met else None


def _met_at(stop: Stop) -> Callable[[Problem], Array | None]:
    """Return a function that tests whether another problem is met at a point."""

    def met_at(problem: Problem) -> Array | None:
        point, is_met = Search(problem, stop).run()
        return point if is_met else None

    return met_at


class Bent:
    """A function of points that a search asks for its value and then for its slopes: both are worked out
    together, which costs hardly more than one, and kept for the last point."""

    def __init__(self, problem: Problem, function: Callable[[Array], Array]) -> None:
        self.problem, self.function = problem, function
        self._point: Array | None = None
        self._told: tuple[float, Array] = (np.nan, np.empty(0))

    def value(self, x: Array) -> float:
        """Return the value at `x` (m,)."""
        return self._at(x)[0]

    def slopes(self, x: Array) -> Array:
        """Return the slopes (m,) at `x` (m,)."""
        return self._at(x)[1]

    def _at(self, x: Array) -> tuple[float, Array]:
        if self._point is None or not np.array_equal(x, self._point):
            self._told, self._point = self.problem.with_slopes(self.function, x), x.copy()
        return self._told


class Search:
    """One search of one problem."""

    def __init__(self, problem: Problem, stop: Stop) -> None:
        self.problem, self.stop, self.stopped = problem, stop, False

    def solution(self, point: Array, is_met: bool) -> tuple[Solution, bool]:
        """Return the rounded solution at `point`, and whether it meets the target to the letter."""
        t, percents = self.problem.target, self.problem.rounded(point)
        exact = np.array([[float(p) for p in percents]])
        temps = [t.at_c] if t.hot_c is None else [t.at_c, t.hot_c]
        rungs = {
            temp: float(np.clip(self.problem.space.rungs(exact, temp)[0], 0.0, 10.0)) for temp in temps
        }
        melt = float(self.problem.space.skin_melt(exact, t.at_c)[0])
        holds = (
            is_met
            and bool(self.problem.misses(exact)[0] <= SURE)
            and not self.problem.breaks_layers(exact[0])
        )
        return Solution("met", percents, rungs, melt, (), ()), holds

    def run(self) -> tuple[Array, bool]:
        """Return the least change that meets the target, or the closest point, and whether met.

        First come as near as the linear limits let it, which is quick and tells whether
        the target can be met at all; only then look for the least change that meets it.
        Told to stop, it returns the best that it has.
        """
        if np.allclose(self.problem.low, self.problem.high):
            return self.problem.low.copy(), False
        starts = self._starts()
        near = self._approached(starts[:APPROACHES])
        far = self.problem.misses(np.array(near))
        best = near[far.argmin()]
        if far.min() > CLOSE + 5e-3:
            return np.asarray(best), bool(far.min() <= SURE)
        order = [near[-1], *starts[len(near) :], *starts[: len(near)]]
        return np.asarray(self._least_change(best, order)), True

    def _approached(self, starts: Sequence[Array]) -> list[Array]:
        """Return how near the linear limits let each start come, up to the first that meets the target."""
        near: list[Array] = []
        try:
            for start in starts:
                near.append(self._approach(start))
                if self.problem.misses(near[-1][None, :])[0] <= CLOSE:
                    break
        except Stopped:
            self.stopped = True
            near += starts
        return near

    def _least_change(self, best: Array, order: Sequence[Array]) -> Array:
        """Return the least change of `order` that meets the target, else `best`."""
        least, agreeing = np.inf, 0
        for start in order[: len(order) if len(self.problem.start) <= FEW_LINES else ENOUGH]:
            if self.stopped:
                break
            try:
                point = self._descend(start)
            except Stopped:
                self.stopped = True
                break
            if self.problem.misses(point[None, :])[0] > CLOSE + 5e-3:
                continue
            change = float(((point - self.problem.start) ** 2).sum())
            agreeing += abs(change - least) <= 1e-3 * max(change, 50.0)
            if change < least * (1.0 - 1e-3):
                agreeing = 1
            if change < least:
                best, least = point, change
            if agreeing == ENOUGH:
                break
        return best

    def _tick(self) -> None:
        """Raise `Stopped` when the search is to end."""
        if self.stop():
            raise Stopped

    def _starts(self) -> list[Array]:
        """Return today's formula, fitted into the limits, and spread points near the target."""
        random = np.random.default_rng(100)
        here = self.problem.fitted(self.problem.start[None, :])
        room = self.problem.high - self.problem.low
        spread = self.problem.low + room * random.random((SAMPLES, len(room)))
        # Half of them stay near today: a small change is what is wanted.
        near = here + random.normal(size=(SAMPLES, len(room))) * np.minimum(room, 12.0)
        points = np.concatenate([here, self.problem.fitted(np.concatenate([spread, near]))])
        change = np.sqrt(((points - self.problem.start) ** 2).sum(axis=-1))
        rank = np.argsort(self.problem.misses(points) * 10.0 + change * 0.2)
        chosen = [points[0]]
        for i in rank:
            if len(chosen) > STARTS:
                break
            if min(np.abs(points[i] - other).max() for other in chosen) > 2.0:
                chosen.append(points[i])
        return chosen

    def _descend(self, start: Array) -> Array:
        def change(x: Array) -> float:
            self._tick()
            return float(((x - self.problem.start) ** 2).sum())

        run = minimize(
            change,
            start,
            jac=lambda x: 2.0 * (x - self.problem.start),
            bounds=list(zip(self.problem.low, self.problem.high, strict=True)),
            constraints=self._constraints(),
            method="SLSQP",
            options={"maxiter": 60, "ftol": 1e-6},
        )
        return np.asarray(np.clip(run.x, self.problem.low, self.problem.high))

    def _approach(self, start: Array) -> Array:
        """Come as near to the target as the linear limits let it: least sum of absolute misses."""

        def far(points: Array) -> Array:
            change = ((points - self.problem.start) ** 2).sum(axis=-1)
            misses = np.sqrt(self.problem.residuals(points) ** 2 + ROUND**2) - ROUND
            return np.asarray(misses.sum(axis=-1) + 1e-6 * change)

        def miss(x: Array) -> tuple[float, Array]:
            self._tick()
            return self.problem.with_slopes(far, x)

        run = minimize(
            miss,
            start,
            jac=True,
            bounds=list(zip(self.problem.low, self.problem.high, strict=True)),
            constraints=self._linear(),
            method="SLSQP",
            options={"maxiter": 60, "ftol": 1e-8},
        )
        return np.asarray(np.clip(run.x, self.problem.low, self.problem.high))

    def _constraints(self) -> list[dict[str, object]]:
        t, space = self.problem.target, self.problem.space
        off = Bent(self.problem, lambda points: space.rungs(points, t.at_c) - t.rung)
        wanted: list[Callable[[Array], Array]] = []
        if t.min_rung is not None and t.hot_c is not None:
            hot_c, least = t.hot_c, t.min_rung
            wanted.append(lambda points: space.rungs(points, hot_c) - least)
        if t.skin_melt is not None:
            melt = t.skin_melt
            wanted.append(lambda points: 10.0 * (space.skin_melt(points, t.at_c) - melt))
        wishes = [Bent(self.problem, function) for function in wanted]
        band: dict[str, object] = {
            "type": "ineq",
            "fun": lambda x: np.array([CLOSE - off.value(x), CLOSE + off.value(x)]),
            "jac": lambda x: np.stack([-off.slopes(x), off.slopes(x)]),
        }
        return [
            *self._linear(),
            band,
            *({"type": "ineq", "fun": wish.value, "jac": wish.slopes} for wish in wishes),
        ]

    def _linear(self) -> list[dict[str, object]]:
        """Return the sum of 100 and the ranges of the layers, as SLSQP takes them."""
        rows: list[dict[str, object]] = [
            {"type": "eq", "fun": lambda x: x.sum() - 100.0, "jac": np.ones_like}
        ]
        for _, member, low, high in self.problem.layer_rows():
            rows.append(
                {"type": "ineq", "fun": lambda x, m=member, v=low: x @ m - v, "jac": lambda _, m=member: m}
            )
            rows.append(
                {
                    "type": "ineq",
                    "fun": lambda x, m=member, v=high: v - x @ m,
                    "jac": lambda _, m=member: -m,
                }
            )
        return rows
