"""What the formula's page shows, worked out from its lines and the bench."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Q
from django.utils.translation import gettext_noop

from calmtin.accounts.models import Bench
from calmtin.common.registry import Sources
from calmtin.common.templatetags.calm import hundredths, percent
from calmtin.core.cautions.case import Case, Caution
from calmtin.core.cautions.rules import all_cautions
from calmtin.core.composition import Composition, Part
from calmtin.core.data.loader import ceilings, scent_facts
from calmtin.core.kinds import Kind
from calmtin.core.materials import LAYERS, Layer, Material, Shelf, pure
from calmtin.core.measured import Measured
from calmtin.core.process.grain import GrainRisk
from calmtin.core.solver.equivalents import usual_wax
from calmtin.formulas.adapters import alcohol_pct_of, composition_of
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.queries.readings import Firmness, Unpredicted, firmness_of, grain_of
from calmtin.formulas.queries.scents import ScentView, scents_of
from calmtin.pictures.ladder import Pin
from calmtin.pictures.section import TinSection, tin_section

LAYER_NAMES: dict[Layer, str] = {
    "wax": gettext_noop("Wax"),
    "butter": gettext_noop("Butters"),
    "soft_fat": gettext_noop("Soft fats"),
    "oil": gettext_noop("Liquid oils"),
    "powder": gettext_noop("Powders and colour"),
    "finishing": gettext_noop("Finishing"),
}

# Apps above this one add what they know about a formula's results (see pours.apps).
pin_sources: Sources[Callable[[Formula], list[Pin]]] = Sources()


@dataclass(frozen=True)
class LineView:
    """A line as the page shows it."""

    line: Line
    material: Material
    grams: Decimal
    measured: Measured | None

    @property
    def shown(self) -> str:
        """What its box shows: percent of all, or of the base with a plus."""
        on_top, write = self.line.on_top_pct, hundredths if self.measured else percent
        return write(self.line.percent) if on_top is None else f"+{write(on_top)}"


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
class Doubtful:
    """The measured line with the widest effect: the range of its weight and of the firmness."""

    part: Part
    measured: Measured
    low: float
    high: float


@dataclass(frozen=True)
class FormulaView:
    """The formula page."""

    formula: Formula
    version: Version
    versions: list[Version]
    parent: int | None
    groups: list[GroupView]
    total: Decimal
    section: TinSection
    firmness: Firmness | Unpredicted
    doubt: Doubtful | None
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


def section_of(composition: Composition, **size: float) -> TinSection:
    """Return the tin of a composition."""
    return tin_section(
        [(part.key, part.material.label, part.material.layer, float(part.percent)) for part in composition],
        **size,
    )


def formula_view(version: Version, shelf: Shelf, bench: Bench, *, with_pins: bool = True) -> FormulaView:
    """Return the page of one version: lines in groups, pictures and firmness together.

    `with_pins` puts what was felt of its pours on its ladder.
    """
    composition = composition_of(version, shelf)
    lines = {line.key: line for line in version.lines.all()}
    views = [
        LineView(lines[part.key], part.material, grams, part.measured_in(version.batch_g))
        for part, grams in zip(composition, composition.in_batch(version.batch_g), strict=True)
    ]
    groups = []
    for layer in LAYERS:
        members = [view for view in views if view.material.layer == layer]
        usual = usual_range(version.formula.kind_facts, layer, members)
        if not members:
            continue
        total = sum((view.line.percent for view in members), Decimal(0))
        outside = usual is not None and not usual[0] <= float(total) <= usual[1]
        groups.append(GroupView(layer, LAYER_NAMES[layer], total, usual, outside, members))
    firmness = firmness_of(
        composition.masses,
        version.formula,
        bench,
        overrun=composition.overrun,
        pins=[pin for source in pin_sources for pin in source(version.formula)] if with_pins else [],
        spans=_spans(version, composition),
    )
    versions = list(version.formula.versions.all())
    can_undo, can_redo = _turns(version)
    return FormulaView(
        formula=version.formula,
        version=version,
        versions=versions,
        parent=next((v.number for v in versions if v.pk == version.parent_id), None),
        groups=groups,
        total=composition.total,
        section=section_of(composition),
        firmness=firmness,
        doubt=_doubt(version, composition, firmness) if firmness else None,
        grain=grain_of(version, firmness, bench) if firmness else None,
        cautions=cautions_of(version, composition, firmness, bench),
        scents=scents_of(version, composition),
        can_undo=can_undo,
        can_redo=can_redo,
    )


def _turns(version: Version) -> tuple[bool, bool]:
    """Return whether a draft has a step to undo, and one to do again."""
    if version.is_poured:
        return False, False
    back, on = Q(number=version.step, came_from__isnull=False), Q(came_from=version.step)
    steps = version.steps.filter(back | on).values_list("came_from", flat=True)
    found = [came_from == version.step for came_from in steps]
    return not all(found), any(found)


def _spans(version: Version, composition: Composition) -> dict[int, tuple[float, float]]:
    """Return, by place, the least and most percent of the parts whose measure leaves a range.

    What is poured was weighed, so nothing is open there.
    """
    if version.is_poured:
        return {}
    found = {}
    for place, part in enumerate(composition):
        measured = part.measured_in(version.batch_g)
        if measured and not measured.is_sure:
            low, high = (float(100 * end / version.batch_g) for end in (measured.low, measured.high))
            found[place] = (low, high)
    return found


def _doubt(version: Version, composition: Composition, firmness: Firmness) -> Doubtful | None:
    """Return the line to weigh once, where its measure leaves much open."""
    if firmness.doubt is None:
        return None
    place, low, high = firmness.doubt
    part = composition.parts[place]
    measured = part.measured_in(version.batch_g)
    return Doubtful(part, measured, low, high) if measured else None


def usual_range(kind: Kind, layer: Layer, members: Sequence[LineView]) -> tuple[float, float] | None:
    """Return the kind's usual range of a layer, %; for wax, adjusted to the strength of its waxes.

    The kind's own is for beeswax; a stronger wax needs less to do the same.
    """
    usual = kind.ranges.get(layer)
    if usual is None or layer != "wax":
        return usual
    return usual_wax(usual, [(view.material, float(view.line.percent)) for view in members])


@dataclass(frozen=True)
class CautionView:
    """A caution, the line it is about if any, and the maker's reason to go on."""

    caution: Caution
    part: Part | None
    reason: str


