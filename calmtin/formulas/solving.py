"""Targets and swaps of a version: what the solver proposes, line by line."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.data.loader import kinds, read_table
from calmtin.core.errors import CalmTinError
from calmtin.core.feel import OWN_SCENT
from calmtin.core.firmness import skin_melt, to_rungs
from calmtin.core.materials import Layer, Material, Shelf
from calmtin.core.starters import Starter, starters
from calmtin.core.targets import Limits, Solution, Space, Target, solve
from calmtin.core.trio import CORNERS, Trio, triangle, trio_of, trio_yield_values
from calmtin.core.units import read_number
from calmtin.core.weighing import share_out
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.readings import Firmness, firmness_of
from calmtin.pictures.section import TinSection, tin_section
from calmtin.pictures.trio import Mark, TrioMap, trio_map

# Powders and finishing parts are dosed for their own sake: the solver leaves them alone.
MOVED: tuple[Layer, ...] = ("wax", "butter", "soft_fat", "oil")
MOST_CANDIDATES = 12
TENTH = Decimal("0.1")


@dataclass(frozen=True)
class ProposedLine:
    """A line before and after; `after` is None for one that goes."""

    key: str
    before: Material
    after: Material | None
    was: Decimal
    now: Decimal

    @property
    def shown(self) -> Material:
        """The material that stands in the line, or stood there if it goes."""
        return self.after or self.before

    @property
    def change(self) -> Decimal:
        """Percentage points that it moves by."""
        return self.now - self.was

    @property
    def is_same(self) -> bool:
        """Whether nothing about it changes."""
        return not self.change and self.before == self.after


@dataclass(frozen=True)
class Proposal:
    """A whole change, applied or refused as one."""

    lines: list[ProposedLine]
    firmness: Firmness | None
    solution: Solution | None

    @property
    def moved(self) -> Decimal:
        """Percentage points moved in all lines together."""
        return sum((abs(line.change) for line in self.lines), Decimal(0))

    @property
    def changed(self) -> list[ProposedLine]:
        """The lines about which anything changes."""
        return [line for line in self.lines if not line.is_same]

    @property
    def token(self) -> str:
        """The change in one field of a form."""
        return ";".join(
            f"{line.key}:{line.after.slug if line.after else ''}:{line.now}" for line in self.lines
        )


def read_token(text: str) -> list[tuple[str, str, Decimal]]:
    """Return what a proposal's token says; refuse anything else."""
    found = []
    for part in text.split(";"):
        pieces = part.split(":")
        if len(pieces) != 3:
            raise CalmTinError("This proposal cannot be read. Work it out again.", field="percent")
        percent = read_number(pieces[2], name="The percentage", high=100.0, unit="%")
        found.append((pieces[0], pieces[1], percent))
    return found


Span = tuple[float, float]


def propose_target(
    version: Version, shelf: Shelf, bench: Bench, target: Target, spans: Mapping[str, Span]
) -> Proposal:
    """Return the least change that meets `target` within `spans`, percents by line key or by layer."""
    pairs = lines_with_materials(version, shelf)
    ranges = {material.slug: spans[line.key] for line, material in pairs if line.key in spans}
    layers = {layer: spans[layer] for layer in MOVED if layer in spans}
    locked = frozenset(
        material.slug
        for line, material in pairs
        if line.is_locked or (material.layer not in MOVED and material.slug not in ranges)
    )
    parts = [(material, float(line.percent)) for line, material in pairs]
    limits = Limits(locked, {s: r for s, r in ranges.items() if s not in locked}, layers)
    solution = solve(parts, target, limits)
    return proposal_of(version, pairs, [m for _, m in pairs], solution, bench, limits)


def proposal_of(
    version: Version,
    pairs: list[tuple[Line, Material]],
    after: list[Material],
    solution: Solution,
    bench: Bench,
    limits: Limits | None = None,
) -> Proposal:
    """Return a solution as a change of the lines in `pairs`, their materials then being `after`."""
    percents = _tidied(pairs, after, solution.percents, bench, limits)
    lines = [
        ProposedLine(line.key, before, now, line.percent, percent)
        for (line, before), now, percent in zip(pairs, after, percents, strict=True)
    ]
    parts = [(line.shown, float(line.now)) for line in lines]
    return Proposal(lines, firmness_of(parts, version.formula, bench, overrun=version.overrun), solution)


