"""How much to melt for the containers, and what its weigh sheet will say."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from calmtin.core.composition import Part
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.materials import Shelf
from calmtin.core.process.fill import Container, FillPlan, plan_fill
from calmtin.core.process.weighing import too_small
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Version
from calmtin.pantry.queries.lots import left_of

USUAL_CONTAINER = {
    "gloss": "gloss_tube_8ml",
    "lip_balm": "lip_tube_standard",
    "lotion_bar": "mould_round_60ml",
    "massage_bar": "mould_rect_90ml",
    "whipped_butter": "jar_120ml",
    "poured_butter": "jar_60ml",
}


@dataclass(frozen=True)
class SheetRow:
    """A part to weigh, g; `left` is what the shelf has of it where that is less."""

    part: Part
    grams: Decimal
    is_small: bool
    left: Decimal | None


def plan_of(
    version: Version,
    shelf: Shelf,
    container: Container,
    *,
    count: int,
    level_pct: float,
    loss_pct: float,
    step_g: Decimal,
) -> FillPlan:
    """Return what to melt for `count` containers; raises `CalmTinError` with the field to change."""
    parts = composition_of(version, shelf).masses
    return plan_fill(
        parts,
        container,
        count=count,
        level=level_pct / 100.0,
        loss=loss_pct / 100.0,
        set_point_c=set_point_c(blend(parts)),
        resolution=step_g,
        overrun=version.overrun,
    )


def sheet_of(
    user: Any, version: Version, shelf: Shelf, batch_g: Decimal, step_g: Decimal
) -> list[SheetRow]:
    """Return what the weigh sheet will say, so that the plan shows it already."""
    left = left_of(user)
    return [
        SheetRow(
            part,
            grams,
            too_small(grams, step_g),
            # Only of what the maker keeps count of.
            left[part.material.slug] if left.get(part.material.slug, grams) < grams else None,
        )
        for part, grams in composition_of(version, shelf).weighed(batch_g, step_g)
    ]


def usual_container(version: Version, containers: Mapping[str, Container]) -> Container:
    """Return the container that a plan for this kind starts with."""
    return containers[USUAL_CONTAINER.get(version.formula.kind, "tin_1oz")]