def cautions_for(
    parts: list[tuple[Material, float]],
    version: Version,
    bench: Bench,
    *,
    batch_g: Decimal | None = None,
    set_c: float | None = None,
    grain: GrainRisk | None = None,
) -> list[Caution]:
    """Return the cautions about `parts` (materials, percents) of a version's formula.

    The same rules serve lines, finishes and what was really weighed.
    """
    formula = version.formula
    return all_cautions(
        Case(
            lines=pure(parts),
            name=formula.name,
            kind=formula.kind_facts,
            ceiling=ceilings()[formula.audience],
            scents=scent_facts(),
            sees_sun=formula.sees_sun,
            batch_g=batch_g or version.batch_g,
            scale_step_g=bench.scale_step_g,
            set_c=set_c,
            grain=grain,
            alcohol_pct=alcohol_pct_of(version),
            notes=formula.notes,
            suspects=bench.suspects,
        )
    )


# What a finish or a weighed pot must be told of at once; the rest stands with the formula.
TOLD_AT_ONCE = ("stop", "think")
OF_THE_FORMULA = frozenset({"total", "claim", "too_small", "grain"})


def told_at_once(found: list[Caution], known: list[Caution] | None = None) -> list[Caution]:
    """Return the cautions that are new beside `known` ones, stops and thinks only."""
    before = {(c.key, c.material, c.level) for c in known or []}
    return [
        c
        for c in found
        if c.level in TOLD_AT_ONCE
        and c.key not in OF_THE_FORMULA
        and (c.key, c.material, c.level) not in before
    ]


def reasons_of(formula: Formula) -> dict[tuple[str, str, str], str]:
    """Return the maker's reasons to go on, by key, material and level of the caution.

    What was acknowledged as something to think about must be acknowledged again once it says stop.
    """
    return {
        (a.key, a.material, level): a.reason
        for a in formula.acknowledgements.all()
        for level in (("think", "note") if a.level == "think" else ("stop", "think", "note"))
    }


def cautions_of(
    version: Version, composition: Composition, firmness: Firmness | Unpredicted, bench: Bench
) -> list[CautionView]:
    """Return the cautions about a version, acknowledged ones last."""
    if not composition.parts:
        return []
    by_slug = {part.material.slug: part for part in composition}
    found = cautions_for(
        composition.masses,
        version,
        bench,
        set_c=firmness.set_c if firmness else None,
        grain=grain_of(version, firmness, bench) if firmness else None,
    )
    reasons = reasons_of(version.formula)
    views = [
        CautionView(c, by_slug.get(c.material), reasons.get((c.key, c.material, c.level), ""))
        for c in found
    ]
    return sorted(views, key=lambda view: bool(view.reason))
