"""The stock for a plan: lots, shortages, cost and the pot it needs."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_DOWN, Decimal
from typing import Any

from django.utils.translation import gettext

from calmtin.core.composition import WHOLE
from calmtin.core.materials import Material, pure
from calmtin.core.messages import Message, said
from calmtin.core.packing.keeping import keeping
from calmtin.core.process.fill import FillPlan, blend_density
from calmtin.core.quantities import Mass, Volume
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, Vessel, with_left
from calmtin.pantry.queries.making import INFUSED, ToInfuse, may_be_infused, to_infuse
from calmtin.pantry.queries.today import infusions_of
from calmtin.plans.pour_day import pour_day
from calmtin.plans.queries.fill import FillView, Line

STIR_ROOM = 1.25  # a pot is stirred with a quarter of it empty
WHIP_ROOM = 2.0  # a bowl holds twice of what goes in, or more where it is whipped further


@dataclass(frozen=True)
class Take:
    """Some grams out of one lot."""

    lot: Lot
    grams: Decimal
    is_first_to_go: bool


@dataclass(frozen=True)
class Supply:
    """The lots for a line's grams; `short` is what is missing of counted materials.

    `lots` are those to choose from, `chosen` the key of the one to use first.
    """

    line: Line
    takes: list[Take]
    short: Decimal
    pack_g: Decimal | None
    lots: list[Lot]
    chosen: int | None

    @property
    def packs(self) -> int:
        """How many packs, of the size that was bought last, make up for it."""
        return math.ceil(self.short / self.pack_g) if self.pack_g else 0


@dataclass(frozen=True)
class Cost:
    """What a plan costs: its melt and its containers; grams without a price are named."""

    melt: Decimal
    containers: Decimal
    unpriced: list[tuple[Material, Decimal]]
    per_g: Decimal

    @property
    def total(self) -> Decimal:
        """Melt and containers together."""
        return self.melt + self.containers


@dataclass(frozen=True)
class SupplyView:
    """The plan and the stock. `best_g` is the largest batch without shopping, if known."""

    supplies: list[Supply]
    best_g: Decimal | None
    cost: Cost | None
    each: list[tuple[str, Decimal]]
    vessels: list[str]
    infuse: list[ToInfuse]

    @property
    def shopping(self) -> list[Supply]:
        """The shopping list."""
        return [supply for supply in self.supplies if supply.short > 0]


def supply_view(user: Any, view: FillView, today: date) -> SupplyView | None:
    """Return what the plan takes from the shelf; None while there is no plan."""
    plan = view.plan
    if plan is None:
        return None
    lots: dict[str, list[Any]] = defaultdict(list)
    packs: dict[str, Decimal] = {}
    wanted = {line.part.material.slug for line in view.lines}
    for lot in with_left(Lot.objects.of(user).filter(voided_at=None, material__in=wanted)):
        packs[lot.material] = lot.amount_g
        if lot.left > 0:
            lots[lot.material].append(lot)
    held = pour_day().reserved_g(user)
    parts = [(line.part.material, float(line.part.percent)) for line in view.lines]
    keeps = keeping(pure(parts), today) if view.lines else None
    until = keeps.best_before if keeps else today
    supplies = [
        _supply(line, lots, packs, held, until, view.lots.get(line.part.key)) for line in view.lines
    ]
    best = _best(supplies, lots, packs, held)
    cost = _cost(supplies, plan)
    infuse = _to_infuse(user, supplies)
    return SupplyView(supplies, best, cost, _each(plan, cost), vessel_words(user, plan), infuse)


def _to_infuse(user: Any, supplies: Sequence[Supply]) -> list[ToInfuse]:
    """Return how to make the infused oils that the shelf is short of, or holds none of."""
    missing = [
        (s.line.part.material.slug, s.short or s.line.weighing.grams)
        for s in supplies
        if may_be_infused(s.line.part.material.slug)
        and (s.short or (s.line.part.material.slug == INFUSED and not s.takes))
    ]
    return to_infuse(missing, shelf_for(user), infusions_of(user)) if missing else []


def _supply(
    line: Line,
    lots: Mapping[str, list[Any]],
    packs: Mapping[str, Decimal],
    held: Mapping[str, Decimal],
    until: date,
    chosen: int | None,
) -> Supply:
    """Return the lots for a line's grams, noting those that expire before `until`."""
    slug, wanted = line.part.material.slug, line.weighing.grams
    taken: list[Take] = []
    other = held.get(slug, Decimal(0))
    mine = lots.get(slug, [])
    for lot in sorted(mine, key=lambda lot: lot.pk != chosen):
        # What waits on another sheet is taken from the first lots before this one's turn.
        free = max(lot.left - other, Decimal(0))
        other = max(other - lot.left, Decimal(0))
        grams = min(free, wanted)
        if grams > 0:
            goes_first = lot.best_before is not None and lot.best_before < until
            taken.append(Take(lot, grams, goes_first))
            wanted -= grams
    known = slug in packs
    return Supply(line, taken, wanted if known else Decimal(0), packs.get(slug), mine, chosen)


