"""The ladder: eleven rungs, the target, the prediction and the felt results."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from calmtin.core.engine.ladder import LADDER, rung_word
from calmtin.core.messages import said

Verdict = Literal["keep", "tweak", "drop", ""]


@dataclass(frozen=True, slots=True)
class Pin:
    """A measured result on the ladder: its shape says keep, tweak or drop."""

    rung: float
    verdict: Verdict
    label: str


@dataclass(frozen=True, slots=True)
class PlacedPin:
    """A pin at its height; pins at one height stand side by side."""

    pin: Pin
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class Rung:
    """One step of the ladder: its number, words and height."""

    number: int
    words: str
    y: float
    in_target: bool


@dataclass(frozen=True, slots=True)
class Ladder:
    """A ladder `width` by `height`; heights grow downwards."""

    width: float
    height: float
    left: float
    right: float
    rungs: tuple[Rung, ...]
    mark_y: float
    band_y: float
    band_height: float
    target_y: float | None
    target_height: float
    pins: tuple[PlacedPin, ...]
    pot_y: float | None
    rung: float
    words: str
    summary: str


def ladder(
    rung: float,
    low: float,
    high: float,
    *,
    target: tuple[float, float] | None = None,
    pins: Sequence[Pin] = (),
    in_pot: float | None = None,
    width: float = 352.0,
    height: float = 326.0,
) -> Ladder:
    """Lay out a ladder for a predicted `rung` with its 80 % band `low` to `high`."""
    top, bottom = 12.0, height - 12.0
    left, right = 40.0, 62.0

    def at(value: float) -> float:
        return bottom - (bottom - top) * value / 10.0

    placed: list[PlacedPin] = []
    for pin in pins:
        y = at(pin.rung)
        beside = sum(1 for other in placed if abs(other.y - y) < 12.0)
        placed.append(PlacedPin(pin, right + 12.0 + 14.0 * beside, y))
    words = rung_word(rung)
    summary = said(
        "Predicted firmness {rung:.1f}, {words}; likely {low:.1f}–{high:.1f}",
        rung=rung,
        words=words,
        low=low,
        high=high,
    )
    if target:
        summary += said("; target {target:g} to {target2:g}", target=target[0], target2=target[1])
    if in_pot is not None:
        summary += said("; {in_pot:.1f} before whipping", in_pot=in_pot)
    for pin in pins:
        summary += f"; {pin.label}"
    return Ladder(
        width=width,
        height=height,
        left=left,
        right=right,
        rungs=tuple(
            Rung(
                number,
                text,
                at(number),
                target is not None and target[0] <= number <= target[1],
            )
            for number, text in enumerate(LADDER)
        ),
        mark_y=at(rung),
        band_y=at(high),
        band_height=at(low) - at(high),
        target_y=at(target[1]) if target else None,
        target_height=at(target[0]) - at(target[1]) if target else 0.0,
        pins=tuple(placed),
        pot_y=None if in_pot is None else at(in_pot),
        rung=rung,
        words=words,
        summary=summary,
    )


@dataclass(frozen=True, slots=True)
class SmallLadder:
    """A ladder without words, for one temperature among several."""

    name: str
    at: str
    rung: float
    ticks: tuple[float, ...]
    mark_y: float
    band_y: float
    band_height: float
    summary: str


def small_ladder(name: str, at: str, rung: float, low: float, high: float) -> SmallLadder:
    """Lay out a small ladder, 80 by 104, for the firmness at one temperature."""
    top, bottom = 6.0, 98.0

    def y(value: float) -> float:
        return bottom - (bottom - top) * value / 10.0

    return SmallLadder(
        name=name,
        at=at,
        rung=rung,
        ticks=tuple(y(number) for number in range(11)),
        mark_y=y(rung),
        band_y=y(high),
        band_height=y(low) - y(high),
        summary=said(
            "{name}, {at}: firmness {rung:.1f}, {rung_word}; likely {low:.1f}–{high:.1f}",
            name=name,
            at=at,
            rung=rung,
            rung_word=rung_word(rung),
            low=low,
            high=high,
        ),
    )
