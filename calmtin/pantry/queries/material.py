"""A material's own page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

import numpy as np

from calmtin.accounts.models import Bench
from calmtin.common.templatetags.calm import temp
from calmtin.core.data.loader import library, read_table, synonyms
from calmtin.core.data.marked import marked
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import flow_point_c, read, set_point_c
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Words, said
from calmtin.pantry.queries.lots import LotView, lots_of
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C, SofteningCurve, softening_curve


@dataclass(frozen=True)
class Uses:
    """Where a material is used: the first, with their addresses, how many more, and where all are."""

    shown: list[tuple[str, str]]
    more: int
    all_at: str


# Apps above this one say where a material is used: (user, slug) -> where.
usage_sources: list[Callable[[Any, str], Uses]] = []


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


def curve_of(material: Material, bench: Bench) -> SofteningCurve:
    """Return the softening curve of the material alone."""
    neat = blend([(material, 1.0)])
    temps = np.linspace(LOWEST_C, HIGHEST_C, 61)
    reading = read(neat, temps)
    unit = bench.temperature_unit
    flow_c, set_c = flow_point_c(neat), set_point_c(neat)
    places = [
        (bench.cold_name, bench.cold_c),
        ("room", bench.room_c),
        ("skin", 33.0),
        (bench.hot_name, bench.hot_c),
    ]
    return softening_curve(
        list(temps),
        list(reading.rung),
        list(reading.low),
        list(reading.high),
        places=[(c, temp(c, unit), name) for name, c in places],
        here_c=bench.room_c,
        flow_c=flow_c,
        set_c=set_c,
        flow_label="liquid"
        if flow_c is None
        else said("flows at {flow_c}", flow_c=temp(round(flow_c), unit)),
        set_label="" if set_c is None else said("sets from {set_c}", set_c=temp(round(set_c), unit)),
        width=420.0,
        height=240.0,
    )
