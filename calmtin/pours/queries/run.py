"""The run sheet of a pour with its progress and clock."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from decimal import Decimal

from django.utils import timezone
from django.utils.translation import gettext, gettext_noop

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.cautions.case import Caution
from calmtin.core.cautions.ceilings import Headroom, headroom_g
from calmtin.core.data.loader import ceilings, scent_facts
from calmtin.core.engine.firmness import rung_at
from calmtin.core.engine.ladder import rung_word
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Message, Words, said
from calmtin.core.process.cooling import Forecast, cooling_from, forecast
from calmtin.core.process.route import ALWAYS, OwnStep, arranged
from calmtin.core.process.run_sheet import AT_THE_SCALE, BATH, Batch, Step, done_wrong, run_sheet, wait_for
from calmtin.formulas.queries.scents import about_in_words, drops_in
from calmtin.pantry.queries.lots import left_of
from calmtin.pictures.clock import PourClock, pour_clock
from calmtin.pours.adapters import (
    actual_parts,
    batch_of,
    newest_marks,
    newest_reading,
    now_of,
    overrun_of,
    own_route,
    sheet_of,
)
from calmtin.pours.adapters.closed import closing_of
from calmtin.pours.models import Check, PotAddition, Pour, PourFinishPart, StepDone
from calmtin.pours.queries.clocks import Running, clocks_of
from calmtin.pours.queries.record import weighed_cautions

STILL_TRUE = timedelta(minutes=10)  # for so long a reading tells where the pot is
SET_NEAR_C = 1.0
THUMB_OFF = 0.8  # rungs by which a thumb may be off
FILLS = ("late", "scent", "test", "finish", "fill")  # what comes between the melt and the last tin
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
class Felt:
    """What went into the pot beside its sheet, and what percentage of it is in there now."""

    addition: PotAddition
    material: Material
    percent: float


@dataclass(frozen=True)
class FinishRow:
    """A part of the current finish: target and actual weight."""

    part: PourFinishPart
    material: Material
    actual_g: Decimal | None
    after: int
    about: str


@dataclass(frozen=True)
class SetTest:
    """A drop tested before pouring: felt firmness, and the prediction there."""

    check: Check
    words: str
    rung: float | None
    told: str


@dataclass(frozen=True)
class RunView:
    """The run sheet of a pour: readings, clocks, additions by feel, and the forecast.

    `wait` says what to wait for before the next step, `wrong` what a step that was done too hot or
    too cold asks for, `is_setting` that the pot goes solid before it was filled.
    `may_add` offers what is added by feel, `rooms` how much more of each scent fits; `cautions` is
    what the pot now needs said that the formula did not; `is_back` that it went back to the bath and
    was not measured since.
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
    may_add: list[tuple[str, list[tuple[str, str]]]]
    rooms: list[tuple[Material, Headroom, float]]
    cautions: list[Caution]
    is_back: bool
    wait: Words
    wrong: list[Words]
    is_setting: bool
    room_c: float | None
    finish_rows: list[FinishRow]
    set_tests: list[SetTest]
    spoons: list[Material]
    sets: bool

    @property
    def may_go_back(self) -> bool:
        """Whether it can still be put back into the bath: melted, and not filled yet."""
        step = self.next_step.step if self.next_step else None
        return self.sets and step is not None and step.key.partition("-")[0] in FILLS


