"""A pour's run sheet with what is done, and its clock."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.cautions.case import Caution
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.process.cooling import Forecast, cooling_from, forecast
from calmtin.core.process.route import ALWAYS, OwnStep, arranged
from calmtin.core.process.run_sheet import BATH, Batch, Step, run_sheet
from calmtin.pantry.queries.lots import left_of
from calmtin.pictures.clock import PourClock, pour_clock
from calmtin.pours.adapters import actual_parts, batch_of, own_route, sheet_of
from calmtin.pours.models import PotAddition, Pour, StepDone
from calmtin.pours.queries.record import weighed_cautions

LEAST_MINUTES = 20.0
POINTS = 40
BY_FEEL = ("scent", "powder", "colour", "antioxidant", "other")


@dataclass(frozen=True)
class StepView:
    """A step with when it was done, if it was; `due` is about when it will be."""

    step: Step
    done: StepDone | None
    is_next: bool
    due: tuple[datetime, datetime] | None


@dataclass(frozen=True)
class Ahead:
    """A temperature that matters and when the pot comes to it: as expected, and the 80 % band."""

    name: str
    temp_c: float
    at: datetime
    low: datetime
    high: datetime


@dataclass(frozen=True)
class Running:
    """A step's clock that runs, or rings until it is stopped."""

    key: str
    title: str
    rings_at: datetime


@dataclass(frozen=True)
class Felt:
    """What went into the pot beside its sheet, and what percentage of it is in there now."""

    addition: PotAddition
    material: Material
    percent: float


@dataclass(frozen=True)
class RunView:
    """The run sheet of a pour, its readings, its clocks, what was added by feel and what lies ahead.

    `may_add` offers what is added by feel; `cautions` is what the pot now needs said that the
    formula did not; `is_back` that it went back to the bath and was not measured since.
    """

    pour: Pour
    now: datetime
    steps: list[StepView]
    next_step: StepView | None
    last_c: float | None
    clock: PourClock | None
    ahead: list[Ahead]
    timers: list[Running]
    felt: list[Felt]
    may_add: list[tuple[str, str]]
    cautions: list[Caution]
    is_back: bool


def run_view(pour: Pour, shelf: Shelf, bench: Bench, now: datetime | None = None) -> RunView:
    """Return what to do now on a pour, what is done, and when the pot will be where."""
    now = now or timezone.now()
    batch = batch_of(pour, shelf)
    newest: dict[str, StepDone] = {done.key: done for done in pour.steps_done.all()}
    steps: list[StepView] = []
    waiting = True
    for step in sheet_of(pour, batch):
        done = newest.get(step.key)
        done = done if done is not None and done.is_done else None
        if step.key == "weigh" and done is None and not pour.is_weighing:
            done = StepDone(pour=pour, key="weigh", at=pour.poured_at or pour.started_at)
        is_next = waiting and done is None
        waiting = waiting and not is_next
        due = None
        if is_next and step.minutes:
            due = (now + timedelta(minutes=step.minutes[0]), now + timedelta(minutes=step.minutes[1]))
        steps.append(StepView(step, done, is_next, due))
    readings = [(reading.at, reading.temp_c) for reading in pour.readings.all()]
    heated = newest.get(BATH)
    cooling = [reading for reading in readings if heated is None or reading[0] >= heated.at]
    clock, ahead = _clock(batch, steps, cooling, bench, now)
    return RunView(
        pour,
        now,
        steps,
        next((step for step in steps if step.is_next), None),
        readings[-1][1] if readings else None,
        clock,
        ahead,
        _running(pour, steps),
        _felt(pour, shelf),
        may_add(pour, shelf),
        [] if pour.is_weighing else weighed_cautions(pour, shelf, bench),
        heated is not None and not cooling,
    )


def title_of(pour: Pour, shelf: Shelf, key: str) -> str:
    """Return what a pour's sheet calls a step; nothing for what is not on it."""
    return next((step.title for step in sheet_of(pour, batch_of(pour, shelf)) if step.key == key), "")


@dataclass(frozen=True)
class RouteStep:
    """A step on the page where a maker arranges them, with the title that it has by itself."""

    own: OwnStep
    usual: str
    may_skip: bool

    @property
    def title(self) -> str:
        """What it is called."""
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


def _running(pour: Pour, steps: list[StepView]) -> list[Running]:
    """Return the clocks that run: of steps that were not done since, the first to ring first."""
    newest = {timer.key: timer for timer in pour.timers.all()}
    titles = {view.step.key: view.step.title for view in steps}
    done = {view.step.key: view.done.at for view in steps if view.done and view.done.pk}
    running = [
        Running(key, titles.get(key, key), timer.rings_at)
        for key, timer in newest.items()
        if timer.rings_at is not None and not (key in done and done[key] >= timer.at)
    ]
    return sorted(running, key=lambda timer: timer.rings_at)


