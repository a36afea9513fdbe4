"""Formulas in lists: as small tins, and by what they use."""

from __future__ import annotations

from typing import Any

from django.db.models import OuterRef, Q, QuerySet, Subquery
from django.urls import reverse

from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Line, Version
from calmtin.formulas.queries.formula import section_of
from calmtin.pantry.adapters import shelf_for
from calmtin.pictures.section import TinSection


def formulas_of(user: Any) -> list[tuple[Formula, Version, TinSection]]:
    """Return the formulas that are in use, last touched first, with their newest version in small."""
    shelf = shelf_for(user)
    found = []
    for formula in Formula.objects.of(user).filter(put_away_at=None).prefetch_related("versions__lines"):
        newest = max(formula.versions.all(), key=lambda version: version.number)
        found.append((formula, newest, small_section(newest, shelf)))
    return found


def put_away_of(user: Any) -> QuerySet[Formula]:
    """Return the formulas that were put away, the last one first."""
    return Formula.objects.of(user).exclude(put_away_at=None).order_by("-put_away_at")


def small_section(version: Version, shelf: Shelf) -> TinSection:
    """Return the small tin that stands for a version in lists."""
    return section_of(composition_of(version, shelf), width=64.0, height=48.0)


def formulas_using(user: Any, slug: str) -> list[tuple[str, str]]:
    """Return the maker's formulas whose newest version uses a material, with their addresses."""
    newest = Version.objects.filter(formula=OuterRef("pk")).order_by("-number").values("pk")[:1]
    using = (
        Formula.objects.of(user)
        .annotate(newest=Subquery(newest))
        .filter(newest__in=Line.objects.filter(material=slug).values("version"))
    )
    return [(formula.name, reverse("formulas:formula", args=[formula.pk])) for formula in using]


def lines_with(user: Any, slug: str) -> list[str]:
    """Return the formulas that use a material in any version or finish, by name."""
    found = Formula.objects.of(user).filter(
        Q(versions__lines__material=slug) | Q(finishes__parts__material=slug)
    )
    return list(found.values_list("name", flat=True))
