"""Rows of a simulated bench to its scale, its thermometer and its clock."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import cast

from django.utils import timezone

from calmtin.core.process.heat import Solids
from calmtin.devices.models import Stove
from calmtin.devices.simulated import (
    Act,
    Kind,
    Setup,
    SimulatedScale,
    SimulatedThermometer,
    pot_at,
    seconds_at,
    speed_of,
    where_is,
)

SECOND = timedelta(seconds=1)


class SimulatedBench:
    """A simulated stove with its devices at one moment; actions are recorded as they happen."""

    def __init__(self, stove: Stove, at: datetime | None = None):
        self.stove, self._at = stove, at or timezone.now()
        rows = list(stove.acts.all())
        self.acts = [Act(cast(Kind, row.kind), row.value, row.at_s) for row in rows]
        real = [(row.at - stove.started_at) / SECOND for row in rows]
        passed = (self._at - stove.started_at) / SECOND
        # A clock that was put back never makes what was done undone.
        self.now_s = max([seconds_at(self.acts, passed, real_at=real), *(act.at_s for act in self.acts)])
        self.setup = Setup(
            stove.seed, stove.step_g, stove.capacity_g, stove.room_c, Solids(tuple(stove.solids))
        )

    @property
    def now(self) -> datetime:
        """What its own clock says."""
        return self.stove.started_at + timedelta(seconds=self.now_s)

    @property
    def speed(self) -> float:
        """How many times faster than life it runs."""
        return speed_of(self.acts)

    @property
    def place(self) -> str:
        """Where the pot stands: bath, bench or fridge."""
        return where_is(self.acts)

    @property
    def pot_c(self) -> float:
        """How warm the pot truly is, C, whatever a thermometer reads."""
        return pot_at(self.setup, self.acts, self.now_s)

    @property
    def scale(self) -> SimulatedScale:
        """Its scale."""
        return SimulatedScale(self.setup, self.acts, self.now_s, self.do)

    @property
    def thermometer(self) -> SimulatedThermometer:
        """Its thermometer."""
        return SimulatedThermometer(self.setup, self.acts, self.now_s)

    def do(self, kind: Kind, value: float = 0.0) -> None:
        """Record an action now."""
        self.stove.acts.create(kind=kind, value=value, at_s=self.now_s, at=self._at)
        self.acts.append(Act(kind, value, self.now_s))
        if kind == "skip":
            self.now_s += value