def run_view(pour: Pour, shelf: Shelf, bench: Bench, now: datetime | None = None) -> RunView:
    """Return the current step of a pour, the steps done, and the cooling forecast."""
    now = now or now_of(pour)
    batch = batch_of(pour, shelf)
    newest = newest_marks(pour)
    steps: list[StepView] = []
    waiting = True
    for step in sheet_of(pour, batch):
        done = newest.get(step.key)
        done = done if done is not None and done.is_done else None
        if step.key in AT_THE_SCALE and done is None and not pour.is_weighing:
            done = StepDone(pour=pour, key=step.key, at=weighed_at(pour))
        is_next = waiting and done is None
        waiting = waiting and not is_next
        due = None
        if is_next and step.minutes:
            due = (now + timedelta(minutes=step.minutes[0]), now + timedelta(minutes=step.minutes[1]))
        steps.append(StepView(step, done, is_next, due))
    in_pot = [reading for reading in pour.readings.all() if reading.place == "pot"]
    in_room = [reading.temp_c for reading in pour.readings.all() if reading.place == "room"]
    room_c = in_room[-1] if in_room else None
    readings = [(reading.at, reading.temp_c) for reading in in_pot]
    following = next((step for step in steps if step.is_next), None)
    latest = _at_hand(readings, now)
    heated = newest.get(BATH)
    cooling = [reading for reading in readings if heated is None or reading[0] >= heated.at]
    clock, ahead = _clock(batch, steps, cooling, bench, now, bench.room_c if room_c is None else room_c)
    parts = actual_parts(pour, shelf)
    return RunView(
        pour,
        now,
        steps,
        following,
        readings[-1][1] if readings else None,
        clock,
        ahead,
        clocks_of(pour, {view.step.key: view.step.title for view in steps}),
        _felt(pour, shelf, parts),
        may_add(pour, shelf),
        _rooms(pour, parts) if not pour.is_weighing else [],
        [] if pour.is_weighing else weighed_cautions(pour, shelf, bench),
        heated is not None and not cooling,
        wait_for(following.step, latest) if following and latest is not None else "",
        _wrong(steps, readings, pour),
        _is_setting(batch, following, readings, latest),
        room_c,
        _finish_rows(pour, shelf, following),
        _set_tests(pour, shelf),
        [m for m, _ in following.step.materials] if following and following.step.key == "powder" else [],
        batch.route == "pour" and batch.set_c is not None,
    )


def weighed_at(pour: Pour) -> datetime:
    """Return when the weigh sheet of a pour was closed, which may be before it was poured."""
    closing, poured_at = closing_of(pour), pour.poured_at or pour.started_at
    return min(closing.at, poured_at) if closing else poured_at


def _at_hand(readings: Sequence[tuple[datetime, float]], at: datetime) -> float | None:
    """Return what the thermometer said last before `at`, C, if that was minutes ago and not hours."""
    before = [(when, temp_c) for when, temp_c in readings if when <= at]
    return before[-1][1] if before and at - before[-1][0] <= STILL_TRUE else None


def _wrong(steps: list[StepView], readings: Sequence[tuple[datetime, float]], pour: Pour) -> list[Words]:
    """Return what the last step outside its window asks for, until something was added by feel."""
    told: list[Words] = []
    for view in steps:
        if view.done is None or not view.done.pk:
            continue
        temp_c = _at_hand(readings, view.done.at)
        words = done_wrong(view.step, temp_c) if temp_c is not None else ""
        saved = any(a.by_feel and a.at > view.done.at for a in pour.additions.all())
        if words and not saved:
            told.append(Message("{step}. {words}", step=view.step.title, words=words))
    return told[-1:]


def _is_setting(
    batch: Batch,
    following: StepView | None,
    readings: Sequence[tuple[datetime, float]],
    latest: float | None,
) -> bool:
    """Return whether a pot that was clear is at its set point before it was filled."""
    if batch.route != "pour" or batch.set_c is None or latest is None or following is None:
        return False
    was_clear = any(temp_c > batch.set_c + SET_NEAR_C for _, temp_c in readings)
    waits = following.step.key.partition("-")[0] in FILLS
    return was_clear and waits and latest <= batch.set_c + SET_NEAR_C


def _finish_rows(pour: Pour, shelf: Shelf, following: StepView | None) -> list[FinishRow]:
    if following is None or not following.step.key.startswith("finish-"):
        return []
    name = following.step.finish
    parts = [part for part in pour.finish_parts.all() if part.finish == name]
    filled_g = sum((f.each_g * f.count for f in pour.fillings.all() if f.finish == name), Decimal(0))
    base_g = filled_g / (1 + sum(part.percent for part in parts) / 100)
    rows = []
    for part in parts:
        newest = newest_reading(part)
        material = shelf[part.material]
        grams = newest.grams if newest else None
        about = about_in_words(material, float(base_g * part.percent / 100))
        rows.append(FinishRow(part, material, grams, newest.pk if newest else 0, about))
    return rows


def _set_tests(pour: Pour, shelf: Shelf) -> list[SetTest]:
    """Return the set tests, each compared with the prediction."""
    tried = [check for check in pour.checks.all() if check.set_test and check.felt_rung is not None]
    if not tried:
        return []
    parts, overrun = actual_parts(pour, shelf), overrun_of(pour)
    found = []
    for check in tried:
        rung = rung_at(parts, check.temp_c, overrun=overrun)
        off = None if rung is None else float(check.felt_rung or 0) - rung
        told = gettext("As predicted.")
        if off is not None and abs(off) > THUMB_OFF:
            told = said(
                gettext_noop("{off:.1f} firmer than predicted there.")
                if off > 0
                else gettext_noop("{off:.1f} softer than predicted there."),
                off=abs(off),
            )
        found.append(SetTest(check, rung_word(float(check.felt_rung or 0)), rung, told))
    return found


