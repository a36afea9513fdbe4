"""The trio map of a version, and what moving its point would mean."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from calmtin.accounts.models import Bench
from calmtin.common.registry import Sources
from calmtin.core.engine.firmness_map import Trio, triangle, trio_of, trio_yield_values
from calmtin.core.engine.ladder import to_rungs
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Shelf
from calmtin.core.messages import digits, notation_in_force
from calmtin.core.units import read_number
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.proposals.proposal import Proposal
from calmtin.formulas.proposals.rescale import TRIO_BOXES, rescaled
from calmtin.pictures.firmness_map import Mark, TrioMap, trio_map

TRIO_STEPS = 40

# Apps above this one add the pours of a formula (see pours.apps).
mark_sources: Sources[Callable[[Formula, Shelf], list[Mark]]] = Sources()


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
    composition = composition_of(version, shelf)
    held = frozenset(part.material.slug for part in composition if part.is_locked)
    trio = trio_of(composition.masses, held=held, prior=bench.prior)
    here: tuple[float, float, float] = (float(trio.here[0]), float(trio.here[1]), float(trio.here[2]))
    boxes = {
        name: typed.get(name, digits(100 * share, ".1f"))
        for name, share in zip(TRIO_BOXES, here, strict=True)
    }
    proposal, problem = None, ""
    if any(name in typed for name in TRIO_BOXES):
        try:
            proposal = rescaled(version, composition, bench, boxes, held)
            notation = notation_in_force()
            shares = [
                float(read_number(boxes[name], name=name, high=100.0, notation=notation))
                for name in TRIO_BOXES
            ]
            here = (shares[0] / sum(shares), shares[1] / sum(shares), shares[2] / sum(shares))
        except CalmTinError as refused:
            problem = str(refused)
    rungs = to_rungs(trio_yield_values(trio, triangle(TRIO_STEPS), bench.room_c, overrun=version.overrun))
    marks = [mark for source in mark_sources for mark in source(version.formula, shelf)]
    kind = version.formula.kind_facts
    picture = trio_map(TRIO_STEPS, [float(r) for r in rungs], here=here, target=kind.target, marks=marks)
    return TrioView(picture, boxes, problem, proposal, _trio_table(trio, bench, version.overrun))


def _trio_table(trio: Trio, bench: Bench, overrun: float) -> list[tuple[int, list[float | None]]]:
    """Return rungs by wax (rows) and oils (columns) in tenths of the three groups."""
    rows: list[tuple[int, list[float | None]]] = []
    for wax in range(0, 70, 10):
        points = [(wax / 100.0, 1.0 - (wax + oil) / 100.0, oil / 100.0) for oil in range(0, 110, 20)]
        inside = np.array([point if point[1] >= -1e-9 else (1.0, 0.0, 0.0) for point in points])
        rungs = to_rungs(trio_yield_values(trio, np.clip(inside, 0.0, 1.0), bench.room_c, overrun=overrun))
        rows.append(
            (wax, [float(r) if p[1] >= -1e-9 else None for p, r in zip(points, rungs, strict=True)])
        )
    return rows
