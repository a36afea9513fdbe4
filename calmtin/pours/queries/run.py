"""The run sheet of a pour with its progress and clock."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.cautions.ceilings import Headroom
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Message, Words
from calmtin.core.process.off_window import done_wrong, wait_for
from calmtin.core.process.steps import AT_THE_SCALE, BATH, Batch, Step
from calmtin.core.process.tincture import Drying
from calmtin.core.process.weighing import MELTS_IN
from calmtin.formulas.queries.scents import about_in_words
from calmtin.pictures.clock import PourClock
from calmtin.pours.adapters import (
    actual_parts,
    batch_of,
    drying_of,
    newest_marks,
    newest_reading,
    now_of,
    sheet_of,
)
from calmtin.pours.adapters.closed import closing_of
from calmtin.pours.models import Pour, PourFinishPart, StepDone
from calmtin.pours.queries.by_feel import Felt, felt_of, may_add, rooms_of
from calmtin.pours.queries.clocks import Running, clocks_of
from calmtin.pours.queries.cooling_clock import SET_NEAR_C, Ahead, cooling_clock
from calmtin.pours.queries.record import weighed_cautions
from calmtin.pours.queries.set_tests import SetTest, set_tests_of

STILL_TRUE = timedelta(minutes=10)  # for so long a reading tells where the pot is
FILLS = ("late", "scent", "test", "finish", "fill")  # what comes between the melt and the last tin


@dataclass(frozen=True)
class StepView:
    """A step with when it was done, if it was; `due` is about when it will be."""

    step: Step
    done: StepDone | None
    is_next: bool
    due: tuple[datetime, datetime] | None


@dataclass(frozen=True)
class FinishRow:
    """A part of the current finish: target and actual weight."""

    part: PourFinishPart
    material: Material
    actual_g: Decimal | None
    after: int
    about: str


@dataclass(frozen=True)
class RunView:
    """The run sheet of a pour: readings, clocks, additions by feel, and the forecast.

    `wait` says what to wait for before the next step, `wrong` what a step that was done too hot or
    too cold asks for, `is_setting` that the pot goes solid before it was filled.
    `drying` is how far a tincture was boiled down, `other_melting` the way to melt that it could have.
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
    drying: Drying | None
    other_melting: str

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
    clock, ahead = cooling_clock(
        batch,
        [view.step for view in steps],
        cooling,
        bench,
        now,
        bench.room_c if room_c is None else room_c,
    )
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
        felt_of(pour, shelf, parts),
        may_add(pour, shelf),
        rooms_of(pour, parts) if not pour.is_weighing else [],
        [] if pour.is_weighing else weighed_cautions(pour, shelf, bench),
        heated is not None and not cooling,
        wait_for(following.step, latest) if following and latest is not None else "",
        _wrong(steps, readings, pour),
        _is_setting(batch, following, readings, latest),
        room_c,
        _finish_rows(pour, shelf, following),
        set_tests_of(pour, shelf),
        [m for m, _ in following.step.materials] if following and following.step.key == "powder" else [],
        batch.route == "pour" and batch.set_c is not None,
        drying_of(pour),
        _other_melting(batch, following),
    )


def _other_melting(batch: Batch, following: StepView | None) -> str:
    """Return the other way to melt a pot of which nothing is melted yet; empty where there is none."""
    if following is None or following.step.key not in ("ready", "weigh", "wet", "melt_wax", "melt_all"):
        return ""
    if batch.route == "cold_whip" or len({m.layer for m, _ in batch.parts if m.group in MELTS_IN}) < 2:
        return ""
    return "staged" if batch.melting == "together" else "together"


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


def title_of(pour: Pour, shelf: Shelf, key: str) -> str:
    """Return the title of a step on a pour's sheet; empty if it is not on it."""
    return next((step.title for step in sheet_of(pour, batch_of(pour, shelf)) if step.key == key), "")
