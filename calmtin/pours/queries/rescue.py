"""Too soft or too hard: the additions that bring a poured pot to its target."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.utils.translation import gettext, gettext_noop

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.engine.firmness import rung_at
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import RUNG
from calmtin.core.materials import Layer, Material, Shelf
from calmtin.core.messages import digits, notation_in_force
from calmtin.core.process.rescue import NEAR, Addition, additions, with_more
from calmtin.core.units import read_number
from calmtin.formulas.queries.formula import cautions_for, told_at_once
from calmtin.pantry.queries.lots import left_of
from calmtin.pours.adapters import dry_parts, overrun_of
from calmtin.pours.models import Pour

WAYS: tuple[Layer, ...] = ("wax", "butter", "soft_fat", "oil")
MOST_TRIED = 24
NOTHING = gettext_noop(
    "No single material on your shelf can do that. Buy a wax or an oil, or ask for a smaller change."
)


@dataclass(frozen=True)
class Way:
    """An addition with its effect: percent of the material, and cautions."""

    addition: Addition
    percent: float
    left: Decimal | None
    cautions: list[Caution]

    @property
    def grams_typed(self) -> str:
        """The addition in its box, in grams whatever the scale shows."""
        return f"{digits(self.addition.grams)} g"


@dataclass(frozen=True)
class RescueView:
    """The ways from a pot's firmness to its target, the smallest of each layer."""

    now: float | None
    wanted: str
    problem: str
    pot_g: float
    ways: list[Way]


def pot_parts(pour: Pour, shelf: Shelf) -> list[tuple[Material, float]]:
    """Return the parts of a pot that is melted again, g, without losses."""
    dry = dry_parts(pour, shelf)
    whole = sum(grams for _, grams in dry)
    share = max(1.0 - float(pour.test_g) / whole, 0.0) if whole else 0.0
    return [(material, grams * share) for material, grams in dry]


def rescue_view(user: Any, pour: Pour, shelf: Shelf, bench: Bench, typed: str | None) -> RescueView:
    """Return the additions that bring a pot to the typed firmness, or to the kind's target."""
    kind = pour.version.formula.kind_facts
    wanted = digits(sum(kind.target) / 2, ".1f") if typed is None else typed
    pot, overrun = pot_parts(pour, shelf), overrun_of(pour)
    now = rung_at(pot, bench.room_c, overrun=overrun, prior=bench.prior)
    whole = sum(grams for _, grams in pot)
    try:
        low, high = RUNG
        rung = float(
            read_number(wanted, name=gettext("Firmness"), low=low, high=high, notation=notation_in_force())
        )
    except CalmTinError as refused:
        return RescueView(now, wanted, str(refused), whole, [])
    if now is None or typed is None:
        return RescueView(now, wanted, "", whole, [])

    def read(parts: Sequence[tuple[Material, float]]) -> float:
        return rung_at(list(parts), bench.room_c, overrun=overrun, prior=bench.prior) or 0.0

    left = left_of(user)
    found = additions(pot, _candidates(pot, shelf, left), rung, rung_of=read, step_g=pour.scale_step_g)
    best = [next((way for way in found if way.material.layer == layer), None) for layer in WAYS]
    ways = [_way(way, pot, pour, bench, left) for way in best if way is not None]
    problem = "" if ways or abs(now - rung) <= NEAR else NOTHING
    return RescueView(now, wanted, problem, whole, sorted(ways, key=lambda way: way.addition.grams))


def _candidates(
    pot: Sequence[tuple[Material, float]], shelf: Shelf, left: dict[str, Decimal]
) -> list[tuple[Material, float | None]]:
    """Return the candidates for an addition: those in stock, and uncounted ones that are in the pot."""
    slugs = [slug for slug, grams in left.items() if grams > 0 and slug in shelf]
    slugs += [material.slug for material, _ in pot if material.slug not in left]
    chosen = [shelf[slug] for slug in dict.fromkeys(slugs) if shelf[slug].layer in WAYS]
    return [(m, float(left[m.slug]) if m.slug in left else None) for m in chosen[:MOST_TRIED]]


def _way(
    way: Addition, pot: Sequence[tuple[Material, float]], pour: Pour, bench: Bench, left: dict[str, Decimal]
) -> Way:
    after = with_more(pot, way.material, float(way.grams))
    whole = sum(g for _, g in after)
    there = sum(g for m, g in after if m.slug == way.material.slug)
    told = [
        cautions_for([(m, 100.0 * g / sum(x for _, x in p)) for m, g in p], pour.version, bench)
        for p in (after, pot)
    ]
    return Way(way, 100.0 * there / whole, left.get(way.material.slug), told_at_once(*told))
