"""The trio map of a version, and what moving its point would mean."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from calmtin.accounts.models import Bench
from calmtin.core.errors import CalmTinError
from calmtin.core.firmness import to_rungs
from calmtin.core.materials import Material, Shelf
from calmtin.core.trio import CORNERS, Trio, triangle, trio_of, trio_yield_values
from calmtin.core.units import read_number
from calmtin.core.weighing import share_out
from calmtin.formulas.adapters import lines_with_materials
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.readings import firmness_of
from calmtin.formulas.solving import MOVED, Proposal, ProposedLine, tidied
from calmtin.pictures.trio import Mark, TrioMap, trio_map

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
    tidy = tidied(pairs, [m for _, m in pairs], share_out(exact, Decimal("0.001")), bench)
    lines = [
        ProposedLine(line.key, m, m, line.percent, p) for (line, m), p in zip(pairs, tidy, strict=True)
    ]
    parts = [(line.shown, float(line.now)) for line in lines]
    return Proposal(
        version, lines, firmness_of(parts, version.formula, bench, overrun=version.overrun), None
    )