def _rooms(pour: Pour, parts: Sequence[tuple[Material, float]]) -> list[tuple[Material, Headroom, float]]:
    """Return how much more of each scent of the sheet the pot takes: grams and drops, and what stops it."""
    formula = pour.version.formula
    facts, ceiling = scent_facts(), ceilings()[formula.audience]
    found = []
    for material, _ in parts:
        room = headroom_g(parts, material, facts, ceiling, sees_sun=formula.sees_sun)
        if room is not None:
            found.append((material, room, drops_in(material, room.grams)[0]))
    return found


def title_of(pour: Pour, shelf: Shelf, key: str) -> str:
    """Return the title of a step on a pour's sheet; empty if it is not on it."""
    return next((step.title for step in sheet_of(pour, batch_of(pour, shelf)) if step.key == key), "")


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


def may_add(pour: Pour, shelf: Shelf) -> list[tuple[str, list[tuple[str, str]]]]:
    """Return the materials that may be added by feel once the sheet is closed, in groups.

    First what is in the pot, scents before all, then what is in stock, then all other materials.
    """
    if pour.is_weighing or pour.called_off_at is not None:
        return []

    def usual(material: Material) -> tuple[int, str]:
        group = material.group
        return (BY_FEEL.index(group) if group in BY_FEEL else len(BY_FEEL), material.label)

    inside = {line.material for line in pour.lines.all()} | {a.material for a in pour.additions.all()}
    stocked = {slug for slug, grams in left_of(pour.owner).items() if grams > 0 and slug in shelf} - inside
    others = set(shelf) - inside - stocked
    groups = (
        (gettext("in this pot"), inside),
        (gettext("in stock"), stocked),
        (gettext("other materials"), others),
    )
    return [
        (words, [(m.slug, m.label) for m in sorted((shelf[slug] for slug in slugs), key=usual)])
        for words, slugs in groups
        if slugs
    ]


def _felt(pour: Pour, shelf: Shelf, masses: Sequence[tuple[Material, float]]) -> list[Felt]:
    parts = {material.slug: grams for material, grams in masses}
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
    room_c: float,
) -> tuple[PourClock | None, list[Ahead]]:
    """Return the clock since the pot was last heated, and when it will be at what matters."""
    if not readings:
        return None, []
    hottest = cooling_from([temp_c for _, temp_c in readings])
    start = readings[hottest][0]
    cooling = [((at - start) / timedelta(minutes=1), temp_c) for at, temp_c in readings[hottest:]]
    grams = sum(mass for _, mass in batch.parts)
    # Where it sets the temperature stands, so that Newton's law holds above only.
    above = [r for r in cooling if batch.set_c is None or r[1] > batch.set_c + SET_NEAR_C] or cooling[:1]
    try:
        told = forecast(above, room_c=room_c, mass_g=grams)
    except CalmTinError:
        return None, []
    by_key = {view.step.key: view.step for view in steps}
    scent, fill = by_key.get("scent"), by_key.get("fill")
    wanted = _merged(scent.high_c if scent else None, fill.low_c if fill else None)
    ahead = [
        Ahead(name, temp_c, *(start + timedelta(minutes=m) for m in minutes))
        for name, temp_c in wanted
        if temp_c < readings[-1][1] and (minutes := told.minutes_to(temp_c)) is not None
    ]
    return _picture(told, cooling, wanted, scent, bench, start, now, ahead), ahead


def _merged(scent_c: float | None, pour_c: float | None) -> list[tuple[str, float]]:
    """Return the relevant temperatures with their names; equal ones are merged."""
    if scent_c is not None and pour_c is not None and scent_c - pour_c < SET_NEAR_C:
        return [(gettext("add scent, then pour by"), pour_c)]
    marks = [(gettext("add scent from"), scent_c), (gettext("pour by"), pour_c)]
    return [(name, temp_c) for name, temp_c in marks if temp_c is not None]


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
    words = [
        said(
            "{name} {temp_c} about {hour}",
            name=a.name,
            temp_c=temp(round(a.temp_c), unit),
            hour=_hour(a.at),
        )
        for a in ahead
    ]
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
        summary="; ".join(words) or gettext("the pot as it cools"),
        clock=ticks,
    )


def _hour(at: datetime) -> str:
    return f"{timezone.localtime(at):%H:%M}"
