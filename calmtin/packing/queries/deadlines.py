"""Deadlines: the steps back to today, and what to do now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.db.models import Exists, OuterRef, Subquery, prefetch_related_objects
from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.accounts.queries import bench_of
from calmtin.core.materials import Material, Shelf
from calmtin.core.packing.deadlines import Job, Step, Timeline, timelines
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.queries.seasons import in_season
from calmtin.packing.models import LabelPrint, Need
from calmtin.pantry.adapters import containers_for
from calmtin.pantry.models import Infusion
from calmtin.pantry.queries.lots import left_of
from calmtin.pantry.queries.making import INFUSED, ToInfuse, to_infuse
from calmtin.pantry.queries.today import infusions_of
from calmtin.plans.queries.rows import usual_container
from calmtin.pours.models import Check, Pour, PourFilling

STAYS = timedelta(days=7)  # on the list after its day
GRAINY_PCT = 5.0  # from which a fat that grains is waited for
SPARE = Decimal("1.06")  # of a batch: what clings and is tested
DENSITY = Decimal("0.92")  # g/ml, of a salve


@dataclass(frozen=True)
class NeedView:
    """A need with its way: the version to pour, its pour once there is one, what the shelf lacks."""

    need: Need
    version: Version | None
    pour: Pour | None
    way: Timeline
    done: frozenset[str]
    short: list[tuple[Material, Decimal]]
    batch_g: Decimal
    infuse: list[ToInfuse]

    @property
    def formula(self) -> Formula:
        """What is poured for it: of a pair, the one in season."""
        return self.version.formula if self.version else self.need.formula

    @property
    def next_step(self) -> Step | None:
        """The first step that is not done."""
        return next((step for step in self.way.steps if step.slug not in self.done), None)


@dataclass(frozen=True)
class Asked:
    """The deadlines, and by the key of each its pour and the version to pour.

    The lines of the versions are still to be read.
    """

    needs: list[Need]
    versions: Mapping[int, Version]
    pours: Mapping[int, Pour]


def asked_for(user: Any, today: date) -> Asked:
    """Return the deadlines, soonest first; long past ones are left out."""
    filled_last = PourFilling.objects.filter(
        pour__version__formula=OuterRef("formula"), pour__called_off_at=None, pour__stove=None
    ).order_by("-pour__started_at", "position")
    open_needs = list(
        Need.objects.of(user)
        .filter(called_off_at=None, needed_on__gte=today - STAYS)
        .select_related("formula")
        .annotate(last_each_g=Subquery(filled_last.values("each_g")[:1]))
    )
    if not open_needs:
        return Asked([], {}, {})
    # What is poured for a pair is the one of it that is in season.
    now = in_season([need.formula for need in open_needs], bench_of(user))
    of_need = {need.pk: now[need.formula_id].pk for need in open_needs}
    return Asked(open_needs, _versions(of_need), _pours(user, open_needs, of_need))


def needs_of(user: Any, shelf: Shelf, bench: Bench, today: date) -> list[NeedView]:
    """Return the deadlines with their steps."""
    asked = asked_for(user, today)
    prefetch_related_objects(list(asked.versions.values()), "lines")
    on_scale = Pour.objects.of(user).filter(poured_at=None, called_off_at=None).values_list("pk", flat=True)
    return ways_of(asked, user, shelf, bench, today, on_scale, infusions_of(user)) if asked.needs else []


def ways_of(
    asked: Asked,
    user: Any,
    shelf: Shelf,
    bench: Bench,
    today: date,
    on_scale: Iterable[int],
    infusions: Sequence[Infusion],
) -> list[NeedView]:
    """Return the way to each need, whose versions have their lines at hand.

    `on_scale` are the pours that are being weighed, `infusions` all that were made.
    """
    open_needs, versions, pours = asked.needs, asked.versions, asked.pours
    left, infused = left_of(user), {INFUSED, *(i.lot.material for i in infusions if i.lot)}
    told = {}
    for need in open_needs:
        version = versions.get(need.pk)
        batch = _batch_g(user, need, version)
        short = _short(version, batch, left, shelf) if version and need.pk not in pours else []
        told[need.pk] = (version, batch, short)
    jobs = [
        Job(
            need.pk,
            need.needed_on,
            infuses=any(m.slug in infused for m, _ in told[need.pk][2]),
            buys=any(m.slug not in infused for m, _ in told[need.pk][2]),
            grains=_grains(told[need.pk][0], shelf),
            poured_on=_poured_on(pours.get(need.pk), today),
        )
        for need in open_needs
    ]
    # What others have on the scale is poured today.
    others = set(on_scale) - {pour.pk for pour in pours.values()}
    taken = {today} if others else set()
    ways = timelines(jobs, today, buying_days=bench.buying_days, taken=taken)
    return [
        NeedView(
            need,
            told[need.pk][0],
            pours.get(need.pk),
            ways[need.pk],
            _done(pours.get(need.pk)),
            told[need.pk][2],
            told[need.pk][1],
            to_infuse([(m.slug, grams) for m, grams in told[need.pk][2]], shelf, infusions),
        )
        for need in open_needs
    ]


def _versions(of_need: Mapping[int, int]) -> dict[int, Version]:
    """Return the version to pour for each need: the newest of its formula that has a line with a share."""
    found: dict[int, Version] = {}
    with_share = Exists(Line.objects.filter(version=OuterRef("pk"), percent__gt=0))
    asked = Version.objects.filter(with_share, formula__in=set(of_need.values()))
    for version in asked.select_related("formula").order_by("formula", "-number"):
        found.setdefault(version.formula_id, version)
    return {need: found[formula] for need, formula in of_need.items() if formula in found}


def _pours(user: Any, needs: list[Need], of_need: Mapping[int, int]) -> dict[int, Pour]:
    """Return the pour for each deadline; one pour serves one deadline, the oldest first.

    For a pair, a pour of either season serves it.
    """
    either = {need.pk: {need.formula_id, of_need[need.pk]} for need in needs}
    pours = (
        Pour.objects.of(user)
        .filter(
            version__formula__in=set().union(*either.values()),
            called_off_at=None,
            started_at__gte=min(need.asked_at for need in needs),
        )
        .select_related("version")
        .annotate(
            is_looked_at=Exists(Check.objects.filter(pour=OuterRef("pk"), set_test="")),
            is_labelled=Exists(LabelPrint.objects.filter(pour=OuterRef("pk"))),
        )
        .order_by("pk")
    )
    free, found = list(pours), {}
    for need in sorted(needs, key=lambda need: need.pk):
        mine = (
            pour
            for pour in free
            if pour.version.formula_id in either[need.pk] and pour.started_at >= need.asked_at
        )
        if (pour := next(mine, None)) is not None:
            found[need.pk] = pour
            free.remove(pour)
    return found


def _batch_g(user: Any, need: Need, version: Version | None) -> Decimal:
    """Return about how large the batch is, g: as its containers were filled last, and a little more."""
    if version is None:
        return Decimal(0)
    each: Decimal | None = need.last_each_g  # type: ignore[attr-defined]  # see needs_of
    if each is None:
        container = usual_container(version, containers_for(user))
        each = Decimal(repr(container.usual_ml)) * DENSITY
    return (each * need.count * SPARE).quantize(Decimal("0.1"))


def _short(
    version: Version, batch: Decimal, left: dict[str, Decimal], shelf: Shelf
) -> list[tuple[Material, Decimal]]:
    """Return the missing materials; of uncounted ones only infused oils."""
    wanted = [(line.material, batch * line.percent / 100) for line in version.lines.all()]
    return [
        (shelf[slug], grams - left.get(slug, Decimal(0)))
        for slug, grams in wanted
        if (slug in left or slug == INFUSED) and grams > left.get(slug, Decimal(0))
    ]


def _grains(version: Version | None, shelf: Shelf) -> bool:
    return version is not None and any(
        shelf[line.material].grain_prone and float(line.percent) >= GRAINY_PCT
        for line in version.lines.all()
    )


def _poured_on(pour: Pour | None, today: date) -> date | None:
    """Return the day of a pour; one that is on the scale is taken to be poured today."""
    if pour is None:
        return None
    return timezone.localdate(pour.poured_at) if pour.poured_at else today


def _done(pour: Any) -> frozenset[str]:
    if pour is None or pour.poured_at is None:
        return frozenset()
    done = {"buy", "infuse", "pour"}
    if pour.is_looked_at:
        done.add("check")
    if pour.is_labelled:
        done |= {"check", "label"}
    return frozenset(done)
