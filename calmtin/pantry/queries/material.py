"""A material's own page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.common.material_curve import curve_of
from calmtin.common.registry import Sources
from calmtin.core.data.loader import library, read_table, synonyms
from calmtin.core.data.marked import marked
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Words
from calmtin.pantry.queries.lots import LotView, lots_of
from calmtin.pictures.curve import SofteningCurve


@dataclass(frozen=True)
class Uses:
    """Where a material is used: the first, with their addresses, how many more, and where all are."""

    shown: list[tuple[str, str]]
    more: int
    all_at: str


# Apps above this one say where a material is used: (user, slug) -> where.
usage_sources: Sources[Callable[[Any, str], Uses]] = Sources()


@dataclass(frozen=True)
class MaterialView:
    """A material's own page."""

    material: Material
    is_own: bool
    names: list[str]
    lots: list[LotView]
    gone: list[LotView]
    left_g: Decimal
    curve: SofteningCurve | None
    swaps: list[tuple[str, str, Words]]
    used_in: list[Uses]


def material_view(user: Any, shelf: Shelf, slug: str, bench: Bench, today: date) -> MaterialView:
    """Return what a material does: its curve, its lots, its swaps, where it is used."""
    material = shelf[slug]
    lots = lots_of(user, today, slug, voided_too=True)
    swaps = [
        (
            " and ".join(shelf[s].label for s in row["to"].split(" plus ") if s in shelf),
            row["factor_or_note"],
            marked(row["what_changes"]),
        )
        for row in read_table("swaps")
        if row["from"] == slug
    ]
    return MaterialView(
        material=material,
        is_own=slug not in library(),
        names=[name for name, meant in synonyms().items() if meant == slug],
        lots=[view for view in lots if view.is_there],
        gone=[view for view in lots if not view.is_there],
        left_g=sum((view.left_g for view in lots), Decimal(0)),
        curve=curve_of(material, bench) if material.fractions else None,
        swaps=swaps,
        used_in=[uses for source in usage_sources if (uses := source(user, slug)).shown],
    )
