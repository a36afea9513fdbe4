"""The shelf by group, narrowed as it is typed."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from calmtin.common.templatetags.calm import group_name
from calmtin.core.allergens import avoidable as avoidable
from calmtin.core.data.loader import synonyms
from calmtin.core.materials import Material, Shelf
from calmtin.pantry.queries.lots import LotView, in_stock


@dataclass(frozen=True)
class ShelfRow:
    """A material of the shelf with its stock."""

    material: Material
    left_g: Decimal | None
    cost_per_g: Decimal | None
    next_date: date | None


@dataclass(frozen=True)
class ShelfGroup:
    """The materials of one group."""

    name: str
    rows: list[ShelfRow]


def search_shelf(
    user: Any,
    shelf: Shelf,
    today: date,
    *,
    words: str = "",
    group: str = "",
    free_from: list[str] | None = None,
    in_pantry: bool = False,
) -> list[ShelfGroup]:
    """Return the shelf by group, narrowed by name, INCI or other common names, flags and stock."""
    stock: dict[str, list[LotView]] = defaultdict(list)
    for view in in_stock(user, today):
        stock[view.lot.material].append(view)
    other: dict[str, list[str]] = defaultdict(list)
    for name, slug in synonyms().items():
        other[slug].append(name)
    wanted = words.lower().split()
    grouped: dict[str, list[ShelfRow]] = defaultdict(list)
    for slug, material in shelf.items():
        text = " ".join([material.name, material.inci, *other[slug]]).lower()
        if not all(word in text for word in wanted):
            continue
        if (group and material.group != group) or (in_pantry and slug not in stock):
            continue
        if material.has_any(free_from or []):
            continue
        lots = stock.get(slug, [])
        left = sum((view.left_g for view in lots), Decimal(0)) if lots else None
        cost = next((view.lot.cost_per_g for view in lots if view.lot.cost_per_g is not None), None)
        date_ = lots[0].lot.best_before if lots else None
        grouped[material.group].append(ShelfRow(material, left, cost, date_))
    return [ShelfGroup(group_name(name), rows) for name, rows in grouped.items()]
