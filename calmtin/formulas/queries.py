"""What the formula's pages show, worked out from its lines and the bench."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, cast

import numpy as np
from django.urls import reverse

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import percent, temp
from calmtin.core.cautions import Case, Caution, all_cautions
from calmtin.core.composition import masses
from calmtin.core.data.loader import ceilings, scent_facts
from calmtin.core.feel import Feel, feels
from calmtin.core.fill import POUR_MARGIN_C
from calmtin.core.firmness import (
    Blend,
    Carrier,
    Dissolving,
    blend,
    carriers,
    dissolving,
    flow_point_c,
    read,
    rung_word,
    set_point_c,
)
from calmtin.core.grain import SCHOOLS, Cooling, GrainRisk, grain_risk
from calmtin.core.materials import LAYERS, Layer, Material, Shelf
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.scenting import ScentView, scents_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C, SofteningCurve, softening_curve
from calmtin.pictures.ladder import Ladder, Pin, SmallLadder, ladder, small_ladder
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

    @property
    def shown(self) -> str:
        """What its box shows: percent of all, or of the base with a plus."""
        on_top = self.line.on_top_pct
        return percent(self.line.percent) if on_top is None else f"+{percent(on_top)}"


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
class Hold:
    """The kind's own hot day: what it should keep there and what it will."""

    temp_c: float
    wanted: float
    rung: float

    @property
    def is_kept(self) -> bool:
        """Whether it stays firm enough."""
        return self.rung >= self.wanted


@dataclass(frozen=True)
class Firmness:
    """Everything read off the engine for one composition."""

    blended: Blend
    room: AtTemperature
    whipped: float | None
    places: list[AtTemperature]
    small_ladders: list[SmallLadder]
    hold: Hold | None
    feels: tuple[Feel, ...]
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
    grain: GrainRisk | None
    cautions: list[CautionView]
    scents: ScentView | None
    can_undo: bool
    can_redo: bool

    @property
    def ways(self) -> list[tuple[str, bool, str]]:
        """Undo and redo: whether there is any, and the key for it."""
        return [("undo", self.can_undo, "z"), ("redo", self.can_redo, "y")]

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
    steps = list(version.steps.only("number", "came_from"))
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
    firmness = firmness_of(
        [(material, float(line.percent)) for line, material in pairs],
        version.formula,
        bench,
        overrun=version.overrun,
        pins=[pin for source in pin_sources for pin in source(version.formula)],
    )
    return FormulaView(
        formula=version.formula,
        version=version,
        versions=list(version.formula.versions.all()),
        groups=groups,
        total=sum((line.percent for line, _ in pairs), Decimal(0)),
        section=_section(pairs),
        firmness=firmness,
        grain=grain_of(version, firmness) if firmness else None,
        cautions=cautions_of(version, pairs, firmness, bench),
        scents=scents_of(version, [(view.line, view.material, view.grams) for view in views]),
        can_undo=not version.is_poured
        and any(s.number == version.step and s.came_from is not None for s in steps),
        can_redo=not version.is_poured and any(s.came_from == version.step for s in steps),
    )


def preview(
    version: Version, lines: list[tuple[Line, Material, Decimal]], bench: Bench
) -> tuple[Firmness | None, TinSection | None]:
    """Return the firmness and the tin of lines in any amounts, before they are a version."""
    total = sum((amount for _, _, amount in lines), Decimal(0))
    if total <= 0:
        return None, None
    section = tin_section(
        [(line.key, m.label, m.layer, float(100 * amount / total)) for line, m, amount in lines]
    )
    return firmness_of([(m, float(amount)) for _, m, amount in lines], version.formula, bench), section


@dataclass(frozen=True)
class CautionView:
    """A caution, the line it is about if any, and the maker's reason to go on."""

    caution: Caution
    line: Line | None
    reason: str


def cautions_of(
    version: Version, pairs: list[tuple[Line, Material]], firmness: Firmness | None, bench: Bench
) -> list[CautionView]:
    """Return what must be said about a version; what the maker has acknowledged comes last."""
    if firmness is None:
        return []
    by_slug = {line.material: line for line, _ in pairs}
    tincture = by_slug.get("alcohol_tincture")
    found = all_cautions(
        Case(
            lines=[(material, float(line.percent)) for line, material in pairs],
            name=version.formula.name,
            kind=version.formula.kind_facts,
            ceiling=ceilings()[version.formula.audience],
            scents=scent_facts(),
            sees_sun=version.formula.sees_sun,
            batch_g=version.batch_g,
            scale_step_g=bench.scale_step_g,
            set_c=firmness.set_c,
            grain=grain_of(version, firmness),
            alcohol_pct=tincture.alcohol_pct if tincture else None,
            notes=version.formula.notes,
        )
    )
    # What was seen as something to think about must be seen again once it says stop.
    reasons = {
        (a.key, a.material, level): a.reason
        for a in version.formula.acknowledgements.all()
        for level in (("think", "note") if a.level == "think" else ("stop", "think", "note"))
    }
    views = [
        CautionView(c, by_slug.get(c.material), reasons.get((c.key, c.material, c.level), ""))
        for c in found
    ]
    return sorted(views, key=lambda view: bool(view.reason))


