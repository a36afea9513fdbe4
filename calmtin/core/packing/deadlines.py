"""From the day that pieces are needed back to the days of the work, with one pot on the bench.

A pour takes the bench for a day. Each is set as late as it can be and still be ready, so that what
is given away is fresh; where two want the same day the one with less room before it moves first.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from calmtin.core.messages import gettext_noop

DAY = timedelta(days=1)
SETTLES = 2  # days from pour to a look that can still stop it: set, cold, and felt again
SETTLES_GRAIN = 7  # grain shows within a week
COLD_INFUSION, WARM_INFUSION = 28, 1  # days in the oil

STEPS: dict[str, str] = {
    "infuse": gettext_noop("Start the infusion"),
    "buy": gettext_noop("Order missing ingredients"),
    "pour": gettext_noop("Pour"),
    "check": gettext_noop("Check and press test"),
    "label": gettext_noop("Label and pack"),
    "ready": gettext_noop("Ready"),
}


@dataclass(frozen=True, slots=True)
class Job:
    """A batch that is needed by a day: whether it has to be infused or bought for, and may grain.

    `poured_on` is the day it was poured, once it is; then only what comes after moves.
    """

    key: int
    needed_on: date
    infuses: bool = False
    buys: bool = False
    grains: bool = False
    poured_on: date | None = None


@dataclass(frozen=True, slots=True)
class Step:
    """A step of the way and its day."""

    slug: str
    on: date

    @property
    def name(self) -> str:
        """Its name on the page."""
        return STEPS[self.slug]


@dataclass(frozen=True, slots=True)
class Timeline:
    """The way of a job: its steps in order, and by how many days it will be late.

    `warm` says that only a warm infusion is quick enough, `hasty` that grain may show after the labels.
    """

    key: int
    steps: tuple[Step, ...]
    late_days: int = 0
    warm: bool = False
    hasty: bool = False

    def on(self, slug: str) -> date | None:
        """Return the day of a step; None where it is not on the way."""
        return next((step.on for step in self.steps if step.slug == slug), None)


@dataclass(frozen=True, slots=True)
class _Window:
    """When a job may be poured: not before `first`, and no later than `last` to be ready."""

    job: Job
    first: date
    last: date
    settles: int
    warm: bool


def timelines(
    jobs: Sequence[Job], today: date, *, buying_days: int = 7, taken: Collection[date] = ()
) -> dict[int, Timeline]:
    """Return the way of each job by its key; no two pour on one day, nor on one that is `taken`.

    A job that cannot be ready in time is poured as soon as it can be, and says by how many days it is
    late. If all can be in time, all are (the latest free day goes to the job with the least room before
    it: the rule of the earliest deadline, run backwards).
    """
    windows = [_window(job, today, buying_days) for job in jobs if job.poured_on is None]
    days = _days(windows, set(taken) | {job.poured_on for job in jobs if job.poured_on})
    found = {job.key: _poured(job) for job in jobs if job.poured_on is not None}
    for window in windows:
        found[window.job.key] = _timeline(window, days[window.job.key], today, buying_days)
    return found


def _window(job: Job, today: date, buying_days: int) -> _Window:
    """Return when a job may be poured; what cannot wait its full time is hurried first."""
    lead = buying_days if job.buys else 0
    wait = COLD_INFUSION if job.infuses else 0
    settles = SETTLES_GRAIN if job.grains else SETTLES
    room = (job.needed_on - DAY - today).days
    warm = job.infuses and lead + wait + settles > room
    if warm:
        wait = WARM_INFUSION
    if lead + wait + settles > room:
        settles = SETTLES
    last = job.needed_on - timedelta(days=settles + 1)
    return _Window(job, today + timedelta(days=lead + wait), last, settles, warm)


def _days(windows: Sequence[_Window], taken: set[date]) -> dict[int, date]:
    """Return the day of each pour."""
    found: dict[int, date] = {}
    waiting = [window for window in windows if window.first <= window.last]
    late = [window for window in windows if window.first > window.last]
    day = max((window.last for window in waiting), default=date.min)
    while waiting:
        open_now = [window for window in waiting if window.last >= day]
        if not open_now:
            day = max(window.last for window in waiting)
            continue
        pick = max(open_now, key=lambda window: (window.first, window.job.key))
        if day < pick.first:
            waiting.remove(pick)
            late.append(pick)
            continue
        if day not in taken:
            waiting.remove(pick)
            found[pick.job.key] = day
            taken.add(day)
        day -= DAY
    for window in sorted(late, key=lambda window: (window.last, window.job.key)):
        day = window.first
        while day in taken:
            day += DAY
        found[window.job.key] = day
        taken.add(day)
    return found


def _timeline(window: _Window, pour: date, today: date, buying_days: int) -> Timeline:
    job = window.job
    ready = pour + timedelta(days=window.settles + 1)
    late = max((ready - job.needed_on).days, 0)
    infusion = WARM_INFUSION if window.warm else COLD_INFUSION
    begins = pour - timedelta(days=infusion) if job.infuses else pour
    steps = [
        Step("buy", max(begins - timedelta(days=buying_days), today)) if job.buys else None,
        Step("infuse", begins) if job.infuses else None,
        Step("pour", pour),
        Step("check", pour + timedelta(days=window.settles)),
        Step("label", max(job.needed_on, ready) - DAY),
        Step("ready", max(job.needed_on, ready)),
    ]
    return Timeline(
        job.key,
        tuple(step for step in steps if step is not None),
        late,
        window.warm,
        job.grains and window.settles < SETTLES_GRAIN,
    )


def _poured(job: Job) -> Timeline:
    """Return the remaining steps after the pour."""
    assert job.poured_on is not None
    room = (job.needed_on - DAY - job.poured_on).days
    full = SETTLES_GRAIN if job.grains else SETTLES
    settles = full if room >= full else SETTLES
    ready = max(job.needed_on, job.poured_on + timedelta(days=settles + 1))
    return Timeline(
        job.key,
        (
            Step("pour", job.poured_on),
            Step("check", job.poured_on + timedelta(days=settles)),
            Step("label", ready - DAY),
            Step("ready", ready),
        ),
        (ready - job.needed_on).days,
        hasty=job.grains and settles < full,
    )
