"""What may stand in for a line, one for one and at equal firmness, and what else that changes."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.cautions.shelf import ANTIOXIDANTS
from calmtin.core.composition import Composition
from calmtin.core.data.loader import read_table
from calmtin.core.engine.feel import OWN_SCENT
from calmtin.core.engine.firmness import skin_melt
from calmtin.core.materials import Material, Shelf
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Stop, never, solve
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import (
    MOVED,
    Proposal,
    as_proposal,
    changed_lines,
    proposal_of,
)
from calmtin.formulas.queries.readings import firmness_of
from calmtin.pantry.queries.lots import cost_of_100_g


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
    stop: Stop = never,
) -> list[Candidate]:
    """Return what may replace a line, ranked by how little else must change for equal firmness.

    `costs` are those of a gram, where they are known.
    """
    composition = composition_of(version, shelf)
    old = composition[key].material
    used = {material.slug for material in composition.materials}
    chosen = stand_ins(old, shelf, avoid=avoid, used=used, stock=stock)
    notes = {row["to"]: row["factor_or_note"] for row in read_table("swaps") if row["from"] == old.slug}
    today = Today(version, composition, bench, costs)
    found = [_candidate(today, key, new, notes.get(new.slug, ""), stock, stop) for new in chosen]
    return sorted(found, key=lambda c: (not c.equal.is_met, c.equal.moved))


def stand_ins(
    old: Material, shelf: Shelf, *, avoid: list[str], used: set[str], stock: set[str]
) -> list[Material]:
    """Return what may stand in for a material: known swaps, then its group, each with stock first."""
    known = [row["to"] for row in read_table("swaps") if row["from"] == old.slug and row["to"] in shelf]
    alike = [slug for slug, material in shelf.items() if material.group == old.group and slug not in known]
    ranked = [shelf[s] for slugs in (known, alike) for s in sorted(slugs, key=lambda s: s not in stock)]
    fit = [m for m in ranked if m.slug not in used and not m.has_any(avoid) and not m.is_wet]
    # Some of the group guard nothing, such as the acetate of vitamin E.
    return [m for m in fit if m.slug in ANTIOXIDANTS] if old.slug in ANTIOXIDANTS else fit


class Today:
    """A version as it is today, which every candidate is held against."""

    def __init__(
        self,
        version: Version,
        composition: Composition,
        bench: Bench,
        costs: dict[str, Decimal],
    ) -> None:
        self.version, self.composition, self.bench, self.costs = version, composition, bench, costs
        self.firmness = firmness_of(composition.masses, version.formula, bench, overrun=composition.overrun)
        self.rung = self.firmness.room.rung if self.firmness else 0.0
        self.melt = skin_melt(self.firmness.blended, bench.room_c) if self.firmness else 0.0
        self.cost = self.cost_of([(part.material, part.percent) for part in composition])

    def cost_of(self, lines: list[tuple[Material, Decimal]]) -> Decimal | None:
        """Return the cost of 100 g of the lines that have any weight, where it is known."""
        return cost_of_100_g(self.costs, [(m.slug, percent) for m, percent in lines if percent])


def _candidate(today: Today, key: str, new: Material, note: str, stock: set[str], stop: Stop) -> Candidate:
    version, composition, bench = today.version, today.composition, today.bench
    after = [new if part.key == key else part.material for part in composition]
    one = as_proposal(version, changed_lines(composition, after, composition.percents), bench)
    held = frozenset(
        material.slug
        for part, material in zip(composition, after, strict=True)
        if part.is_locked or material.layer not in MOVED
    ) - {new.slug}
    solution = solve(
        [(m, float(p)) for m, p in zip(after, composition.percents, strict=True)],
        Target(today.rung, bench.room_c, overrun=composition.overrun),
        Limits(held=held),
        stop=stop,
    )
    equal = proposal_of(version, composition, after, solution, bench)
    changes = _changes(today, composition[key].material, new, equal)
    return Candidate(new, note, one, equal, changes, new.slug in stock)


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
