"""Several pours side by side: felt firmness over time on one ladder, and softening curves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log10

from django.utils.translation import gettext

from calmtin.core.engine.ladder import rung_word
from calmtin.core.messages import said
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C

LETTERS = "ABCDEF"
WIDTH, HEIGHT = 560.0, 360.0
LEFT, RIGHT, TOP, BOTTOM = 34.0, 430.0, 14.0, 322.0
SOONEST, LATEST = 0.02, 400.0  # days
_TICKS = ((1 / 24, "1 h"), (1.0, "1 day"), (7.0, "1 week"), (30.0, "1 month"), (365.0, "1 year"))
APART = 15.0  # what two letters need between them


@dataclass(frozen=True)
class Felt:
    """A felt or pressed firmness of one item: its age in days, the rung, and its words."""

    age_days: float
    rung: float
    label: str


@dataclass(frozen=True)
class Track:
    """One item of the picture: its letter, its marks in order of age, and where its prediction stands."""

    letter: str
    line: str
    marks: list[tuple[float, float, str]]
    x: float
    y: float
    band_top: float
    band_height: float


@dataclass(frozen=True)
class TimeLadder:
    """Rungs against age: each item a line with its letter, its prediction and band at the right."""

    tracks: list[Track]
    rungs: list[tuple[float, int]]
    ticks: list[tuple[float, str]]
    target_top: float | None
    target_height: float
    summary: str
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = RIGHT
    top: float = TOP
    bottom: float = BOTTOM


@dataclass(frozen=True)
class CurveTrack:
    """The softening curve of one item, its letter, and where that stands in the key."""

    letter: str
    line: str
    key_x: float
    key_y: float


@dataclass(frozen=True)
class Curves:
    """The softening curves of several items in one picture."""

    tracks: list[CurveTrack]
    places: list[tuple[float, str]]
    summary: str
    width: float = WIDTH
    height: float = 300.0
    left: float = LEFT
    right: float = WIDTH - 24.0
    top: float = TOP
    bottom: float = 262.0


def _y(rung: float, top: float = TOP, bottom: float = BOTTOM) -> float:
    return bottom - (bottom - top) * min(max(rung, 0.0), 10.0) / 10.0


def _x(age_days: float) -> float:
    held = min(max(age_days, SOONEST), LATEST)
    return LEFT + 10.0 + (RIGHT - LEFT - 20.0) * log10(held / SOONEST) / log10(LATEST / SOONEST)


def time_ladder(
    items: Sequence[tuple[str, Sequence[Felt], tuple[float, float, float] | None]],
    *,
    target: tuple[float, float] | None = None,
) -> TimeLadder:
    """Return the picture of items: their name, felt firmness, and prediction with likely range."""
    tracks: list[Track] = []
    told: list[str] = []
    for n, (name, felt, predicted) in enumerate(items):
        letter = LETTERS[n]
        marks = [(_x(f.age_days), _y(f.rung), f.label) for f in sorted(felt, key=lambda f: f.age_days)]
        # Marks at one place stand side by side.
        placed: list[tuple[float, float, str]] = []
        for x, y, label in marks:
            others = [m for track in tracks for m in track.marks] + placed
            while any(abs(x - ox) < APART and abs(y - oy) < APART for ox, oy, _ in others):
                x += APART
            placed.append((x, y, label))
        line = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y, _ in placed) if len(placed) > 1 else ""
        rung, low, high = predicted or (0.0, 0.0, 0.0)
        tracks.append(
            Track(letter, line, placed, RIGHT + 22.0 + 18.0 * n, _y(rung), _y(high), _y(low) - _y(high))
            if predicted
            else Track(letter, line, placed, -99.0, 0.0, 0.0, 0.0)
        )
        words = [
            said("felt {rung:.1f} after {age_days:.1f} days", rung=f.rung, age_days=f.age_days)
            for f in felt
        ]
        if predicted:
            words.append(said("predicted {rung:.1f}, {rung_word}", rung=rung, rung_word=rung_word(rung)))
        told.append(f"{letter}, {name}: {', '.join(words) or gettext('no tests yet')}")
    return TimeLadder(
        tracks=tracks,
        rungs=[(_y(n), n) for n in range(11)],
        ticks=[(_x(days), words) for days, words in _TICKS],
        target_top=_y(target[1]) if target else None,
        target_height=_y(target[0]) - _y(target[1]) if target else 0.0,
        summary=". ".join(told),
    )


def curves(
    items: Sequence[tuple[str, Sequence[float]]],
    temps_c: Sequence[float],
    places: Sequence[tuple[float, str]],
) -> Curves:
    """Return the softening curves of items, their name and rungs at `temps_c`, in one picture."""
    right, bottom = WIDTH - 24.0, 262.0

    def x(temp: float) -> float:
        return LEFT + (right - LEFT) * (temp - LOWEST_C) / (HIGHEST_C - LOWEST_C)

    tracks, told = [], []
    for n, (name, rungs) in enumerate(items):
        points = [(x(t), _y(r, TOP, bottom)) for t, r in zip(temps_c, rungs, strict=True)]
        line = "M" + "L".join(f"{px:.1f} {py:.1f}" for px, py in points)
        tracks.append(CurveTrack(LETTERS[n], line, right - 64.0, TOP + 8.0 + 20.0 * n))
        ends = said(
            "{rungs:.1f} at {temps_c:g}, {rungs2:.1f} at {temps_c2:g}",
            rungs=rungs[0],
            temps_c=temps_c[0],
            rungs2=rungs[-1],
            temps_c2=temps_c[-1],
        )
        told.append(said("{letters}, {name}: firmness {ends}", letters=LETTERS[n], name=name, ends=ends))
    return Curves(tracks, [(x(c), label) for c, label in places], ". ".join(told))
