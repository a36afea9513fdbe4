"""The pour clock: temperature against time, the forecast with its band, the windows that matter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

WIDTH, HEIGHT = 620.0, 300.0
LEFT, RIGHT, TOP, BOTTOM = 44.0, 606.0, 16.0, 262.0


@dataclass(frozen=True)
class Mark:
    """A temperature with its words, across the clock."""

    y: float
    label: str


@dataclass(frozen=True)
class PourClock:
    """Readings as dots, the forecast as a line in its band, the scent window, the pour-by line."""

    dots: list[tuple[float, float]]
    line: str
    band: str
    window: tuple[float, float] | None
    marks: list[Mark]
    ticks: list[tuple[float, str]]
    now_x: float
    summary: str
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = RIGHT
    top: float = TOP
    bottom: float = BOTTOM


def pour_clock(
    readings: Sequence[tuple[float, float]],
    curve: Sequence[tuple[float, float, float, float]],
    *,
    window: tuple[float, float] | None,
    marks: Sequence[tuple[float, str]],
    lowest_c: float,
    highest_c: float,
    horizon: float,
    now: float,
    summary: str,
    clock: Sequence[tuple[float, str]],
) -> PourClock:
    """Return the clock for `readings` (minutes, C) and `curve` (minutes, C, low C, high C)."""

    def x(minutes: float) -> float:
        return LEFT + (RIGHT - LEFT) * min(max(minutes / horizon, 0.0), 1.0)

    def y(temp: float) -> float:
        share = (temp - lowest_c) / (highest_c - lowest_c)
        return BOTTOM - (BOTTOM - TOP) * min(max(share, 0.0), 1.0)

    line = "M" + "L".join(f"{x(m):.1f} {y(t):.1f}" for m, t, _, _ in curve) if curve else ""
    band = ""
    if curve:
        up = [f"{x(m):.1f} {y(high):.1f}" for m, _, _, high in curve]
        down = [f"{x(m):.1f} {y(low):.1f}" for m, _, low, _ in reversed(curve)]
        band = "M" + "L".join([*up, *down]) + "Z"
    return PourClock(
        dots=[(x(m), y(t)) for m, t in readings],
        line=line,
        band=band,
        window=None if window is None else (y(window[1]), y(window[0])),
        marks=[Mark(y(temp), label) for temp, label in marks],
        ticks=[(x(m), label) for m, label in clock],
        now_x=x(now),
        summary=summary,
    )
