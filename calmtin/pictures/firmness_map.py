"""The trio map: a triangle of wax, butters and oils with lines of equal firmness."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from calmtin.core.messages import said
from calmtin.pictures.ladder import Verdict

Point = tuple[float, float]
Shares = tuple[float, float, float]

WIDTH, HEIGHT = 560.0, 500.0
# Corners: wax at the top, butters with soft fats lower left, liquid oils lower right.
CORNERS: tuple[Point, Point, Point] = ((280.0, 34.0), (40.0, 450.0), (520.0, 450.0))


@dataclass(frozen=True, slots=True)
class Mark:
    """A past pour: its shares of the three groups, and its verdict."""

    shares: Shares
    verdict: Verdict
    label: str


@dataclass(frozen=True, slots=True)
class PlacedMark:
    """A mark at its place."""

    mark: Mark
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class Contour:
    """A line of equal firmness: its rung, its path, and where its number stands."""

    rung: int
    path: str
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class TrioMap:
    """The whole map; `band` is the target band as one path."""

    width: float
    height: float
    outline: str
    contours: tuple[Contour, ...]
    band: str
    marks: tuple[PlacedMark, ...]
    x: float
    y: float
    summary: str


def place(shares: Sequence[float]) -> Point:
    """Return where three shares that sum to 1 lie.

    >>> place((0.0, 0.0, 1.0))
    (520.0, 450.0)
    """
    return (
        sum(s * corner[0] for s, corner in zip(shares, CORNERS, strict=True)),
        sum(s * corner[1] for s, corner in zip(shares, CORNERS, strict=True)),
    )


def trio_map(
    steps: int,
    rungs: Sequence[float],
    *,
    here: Shares,
    target: tuple[float, float] | None,
    marks: Sequence[Mark] = (),
) -> TrioMap:
    """Lay out the map for `rungs` at the points of `core.trio.triangle(steps)`, in its order."""
    triangles = _triangles(steps)
    spots = [place((a / steps, b / steps, (steps - a - b) / steps)) for a, b in _grid(steps)]
    contours = []
    for rung in range(1, 10):
        cuts = [
            cut
            for corners in triangles
            if (cut := _cut([(spots[i], rungs[i]) for i in corners], float(rung)))
        ]
        if cuts:
            path = "".join(f"M{a[0]:.1f} {a[1]:.1f}L{b[0]:.1f} {b[1]:.1f}" for a, b in cuts)
            right = max((end for cut in cuts for end in cut), key=lambda end: end[0])
            contours.append(Contour(rung, path, right[0], right[1]))
    band = ""
    if target:
        for corners in triangles:
            shape = _between([(spots[i], rungs[i]) for i in corners], *target)
            if len(shape) > 2:
                band += "M" + "L".join(f"{p[0]:.1f} {p[1]:.1f}" for p in shape) + "Z"
    x, y = place(here)
    nearest = min(range(len(spots)), key=lambda i: (spots[i][0] - x) ** 2 + (spots[i][1] - y) ** 2)
    return TrioMap(
        width=WIDTH,
        height=HEIGHT,
        outline="M" + "L".join(f"{c[0]:g} {c[1]:g}" for c in CORNERS) + "Z",
        contours=tuple(contours),
        band=band,
        marks=tuple(PlacedMark(mark, *place(mark.shares)) for mark in marks),
        x=x,
        y=y,
        summary=_in_words(here, rungs[nearest], target, marks),
    )


def _in_words(here: Shares, rung: float, target: tuple[float, float] | None, marks: Sequence[Mark]) -> str:
    """Return the text alternative of the map."""
    wax, butter, oil = (100 * share for share in here)
    told = said(
        "{wax:.0f} % wax, {butter:.0f} % butters and soft fats, {oil:.0f} % oils of the three",
        wax=wax,
        butter=butter,
        oil=oil,
    )
    told += said(", firmness about {rung:.0f}", rung=rung)
    if target:
        told += said("; the target is {target:g} to {target2:g}", target=target[0], target2=target[1])
    pours = "; ".join(
        said("{label} at {shares:.0f} % wax", label=m.label, shares=100 * m.shares[0]) for m in marks
    )
    return said("{told}. Pours: {pours}", told=told, pours=pours) if pours else told


def _grid(steps: int) -> list[tuple[int, int]]:
    return [(a, b) for a in range(steps + 1) for b in range(steps + 1 - a)]


def _triangles(steps: int) -> list[tuple[int, int, int]]:
    """Return the small triangles of the grid as positions of their corners."""
    at = {point: i for i, point in enumerate(_grid(steps))}
    found = []
    for a, b in at:
        if a + b < steps:
            found.append((at[a, b], at[a + 1, b], at[a, b + 1]))
        if a + b < steps - 1:
            found.append((at[a + 1, b], at[a, b + 1], at[a + 1, b + 1]))
    return found


def _cut(corners: list[tuple[Point, float]], level: float) -> tuple[Point, Point] | None:
    """Return the segment where a triangle's surface crosses `level`."""
    ends = []
    for (p, u), (q, v) in zip(corners, [*corners[1:], corners[0]], strict=True):
        if (u < level) != (v < level):
            ends.append(_along(p, q, (level - u) / (v - u)))
    return (ends[0], ends[1]) if len(ends) == 2 else None


def _between(corners: list[tuple[Point, float]], low: float, high: float) -> list[Point]:
    """Return the part of a triangle whose surface lies from `low` to `high`."""
    shape = corners
    for level, side in ((low, 1.0), (high, -1.0)):
        kept: list[tuple[Point, float]] = []
        for (p, u), (q, v) in zip(shape, [*shape[1:], *shape[:1]], strict=True):
            if side * u >= side * level:
                kept.append((p, u))
            if (side * u >= side * level) != (side * v >= side * level):
                kept.append((_along(p, q, (level - u) / (v - u)), level))
        shape = kept
    return [p for p, _ in shape]


def _along(p: Point, q: Point, share: float) -> Point:
    return (p[0] + (q[0] - p[0]) * share, p[1] + (q[1] - p[1]) * share)
