"""The steps of a pour, as its maker arranges them."""

from __future__ import annotations

from dataclasses import dataclass, replace

from calmtin.core.materials import Shelf
from calmtin.core.process.route import ALWAYS, OwnStep, arranged
from calmtin.core.process.run_sheet import run_sheet
from calmtin.pours.adapters import (
    batch_of,
    own_route,
)
from calmtin.pours.models import Pour


@dataclass(frozen=True)
class RouteStep:
    """A step on the page where a maker arranges them, with the title that it has by itself."""

    own: OwnStep
    usual: str
    may_skip: bool

    @property
    def title(self) -> str:
        """Its title on the page."""
        return self.own.title or self.usual


@dataclass(frozen=True)
class RouteView:
    """A maker's route for a kind, as one pour of it shows it; `way` is how it is made."""

    pour: Pour
    way: str
    is_own: bool
    steps: list[RouteStep]


def route_view(pour: Pour, shelf: Shelf) -> RouteView:
    """Return the steps of a pour for arranging: also those that its maker leaves out."""
    batch = batch_of(pour, shelf)
    own = own_route(pour, batch.route)
    computed = run_sheet(batch)
    usual = {step.key: step.title for step in computed}
    mine = {step.key: step for step in own}
    shown = arranged(computed, [replace(step, is_skipped=False) for step in own])
    steps = [
        RouteStep(mine.get(s.key, OwnStep(s.key)), usual.get(s.key, s.title), s.key not in ALWAYS)
        for s in shown
    ]
    return RouteView(pour, batch.route, bool(own), steps)
