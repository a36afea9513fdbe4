"""The least change that meets a target."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from calmtin.accounts.models import Bench
from calmtin.core.engine.firmness import rung_at
from calmtin.core.materials import Shelf
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Stop, never, solve
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.proposals.proposal import MOVED, Proposal, Span, proposal_of


def propose_target(
    version: Version,
    shelf: Shelf,
    bench: Bench,
    target: Target,
    spans: Mapping[str, Span],
    *,
    stop: Stop = never,
    with_ways_out: bool = True,
) -> Proposal:
    """Return the least change that meets `target` within `spans`, percents by line key or by layer."""
    composition = composition_of(version, shelf)
    ranges = {part.material.slug: spans[part.key] for part in composition if part.key in spans}
    layers = {layer: spans[layer] for layer in MOVED if layer in spans}
    locked = frozenset(part.material.slug for part in composition if part.is_locked)
    held = frozenset(
        material.slug
        for material in composition.materials
        if material.layer not in MOVED and material.slug not in ranges
    )
    limits = Limits(locked, {s: r for s, r in ranges.items() if s not in locked}, layers, held - locked)
    target = replace(target, overrun=composition.overrun, prior=bench.prior)
    today = rung_at(composition.masses, target.at_c, overrun=composition.overrun, prior=bench.prior)
    if today is not None and f"{today:.1f}" == f"{target.rung:.1f}":
        # Asked for the number that it shows already: it is met as it is.
        target = replace(target, rung=today)
    solution = solve(composition.masses, target, limits, stop=stop, with_ways_out=with_ways_out)
    return proposal_of(version, composition, composition.materials, solution, bench, limits)
