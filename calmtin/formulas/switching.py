"""Whole-formula switches: without something, or with as much of a lot as the firmness allows."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from itertools import islice, product

from calmtin.accounts.models import Bench
from calmtin.core.data.loader import read_table
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.targets import Limits, Solution, Target, solve
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Line, Version
from calmtin.formulas.queries import firmness_of
from calmtin.formulas.solving import MOVED, Proposal, ProposedLine, proposal_of

# Each line's first few stand-ins are tried together; more than that is a page that waits.
MOST_STAND_INS, MOST_TRIES = 3, 9
LOT_STEPS = 7


def flags_in(version: Version, shelf: Shelf, flags: list[str]) -> list[str]:
    """Return which of the avoid-list's `flags` a version has."""
    materials = [material for _, material in lines_with_materials(version, shelf)]
    return [flag for flag in flags if any(material.has_any([flag]) for material in materials)]


def without(version: Version, shelf: Shelf, bench: Bench, flag: str, stock: set[str]) -> Proposal:
    """Return the version without `flag`, at equal firmness where that can be had.

    Every line that has it gets a stand-in, or goes where there is none; of the
    first stand-ins of each line, tried together, the least change wins.
    """
    pairs = lines_with_materials(version, shelf)
    marked = [i for i, (_, material) in enumerate(pairs) if material.has_any([flag])]
    if not marked:
        raise CalmTinError("There is nothing of that in this formula.", field="flag")
    used = {material.slug for _, material in pairs}
    offers = [_stand_ins(pairs[i][1], shelf, flag, used, stock) for i in marked]
    found = []
    for chosen in islice(product(*offers), MOST_TRIES):
        slugs = [material.slug for material in chosen if material]
        if len(set(slugs)) == len(slugs):
            found.append(_replaced(version, pairs, dict(zip(marked, chosen, strict=True)), bench))
    if not found:
        raise CalmTinError("Too much of this formula has it; start a new one instead.", field="flag")
    return min(found, key=lambda p: (p.solution is None or p.solution.status != "met", p.moved))


def _stand_ins(
    old: Material, shelf: Shelf, flag: str, used: set[str], stock: set[str]
) -> list[Material | None]:
    """Return what may stand in for a material: known swaps first, then its group; None if nothing can."""
    known = [row["to"] for row in read_table("swaps") if row["from"] == old.slug and row["to"] in shelf]
    alike = [slug for slug, material in shelf.items() if material.group == old.group and slug not in known]
    ranked = [*sorted(known, key=lambda s: s not in stock), *sorted(alike, key=lambda s: s not in stock)]
    fit = [
        shelf[slug]
        for slug in ranked
        if slug not in used and not shelf[slug].has_any([flag]) and not shelf[slug].is_wet
    ]
    return list(fit[:MOST_STAND_INS]) if fit and old.group not in ("scent", "powder", "colour") else [None]


def _replaced(
    version: Version,
    pairs: list[tuple[Line, Material]],
    stand_ins: dict[int, Material | None],
    bench: Bench,
) -> Proposal:
    kept = [i for i in range(len(pairs)) if stand_ins.get(i, pairs[i][1]) is not None]
    after = [stand_ins.get(i) or pairs[i][1] for i in kept]
    if not after:
        raise CalmTinError("Nothing would be left of this formula.", field="flag")
    gone = sum((line.percent for i, (line, _) in enumerate(pairs) if i not in kept), Decimal(0))
    percents = [pairs[i][0].percent for i in kept]
    largest = max(range(len(kept)), key=lambda n: (after[n].layer == "oil", percents[n]))
    percents[largest] += gone
    locked = frozenset(
        m.slug
        for i, m in zip(kept, after, strict=True)
        if i not in stand_ins and (pairs[i][0].is_locked or m.layer not in MOVED)
    )
    solution = _solved(version, pairs, after, percents, locked, bench, {})
    proposal = proposal_of(version, [pairs[i] for i in kept], after, solution, bench)
    lost = [
        ProposedLine(line.key, material, None, line.percent, Decimal(0))
        for i, (line, material) in enumerate(pairs)
        if i not in kept
    ]
    return replace(proposal, lines=[*proposal.lines, *lost])


def _solved(
    version: Version,
    pairs: list[tuple[Line, Material]],
    after: list[Material],
    percents: list[Decimal],
    locked: frozenset[str],
    bench: Bench,
    ranges: dict[str, tuple[float, float]],
) -> Solution:
    """Solve for the firmness that the version has today, starting from `after` at `percents`."""
    today = firmness_of([(m, float(line.percent)) for line, m in pairs], version.formula, bench)
    parts = [(m, float(p)) for m, p in zip(after, percents, strict=True)]
    return solve(parts, Target(today.room.rung if today else 0.0, bench.room_c), Limits(locked, ranges))


def use_up(version: Version, shelf: Shelf, bench: Bench, slug: str, left_g: Decimal) -> Proposal:
    """Return the version with as much of a lot as its batch and its firmness allow.

    All of `left_g` (g) if the firmness can be held with it; else the most that can.
    """
    pairs = lines_with_materials(version, shelf)
    after = [material for _, material in pairs]
    keys = [material.slug for material in after]
    is_new = slug not in keys
    if is_new:
        after.append(shelf[slug])
    most = min(float(100 * left_g / version.batch_g), 100.0)
    here = keys.index(slug) if not is_new else len(keys)
    locked = frozenset(
        m.slug
        for (line, m) in pairs
        if m.slug != slug and (line.is_locked or (m.layer not in MOVED and m.slug != slug))
    )
    now = 0.0 if is_new else float(pairs[here][0].percent)

    def attempt(share: float) -> Solution | None:
        percents = [line.percent for line, _ in pairs] + ([Decimal(0)] if is_new else [])
        try:
            return _solved(version, pairs, after, percents, locked, bench, {slug: (share, share)})
        except CalmTinError:
            return None

    def is_met(solution: Solution | None) -> bool:
        return solution is not None and solution.status == "met"

    best = attempt(most)
    if not is_met(best) and most > now:
        low, high = now, most
        for _ in range(LOT_STEPS):
            middle = (low + high) / 2.0
            tried = attempt(middle)
            if is_met(tried):
                low, best = middle, tried
            else:
                high = middle
    if best is None:
        raise CalmTinError("The locked lines leave no room for it. Unlock one first.", field="lot")
    rows = [*pairs, (Line(version=version, key="+", material=slug, percent=Decimal(0)), shelf[slug])]
    return proposal_of(version, rows if is_new else pairs, after, best, bench)
