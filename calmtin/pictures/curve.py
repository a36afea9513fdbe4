"""The softening curve: rung against temperature."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from calmtin.core.messages import said
from calmtin.core.quantities import Temperature

LOWEST_C, HIGHEST_C = 0.0, 60.0


@dataclass(frozen=True, slots=True)
class Place:
    """A temperature that matters, with its words and where they stand."""

    label: str
    name: str
    x: float
    y: float
    anchor: str
    row: int


@dataclass(frozen=True, slots=True)
class SofteningCurve:
    """A curve `width` by `height` with its band as one closed outline."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    line: str
    band: str
    places: tuple[Place, ...]
    flow_x: float | None
    flow_label: str
    flow_anchor: str
    set_x: float | None
    set_label: str
    hold_x: float | None
    hold_y: float | None
    summary: str
    before: str = ""


def beside(now: SofteningCurve, before: SofteningCurve) -> SofteningCurve:
    """Return the curve of now with that of before, of the same size, as a thin line under it."""
    return replace(now, before=before.line, summary=f"{now.summary}. Before: {before.summary}")


def softening_curve(
    temps_c: Sequence[float],
    rungs: Sequence[float],
    low: Sequence[float],
    high: Sequence[float],
    *,
    places: Sequence[tuple[float, str, str]],
    here_c: float,
    flow_c: float | None,
    set_c: float | None,
    flow_label: str,
    set_label: str,
    hold: tuple[float, float] | None = None,
    width: float = 300.0,
    height: float = 212.0,
) -> SofteningCurve:
    """Lay out the curve; `places` are (temperature C, its label, its name).

    `hold` is the kind's own hot day: its temperature, C, and the rung to keep there.
    """
    left, right, top, bottom = 28.0, width - 8.0, 26.0, height - 44.0

    def x(temp: float) -> float:
        return left + (right - left) * (temp - LOWEST_C) / (HIGHEST_C - LOWEST_C)

    def y(rung: float) -> float:
        return bottom - (bottom - top) * rung / 10.0

    def along(values: Sequence[float], temps: Sequence[float]) -> str:
        return "L".join(f"{x(t):.1f} {y(v):.1f}" for t, v in zip(temps, values, strict=True))

    placed: list[Place] = []
    for temp, label, name in sorted(places):
        if not LOWEST_C <= temp <= HIGHEST_C:
            continue
        spot = x(temp)
        anchor = "start" if spot < left + 24 else "end" if spot > right - 24 else "middle"
        nearest = min(range(len(temps_c)), key=lambda i: abs(temps_c[i] - temp))
        crowded = bool(placed) and spot - placed[-1].x < 46.0 and placed[-1].row == 0
        placed.append(Place(label, name, spot, y(rungs[nearest]), anchor, int(crowded)))
    flow_x = x(flow_c) if flow_c is not None and flow_c <= HIGHEST_C else None
    set_x = x(set_c) if set_c is not None and LOWEST_C <= set_c <= HIGHEST_C else None
    nearest_here = min(range(len(temps_c)), key=lambda i: abs(temps_c[i] - here_c))
    return SofteningCurve(
        width=width,
        height=height,
        left=left,
        right=right,
        top=top,
        bottom=bottom,
        line="M" + along(rungs, temps_c),
        band="M" + along(high, temps_c) + "L" + along(list(reversed(low)), list(reversed(temps_c))) + "Z",
        places=tuple(placed),
        flow_x=flow_x,
        flow_label=flow_label,
        flow_anchor="end" if flow_x is not None and flow_x > width / 2 else "start",
        set_x=set_x,
        set_label=set_label,
        hold_x=x(hold[0]) if hold else None,
        hold_y=y(hold[1]) if hold else None,
        summary=said(
            "Firmness {rungs:.1f} at {here}; {flow_label}; {set_label}",
            rungs=rungs[nearest_here],
            here=Temperature(here_c, 1),
            flow_label=flow_label,
            set_label=set_label,
        ),
    )