def _tidied(
    pairs: list[tuple[Line, Material]],
    after: list[Material],
    percents: Sequence[Decimal],
    bench: Bench,
    limits: Limits | None = None,
) -> list[Decimal]:
    """Return proposed percents in tenths, where that keeps `limits` and the rung to within a tenth.

    Nobody weighs thousandths of a percent. Lines that did not move stay to the letter.
    """
    exact = list(percents)
    moved = [i for i, (line, _) in enumerate(pairs) if exact[i] != line.percent]
    total = sum((exact[i] for i in moved), Decimal(0))
    if total % TENTH:
        return exact
    tidy = exact.copy()
    for i, percent in zip(moved, share_out([exact[i] for i in moved], TENTH), strict=True):
        tidy[i] = percent
    space = Space(after)
    was, now = (space.rungs(np.array([[float(p) for p in row]]), bench.room_c)[0] for row in (exact, tidy))
    return tidy if abs(now - was) < 0.1 and _within(limits or Limits(), after, tidy) else exact


def _within(limits: Limits, materials: list[Material], percents: Sequence[Decimal]) -> bool:
    """Return whether percents respect every range of a line and of a layer to the letter."""
    by_line = {m.slug: float(p) for m, p in zip(materials, percents, strict=True)}
    return all(low <= by_line[slug] <= high for slug, (low, high) in (limits.ranges or {}).items()) and all(
        low
        <= sum(p for m, p in zip(materials, map(float, percents), strict=True) if m.layer == layer)
        <= high
        for layer, (low, high) in (limits.layers or {}).items()
    )


@dataclass(frozen=True)
class Candidate:
    """A material that may stand in for a line: one for one, and at equal firmness."""

    material: Material
    note: str
    one_for_one: Proposal
    equal: Proposal
    changes: list[str]
    in_stock: bool

    @property
    def rung_one_for_one(self) -> float:
        """The rung that a one-for-one swap would give."""
        firmness = self.one_for_one.firmness
        return firmness.room.rung if firmness else 0.0


def candidates(
    version: Version,
    key: str,
    shelf: Shelf,
    bench: Bench,
    *,
    avoid: list[str],
    stock: set[str],
    costs: dict[str, Decimal],
) -> list[Candidate]:
    """Return what may replace a line, ranked by how little else must change for equal firmness.

    `costs` are those of a gram, where they are known.
    """
    pairs = lines_with_materials(version, shelf)
    here = next(i for i, (line, _) in enumerate(pairs) if line.key == key)
    old = pairs[here][1]
    used = {material.slug for _, material in pairs}
    rows = {row["to"]: row for row in read_table("swaps") if row["from"] == old.slug}
    notes = {slug: row["factor_or_note"] for slug, row in rows.items()}
    known = [slug for slug in notes if slug in shelf]
    alike = [slug for slug, m in shelf.items() if m.group == old.group and slug not in known]
    stocked_first = sorted(alike, key=lambda slug: slug not in stock)
    chosen = [
        shelf[slug]
        for slug in [*known, *stocked_first]
        if slug not in used and not shelf[slug].has_any(avoid) and not shelf[slug].is_wet
    ][:MOST_CANDIDATES]
    today = Today(version, pairs, bench, costs)
    found = [_candidate(today, here, new, notes.get(new.slug, ""), stock) for new in chosen]
    return sorted(
        found, key=lambda c: (c.equal.solution is None or c.equal.solution.status != "met", c.equal.moved)
    )


class Today:
    """A version as it is today, which every candidate is held against."""

    def __init__(
        self,
        version: Version,
        pairs: list[tuple[Line, Material]],
        bench: Bench,
        costs: dict[str, Decimal],
    ) -> None:
        self.version, self.pairs, self.bench, self.costs = version, pairs, bench, costs
        parts = [(material, float(line.percent)) for line, material in pairs]
        self.firmness = firmness_of(parts, version.formula, bench)
        self.rung = self.firmness.room.rung if self.firmness else 0.0
        self.melt = skin_melt(self.firmness.blended, bench.room_c) if self.firmness else 0.0
        self.cost = self.cost_of([(material, line.percent) for line, material in pairs])

    def cost_of(self, lines: list[tuple[Material, Decimal]]) -> Decimal | None:
        """Return the cost of 100 g, where the cost of every material is known."""
        if any(material.slug not in self.costs for material, percent in lines if percent):
            return None
        return sum((self.costs[m.slug] * percent for m, percent in lines if percent), Decimal(0))


