"""Substitutes for a line, one for one and at equal firmness, with their side effects."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.core.cautions.shelf import ANTIOXIDANTS
from calmtin.core.data.loader import read_table
from calmtin.core.data.marked import marked
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Words
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Stop, never, solve
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.changes import Today, changes_of
from calmtin.formulas.proposals.proposal import (
    MOVED,
    Proposal,
    as_proposal,
    changed_lines,
    proposal_of,
)

EQUAL = 0.05  # rungs from today's, as shown, below which the same number is shown
WELL_WITHIN = 0.02


@dataclass(frozen=True)
class Candidate:
    """A material that may stand in for a line: one for one, and at equal firmness.

    `factor` is how many times as much of it that takes, as computed; `lore` what makers
    say of the same swap, with their own factor.
    """

    material: Material
    lore: Words
    one_for_one: Proposal
    equal: Proposal
    is_equal: bool
    factor: float | None
    changes: list[str]
    in_stock: bool

    @property
    def short(self) -> str:
        """What changes, in one short line."""
        return ", ".join(self.changes[:2])

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
    """Return the substitutes for a line, ranked by how little else changes at equal firmness.

    `costs` are those of a gram, where they are known.
    """
    composition = composition_of(version, shelf)
    old = composition[key].material
    used = {material.slug for material in composition.materials}
    chosen = stand_ins(old, shelf, avoid=avoid, used=used, stock=stock)
    lore = {row["to"]: _lore(row) for row in read_table("swaps") if row["from"] == old.slug}
    today = Today(version, composition, bench, costs)
    found = [_candidate(today, key, new, lore.get(new.slug, ""), stock, stop) for new in chosen]
    return sorted(found, key=lambda c: (not c.is_equal, c.equal.moved))


def stand_ins(
    old: Material, shelf: Shelf, *, avoid: list[str], used: set[str], stock: set[str]
) -> list[Material]:
    """Return the substitutes for a material: known swaps, then its group, stock first."""
    known = [row["to"] for row in read_table("swaps") if row["from"] == old.slug and row["to"] in shelf]
    alike = [slug for slug, material in shelf.items() if material.group == old.group and slug not in known]
    ranked = [shelf[s] for slugs in (known, alike) for s in sorted(slugs, key=lambda s: s not in stock)]
    fit = [m for m in ranked if m.slug not in used and not m.has_any(avoid) and not m.is_wet]
    # Some of the group guard nothing, such as the acetate of vitamin E.
    return [m for m in fit if m.slug in ANTIOXIDANTS] if old.slug in ANTIOXIDANTS else fit


def _lore(row: Mapping[str, str]) -> Words:
    return marked(f"{row['factor_or_note'].replace(' x', ' ×')}. {row['what_changes']}")


def _candidate(
    today: Today, key: str, new: Material, lore: Words, stock: set[str], stop: Stop
) -> Candidate:
    version, composition, bench = today.version, today.composition, today.bench
    after = [new if part.key == key else part.material for part in composition]
    shown = round(today.rung, 1)
    # As near to today's as still shows the same number once it is rounded.
    wanted = min(max(today.rung, shown - WELL_WITHIN), shown + WELL_WITHIN)
    one = as_proposal(version, changed_lines(composition, after, composition.percents), bench)
    held = frozenset(
        material.slug
        for part, material in zip(composition, after, strict=True)
        if part.is_locked or material.layer not in MOVED
    ) - {new.slug}
    solution = solve(
        [(m, float(p)) for m, p in zip(after, composition.percents, strict=True)],
        Target(wanted, bench.room_c, overrun=composition.overrun, prior=bench.prior),
        Limits(held=held),
        stop=stop,
    )
    equal = proposal_of(version, composition, after, solution, bench)
    reads = equal.firmness.room.rung if equal.firmness else None
    was, now = (next(getattr(li, at) for li in equal.lines if li.key == key) for at in ("was", "now"))
    return Candidate(
        material=new,
        lore=lore,
        one_for_one=one,
        equal=equal,
        is_equal=equal.is_met and reads is not None and abs(reads - shown) < EQUAL,
        factor=float(now / was) if was else None,
        changes=changes_of(today, equal),
        in_stock=new.slug in stock,
    )
