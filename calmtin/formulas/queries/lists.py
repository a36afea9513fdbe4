"""Formulas in lists: small tins with firmness and last verdict, and by material."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import count
from threading import Lock
from typing import Any

from cachetools import LRUCache, cached
from django.db.models import OuterRef, Q, QuerySet, Subquery, prefetch_related_objects
from django.urls import reverse

from calmtin.accounts.models import Bench
from calmtin.common.registry import Sources
from calmtin.core.data.loader import kinds
from calmtin.core.engine.firmness import rung_at
from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.queries.formula import section_of
from calmtin.pantry.queries.lots import cost_of_100_g
from calmtin.pantry.queries.material import Uses
from calmtin.pictures.section import TinSection

NO_COSTS: Mapping[str, Decimal] = {}
MOST_RUNGS = 8_192
USES_SHOWN = 12  # formulas on the page of a material
# Apps above this one annotate formulas with what came of their pours: `last_verdict`, `is_kept`.
outcome_sources: Sources[Callable[[QuerySet[Formula]], QuerySet[Formula]]] = Sources()
# And tell what some of a maker's formulas are due for, by formula: in words, and where it is done.
due_sources: Sources[Callable[[Any, Sequence[int]], Mapping[int, tuple[str, str]]]] = Sources()


@dataclass(frozen=True)
class Listed:
    """A formula in a list: its newest version, firmness in the room, last verdict."""

    formula: Formula
    version: Version
    tin: TinSection
    rung: float | None
    cost_100_g: Decimal | None = None
    due: tuple[str, str] | None = None

    @property
    def target(self) -> tuple[float, float]:
        """The kind's target."""
        return self.formula.kind_facts.target

    @property
    def last_verdict(self) -> str:
        """The newest verdict on a pour of it."""
        return getattr(self.formula, "last_verdict", None) or ""

    @property
    def is_kept(self) -> bool:
        """Whether it is kept as a pour made it."""
        return bool(getattr(self.formula, "is_kept", False))


def in_use(user: Any) -> QuerySet[Formula]:
    """Return the formulas that are in use, last touched first."""
    return Formula.objects.of(user).filter(put_away_at=None)


def with_outcome(formulas: QuerySet[Formula]) -> QuerySet[Any]:
    """Annotate formulas with the outcome of their pours."""
    for source in outcome_sources:
        formulas = source(formulas)
    return formulas


def newest_version() -> QuerySet[Any]:
    """Return the newest version of the formula in the outer query."""
    return Version.objects.filter(formula=OuterRef("pk")).order_by("-number").values("pk")[:1]


def newest_of(formulas: QuerySet[Any]) -> list[Version]:
    """Return the newest version of each formula, last touched first; their lines are still to be read.

    What came of a formula is asked for those of the page alone.
    """
    of_page = Formula.objects.filter(pk__in=formulas.values("pk"))
    page = list(with_outcome(of_page.annotate(newest=Subquery(newest_version()))))
    newest = Version.objects.in_bulk([formula.newest for formula in page])
    for formula in page:
        newest[formula.newest].formula = formula
    return [newest[formula.newest] for formula in page]


def listed(
    formulas: QuerySet[Any], shelf: Shelf, bench: Bench, costs: Mapping[str, Decimal] = NO_COSTS
) -> list[Listed]:
    """Return formulas as a list shows them, at `costs` of a gram; only their newest versions are read."""
    versions = newest_of(formulas)
    prefetch_related_objects(versions, "lines")
    shown = [version.formula_id for version in versions]
    due = {pk: told for source in due_sources for pk, told in source(bench.user, shown).items()}
    rows = [listed_version(version, shelf, bench, costs) for version in versions]
    return [replace(row, due=due.get(row.formula.pk)) for row in rows]


def listed_version(
    version: Version, shelf: Shelf, bench: Bench, costs: Mapping[str, Decimal] = NO_COSTS
) -> Listed:
    """Return a version, whose lines are at hand, as a list shows its formula."""
    read = _rung_kept if bench.user.log_state else _rung
    lines = [(line.material, line.percent) for line in version.lines.all() if line.percent]
    cost = cost_of_100_g(costs, lines) if lines else None
    tin, rung = small_section(version, shelf), read(version, shelf, bench)
    return Listed(version.formula, version, tin, rung, cost)


def _rung(version: Version, shelf: Shelf, bench: Bench) -> float | None:
    """Return what a version reads in the room."""
    parts = composition_of(version, shelf).masses
    return rung_at(parts, bench.room_c, overrun=version.overrun, prior=bench.prior)


def _what_it_rests_on(version: Version, _: Shelf, bench: Bench) -> tuple[Any, ...]:
    """Return the cache key of a prediction.

    A log's state stands for its shelf; which lesson is in force is asked, since with a long log an
    earlier one serves while the new one is worked out.
    """
    rests_on = bench.user.log_state, bench.prior.mark if bench.prior else None, bench.room_c
    return *rests_on, version.pk, version.revision, version.overrun_pct


_rung_kept = cached(LRUCache(MOST_RUNGS), key=_what_it_rests_on, lock=Lock())(_rung)


def archived_formulas(user: Any) -> QuerySet[Formula]:
    """Return the archived formulas, newest first."""
    return Formula.objects.of(user).exclude(put_away_at=None).order_by("-put_away_at")


def small_section(version: Version, shelf: Shelf) -> TinSection:
    """Return the small tin that stands for a version in lists."""
    return section_of(composition_of(version, shelf), width=64.0, height=48.0)


def formulas_using(user: Any, slug: str) -> Uses:
    """Return the maker's formulas whose newest version uses a material."""
    using = (
        in_use(user)
        .annotate(newest=Subquery(newest_version()))
        .filter(newest__in=Line.objects.filter(material=slug).values("version"))
    )
    found = list(using.values_list("name", "pk"))
    return Uses(
        [(name, reverse("formulas:formula", args=[pk])) for name, pk in found[:USES_SHOWN]],
        max(0, len(found) - USES_SHOWN),
        f"{reverse('formulas:list')}?material={slug}",
    )


def lines_with(user: Any, slug: str) -> list[str]:
    """Return the formulas that use a material in any version or finish, by name."""
    found = Formula.objects.of(user).filter(
        Q(versions__lines__material=slug) | Q(finishes__parts__material=slug)
    )
    return list(found.values_list("name", flat=True))


def free_name(user: Any, kind: str) -> str:
    """Return a name for a formula that was given none: its kind, numbered where that is taken."""
    base = kinds()[kind].short_name
    taken = set(Formula.objects.of(user).filter(name__startswith=base).values_list("name", flat=True))
    return next(name for n in count(1) if (name := base if n == 1 else f"{base} {n}") not in taken)
