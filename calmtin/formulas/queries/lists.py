"""Formulas in lists: as small tins with what they read and what was said of them, and by what they use."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import count
from typing import Any

from django.db.models import OuterRef, Prefetch, Q, QuerySet, Subquery
from django.urls import reverse

from calmtin.accounts.models import Bench
from calmtin.core.data.loader import kinds
from calmtin.core.engine.firmness import rung_at
from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.queries.formula import section_of
from calmtin.pictures.section import TinSection

# Apps above this one annotate formulas with what came of their pours: `last_verdict`, `is_kept`.
outcome_sources: list[Callable[[QuerySet[Formula]], QuerySet[Formula]]] = []


@dataclass(frozen=True)
class Listed:
    """A formula in a list: its newest version, what that reads in the room, what was said of it."""

    formula: Formula
    version: Version
    tin: TinSection
    rung: float | None

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
    """Return the formulas that are in use, last touched first, with what came of them."""
    found: QuerySet[Formula] = Formula.objects.of(user).filter(put_away_at=None)
    for source in outcome_sources:
        found = source(found)
    return found


def newest_version() -> QuerySet[Any]:
    """Return the newest version of the formula in the outer query."""
    return Version.objects.filter(formula=OuterRef("pk")).order_by("-number").values("pk")[:1]


def listed(formulas: QuerySet[Any], shelf: Shelf, bench: Bench) -> list[Listed]:
    """Return formulas as a list shows them; only their newest versions are read."""
    page = list(formulas.annotate(newest=Subquery(newest_version())))
    versions = Version.objects.prefetch_related(Prefetch("lines")).select_related("formula")
    newest = versions.in_bulk([formula.newest for formula in page])
    found = []
    for formula in page:
        version = newest[formula.newest]
        parts = composition_of(version, shelf).masses
        rung = rung_at(parts, bench.room_c, overrun=version.overrun, prior=bench.prior)
        found.append(Listed(formula, version, small_section(version, shelf), rung))
    return found


def put_away_of(user: Any) -> QuerySet[Formula]:
    """Return the formulas that were put away, the last one first."""
    return Formula.objects.of(user).exclude(put_away_at=None).order_by("-put_away_at")


def small_section(version: Version, shelf: Shelf) -> TinSection:
    """Return the small tin that stands for a version in lists."""
    return section_of(composition_of(version, shelf), width=64.0, height=48.0)


def formulas_using(user: Any, slug: str) -> list[tuple[str, str]]:
    """Return the maker's formulas whose newest version uses a material, with their addresses."""
    using = (
        Formula.objects.of(user)
        .annotate(newest=Subquery(newest_version()))
        .filter(newest__in=Line.objects.filter(material=slug).values("version"))
    )
    return [(formula.name, reverse("formulas:formula", args=[formula.pk])) for formula in using]


def lines_with(user: Any, slug: str) -> list[str]:
    """Return the formulas that use a material in any version or finish, by name."""
    found = Formula.objects.of(user).filter(
        Q(versions__lines__material=slug) | Q(finishes__parts__material=slug)
    )
    return list(found.values_list("name", flat=True))


def free_name(user: Any, kind: str) -> str:
    """Return a name for a formula that was given none: its kind, numbered where that is taken."""
    base = kinds()[kind].name.split(",")[0]
    taken = set(Formula.objects.of(user).filter(name__startswith=base).values_list("name", flat=True))
    return next(name for n in count(1) if (name := base if n == 1 else f"{base} {n}") not in taken)
