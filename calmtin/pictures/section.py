"""The tin section: a formula as layers in a tin seen from the side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.translation import gettext

from calmtin.core.materials import LAYERS, Layer
from calmtin.core.messages import digits, said

LABEL_ROOM = 20.0  # height that a name in a layer needs


GRIP_ROOM = 10.0  # px from one grip to the next


@dataclass(frozen=True, slots=True)
class Stratum:
    """One layer's place in the tin, and its words where there is room for them."""

    key: str
    name: str
    layer: Layer
    percent: float
    y: float
    height: float
    label: str
    label_y: float
    above: str
    above_name: str
    above_percent: float
    has_grip: bool


@dataclass(frozen=True, slots=True)
class TinSection:
    """A tin `width` by `height`; layers from the bottom up."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    corner: float
    strata: tuple[Stratum, ...]
    aside: str
    summary: str

    @property
    def per_percent(self) -> float:
        """Height of one percent."""
        return (self.bottom - self.top) / 100.0

    @property
    def inner_width(self) -> float:
        """Room between the walls."""
        return self.right - self.left

    @property
    def middle(self) -> float:
        """Where words are centred."""
        return (self.left + self.right) / 2.0

    @property
    def wall(self) -> str:
        """The tin's outline as a path: down, round the corner, along, up."""
        r = self.corner
        return (
            f"M{self.left:g} {self.top - 6:g}V{self.bottom - r:g}"
            f"a{r:g} {r:g} 0 0 0 {r:g} {r:g}H{self.right - r:g}"
            f"a{r:g} {r:g} 0 0 0 {r:g} {-r:g}V{self.top - 6:g}"
        )

    @property
    def lowest(self) -> str:
        """The lowest layer as a path with the tin's own round corners."""
        first = self.strata[0]
        r = min(self.corner, first.height)
        return (
            f"M{self.left:g} {first.y:.2f}H{self.right:g}V{self.bottom - r:.2f}"
            f"a{r:.2f} {r:.2f} 0 0 1 {-r:.2f} {r:.2f}H{self.left + r:.2f}"
            f"a{r:.2f} {r:.2f} 0 0 1 {-r:.2f} {-r:.2f}Z"
        )


def short(name: str, most: int) -> str:
    """Return a name cut at a word to fit in `most` characters.

    >>> short("Fully hydrogenated soybean oil (hard flakes)", 20)
    'Fully hydrogenated…'
    """
    plain = name.split("(")[0].split(",")[0].strip()
    if len(plain) <= most:
        return plain
    cut = plain[:most].rsplit(" ", 1)[0].rstrip()
    return f"{cut}…"


def tin_section(
    lines: Sequence[tuple[str, str, Layer, float]],
    *,
    width: float = 300.0,
    height: float = 330.0,
    filled: float = 1.0,
) -> TinSection:
    """Lay out lines of (key, name, layer, percent) as layers, waxes at the bottom.

    Layer height is percent by weight; together they fill the tin to `filled` of
    its height. Layers too thin for their name are named together above the rim.
    """
    small = height < 100
    top, bottom = (4.0, height - 2.0) if small else (30.0, height - 3.0)
    left, right = (3.0, width - 3.0) if small else (14.0, width - 14.0)
    ordered = sorted(lines, key=lambda line: LAYERS.index(line[2]))
    total = sum(line[3] for line in ordered) or 1.0
    y = bottom
    strata: list[Stratum] = []
    thin: list[str] = []
    grip_y = bottom + GRIP_ROOM
    letters = max(8, int((right - left - 40.0) / 8.0))
    for i, (key, name, layer, percent) in enumerate(ordered):
        tall = (bottom - top) * filled * percent / total
        y -= tall
        label = ""
        if not small and tall >= LABEL_ROOM:
            label = f"{short(name, letters)} {digits(round(percent, 1), 'g')}"
        elif not small and percent > 0:
            thin.append(f"{short(name, 14)} {digits(round(percent, 1), 'g')}")
        # A grip needs room of its own: thin layers change hands in the boxes beside the tin.
        has_grip = i + 1 < len(ordered) and grip_y - y >= GRIP_ROOM
        grip_y = y if has_grip else grip_y
        strata.append(
            Stratum(
                key=key,
                name=name,
                layer=layer,
                percent=percent,
                y=y,
                height=tall,
                label=label,
                label_y=y + tall / 2.0 + 5.0,
                above=ordered[i + 1][0] if i + 1 < len(ordered) else "",
                above_name=ordered[i + 1][1] if i + 1 < len(ordered) else "",
                above_percent=ordered[i + 1][3] if i + 1 < len(ordered) else 0.0,
                has_grip=has_grip,
            )
        )
    aside = " · ".join(reversed(thin)) if len(thin) <= 2 else said("{thin} thin layers", thin=len(thin))
    return TinSection(
        width=width,
        height=height,
        left=left,
        right=right,
        top=top,
        bottom=bottom,
        corner=6.0 if small else 22.0,
        strata=tuple(strata),
        aside=aside,
        summary=", ".join(said("{name} {percent:.1f} %", name=s.name, percent=s.percent) for s in strata)
        or gettext("empty tin"),
    )
