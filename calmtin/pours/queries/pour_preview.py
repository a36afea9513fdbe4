"""One pour next to the list: firmness, feel, next check and cost."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.core.data.loader import kinds
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.core.process.checks import Look
from calmtin.formulas.queries.readings import AtTemperature, Firmness, Unpredicted, firmness_of
from calmtin.pantry.queries.lots import cost_of
from calmtin.pictures.ladder import Ladder, Pin, ladder
from calmtin.pours.adapters import IN_THE_POT, actual_parts, is_near_room, overrun_of, withdrawals_of
from calmtin.pours.adapters.closed import closing_of, costs_of_closing
from calmtin.pours.adapters.kept import reading_from
from calmtin.pours.models import Check, Pour
from calmtin.pours.queries.looks import poured_of
from calmtin.pours.queries.prefetching import read_along

SHOWN = (*IN_THE_POT, "checks")


@dataclass(frozen=True)
class BesideFirmness:
    """The firmness in the room that a closed pour keeps, and its ladder."""

    room: AtTemperature
    ladder: Ladder


@dataclass(frozen=True)
class Beside:
    """A pour next to the list: its firmness and feel, newest check, next one, cost."""

    pour: Pour
    firmness: Firmness | BesideFirmness | Unpredicted
    newest: Check | None
    next_look: tuple[Look, datetime] | None
    is_due: bool
    cost: Any
    currency: str | None


def beside_of(pour: Pour, shelf: Shelf, bench: Bench) -> Beside:
    """Return the preview of a pour that was fetched by `asking` for `SHOWN`."""
    read_along([pour], *SHOWN)
    checks = [check for check in pour.checks.all() if not check.set_test]
    pins = [
        Pin(float(c.felt_rung), c.verdict, said("felt {felt_rung}", felt_rung=c.felt_rung))
        for c in checks
        if c.felt_rung is not None and is_near_room(c, pour, bench.room_c)
    ]
    firmness = _firmness(pour, shelf, bench, pins)
    now = timezone.now()
    schedule = poured_of(pour).schedule if pour.poured_at and not pour.called_off_at else None
    due = schedule.due(now) if schedule else None
    return Beside(
        pour=pour,
        firmness=firmness,
        newest=checks[-1] if checks else None,
        next_look=due or (schedule.coming(now) if schedule else None),
        is_due=due is not None,
        cost=cost_of(withdrawals_of(pour), costs_of_closing(pour)).total,
        currency=closing.currency if (closing := closing_of(pour)) else None,
    )


def _firmness(
    pour: Pour, shelf: Shelf, bench: Bench, pins: list[Pin]
) -> Firmness | BesideFirmness | Unpredicted:
    """Return the firmness of a pour: as it was predicted when it was closed, or as it is by now."""
    closing = closing_of(pour)
    if closing is None:
        parts = actual_parts(pour, shelf)
        return firmness_of(parts, pour.version.formula, bench, overrun=overrun_of(pour), pins=pins)
    kept = reading_from(closing.made)
    if isinstance(kept, Unpredicted):
        return kept
    room, target = kept.room, kinds()[closing.kind].target
    return BesideFirmness(room, ladder(room.rung, room.low, room.high, target=target, pins=pins))
