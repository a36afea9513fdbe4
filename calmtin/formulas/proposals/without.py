"""Leave out or use up without something, at equal firmness where that can be had."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from itertools import islice, product

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.composition import Composition
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Stop, never, solve
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import MOVED, Proposal, ProposedLine, proposal_of
from calmtin.formulas.proposals.substitute import stand_ins
from calmtin.formulas.queries.readings import firmness_of

# Each line's first few stand-ins are tried together; more than that is a page that waits.
MOST_STAND_INS, MOST_TRIES = 3, 9


def flags_in(version: Version, shelf: Shelf, flags: list[str]) -> list[str]:
    """Return which of the avoid-list's `flags` a version has."""
    materials = composition_of(version, shelf).materials
    return [flag for flag in flags if any(material.has_any([flag]) for material in materials)]


def without(
    version: Version, shelf: Shelf, bench: Bench, flag: str, stock: set[str], *, stop: Stop = never
) -> Proposal:
    """Return the version without `flag`, at equal firmness where that can be had.

    Every line that has it gets a stand-in, or goes where there is none. The first
    stand-ins of each line are tried together: one within its usual range comes
    first, then one from the shelf, then the least change.
    """
    composition = composition_of(version, shelf)
    marked = [part for part in composition if part.material.has_any([flag])]
    if not marked:
        raise CalmTinError(gettext("The formula already contains none of that."), field="flag")
    used = {material.slug for material in composition.materials}
    offers: list[list[Material | None]] = []
    for part in marked:
        old = part.material
        fit = stand_ins(old, shelf, avoid=[flag], used=used, stock=stock)
        fit.sort(key=lambda material: material.slug not in stock)
        # A scent, a powder or a colour is there for its own sake: it goes.
        goes = not fit or old.group in ("scent", "powder", "colour")
        offers.append([None] if goes else list(fit[:MOST_STAND_INS]))
    wanted = rung_of(version, composition, bench)
    target = Target(wanted, bench.room_c, overrun=version.overrun, prior=bench.prior)
    found: list[tuple[tuple[bool, int, int, Decimal], Proposal]] = []
    for chosen in islice(product(*offers), MOST_TRIES):
        if found and stop():
            break
        slugs = [material.slug for material in chosen if material]
        if len(set(slugs)) == len(slugs):
            instead = dict(zip([part.key for part in marked], chosen, strict=True))
            proposal = _replaced(version, composition, instead, target, bench, stop)
            found.append((_cost_of_choice(proposal, slugs, stock), proposal))
    if not found:
        raise CalmTinError(
            gettext("Too much of this formula contains it; start a new formula instead."), field="flag"
        )
    return min(found, key=lambda pair: pair[0])[1]


def _cost_of_choice(
    proposal: Proposal, slugs: list[str], stock: set[str]
) -> tuple[bool, int, int, Decimal]:
    """Rank a proposal: not met, stand-ins above their usual range, not on the shelf, points moved."""
    new = [line for line in proposal.lines if line.after and line.after.slug in slugs]
    beyond = sum(float(li.now) > (li.shown.typical_high_pct or 100.0) for li in new)
    return not proposal.is_met, beyond, len(set(slugs) - stock), proposal.moved


def _replaced(
    version: Version,
    composition: Composition,
    instead: dict[str, Material | None],
    target: Target,
    bench: Bench,
    stop: Stop,
) -> Proposal:
    """Return the version with other materials for the parts in `instead`, those with None gone."""
    kept = [part for part in composition if instead.get(part.key, part.material) is not None]
    after = [instead.get(part.key) or part.material for part in kept]
    if not after:
        raise CalmTinError(
            gettext("Nothing would be left of this formula. Start a new one instead."), field="flag"
        )
    percents = [part.percent for part in kept]
    for n, (part, material) in enumerate(zip(kept, after, strict=True)):
        # What the solver leaves alone stays at no more than is usual for its stand-in.
        if part.key in instead and material.layer not in MOVED and material.typical_high_pct is not None:
            percents[n] = min(percents[n], Decimal(repr(material.typical_high_pct)))
    largest = max(range(len(kept)), key=lambda n: (after[n].layer == "oil", percents[n]))
    percents[largest] += composition.total - sum(percents, Decimal(0))
    held = frozenset(
        material.slug
        for part, material in zip(kept, after, strict=True)
        if material.layer not in MOVED or (part.key not in instead and part.is_locked)
    )
    parts = [(m, float(p)) for m, p in zip(after, percents, strict=True)]
    solution = solve(parts, target, Limits(held=held), stop=stop)
    staying = replace(composition, parts=tuple(kept))
    proposal = proposal_of(version, staying, after, solution, bench)
    lost = [
        ProposedLine(part.key, part.material, None, part.percent, Decimal(0))
        for part in composition
        if part not in kept
    ]
    return replace(proposal, lines=[*proposal.lines, *lost])


def rung_of(version: Version, composition: Composition, bench: Bench) -> float:
    """Return the rung that a version shows in the room today, to a tenth."""
    today = firmness_of(composition.masses, version.formula, bench, overrun=composition.overrun)
    return round(today.room.rung, 1) if today else 0.0
