"""What the pantry has to say today."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils import timezone

from calmtin.core.materials import Material, Shelf
from calmtin.pantry.models import Infusion
from calmtin.pantry.queries.lots import LotView, in_stock
from calmtin.pantry.queries.making import JobView, open_jobs

MOST_LOTS = 6


@dataclass(frozen=True)
class PantryToday:
    """What the pantry has to say today."""

    jobs: list[JobView]
    expiring: list[tuple[LotView, Material]]
    low: list[tuple[LotView, Material]]
    more: int  # lots that go off or run low beside those


def infusions_of(user: Any) -> list[Infusion]:
    """Return all infusions that a maker made, with the lots that came of them."""
    return list(Infusion.objects.of(user).select_related("lot"))


def pantry_today(user: Any, shelf: Shelf, now: datetime, infusions: Iterable[Infusion]) -> PantryToday:
    """Return the infusions and renderings that want something, lots that go off and lots that run low."""
    today = timezone.localdate(now)
    lots = [(view, shelf[view.lot.material]) for view in in_stock(user, today)]
    expiring = [pair for pair in lots if pair[0].is_late or pair[0].is_soon]
    low = [pair for pair in lots if pair[0].is_low]
    return PantryToday(
        jobs=[job for job in open_jobs(user, shelf, infusions, now) if job.wants],
        expiring=expiring[:MOST_LOTS],
        low=low[:MOST_LOTS],
        more=sum(max(len(found) - MOST_LOTS, 0) for found in (expiring, low)),
    )
