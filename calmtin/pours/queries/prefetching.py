"""Read pours with what their pages show, in as few questions as there is something to read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django.db.models import Exists, Model, OuterRef, Prefetch, prefetch_related_objects

from calmtin.common.owned import OwnedQuerySet
from calmtin.pours.models import (
    CheckPhoto,
    Kept,
    LabelPrint,
    PieceGone,
    PotAddition,
    PotReading,
    PourFinishPart,
    Replan,
    StepDone,
    StepTimer,
    Yield,
)

# What many pours have nothing of: where it hangs, and how a row of it names its pour.
SELDOM: Mapping[str, tuple[type[Model], str]] = {
    "steps_done": (StepDone, "pour"),
    "timers": (StepTimer, "pour"),
    "readings": (PotReading, "pour"),
    "kept": (Kept, "pour"),
    "finish_parts": (PourFinishPart, "pour"),
    "yields": (Yield, "pour"),
    "replans": (Replan, "pour"),
    "additions": (PotAddition, "pour"),
    "label_prints": (LabelPrint, "pour"),
    "pieces_gone": (PieceGone, "pour"),
    "checks__photos": (CheckPhoto, "of__pour"),
}


def asking(pours: OwnedQuerySet, *names: str) -> OwnedQuerySet:
    """Annotate `pours` with which relations in `names` have rows; empty ones are not queried."""
    told = {}
    for name in names:
        if name in SELDOM:
            model, path = SELDOM[name]
            told[f"has_{name}"] = Exists(model._base_manager.filter(**{path: OuterRef("pk")}))
    return pours.annotate(**told)


def found_with(
    pours: OwnedQuerySet, *names: str, also: Sequence[str | Prefetch[Any]] = (), most: int | None = None
) -> list[Any]:
    """Return `pours`, `most` of them, with the relations in `names` and `also` read along."""
    rows = list(asking(pours, *names)[:most])
    read_along(rows, *also, *names)
    return rows


def read_along(pours: Sequence[Any], *names: str | Prefetch[Any]) -> None:
    """Read the relations in `names` of pours that were found by `asking` for them."""
    nothing_of = {
        n
        for n in names
        if isinstance(n, str) and n in SELDOM and not any(getattr(p, f"has_{n}") for p in pours)
    }
    lookups = [Prefetch(n, SELDOM[n][0]._base_manager.none()) if n in nothing_of else n for n in names]
    prefetch_related_objects(list(pours), *lookups)
