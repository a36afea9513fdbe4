"""What the pantry's pages show."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import numpy as np

from calmtin.accounts.models import Bench
from calmtin.common.numbers import SumGrams
from calmtin.common.templatetags.calm import group_name, temp
from calmtin.core.data.loader import library, read_table, synonyms
from calmtin.core.firmness import blend, flow_point_c, read, set_point_c
from calmtin.core.materials import Material, Shelf
from calmtin.pantry.models import Infusion, Lot, Movement
from calmtin.pictures.curve import HIGHEST_C, LOWEST_C, SofteningCurve, softening_curve

FREE_FROM = {
    "bee": "bee products",
    "coconut": "coconut",
    "tree_nut": "nuts",
    "soy": "soy",
    "lanolin": "lanolin",
    "wheat": "wheat",
    "vegan": "animal products",
}
SOON = timedelta(days=45)
LOW_SHARE = Decimal("0.15")

# Apps above this one say where a material is used: (user, slug) -> [(words, address)].
usage_sources: list[Callable[[Any, str], list[tuple[str, str]]]] = []


@dataclass(frozen=True)
class LotView:
    """A lot, what is left of it, and whether it goes off soon."""

    lot: Lot
    left_g: Decimal
    is_late: bool
    is_soon: bool

    @property
    def is_low(self) -> bool:
        """Whether little of it is left."""
        return 0 < self.left_g < self.lot.amount_g * LOW_SHARE


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


def lots_of(
    user: Any, today: date, material: str | None = None, *, voided_too: bool = False
) -> list[LotView]:
    """Return lots with their balances, first to expire first; those off the shelf only if asked."""
    # Grouping drops the model's own ordering, so it is said again.
    lots = Lot.objects.of(user).annotate(left=SumGrams("movements__grams")).order_by(*Lot._meta.ordering)
    if not voided_too:
        lots = lots.filter(voided_at=None)
    if material is not None:
        lots = lots.filter(material=material)
    found = []
    for lot in lots:
        late = lot.best_before is not None and lot.best_before < today
        soon = lot.best_before is not None and not late and lot.best_before <= today + SOON
        found.append(LotView(lot, lot.left, late, soon))
    return found


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
    for view in lots_of(user, today):
        if view.left_g > 0:
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


@dataclass(frozen=True)
class MaterialView:
    """A material's own page."""

    material: Material
    is_own: bool
    names: list[str]
    lots: list[LotView]
    left_g: Decimal
    curve: SofteningCurve | None
    swaps: list[tuple[str, str, str]]
    used_in: list[tuple[str, str]]


def material_view(user: Any, shelf: Shelf, slug: str, bench: Bench, today: date) -> MaterialView:
    """Return what a material does: its curve, its lots, its swaps, where it is used."""
    material = shelf[slug]
    lots = lots_of(user, today, slug, voided_too=True)
    swaps = [
        (
            " and ".join(shelf[s].label for s in row["to"].split(" plus ") if s in shelf),
            row["factor_or_note"],
            row["what_changes"],
        )
        for row in read_table("swaps")
        if row["from"] == slug
    ]
    return MaterialView(
        material=material,
        is_own=slug not in library(),
        names=[name for name, meant in synonyms().items() if meant == slug],
        lots=lots,
        left_g=sum((view.left_g for view in lots), Decimal(0)),
        curve=_curve(material, bench) if material.fractions else None,
        swaps=swaps,
        used_in=[found for source in usage_sources for found in source(user, slug)],
    )


def _curve(material: Material, bench: Bench) -> SofteningCurve:
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
        flow_label="liquid" if flow_c is None else f"flows at {temp(round(flow_c), unit)}",
        set_label=f"sets from {temp(round(set_c), unit)}",
        width=420.0,
        height=240.0,
    )


def costs_of(user: Any, today: date) -> dict[str, Decimal]:
    """Return the cost of a gram of each material, by the lot that is used next."""
    costs: dict[str, Decimal] = {}
    for view in lots_of(user, today):
        if view.left_g > 0 and view.lot.cost_per_g is not None:
            costs.setdefault(view.lot.material, view.lot.cost_per_g)
    return costs


def cost_of_100_g(costs: dict[str, Decimal], lines: list[tuple[str, Decimal]]) -> Decimal | None:
    """Return what 100 g of `lines` (slug, percent) cost at `costs` a gram; None unless all are known."""
    if any(slug not in costs for slug, _ in lines):
        return None
    return sum((costs[slug] * percent for slug, percent in lines), Decimal(0))


def cost_of(user: Any, sources: list[str]) -> tuple[Decimal, bool] | None:
    """Return what `sources` took from stock cost, and whether every lot had a price.

    None when nothing was taken, or nothing that was has a price.
    """
    taken = Movement.objects.of(user).filter(source__in=sources).select_related("lot")
    net: dict[Lot, Decimal] = defaultdict(Decimal)
    for movement in taken:
        net[movement.lot] -= movement.grams
    used = {lot: grams for lot, grams in net.items() if grams > 0}
    priced = [grams * lot.cost_per_g for lot, grams in used.items() if lot.cost_per_g is not None]
    return (sum(priced, Decimal(0)), len(priced) == len(used)) if priced else None


@dataclass(frozen=True)
class PantryToday:
    """What the pantry has to say today."""

    infusions: list[Infusion]
    expiring: list[tuple[LotView, Material]]
    low: list[tuple[LotView, Material]]


def pantry_today(user: Any, shelf: Shelf, today: date) -> PantryToday:
    """Return infusions to strain, lots that go off and lots that run low."""
    lots = [(view, shelf[view.lot.material]) for view in lots_of(user, today) if view.left_g > 0]
    return PantryToday(
        infusions=list(Infusion.objects.of(user).filter(strained_on=None, due_on__lte=today)),
        expiring=[pair for pair in lots if pair[0].is_late or pair[0].is_soon],
        low=[pair for pair in lots if pair[0].is_low],
    )
