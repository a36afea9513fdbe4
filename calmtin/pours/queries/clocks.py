"""The running clocks of a pour, on any of its pages."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from calmtin.core.materials import Shelf
from calmtin.pours.adapters import batch_of, newest_marks, sheet_of
from calmtin.pours.models import Pour


@dataclass(frozen=True)
class Running:
    """A step's clock that runs, or rings until it is stopped."""

    key: str
    title: str
    rings_at: datetime


def clocks_of(pour: Pour, titles: Mapping[str, str]) -> list[Running]:
    """Return the clocks that run: of steps that were not done since, the first to ring first."""
    newest = {timer.key: timer for timer in pour.timers.all()}
    last_done = newest_marks(pour)
    running = [
        Running(key, titles.get(key, key), timer.rings_at)
        for key, timer in newest.items()
        if timer.rings_at is not None
        and not (key in last_done and last_done[key].is_done and last_done[key].at >= timer.at)
    ]
    return sorted(running, key=lambda timer: timer.rings_at)


def clocks_at_scale(pour: Pour, shelf: Shelf) -> list[Running]:
    """Return the clocks that run while it is weighed; the sheet is worked out only where there are some."""
    if not any(timer.rings_at for timer in pour.timers.all()):
        return []
    return clocks_of(pour, {step.key: step.title for step in sheet_of(pour, batch_of(pour, shelf))})
