"""Cautions that must be acknowledged before pouring or printing."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from decimal import Decimal
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.formulas.models import Version
from calmtin.formulas.queries.formula import cautions_for, reasons_of


class StopFirst(CalmTinError):
    """A caution says stop, and the maker has not yet said why they go on."""

    def __init__(self, stops: list[Caution]) -> None:
        titles = "; ".join(str(stop.title) for stop in stops)
        super().__init__(
            said(
                "Stop: {titles}. Read the caution and give your reason to go on, or change the formula.",
                titles=titles,
            ),
            field="stop",
        )
        self.stops = stops


def open_stops(
    version: Version, parts: Iterable[tuple[Material, float]], bench: Bench, **case: Any
) -> list[Caution]:
    """Return the stops about `parts` (materials and masses) for a version's audience, not acknowledged yet.

    `case` is what `cautions_for` takes besides.
    """
    masses = [(material, mass) for material, mass in parts if mass > 0]
    total = sum(mass for _, mass in masses)
    if not total:
        return []
    percents = [(material, round(100.0 * mass / total, 4)) for material, mass in masses]
    stops = [
        caution for caution in cautions_for(percents, version, bench, **case) if caution.level == "stop"
    ]
    reasons = reasons_of(version.formula) if stops else {}
    return [stop for stop in stops if not reasons.get((stop.key, stop.material, "stop"))]


def with_finishes(
    masses: Sequence[tuple[Material, float]], finishes: Iterable[Iterable[tuple[Material, Decimal]]]
) -> Iterator[list[tuple[Material, float]]]:
    """Yield a pot as it is, then with each finish in it, whose parts are % of the whole pot."""
    yield list(masses)
    whole = sum(mass for _, mass in masses)
    for parts in finishes:
        if on_top := [(material, whole * float(percent) / 100.0) for material, percent in parts]:
            yield [*masses, *on_top]


def refuse_open_stops(
    version: Version, parts: Iterable[tuple[Material, float]], bench: Bench, **case: Any
) -> None:
    """Raise `StopFirst` where a stop about `parts` was not acknowledged."""
    if stops := open_stops(version, parts, bench, **case):
        raise StopFirst(stops)
