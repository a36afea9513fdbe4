"""Predicted against felt firmness: one dot for each test; dots on the line were predicted exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

WIDTH, HEIGHT = 520.0, 520.0
LEFT, RIGHT, TOP, BOTTOM = 44.0, 508.0, 14.0, 470.0
MOST = 10.0
EDGE_POINTS = 50


@dataclass(frozen=True)
class Answer:
    """One test: predicted and felt firmness, and whether it is doubtful or excluded."""

    x: float
    y: float
    label: str
    is_doubtful: bool
    is_left_out: bool


@dataclass(frozen=True)
class Scatter:
    """The square with its line, the band in which eight of ten should fall, and the answers."""

    answers: list[Answer]
    band: str
    line: str
    ticks: list[tuple[float, float, str]]
    summary: str
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = RIGHT
    top: float = TOP
    bottom: float = BOTTOM


def said_and_felt(
    answers: Sequence[tuple[float, float, str, bool, bool]],
    *,
    half_band: float,
    offset: float,
    summary: str,
) -> Scatter:
    """Return the picture for answers (said, felt, label, doubtful, left out), all in rungs.

    The band lies `half_band` either side of what is told now: `offset` above what was said.
    """

    def x(rung: float) -> float:
        return LEFT + (RIGHT - LEFT) * min(max(rung / MOST, 0.0), 1.0)

    def y(rung: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * min(max(rung / MOST, 0.0), 1.0)

    # Point by point, so that an edge that leaves the square runs along its side.
    along = [MOST * n / EDGE_POINTS for n in range(EDGE_POINTS + 1)]
    edges = [(rung, rung + offset + half_band) for rung in along]
    edges += [(rung, rung + offset - half_band) for rung in reversed(along)]
    return Scatter(
        answers=[Answer(x(said), y(felt), label, doubt, out) for said, felt, label, doubt, out in answers],
        band="M" + "L".join(f"{x(a):.1f} {y(b):.1f}" for a, b in edges) + "Z",
        line=f"M{x(0):.1f} {y(0):.1f}L{x(MOST):.1f} {y(MOST):.1f}",
        ticks=[(x(n), y(n), f"{n:g}") for n in (0.0, 2.0, 4.0, 6.0, 8.0, 10.0)],
        summary=summary,
    )