def _candidate(today: Today, here: int, new: Material, note: str, stock: set[str]) -> Candidate:
    version, pairs, bench = today.version, today.pairs, today.bench
    old = pairs[here][1]
    after = [new if i == here else material for i, (_, material) in enumerate(pairs)]
    plain = [
        ProposedLine(line.key, before, now, line.percent, line.percent)
        for (line, before), now in zip(pairs, after, strict=True)
    ]
    parts = [(line.shown, float(line.now)) for line in plain]
    one = Proposal(plain, firmness_of(parts, version.formula, bench, overrun=version.overrun), None)
    locked = frozenset(
        m.slug for (line, _), m in zip(pairs, after, strict=True) if line.is_locked or m.layer not in MOVED
    ) - {new.slug}
    solution = solve(
        [(m, float(line.percent)) for (line, _), m in zip(pairs, after, strict=True)],
        Target(today.rung, bench.room_c),
        Limits(locked),
    )
    equal = proposal_of(version, pairs, after, solution, bench)
    return Candidate(new, note, one, equal, _changes(today, old, new, equal), new.slug in stock)


def _changes(today: Today, old: Material, new: Material, equal: Proposal) -> list[str]:
    """Say what else a swap at equal firmness changes: allergens, feel, melt, scent, cost."""
    found = [f"brings {a.replace('_', ' ')}" for a in new.allergens if a not in old.allergens]
    found += [f"without {a.replace('_', ' ')}" for a in old.allergens if a not in new.allergens]
    if new.skin_feel != old.skin_feel and new.skin_feel:
        found.append(f"feels {new.skin_feel} instead of {old.skin_feel or 'unknown'}")
    if (new.slug in OWN_SCENT) != (old.slug in OWN_SCENT):
        found.append("smells of itself" if new.slug in OWN_SCENT else "no scent of its own")
    if equal.solution and abs(equal.solution.skin_melt - today.melt) >= 0.02:
        share = f"{100 * equal.solution.skin_melt:.0f} % melts on skin, not {100 * today.melt:.0f} %"
        found.append(share)
    flow, was = (f.flow_c if f else None for f in (equal.firmness, today.firmness))
    if flow is not None and was is not None and abs(flow - was) >= 1.0:
        unit = today.bench.temperature_unit
        found.append(f"flows at {temp(round(flow), unit)}, not {temp(round(was), unit)}")
    cost = today.cost_of([(line.shown, line.now) for line in equal.lines])
    if cost is not None and today.cost is not None:
        found.append(f"100 g cost {cost:.2f}, not {today.cost:.2f}")
    if new.basis == "estimated":
        found.append("estimated: wider band")
    return found


@dataclass(frozen=True)
class WorkedFormula:
    """A complete formula to start from, as the page shows it."""

    starter: Starter
    firmness: Firmness | None
    section: TinSection
    cost_100_g: Decimal | None

    @property
    def token(self) -> str:
        """Its lines in one field of a form."""
        return ";".join(f"{material.slug}:{percent}" for material, percent in self.starter.lines)


def read_lines(text: str) -> list[tuple[str, Decimal]]:
    """Return the lines that a worked formula's token says; refuse anything else."""
    found = []
    for part in text.split(";"):
        slug, _, percent = part.partition(":")
        found.append((slug, read_number(percent, name="The percentage", high=100.0, unit="%")))
    return found


def worked_formulas(
    shelf: Shelf,
    bench: Bench,
    *,
    kind_slug: str,
    avoid: list[str],
    place: str,
    stock: set[str],
    costs: dict[str, Decimal],
) -> list[WorkedFormula]:
    """Return three worked formulas for the answers, each with its pictures and cost.

    The cost of 100 g is told only where every material has a lot with a price.
    """
    kind = kinds()[kind_slug]
    hot_c = {"hot": bench.hot_c, "room": bench.room_c, "cold": bench.room_c}.get(place)
    at_c = bench.cold_c if place == "cold" else bench.room_c
    found = []
    for starter in starters(shelf, kind, avoid=avoid, stock=frozenset(stock), at_c=at_c, hot_c=hot_c):
        lines = starter.lines
        parts = [(material, float(percent)) for material, percent in lines]
        prices = [costs[m.slug] * p for m, p in lines if m.slug in costs]
        section = tin_section(
            [(m.slug, m.label, m.layer, float(p)) for m, p in lines], width=220.0, height=220.0
        )
        found.append(
            WorkedFormula(
                starter=starter,
                firmness=firmness_of(parts, Formula(kind=kind_slug), bench),
                section=section,
                cost_100_g=sum(prices, Decimal(0)) if len(prices) == len(lines) else None,
            )
        )
    return found


TRIO_STEPS = 40
TRIO_BOXES = ("wax", "butter", "oil")

# Apps above this one add the pours of a formula (see pours.apps).
mark_sources: list[Callable[[Formula, Shelf], list[Mark]]] = []