def may_add(pour: Pour, shelf: Shelf) -> list[tuple[str, str]]:
    """Return what may go in by feel once the sheet is closed: scents first."""
    if pour.is_weighing or pour.called_off_at is not None:
        return []
    slugs = [line.material for line in pour.lines.all()]
    slugs += [slug for slug, grams in left_of(pour.owner).items() if grams > 0 and slug in shelf]
    chosen = [shelf[slug] for slug in dict.fromkeys(slugs)]
    felt = [material for material in chosen if material.group in BY_FEEL]
    return [(m.slug, m.label) for m in sorted(felt, key=lambda m: BY_FEEL.index(m.group))]


def _felt(pour: Pour, shelf: Shelf) -> list[Felt]:
    parts = {material.slug: grams for material, grams in actual_parts(pour, shelf)}
    whole = sum(parts.values()) or 1.0
    return [
        Felt(addition, shelf[addition.material], 100.0 * parts[addition.material] / whole)
        for addition in pour.additions.all()
        if addition.by_feel
    ]


def _clock(
    batch: Batch,
    steps: list[StepView],
    readings: list[tuple[datetime, float]],
    bench: Bench,
    now: datetime,
) -> tuple[PourClock | None, list[Ahead]]:
    """Return the clock since the pot was last heated, and when it will be at what matters."""
    if not readings:
        return None, []
    hottest = cooling_from([temp_c for _, temp_c in readings])
    start = readings[hottest][0]
    cooling = [((at - start) / timedelta(minutes=1), temp_c) for at, temp_c in readings[hottest:]]
    grams = sum(mass for _, mass in batch.parts)
    try:
        told = forecast(cooling, room_c=bench.room_c, mass_g=grams)
    except CalmTinError:
        return None, []
    by_key = {view.step.key: view.step for view in steps}
    scent, fill = by_key.get("scent"), by_key.get("fill")
    marks = [("scent from", scent.high_c if scent else None), ("pour by", fill.low_c if fill else None)]
    wanted = [(name, temp_c) for name, temp_c in marks if temp_c is not None]
    ahead = [
        Ahead(name, temp_c, *(start + timedelta(minutes=m) for m in minutes))
        for name, temp_c in wanted
        if (minutes := told.minutes_to(temp_c)) is not None
    ]
    return _picture(told, cooling, wanted, scent, bench, start, now, ahead), ahead


def _picture(
    told: Forecast,
    cooling: list[tuple[float, float]],
    wanted: list[tuple[str, float]],
    scent: Step | None,
    bench: Bench,
    start: datetime,
    now: datetime,
    ahead: list[Ahead],
) -> PourClock:
    passed = max((now - start) / timedelta(minutes=1), cooling[-1][0])
    last = max((told.minutes_to(temp_c) or (0.0, 0.0, 0.0))[2] for _, temp_c in wanted) if wanted else 0.0
    horizon = max(LEAST_MINUTES, passed * 1.1, last * 1.15)
    curve = []
    for n in range(POINTS + 1):
        minute = horizon * n / POINTS
        at = float(told.temp_c(minute))
        # The band in time, turned into one in temperature by the slope of the law.
        span = told.minutes_to(at) if n else None
        low, high = at, at
        if span is not None and span[0] > 0:
            low = float(told.temp_c(minute * span[2] / span[0]))
            high = float(told.temp_c(minute * span[1] / span[0]))
        curve.append((minute, at, min(low, high), max(low, high)))
    unit = bench.temperature_unit
    words = [f"{a.name} {temp(round(a.temp_c), unit)} about {_hour(a.at)}" for a in ahead]
    ticks = [(m, _hour(start + timedelta(minutes=m))) for m in (0.0, horizon / 2, horizon)]
    window = (scent.low_c, scent.high_c) if scent and scent.low_c and scent.high_c else None
    return pour_clock(
        cooling,
        curve,
        window=window if window and window[0] < window[1] else None,
        marks=[(temp_c, f"{name} {temp(round(temp_c), unit)}") for name, temp_c in wanted],
        lowest_c=bench.room_c,
        highest_c=max(t for _, t in cooling) + 5.0,
        horizon=horizon,
        now=passed,
        summary="; ".join(words) or "the pot as it cools",
        clock=ticks,
    )


def _hour(at: datetime) -> str:
    return f"{timezone.localtime(at):%H:%M}"
