"""Jobs before the pot: rendering comb, clarifying a butter, infusing an oil. Steps and clocks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from enum import StrEnum
from types import MappingProxyType

from calmtin.core.messages import Message, Words, gettext_noop, said
from calmtin.core.quantities import Temperature

INFUSED_MONTHS = 12  # that an infused oil keeps at most, facts/materials.csv
SHAKE_EVERY = timedelta(days=3)
WARM_C = 45.0
MONTH = timedelta(days=30)


class Job(StrEnum):
    """What is made."""

    COMB = "comb"
    BUTTER = "butter"
    WARM = "warm"
    COLD = "cold"


@dataclass(frozen=True, slots=True)
class MakingStep:
    """A step of a job: what to do, `after` how long it asks for attention, and when it is done.

    `after` counts from the step before it, or from the start; `every` is for one that comes again.
    """

    key: str
    title: str
    words: Words
    done_when: Words = ""
    after: timedelta = timedelta(0)
    every: timedelta | None = None

    @property
    def name(self) -> str:
        """Its title on pages."""
        return said(self.title)


HOURS = timedelta(hours=1)
MINUTES = timedelta(minutes=1)
_BOIL = (
    MakingStep(
        "boil",
        gettext_noop("Melt it in water"),
        gettext_noop(
            "Cover the comb with soft water, add a pinch of salt, and warm it until all the wax floats. "
            "Keep it below a boil: boiling wax foams over."
        ),
        gettext_noop("Nothing solid floats any more."),
    ),
    MakingStep(
        "strain",
        gettext_noop("Strain it"),
        gettext_noop(
            "Pour it through a cloth into a clean pot that you keep for wax, and press the cloth while it "
            "is hot."
        ),
        gettext_noop("The cloth holds cocoons and dirt only."),
        after=30 * MINUTES,
    ),
    MakingStep(
        "scrape",
        gettext_noop("Lift the cake and scrape it"),
        gettext_noop("Lift the wax off the water and scrape the brown layer off its underside."),
        gettext_noop("The underside is as light as the top."),
        after=10 * HOURS,
    ),
    MakingStep(
        "wash", gettext_noop("Wash the cake"), gettext_noop("Rinse it under cold water and wipe it dry.")
    ),
    MakingStep(
        "melt_again",
        gettext_noop("Melt and strain it again"),
        gettext_noop(
            "Melt it in a water bath, without water in the pot, and pour it through a fine cloth."
        ),
        gettext_noop("It is clear, with nothing at the bottom."),
    ),
    MakingStep(
        "dry",
        gettext_noop("Let it set and dry"),
        gettext_noop("Leave it uncovered until it is cold and no drop of water is left on it."),
        gettext_noop("It is dry all over, also underneath."),
        after=4 * HOURS,
    ),
)
_CLARIFY = (
    MakingStep(
        "melt",
        gettext_noop("Melt it gently"),
        gettext_noop("Melt it in a water bath until it is liquid, and no hotter than it needs to be."),
        gettext_noop("Only grit and foam are left that don’t melt."),
    ),
    MakingStep(
        "skim",
        gettext_noop("Skim off the foam"),
        gettext_noop("Take the foam off with a spoon. It holds water and protein."),
        after=20 * MINUTES,
    ),
    MakingStep(
        "strain",
        gettext_noop("Strain it"),
        gettext_noop(
            "Let it stand until the grit has sunk, then pour it through a fine cloth. Leave the last of "
            "it behind."
        ),
        gettext_noop("It is clear, with no drop of water at the bottom."),
        after=10 * MINUTES,
    ),
    MakingStep(
        "cool",
        gettext_noop("Chill it"),
        gettext_noop("Cool it fast in the fridge, so that it doesn’t grain."),
        gettext_noop("It is firm all the way through."),
        after=2 * HOURS,
    ),
)
_WARM = (
    MakingStep(
        "warm",
        gettext_noop("Keep it warm"),
        Message(
            "Keep the jar in a water bath or a slow oven at about {warm} for four hours.",
            warm=Temperature(WARM_C),
        ),
        gettext_noop("The oil has taken the colour and the smell of the herb."),
        after=4 * HOURS,
    ),
)
_COLD = (
    MakingStep(
        "shake",
        gettext_noop("Shake it"),
        gettext_noop("Turn the jar over a few times. Push down what sticks out of the oil."),
        after=SHAKE_EVERY,
        every=SHAKE_EVERY,
    ),
)
STEPS: Mapping[Job, tuple[MakingStep, ...]] = MappingProxyType(
    {Job.COMB: _BOIL, Job.BUTTER: _CLARIFY, Job.WARM: _WARM, Job.COLD: _COLD}
)


@dataclass(frozen=True, slots=True)
class Next:
    """The step that is next, and from when it can be done."""

    step: MakingStep
    ready_at: datetime


def next_step(job: Job, done: Sequence[tuple[str, datetime]], started_at: datetime) -> Next | None:
    """Return the next step of a job; None once only the weighing is left.

    `done` are the steps that were done, by key and time, in any order.

    >>> noon = datetime(2026, 5, 1, 12, 0)
    >>> found = next_step(Job.COMB, [("boil", noon), ("strain", noon)], noon)
    >>> found.step.key, found.ready_at.hour
    ('scrape', 22)
    >>> next_step(Job.WARM, [("warm", noon)], noon) is None
    True
    """
    at = dict(done)
    before = started_at
    for step in STEPS[job]:
        if step.key not in at:
            return Next(step, before + step.after)
        before = at[step.key]
        if step.every is not None:
            return Next(step, before + step.every)
    return None


def infused_best_before(
    job: Job, *, started_on: date, strained_on: date, oil: date | None, oil_months: float | None
) -> date:
    """Return until when a strained oil keeps: as its oil does, and a year at most.

    A cold infusion has stood in the room for weeks, so its year counts from its start. `oil` is the
    best-before of the oil that went in, `oil_months` how long an opened bottle of it keeps where
    that is not known. Source: facts/materials.csv, row infused_oil.

    >>> day = date(2026, 5, 1)
    >>> until = infused_best_before(Job.WARM, started_on=day, strained_on=day, oil=None, oil_months=12.0)
    >>> until.isoformat()
    '2027-04-26'
    """
    begun = started_on if job == Job.COLD else strained_on
    known = [begun + INFUSED_MONTHS * MONTH]
    if oil is not None:
        known.append(oil)
    elif oil_months:
        known.append(begun + oil_months * MONTH)
    return min(known)
