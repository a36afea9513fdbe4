"""The fill bench: containers to scale with their fill lines, the leftovers, and where every gram goes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from calmtin.core.containers import container_kind

WIDTH, HEIGHT = 760.0, 132.0
MOST_DRAWN = 9  # of one kind; the words below say how many there are
GAP, GROUP_GAP = 10.0, 46.0
POT_TALL = 0.9  # height over width of what is left in the pot
LEAST_PX = 14.0


@dataclass(frozen=True)
class Vessel:
    """One container at its place: outline, the level of its filling, the dip as it sets."""

    x: float
    y: float
    width: float
    height: float
    level_y: float
    dip: float

    @property
    def wall(self) -> str:
        """The outline, open at the top."""
        x, right, bottom = self.x, self.x + self.width, self.y + self.height
        return f"M{x:.1f} {self.y:.1f}V{bottom:.1f}H{right:.1f}V{self.y:.1f}"

    @property
    def filling(self) -> str:
        """The filling, its surface sunk by the dip."""
        x, right, bottom = self.x + 1.5, self.x + self.width - 1.5, self.y + self.height - 1.5
        middle = (x + right) / 2.0
        return (
            f"M{x:.1f} {self.level_y:.1f}Q{middle:.1f} {self.level_y + 2 * self.dip:.1f} {right:.1f} "
            f"{self.level_y:.1f}V{bottom:.1f}H{x:.1f}Z"
        )


@dataclass(frozen=True)
class Group:
    """Containers of one kind with the words below them."""

    vessels: list[Vessel]
    x: float
    title: str
    words: str
    is_left: bool = False


@dataclass(frozen=True)
class FillBench:
    """All groups side by side."""

    groups: list[Group]
    width: float
    height: float


@dataclass(frozen=True)
class Kind:
    """One kind of container to draw: ml each, how full, and the ml lost as it sets."""

    shape: str
    ml: float
    level: float
    dip_ml: float
    count: int
    title: str
    words: str
    is_left: bool = False


def fill_bench(kinds: Sequence[Kind]) -> FillBench:
    """Return the bench with every kind to one scale, as large as the width allows."""
    sizes = [_size(kind) for kind in kinds]
    drawn = [min(kind.count, MOST_DRAWN) for kind in kinds]
    wide = sum(n * w + (n - 1) * GAP / 10.0 for n, (w, _) in zip(drawn, sizes, strict=True))
    gaps = GROUP_GAP * max(len(kinds) - 1, 0) + sum(GAP * (n - 1) for n in drawn)
    tallest = max((h for _, h in sizes), default=1.0)
    scale = min((WIDTH - gaps) / max(wide, 1e-9), HEIGHT / tallest)
    floor = tallest * scale
    groups, x = [], 2.0
    for kind, n, (w, h) in zip(kinds, drawn, sizes, strict=True):
        width, height = max(w * scale, LEAST_PX), h * scale
        dip = kind.dip_ml / kind.ml * height if kind.ml else 0.0
        vessels = []
        for i in range(n):
            y = floor - height
            level = floor - 1.5 - (height - 1.5) * min(kind.level, 1.0)
            vessels.append(Vessel(x + i * (width + GAP), y, width, height, level, dip))
        groups.append(Group(vessels, x, kind.title, kind.words, kind.is_left))
        x += max(n * (width + GAP) - GAP, 118.0) + GROUP_GAP
    return FillBench(groups, max(x - GROUP_GAP, WIDTH), floor + 4.0)


def _size(kind: Kind) -> tuple[float, float]:
    """Return width and height, cm, of a cylinder of the kind's shape that holds its ml."""
    tall = POT_TALL if kind.shape == "pot" else container_kind(kind.shape).tall
    width = (4.0 * kind.ml / (math.pi * tall)) ** (1.0 / 3.0)
    return width, width * tall


@dataclass(frozen=True)
class Piece:
    """A part of the bar: its place and width in px, its name and grams."""

    x: float
    width: float
    name: str
    words: str
    kind: str


def bar_pieces(parts: Sequence[tuple[str, str, str, float]], *, width: float = WIDTH) -> list[Piece]:
    """Return a bar of (kind, name, words, grams), its widths in proportion, to the last px full."""
    whole = sum(grams for *_, grams in parts) or 1.0
    found, x = [], 0.0
    for kind, name, words, grams in parts:
        share = width * grams / whole
        found.append(Piece(x, share, name, words, kind))
        x += share
    return found
