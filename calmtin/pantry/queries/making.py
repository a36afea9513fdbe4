"""Infusions and renderings with their steps: what was done, what is next, and from when."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, time
from decimal import Decimal
from statistics import median
from typing import Any
from urllib.parse import urlencode

from django.db.models import Q
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.common.numbers import CENT
from calmtin.core.materials import Shelf
from calmtin.core.messages import Message, said
from calmtin.core.process.making import STEPS, Job, MakingStep, next_step
from calmtin.core.quantities import Mass
from calmtin.pantry.models import Infusion, MakingMark, Rendering

INFUSED = "infused_oil"
LAST = 5  # renderings that say what the next one gives
USUAL_RECOVERED = Decimal("0.85")  # of the oil, where no infusion of the maker's own has said
USUAL_RATIO = Decimal(10)  # g of oil for a gram of dried herb
USUAL_OIL = "olive_oil"


@dataclass(frozen=True)
class StepView:
    """A step of a job: when it was done, and whether it can be done now."""

    step: MakingStep
    done_at: datetime | None
    is_next: bool
    ready_at: datetime | None

    @property
    def words(self) -> str:
        """What to do."""
        return said(str(self.step.words))

    @property
    def done_when(self) -> str:
        """By what it is done."""
        return said(str(self.step.done_when))


@dataclass(frozen=True)
class JobView:
    """An infusion or a rendering: its steps, and what it wants now; `wants` is empty while it waits."""

    row: Infusion | Rendering
    title: str
    address: str
    steps: list[StepView]
    wants: str
    since: datetime


def job_view(
    row: Infusion | Rendering, shelf: Shelf, marks: Iterable[MakingMark], now: datetime
) -> JobView:
    """Return a job at a time, with its `marks`."""
    is_infusion = isinstance(row, Infusion)
    job = Job(row.method if isinstance(row, Infusion) else row.kind)
    done = _standing(marks)
    day = row.started_on or timezone.localdate(now)
    started = done.pop("start", None) or timezone.make_aware(datetime.combine(day, time(12)))
    coming = None if row.lot_id else next_step(job, list(done.items()), started)
    steps = [
        StepView(
            step,
            done.get(step.key),
            coming is not None and step.key == coming.step.key,
            coming.ready_at if coming and step.key == coming.step.key else None,
        )
        for step in STEPS[job]
    ]
    wants, since = "", coming.ready_at if coming else max([started, *done.values()])
    if row.lot_id is None:
        if isinstance(row, Infusion) and row.due_on <= timezone.localdate(now):
            wants, since = gettext("Strain it"), timezone.make_aware(datetime.combine(row.due_on, time()))
        elif coming is None:
            wants = gettext("Strain it") if is_infusion else gettext("Weigh it")
        elif coming.ready_at <= now:
            wants = coming.step.name
    name = "pantry:infusion" if is_infusion else "pantry:rendering"
    return JobView(row, title_of(row, shelf), reverse(name, args=[row.pk]), steps, wants, since)


def _standing(marks: Iterable[MakingMark]) -> dict[str, datetime]:
    """Return when each step was done last, by its key; what was taken back goes back to the time before."""
    at: dict[str, list[datetime]] = defaultdict(list)
    for mark in sorted(marks, key=lambda mark: mark.pk):
        if mark.is_done:
            at[mark.key].append(mark.at)
        elif at[mark.key]:
            at[mark.key].pop()
    return {key: times[-1] for key, times in at.items() if times}


def title_of(row: Infusion | Rendering, shelf: Shelf) -> str:
    """Return what a job is called."""
    if isinstance(row, Infusion):
        return said("{herb} in {oil}", herb=row.herb.strip().capitalize(), oil=shelf[row.oil].in_words)
    if row.kind == Rendering.Kind.COMB:
        return gettext("Comb to wax")
    return said("{material}, clarified", material=shelf[row.material].label)


def open_jobs(user: Any, shelf: Shelf, infusions: Iterable[Infusion], now: datetime) -> list[JobView]:
    """Return the jobs that are not finished, those first that have waited longest."""
    rows: dict[tuple[str, int], Infusion | Rendering] = {
        ("infusion", row.pk): row for row in infusions if row.lot_id is None
    }
    marks: dict[tuple[str, int], list[MakingMark]] = defaultdict(list)
    # Each rendering is marked from its start, so that the marks find it.
    is_open = Q(rendering__lot=None, rendering__deleted_at=None) & Q(infusion__lot=None)
    for mark in MakingMark.objects.of(user).filter(is_open).select_related("rendering"):
        if mark.rendering is not None:
            rows["rendering", mark.rendering.pk] = mark.rendering
        key = ("rendering", mark.rendering_id) if mark.rendering_id else ("infusion", mark.infusion_id or 0)
        marks[key].append(mark)
    found = [job_view(row, shelf, marks[key], now) for key, row in rows.items()]
    return sorted(found, key=lambda job: job.since)


def expected_g(user: Any, row: Rendering) -> Decimal | None:
    """Return what a rendering is likely to give, g, as the last ones of the same did; None before any."""
    alike = Rendering.objects.of(user).filter(kind=row.kind, material=row.material).exclude(lot=None)
    yields = [float(done.clean_g / done.raw_g) for done in alike[:LAST] if done.clean_g]
    return row.raw_g * Decimal(repr(median(yields))) if yields else None


@dataclass(frozen=True)
class ToInfuse:
    """An infused oil that is to be made: its herb and its oil, g, and where that is started."""

    herb: str
    herb_g: Decimal
    oil: str
    oil_g: Decimal
    oil_words: str

    @property
    def words(self) -> str:
        """What to infuse, with weights."""
        herb = self.herb or gettext("a dried herb")
        return str(
            Message(
                "{herb_g} of {herb} in {oil_g} of {oil}",
                herb_g=Mass(self.herb_g, 0),
                herb=herb,
                oil_g=Mass(self.oil_g, 0),
                oil=self.oil_words,
            )
        )

    @property
    def address(self) -> str:
        """Where it is started, with everything filled in."""
        asked = {"herb": self.herb, "herb_g": self.herb_g, "oil": self.oil, "oil_g": self.oil_g}
        return f"{reverse('pantry:making')}?{urlencode(asked)}"


def may_be_infused(slug: str) -> bool:
    """Return whether a material may be an infused oil: the library's, or one of the maker's own."""
    return slug == INFUSED or slug.startswith("my_")


def to_infuse(
    wanted: Iterable[tuple[str, Decimal]], shelf: Shelf, infusions: Iterable[Infusion]
) -> list[ToInfuse]:
    """Return how to make the infused oils among `wanted`, material and grams, as they were made last."""
    newest: dict[str, Infusion] = {}
    for row in sorted(infusions, key=lambda row: (row.started_on, row.pk)):
        if row.lot is not None:
            newest[row.lot.material] = newest[INFUSED] = row
    found = []
    for slug, grams in wanted:
        if slug not in newest and slug != INFUSED:
            continue
        last = newest.get(slug)
        recovered = last.recovered_g / last.oil_g if last and last.recovered_g else USUAL_RECOVERED
        oil, ratio = (last.oil, last.ratio) if last else (USUAL_OIL, USUAL_RATIO)
        oil_g = (grams / recovered).quantize(Decimal(1)) + 1
        herb_g = (oil_g / ratio).quantize(CENT)
        found.append(ToInfuse(last.herb if last else "", herb_g, oil, oil_g, shelf[oil].in_words))
    return found
