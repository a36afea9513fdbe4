"""What happened on pour day, with times and temperatures."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.utils.translation import gettext

from calmtin.core.engine.ladder import rung_word
from calmtin.core.materials import Shelf
from calmtin.core.messages import said
from calmtin.core.process.run_sheet import run_sheet
from calmtin.core.process.steps import BATH
from calmtin.pours.adapters import (
    batch_of,
)
from calmtin.pours.models import (
    Pour,
)


@dataclass(frozen=True)
class Event:
    """Something that happened on pour day: a step with its note, or what the thermometer said."""

    at: datetime
    what: str
    note: str
    temp_c: float | None = None


def events_of(pour: Pour, shelf: Shelf) -> list[Event]:
    """Return the events of a pour with their times and temperatures, oldest first."""
    done_steps = [done for done in pour.steps_done.all() if done.is_done]
    names = {BATH: gettext("Back to the bath")}
    if not all(done.title or done.key == BATH for done in done_steps):
        # Done before the sheet kept what it called a step.
        names |= {step.key: step.title for step in run_sheet(batch_of(pour, shelf))}
    steps = [Event(done.at, done.title or names.get(done.key, done.key), done.note) for done in done_steps]
    readings = [
        Event(reading.at, reading.get_place_display(), "", reading.temp_c)
        for reading in pour.readings.all()
    ]
    tests = [
        Event(
            c.made_at,
            said(
                "A drop {get_set_test_display}: {rung_word}",
                get_set_test_display=c.get_set_test_display(),
                rung_word=rung_word(float(c.felt_rung)),
            ),
            "",
            c.temp_c,
        )
        for c in pour.checks.all()
        if c.set_test and c.felt_rung is not None
    ]
    return sorted([*steps, *readings, *tests], key=lambda event: event.at)