def _best(
    supplies: list[Supply],
    lots: Mapping[str, list[Any]],
    packs: Mapping[str, Decimal],
    held: Mapping[str, Decimal],
) -> Decimal | None:
    """Return the largest batch for which the shelf has everything that it keeps count of, g."""
    most = []
    for supply in supplies:
        part = supply.line.part
        if part.material.slug in packs:
            left = sum((lot.left for lot in lots.get(part.material.slug, [])), Decimal(0))
            free = max(left - held.get(part.material.slug, Decimal(0)), Decimal(0))
            most.append(free * WHOLE / part.percent)
    return min(most).quantize(Decimal("0.1"), ROUND_DOWN) if most else None


def _cost(supplies: list[Supply], plan: FillPlan) -> Cost | None:
    melt, unpriced = Decimal(0), []
    for supply in supplies:
        without = supply.line.weighing.grams
        for take in supply.takes:
            if take.lot.cost_per_g is not None:
                melt += take.grams * take.lot.cost_per_g
                without -= take.grams
        if without > 0:
            unpriced.append((supply.line.part.material, without))
    if melt == 0:
        return None
    empties = sum((f.count * f.container.price for f in plan.fillings if f.container.price), Decimal(0))
    return Cost(melt, empties, unpriced, melt / plan.batch_g)


def _each(plan: FillPlan, cost: Cost | None) -> list[tuple[str, Decimal]]:
    """Return what one container of each kind costs, its share of all that was melted included."""
    if cost is None or plan.filled_g <= 0:
        return []
    per_filled = cost.melt / Decimal(repr(plan.filled_g))
    return [
        (
            filling.container.name,
            per_filled * Decimal(repr(plan.each_g(filling))) + (filling.container.price or Decimal(0)),
        )
        for filling in plan.fillings
    ]


def vessel_words(user: Any, plan: FillPlan) -> list[str]:
    """Return whether the maker's own pots and bowls hold the plan, in words; nothing without any."""
    vessels = list(Vessel.objects.of(user))
    melt = plan.melt
    grams = float(plan.batch_g)
    hot_ml = grams / (melt.density_set * (1.0 + melt.overrun)) * STIR_ROOM
    words = [_fits(vessels, Vessel.Use.POT, grams, hot_ml, gettext("to stir in"))]
    if melt.overrun:
        unwhipped_ml = grams / (melt.density_set * (1.0 + melt.overrun))
        whipped_ml = unwhipped_ml * max(WHIP_ROOM, 1.0 + melt.overrun)
        words.append(_fits(vessels, Vessel.Use.BOWL, grams, whipped_ml, gettext("to whip")))
    pots = [v for v in vessels if v.use == Vessel.Use.POT and v.brim_ml >= hot_ml]
    baths = [v for v in vessels if v.use == Vessel.Use.BATH]
    if pots and baths and pots[0].brim_ml > max(bath.brim_ml for bath in baths):
        words.append(
            said(
                "{name} doesn’t fit in {name2}. Melt the batch in two smaller pots.",
                name=pots[0].name,
                name2=baths[-1].name,
            )
        )
    return [sentence for sentence in words if sentence]


def pot_words(user: Any, grams: float, parts: Sequence[tuple[Material, float]]) -> str:
    """Return whether one of the maker's own pots is large enough, in words; empty without pots."""
    return _fits(
        list(Vessel.objects.of(user)),
        Vessel.Use.POT,
        grams,
        grams / blend_density(parts) * STIR_ROOM,
        gettext("to stir in"),
    )


def _fits(vessels: list[Vessel], use: str, batch_g: float, wanted_ml: float, why: str) -> str:
    mine = [vessel for vessel in vessels if vessel.use == use]
    if not mine:
        return ""
    fitting = next((vessel for vessel in mine if vessel.brim_ml >= wanted_ml), None)
    if fitting is not None:
        return said("{name} holds it with room {why}.", name=fitting.name, why=why)
    largest = mine[-1]
    most = Decimal(repr(round(batch_g * largest.brim_ml / wanted_ml, 1)))
    return str(
        Message(
            "{name} holds {brim}, and with room {why} this takes {wanted}: melt up to {most} in it "
            "at once.",
            name=largest.name,
            brim=Volume(largest.brim_ml),
            why=why,
            wanted=Volume(round(wanted_ml)),
            most=Mass(most),
        )
    )
