"""Cautions about the contents of a pot, by the rules for its formula."""

from __future__ import annotations

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.materials import Shelf
from calmtin.formulas.queries.formula import cautions_for, told_at_once
from calmtin.pours.adapters.filled import parts_by_finish
from calmtin.pours.models import Pour


def cautions_of_pour(pour: Pour, shelf: Shelf, bench: Bench) -> list[Caution]:
    """Return the stop and think cautions about a pot and each of its finishes."""
    found: dict[tuple[str, str, str], Caution] = {}
    for parts in parts_by_finish(pour, shelf).values():
        total = sum(mass for _, mass in parts) or 1.0
        percents = [(material, round(100.0 * mass / total, 4)) for material, mass in parts]
        for caution in told_at_once(cautions_for(percents, pour.version, bench, batch_g=pour.batch_g)):
            found.setdefault((caution.key, caution.material, caution.level), caution)
    return list(found.values())
