"""The least change that meets a target."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from calmtin.accounts.models import Bench
from calmtin.core.materials import Shelf
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import Stop, never, solve
from calmtin.formulas.adapters import lines_with_materials
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
    pairs = lines_with_materials(version, shelf)
    ranges = {material.slug: spans[line.key] for line, material in pairs if line.key in spans}
    layers = {layer: spans[layer] for layer in MOVED if layer in spans}
    locked = frozenset(material.slug for line, material in pairs if line.is_locked)
    held = frozenset(
        material.slug
        for _, material in pairs
        if material.layer not in MOVED and material.slug not in ranges
    )
    parts = [(material, float(line.percent)) for line, material in pairs]
    limits = Limits(locked, {s: r for s, r in ranges.items() if s not in locked}, layers, held - locked)
    target = replace(target, overrun=version.overrun)
    solution = solve(parts, target, limits, stop=stop, with_ways_out=with_ways_out)
    return proposal_of(version, pairs, [m for _, m in pairs], solution, bench, limits)
