"""Read pours with what their pages show, in as few questions as there is something to read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db.models import Exists, Model, OuterRef, Prefetch, QuerySet, Subquery, prefetch_related_objects

from calmtin.common.owned import OwnedQuerySet
from calmtin.pours.models import CheckPhoto, Pour, WeighIn, WeighLine

# What every pour has rows of, or what is read along with something else: read without asking first.
USUAL = ("lines", "checks", "fillings", "version")


def with_newest_grams(lines: QuerySet[WeighLine]) -> QuerySet[Any]:
    """Annotate lines of weigh sheets with the grams of the reading that counts, `newest_g`."""
    newest = WeighIn.objects.filter(line=OuterRef("pk")).order_by("-pk").values("grams")[:1]
    return lines.annotate(newest_g=Subquery(newest))


def _seldom(name: str) -> tuple[type[Model], str] | None:
    """Return the model of a relation that many pours have nothing of, and how a row names its pour."""
    if name == "checks__photos":
        return CheckPhoto, "of__pour"
    if "__" in name or name in USUAL:
        return None
    relation = Pour._meta.get_field(name)
    return relation.related_model, relation.field.name  # type: ignore[union-attr, return-value]


def asking(pours: OwnedQuerySet, *names: str) -> OwnedQuerySet:
    """Annotate `pours` with which relations in `names` have rows; empty ones are not queried."""
    has = {}
    for name in names:
        if seldom := _seldom(name):
            model, path = seldom
            has[f"has_{name}"] = Exists(model._base_manager.filter(**{path: OuterRef("pk")}))
    return pours.annotate(**has)


def found_with(
    pours: OwnedQuerySet, *names: str, also: Sequence[str | Prefetch[Any]] = (), most: int | None = None
) -> list[Any]:
    """Return `pours`, `most` of them, with the relations in `names` and `also` read along."""
    rows = list(asking(pours, *names)[:most])
    read_along(rows, *also, *names)
    return rows


def read_along(pours: Sequence[Any], *names: str | Prefetch[Any]) -> None:
    """Read the relations in `names` of pours that were found by `asking` for them."""
    lookups: list[str | Prefetch[Any]] = []
    for name in names:
        seldom = _seldom(name) if isinstance(name, str) else None
        if seldom and not any(getattr(pour, f"has_{name}") for pour in pours):
            lookups.append(Prefetch(str(name), seldom[0]._base_manager.none()))
        else:
            lookups.append(name)
    prefetch_related_objects(list(pours), *lookups)