def grain_of(version: Version, firmness: Firmness) -> GrainRisk:
    """Return the grain risk of a version as it is cooled, poured a little above its haze."""
    return grain_risk(
        firmness.blended,
        cast(Cooling, version.cooling),
        pour_c=firmness.set_c + POUR_MARGIN_C,
        set_c=firmness.set_c,
        is_whipped=version.overrun_pct > 0,
    )


def firmness_of(
    parts: list[tuple[Material, float]],
    formula: Formula,
    bench: Bench,
    *,
    overrun: float = 0.0,
    pins: list[Pin] | None = None,
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
    kind = formula.kind_facts
    hold = None
    if kind.hold_c is not None and kind.hold_rung is not None:
        hold = Hold(kind.hold_c, kind.hold_rung, float(read(blended, [kind.hold_c]).rung[0]))
    whipped = None
    if overrun > 0.0:
        whipped = float(read(blended, [bench.room_c], overrun=overrun).rung[0])
    return Firmness(
        blended=blended,
        room=room,
        whipped=whipped,
        places=at,
        small_ladders=[
            small_ladder(place.name, temp(place.temp_c, unit), place.rung, place.low, place.high)
            for place in at
        ],
        hold=hold,
        feels=feels(blended, bench.room_c),
        solid_pct=float(reading.solid_pct[room_at]),
        yield_value=float(reading.yield_value[room_at]),
        flow_c=flow_c,
        set_c=set_c,
        ladder=ladder(room.rung, room.low, room.high, target=kind.target, whipped=whipped, pins=pins or []),
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
            hold=(hold.temp_c, hold.wanted) if hold else None,
        ),
    )


@dataclass(frozen=True)
class Why:
    """The reasons behind a prediction at one temperature."""

    at: AtTemperature
    places: list[AtTemperature]
    carrying: list[Carrier]
    melted: list[Carrier]
    dissolved: list[Dissolving]
    schools: str = SCHOOLS

    @property
    def total_rungs(self) -> float:
        """What the carriers add up to: the predicted rung."""
        return sum(carrier.rungs for carrier in self.carrying)


def why_of(firmness: Firmness, place: str) -> Why:
    """Return the reasons at one of the bench's temperatures, the room unless named."""
    at = next((p for p in firmness.places if p.name == place), firmness.room)
    found = carriers(firmness.blended, at.temp_c)
    return Why(
        at=at,
        places=firmness.places,
        carrying=[c for c in found if c.rungs > 0.0],
        melted=[
            c for c in found if c.crystal_pct < 0.5 and c.material.layer in ("wax", "butter", "soft_fat")
        ],
        dissolved=[d for d in dissolving(firmness.blended, at.temp_c) if d.blend_pct >= 0.5],
    )


def formulas_using(user: Any, slug: str) -> list[tuple[str, str]]:
    """Return the maker's formulas whose newest version uses a material, with their addresses."""
    found = []
    for formula in Formula.objects.of(user).filter(versions__lines__material=slug).distinct():
        newest = formula.versions.last()
        if newest and newest.lines.filter(material=slug).exists():
            found.append((formula.name, reverse("formulas:formula", args=[formula.pk])))
    return found


@dataclass(frozen=True)
class DiffRow:
    """A material in two versions; None where it is not in one."""

    material: Material
    before: Line | None
    after: Line | None

    @property
    def change(self) -> Decimal:
        """Percentage points from the first to the second."""
        was = self.before.percent if self.before else Decimal(0)
        return (self.after.percent if self.after else Decimal(0)) - was

    @property
    def grams(self) -> list[Decimal | None]:
        """Grams in each version's own batch."""
        return [
            line.percent * line.version.batch_g / 100 if line else None
            for line in (self.before, self.after)
        ]


@dataclass(frozen=True)
class VersionDiff:
    """Two versions side by side: lines, firmness and cost."""

    a: Version
    b: Version
    rows: list[DiffRow]
    firmness_a: Firmness | None
    firmness_b: Firmness | None
    places: list[tuple[AtTemperature, AtTemperature]]
    cost_a: Decimal | None
    cost_b: Decimal | None


def version_diff(
    a: Version, b: Version, shelf: Shelf, bench: Bench, costs: dict[str, Decimal]
) -> VersionDiff:
    """Return what changed from one version to another. Costs are of 100 g, where all are known."""
    lines_a, lines_b = ({line.material: line for line in v.lines.all()} for v in (a, b))
    order = [slug for slug in shelf if slug in lines_a or slug in lines_b]
    firm = [
        firmness_of([(shelf[s], float(line.percent)) for s, line in lines.items()], a.formula, bench)
        for lines in (lines_a, lines_b)
    ]
    both = list(zip(firm[0].places, firm[1].places, strict=True)) if firm[0] and firm[1] else []
    cost = [
        sum((costs[s] * line.percent for s, line in lines.items()), Decimal(0))
        if set(lines) <= set(costs)
        else None
        for lines in (lines_a, lines_b)
    ]
    rows = [DiffRow(shelf[s], lines_a.get(s), lines_b.get(s)) for s in order]
    return VersionDiff(a, b, rows, firm[0], firm[1], both, cost[0], cost[1])
