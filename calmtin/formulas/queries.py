"""What the formula's pages show, worked out from its lines and the bench."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

import numpy as np

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.composition import masses
from calmtin.core.firmness import Blend, blend, flow_point_c, read, rung_word, set_point_c
from calmtin.core.materials import LAYERS, Layer, Material, Shelf
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Formula, Line, Version
from calmtin.pantry.adapters import shelf_for
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C, SofteningCurve, softening_curve
from calmtin.pictures.ladder import Ladder, Pin, ladder
from calmtin.pictures.section import TinSection, tin_section

SKIN_C = 33.0
CURVE_C = np.linspace(LOWEST_C, HIGHEST_C, 61)
LAYER_NAMES: dict[Layer, str] = {
    "wax": "Wax",
    "butter": "Butters",
    "soft_fat": "Soft fats",
    "oil": "Liquid oils",
    "powder": "Powders and colour",
    "finishing": "Finishing",
}

# Apps above this one add what they know about a formula's results (see pours.apps).
pin_sources: list[Callable[[Formula], list[Pin]]] = []


@dataclass(frozen=True)
class LineView:
    """A line as the page shows it."""

    line: Line
    material: Material
    grams: Decimal


@dataclass(frozen=True)
class GroupView:
    """A layer's lines, its share of the total, and the kind's usual range."""

    layer: Layer
    name: str
    total: Decimal
    usual: tuple[float, float] | None
    outside: bool
    lines: list[LineView]


@dataclass(frozen=True)
class AtTemperature:
    """One of the bench's temperatures and the firmness there."""

    name: str
    temp_c: float
    rung: float
    low: float
    high: float
    words: str


@dataclass(frozen=True)
class Firmness:
    """Everything read off the engine for one composition."""

    blended: Blend
    room: AtTemperature
    places: list[AtTemperature]
    solid_pct: float
    yield_value: float
    flow_c: float | None
    set_c: float
    ladder: Ladder
    curve: SofteningCurve


@dataclass(frozen=True)
class FormulaView:
    """The formula page."""

    formula: Formula
    version: Version
    versions: list[Version]
    groups: list[GroupView]
    total: Decimal
    section: TinSection
    firmness: Firmness | None

    @property
    def line_count(self) -> int:
        """How many lines it has."""
        return sum(len(group.lines) for group in self.groups)


def bench_places(bench: Bench) -> list[tuple[str, float]]:
    """Return the temperatures that matter at this bench, coldest first."""
    return sorted(
        [
            (bench.cold_name, bench.cold_c),
            ("room", bench.room_c),
            ("skin", SKIN_C),
            (bench.hot_name, bench.hot_c),
        ],
        key=lambda place: place[1],
    )


def formulas_of(user: Any) -> list[tuple[Formula, Version, TinSection]]:
    """Return the maker's formulas, last touched first, with their newest version in small."""
    shelf = shelf_for(user)
    found = []
    for formula in Formula.objects.of(user).prefetch_related("versions__lines"):
        newest = max(formula.versions.all(), key=lambda version: version.number)
        found.append((formula, newest, small_section(newest, shelf)))
    return found


def small_section(version: Version, shelf: Shelf) -> TinSection:
    """Return the small tin that stands for a version in lists."""
    return _section(lines_with_materials(version, shelf), width=64.0, height=48.0)


def _section(pairs: list[tuple[Line, Material]], **size: float) -> TinSection:
    return tin_section(
        [(line.key, material.label, material.layer, float(line.percent)) for line, material in pairs],
        **size,
    )


def formula_view(version: Version, shelf: Shelf, bench: Bench) -> FormulaView:
    """Return the page of one version: lines in groups, pictures and firmness together."""
    pairs = lines_with_materials(version, shelf)
    grams = masses([line.percent for line, _ in pairs], version.batch_g)
    views = [
        LineView(line, material, weight) for (line, material), weight in zip(pairs, grams, strict=True)
    ]
    groups = []
    for layer in LAYERS:
        members = [view for view in views if view.material.layer == layer]
        usual = version.formula.kind_facts.ranges.get(layer)
        if not members:
            continue
        total = sum((view.line.percent for view in members), Decimal(0))
        outside = usual is not None and not usual[0] <= float(total) <= usual[1]
        groups.append(GroupView(layer, LAYER_NAMES[layer], total, usual, outside, members))
    return FormulaView(
        formula=version.formula,
        version=version,
        versions=list(version.formula.versions.all()),
        groups=groups,
        total=sum((line.percent for line, _ in pairs), Decimal(0)),
        section=_section(pairs),
        firmness=firmness_of(
            [(material, float(line.percent)) for line, material in pairs],
            version.formula,
            bench,
            pins=[pin for source in pin_sources for pin in source(version.formula)],
        ),
    )


def firmness_of(
    parts: list[tuple[Material, float]], formula: Formula, bench: Bench, *, pins: list[Pin] | None = None
) -> Firmness | None:
    """Return the firmness of masses of materials at this bench; None when nothing has weight."""
    if not any(mass > 0 for _, mass in parts):
        return None
    blended = blend(parts)
    places = bench_places(bench)
    reading = read(blended, np.concatenate([[c for _, c in places], CURVE_C]))
    at = [
        AtTemperature(
            name,
            temp_c,
            float(reading.rung[i]),
            float(reading.low[i]),
            float(reading.high[i]),
            rung_word(float(reading.rung[i])),
        )
        for i, (name, temp_c) in enumerate(places)
    ]
    room_at = next(i for i, (name, _) in enumerate(places) if name == "room")
    room = at[room_at]
    unit = bench.temperature_unit
    flow_c, set_c = flow_point_c(blended), set_point_c(blended)
    flow_label = f"flows at {temp(round(flow_c), unit)}" if flow_c is not None else "never holds a shape"
    set_label = f"sets from {temp(round(set_c), unit)}"
    n = len(places)
    return Firmness(
        blended=blended,
        room=room,
        places=at,
        solid_pct=float(reading.solid_pct[room_at]),
        yield_value=float(reading.yield_value[room_at]),
        flow_c=flow_c,
        set_c=set_c,
        ladder=ladder(room.rung, room.low, room.high, target=formula.kind_facts.target, pins=pins or []),
        curve=softening_curve(
            list(CURVE_C),
            list(reading.rung[n:]),
            list(reading.low[n:]),
            list(reading.high[n:]),
            places=[(place.temp_c, temp(place.temp_c, unit), place.name) for place in at],
            here_c=bench.room_c,
            flow_c=flow_c,
            set_c=set_c,
            flow_label=flow_label,
            set_label=set_label,
        ),
    )
