"""The stops that a page shows before anything is poured or printed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.formulas.queries.stops import open_stops, with_finishes


def stops_of(version: Version, shelf: Shelf, bench: Bench, shares: Iterable[Any] = ()) -> list[Caution]:
    """Return the stops about a version, and about the finishes of a plan, that were not acknowledged."""
    finishes = [[(dose.material, dose.percent) for dose in share.doses] for share in shares]
    found = {}
    for parts in with_finishes(composition_of(version, shelf).masses, finishes):
        for stop in open_stops(version, parts, bench):
            found[stop.key, stop.material] = stop
    return list(found.values())