@dataclass(frozen=True)
class TrioView:
    """The trio map of a version, and what moving to a point of it would mean."""

    map: TrioMap
    boxes: dict[str, str]
    problem: str
    proposal: Proposal | None
    table: list[tuple[int, list[float | None]]]


def trio_view(version: Version, shelf: Shelf, bench: Bench, typed: Mapping[str, str]) -> TrioView:
    """Return the map and, where three shares were typed, the formula rescaled to them."""
    pairs = lines_with_materials(version, shelf)
    held = frozenset(material.slug for line, material in pairs if line.is_locked)
    trio = trio_of([(material, float(line.percent)) for line, material in pairs], held=held)
    here: tuple[float, float, float] = (float(trio.here[0]), float(trio.here[1]), float(trio.here[2]))
    boxes = {
        name: typed.get(name, f"{100 * share:.1f}") for name, share in zip(TRIO_BOXES, here, strict=True)
    }
    proposal, problem = None, ""
    if any(name in typed for name in TRIO_BOXES):
        try:
            proposal = _rescaled(version, pairs, trio, bench, boxes, held)
            shares = [float(read_number(boxes[name], name=name, high=100.0)) for name in TRIO_BOXES]
            here = (shares[0] / sum(shares), shares[1] / sum(shares), shares[2] / sum(shares))
        except CalmTinError as refused:
            problem = refused.sentence
    rungs = to_rungs(trio_yield_values(trio, triangle(TRIO_STEPS), bench.room_c))
    marks = [mark for source in mark_sources for mark in source(version.formula, shelf)]
    kind = version.formula.kind_facts
    picture = trio_map(TRIO_STEPS, [float(r) for r in rungs], here=here, target=kind.target, marks=marks)
    return TrioView(picture, boxes, problem, proposal, _trio_table(trio, bench))


def _trio_table(trio: Trio, bench: Bench) -> list[tuple[int, list[float | None]]]:
    """Return rungs by wax (rows) and oils (columns) in tenths of the three groups."""
    rows: list[tuple[int, list[float | None]]] = []
    for wax in range(0, 70, 10):
        points = [(wax / 100.0, 1.0 - (wax + oil) / 100.0, oil / 100.0) for oil in range(0, 110, 20)]
        inside = np.array([point if point[1] >= -1e-9 else (1.0, 0.0, 0.0) for point in points])
        rungs = to_rungs(trio_yield_values(trio, np.clip(inside, 0.0, 1.0), bench.room_c))
        rows.append(
            (wax, [float(r) if p[1] >= -1e-9 else None for p, r in zip(points, rungs, strict=True)])
        )
    return rows


def _rescaled(
    version: Version,
    pairs: list[tuple[Line, Material]],
    trio: Trio,
    bench: Bench,
    boxes: dict[str, str],
    held: frozenset[str],
) -> Proposal:
    """Return the formula with its groups rescaled to the shares in `boxes`."""
    shares = [read_number(boxes[name], name="The share", high=100.0, unit="%") for name in TRIO_BOXES]
    whole = sum(shares, Decimal(0))
    if whole <= 0:
        raise CalmTinError("The three shares are all 0. Give at least one of them more.", field="wax")
    percents = [line.percent for line, _ in pairs]
    free = [i for i, (_, m) in enumerate(pairs) if m.layer in MOVED and m.slug not in held]
    total = sum((percents[i] for i in free), Decimal(0))
    now = dict(enumerate(percents))
    for corner, share in zip(CORNERS, shares, strict=True):
        members = [i for i in free if pairs[i][1].layer in corner]
        was = sum((percents[i] for i in members), Decimal(0))
        wanted = total * share / whole
        if was == 0:
            if wanted > Decimal("0.05"):
                raise CalmTinError(
                    f"There is no {corner[0].replace('_', ' ')} in this formula yet. Add one first.",
                    field="wax",
                )
            continue
        for i in members:
            now[i] = percents[i] * wanted / was
    exact = [now[i] for i in range(len(pairs))]
    exact[free[-1]] += Decimal(100) - sum(exact, Decimal(0))
    tidy = _tidied(pairs, [m for _, m in pairs], share_out(exact, Decimal("0.001")), bench)
    lines = [
        ProposedLine(line.key, m, m, line.percent, p) for (line, m), p in zip(pairs, tidy, strict=True)
    ]
    parts = [(line.shown, float(line.now)) for line in lines]
    return Proposal(lines, firmness_of(parts, version.formula, bench, overrun=version.overrun), None)
