"""The rows of containers of a fill plan: as typed, or those that a plan begins with."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

from django.utils.translation import gettext, gettext_noop

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import Message, notation_in_force, said
from calmtin.core.process.fill import MOST_CONTAINERS, Container, Filling, Melt, from_pot_g, usable_g
from calmtin.core.process.losses import Losses
from calmtin.core.process.uneven import LEAST_SHARE
from calmtin.core.quantities import Volume
from calmtin.core.recipe.boxes import read_fill
from calmtin.core.units import read_number
from calmtin.formulas.models import Finish, Version
from calmtin.plans.pour_day import pour_day

Way = Literal["pot", "containers", "whole"]
WAYS: dict[Way, str] = {
    "pot": gettext_noop("From a batch"),
    "containers": gettext_noop("From containers"),
    "whole": gettext_noop("No containers"),
}
MOST_ROWS = 8
THINNEST_G_ML = 0.85  # of any hot melt: a sample never takes more room than that
USUAL_CONTAINER = {
    "gloss": "gloss_tube_8ml",
    "lip_balm": "lip_tube_standard",
    "lotion_bar": "mould_round_60ml",
    "massage_bar": "mould_rect_90ml",
    "whipped_butter": "jar_120ml",
    "poured_butter": "jar_60ml",
}


@dataclass(frozen=True)
class FillRow:
    """One kind of container in the plan, as typed; `filling` once it can be read."""

    place: int
    container: str
    count: str
    fill: str
    finish: str
    filling: Filling | None = None
    problem: str = ""


def fitting(
    rows: list[FillRow],
    containers: Mapping[str, Container],
    melt: Melt,
    losses: Losses,
    batch_g: Decimal,
) -> list[FillRow]:
    """Return the rows a plan begins with; containers too large for the batch give way to one that fits."""
    filling = rows[0].filling if rows else None
    if filling is None:
        return rows
    usable = usable_g(melt, losses, batch_g=batch_g)
    if from_pot_g(melt, filling) <= usable:
        return rows
    usable_ml = usable / melt.density_pour

    alike = [c for c in containers.values() if c.kind == filling.container.kind or c.on_hand]
    fits = [c for c in alike if not c.is_mould and c.usual_ml * LEAST_SHARE <= usable_ml]
    if not fits:
        return rows
    best = max(fits, key=lambda c: (bool(c.on_hand), c.usual_ml))
    level_pct = math.floor(1000.0 * usable_ml / best.volume_ml) / 10.0
    fill = said("{level:.3g} %", level=level_pct) if usable_ml < best.usual_ml else ""
    row = replace(rows[0], container=best.slug, count="", fill=fill, finish="")
    return [_read_row(row, "pot", best, melt, {})]


def rows_of(
    version: Version,
    way: Way,
    containers: Mapping[str, Container],
    melt: Melt,
    finishes: list[Finish],
    typed: Mapping[str, str],
) -> list[FillRow]:
    """Return the rows of containers: as typed, or those of the maker's last pour of this kind."""
    asked = [n for n in range(MOST_ROWS) if typed.get(f"container_{n}", "") in containers]
    if "container_0" not in typed:
        start = _last_fillings(version, containers) or [(usual_container(version, containers), "", "")]
        rows = [
            FillRow(n, container.slug, count, fill, "") for n, (container, count, fill) in enumerate(start)
        ]
        if way == "containers":
            needed = typed.get("count", "")  # by a day
            rows = [replace(r, count=r.count or needed or "12") for r in (rows[:1] if needed else rows)]
    else:
        rows = [
            FillRow(
                place,
                typed[f"container_{n}"],
                typed.get(f"count_{n}", ""),
                # Another container asks for its own usual fill.
                typed.get(f"fill_{n}", "") if typed.get(f"was_{n}", "") == typed[f"container_{n}"] else "",
                typed.get(f"finish_{n}", ""),
            )
            for place, n in enumerate(asked)
        ]
    if way == "whole":
        rows = rows[:1]
    on_top = {f.name: float(sum(part.percent for part in f.parts.all())) / 100.0 for f in finishes}
    return [_read_row(row, way, containers[row.container], melt, on_top) for row in rows]


def _read_row(
    row: FillRow, way: Way, container: Container, melt: Melt, on_top: Mapping[str, float]
) -> FillRow:
    """Return a row with its filling, or with its error."""
    notation = notation_in_force()
    each_ml = container.usual_ml
    count = MOST_CONTAINERS
    if way == "pot" and container.on_hand is not None and not container.is_mould:
        count = max(min(count, container.on_hand), 1)
    try:
        if row.fill.strip():
            each_ml = read_fill(
                row.fill,
                name=gettext("The fill"),
                brim_ml=container.volume_ml,
                density=melt.density_pour,
                notation=notation,
            )
        if row.count.strip() or way == "containers":
            count = int(
                read_number(
                    row.count,
                    name=gettext("The count"),
                    low=1,
                    high=MOST_CONTAINERS,
                    places=0,
                    notation=notation,
                )
            )
    except CalmTinError as refused:
        return replace(row, problem=str(refused))
    finish = row.finish if row.finish in on_top else ""
    filling = Filling(container, count, each_ml, finish, on_top.get(finish, 0.0))
    return replace(row, fill=row.fill or _fill_words(each_ml, container), finish=finish, filling=filling)


def _fill_words(each_ml: float, container: Container) -> str:
    return said("{each_ml:.3g} %", each_ml=100.0 * each_ml / container.volume_ml)


def _last_fillings(
    version: Version, containers: Mapping[str, Container]
) -> list[tuple[Container, str, str]]:
    """Return the containers of the newest pour of this kind, as a plan begins with them."""
    return [
        (containers[slug], "", _fill_words(each_ml, containers[slug]))
        for slug, each_ml in pour_day().last_fillings(version)
        if slug in containers
    ]


def _most_ml(sample_g: Decimal) -> float:
    """Return the room that a sample takes at the most, ml."""
    return float(sample_g) / THINNEST_G_ML


def sample_container(containers: Mapping[str, Container], sample_g: Decimal) -> str:
    """Return the slug of the smallest container that holds a sample, a maker's own before others."""
    wanted_ml = _most_ml(sample_g)
    holding = [c for c in containers.values() if c.volume_ml >= wanted_ml and not c.is_mould]
    best = min(holding, key=lambda c: (c.volume_ml, c.on_hand is None, c.slug), default=None)
    return best.slug if best else "jar_250ml"


def too_small_for(container: Container, sample_g: Decimal) -> str:
    """Return that a container does not hold a sample, in words; empty where it does."""
    wanted_ml = _most_ml(sample_g)
    if container.volume_ml >= wanted_ml:
        return ""
    words = "{name} holds {brim}, and a sample takes up to {wanted}. Choose a larger one."
    told = {"brim": Volume(container.volume_ml), "wanted": Volume(round(wanted_ml))}
    return str(Message(words, name=container.name, **told))


def usual_container(version: Version, containers: Mapping[str, Container]) -> Container:
    """Return the container that a plan for this kind starts with."""
    return containers[USUAL_CONTAINER.get(version.formula.kind, "tin_1oz")]
