"""A target and its limits as a problem: bounds of every line, wishes, how far off a formula is."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

import numpy as np
from scipy.optimize import linprog

from calmtin.core.composition import WHOLE
from calmtin.core.engine.bands import Prior
from calmtin.core.engine.solids import Array
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.materials import Layer, Material
from calmtin.core.messages import Message, said
from calmtin.core.process.weighing import share_out
from calmtin.core.solver.space import Space

FINEST = Decimal("0.001")
LAYER_MARGIN = 0.02  # percent


@dataclass(frozen=True, slots=True)
class Target:
    """What a formula must do: `rung` at `at_c`; at least `min_rung` at `hot_c`; and
    `skin_melt` (0 to 1) of its crystals at `at_c` gone at 33 C. A whipped kind is judged as
    whipped by `overrun`; all of it at the bench of `prior`."""

    rung: float
    at_c: float = 21.0
    min_rung: float | None = None
    hot_c: float | None = None
    skin_melt: float | None = None
    overrun: float = 0.0
    prior: Prior | None = None


@dataclass(frozen=True, slots=True)
class Limits:
    """What a change must respect, by slug or layer, in percent.

    `locked` are the lines that the maker locked, `held` those that are left alone for
    their own sake, such as scents and powders; `ranges` and `layers` bound the rest.
    """

    locked: frozenset[str] = frozenset()
    ranges: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    layers: Mapping[Layer, tuple[float, float]] = field(default_factory=dict)
    held: frozenset[str] = frozenset()

    @property
    def fixed(self) -> frozenset[str]:
        """The lines that do not move at all."""
        return self.locked | self.held


class Problem:
    """A target for one formula. Points are percents (m,) or (p, m), in the order of its lines."""

    def __init__(self, parts: Sequence[tuple[Material, float]], target: Target, limits: Limits) -> None:
        slugs = [material.slug for material, _ in parts]
        for layer, (least, most) in limits.layers.items():
            if not 0.0 <= least <= most <= 100.0:
                words = layer.replace("_", " ")
                raise CalmTinError(
                    said("The range of {words} must run from 0 up to 100 %.", words=words), field=layer
                )
        if len(set(slugs)) != len(slugs):
            raise CalmTinError(said("Each material may appear on only one line."), field="lines")
        for slug in [*limits.fixed, *limits.ranges]:
            if slug not in slugs:
                raise CalmTinError(
                    said("{slug} is not in the formula.", slug=slug), field="material", material=slug
                )
        if target.min_rung is not None and target.hot_c is None:
            raise CalmTinError(said("Give a temperature for the hot day as well."), field="hot_c")
        self.target, self.limits = target, limits
        self.materials = [material for material, _ in parts]
        self.space = Space(self.materials, overrun=target.overrun, prior=target.prior)
        self.start = np.array([percent for _, percent in parts], dtype=float)
        self.low, self.high = self._bounds(slugs)
        self._check_sum()

    def _bounds(self, slugs: list[str]) -> tuple[Array, Array]:
        low, high = np.zeros(len(slugs)), np.full(len(slugs), 100.0)
        for i, slug in enumerate(slugs):
            if slug in self.limits.fixed:
                low[i] = high[i] = self.start[i]
            elif slug in self.limits.ranges:
                low[i], high[i] = self.limits.ranges[slug]
                if not 0.0 <= low[i] <= high[i] <= 100.0:
                    raise CalmTinError(
                        said(
                            "The range of {in_words} must run from 0 up to 100 %.",
                            in_words=self.materials[i].in_words,
                        ),
                        field="range",
                        material=slug,
                    )
            if self.materials[i].group == "scent":
                # More scent is never an answer to a question of firmness.
                high[i] = max(low[i], min(high[i], self.start[i]))
        return low, high

    def _check_sum(self) -> None:
        if self.low.sum() > 100.0 + 1e-6:
            raise DoesNotAddUp(
                Message(
                    "Locked lines and minimums already add up to {low:.1f} %. Loosen one of them.",
                    low=self.low.sum(),
                ),
                field="range",
            )
        if self.high.sum() < 100.0 - 1e-6:
            raise DoesNotAddUp(
                Message(
                    "Locked lines and maximums allow only {high:.1f} %. Loosen one of them.",
                    high=self.high.sum(),
                ),
                field="range",
            )
        rows = self.layer_rows()
        if rows and not self._has_room(rows):
            raise DoesNotAddUp(
                said("With these ranges the total can’t be 100 %. Loosen one of them."),
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
        """Return each layer's member vector with its range, slightly inside the requested one.

        So it still holds to the letter once the percents are rounded.
        """
        rows = []
        for layer, (low, high) in self.limits.layers.items():
            member = np.array([float(m.layer == layer) for m in self.materials])
            if member.any():
                inside = min(LAYER_MARGIN, (high - low) / 2.0)
                rows.append((layer, member, low + inside * (low > 0.0), high - inside * (high < 100.0)))
        return rows

    def breaks_layers(self, point: Array) -> bool:
        """Return whether the total of a layer is outside the requested range."""
        return any(
            not low - 1e-9 <= float(point @ [m.layer == layer for m in self.materials]) <= high + 1e-9
            for layer, (low, high) in self.limits.layers.items()
            if high - low >= LAYER_MARGIN and any(m.layer == layer for m in self.materials)
        )

    def residuals(self, points: Array) -> Array:
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
        far = np.abs(self.residuals(points)).sum(axis=-1)
        for _, member, low, high in self.layer_rows():
            share = points @ member
            far = far + np.maximum(low - share, 0.0) + np.maximum(share - high, 0.0)
        return np.asarray(far)

    def fitted(self, points: Array) -> Array:
        """Return points moved into bounds and onto the sum of 100, sharing out by room."""
        x = np.clip(points, self.low, self.high)
        for _ in range(30):
            lack = 100.0 - x.sum(axis=-1, keepdims=True)
            room = np.where(lack > 0.0, self.high - x, x - self.low)
            total = room.sum(axis=-1, keepdims=True)
            x = np.clip(x + lack * room / np.where(total > 0.0, total, 1.0), self.low, self.high)
        return np.asarray(x)

    def with_slopes(self, function: Callable[[Array], Array], point: Array) -> tuple[float, Array]:
        """Return a vectorised function of points at `point`, and its central differences (m,) there."""
        step, n = 1e-4, len(point)
        shifts = np.concatenate([np.zeros((1, n)), np.eye(n), -np.eye(n)]) * step
        values = np.asarray(function(np.maximum(point + shifts, 0.0)))
        return float(values[0]), np.asarray((values[1 : n + 1] - values[n + 1 :]) / (2.0 * step))

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
