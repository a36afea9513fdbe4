"""Ways to fill containers from a batch that does not come out even."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Literal

from calmtin.core.errors import DoesNotFit
from calmtin.core.messages import Message
from calmtin.core.process.fill import (
    Container,
    Filling,
    FillPlan,
    Melt,
    from_pot,
    from_pot_g,
    plan_of,
    usable_g,
)
from calmtin.core.process.losses import Losses
from calmtin.core.quantities import Volume

Way = Literal["less", "fuller", "part", "whole"]
# Less than this share of a container left over is no leftover: it comes out even.
EVEN_SHARE = 0.05
# Containers that are filled less than this share of what was asked for look half empty.
LEAST_SHARE = 0.85
LEAST_LEVEL = 0.05


@dataclass(frozen=True, slots=True)
class Fit:
    """A way to fill what does not come out even; `filling` is the one that differs from what was asked.

    `less`: one container more, all of them a little less full. `fuller`: the same containers, a
    little fuller. `part`: one more, filled with what is left. `whole`: all in one larger container.
    """

    way: Way
    plan: FillPlan
    filling: Filling


def ways_to_fill(
    melt: Melt,
    offers: Sequence[Filling],
    losses: Losses,
    *,
    batch_g: Decimal,
    containers: Iterable[Container] = (),
) -> list[Fit]:
    """Return the ways to use up what `offers` leave of a batch, the nearest to what was asked first.

    Empty where it comes out even, or where no container holds it. `containers` are those that all of
    it may go into where it is too little for one that was offered. Raises `DoesNotFit` as `from_pot`.
    """
    made = from_pot(melt, offers, losses, batch_g=batch_g)
    counts = {_what(filling): filling.count for filling in made.fillings}
    offer = next((o for o in offers if counts.get(_what(o), 0) < o.count), offers[-1])
    count, each_g = counts.get(_what(offer), 0), from_pot_g(melt, offer)
    others = [f for f in made.fillings if _what(f) != _what(offer)]
    left = usable_g(melt, losses, batch_g=batch_g) - sum(made.grams_of(f) for f in made.fillings)
    if left < EVEN_SHARE * each_g:
        return []

    def fit(way: Way, *fillings: Filling) -> Fit:
        return Fit(way, plan_of(melt, [*others, *fillings], losses, batch_g), fillings[-1])

    fits = []
    less = (count * each_g + left) / ((count + 1) * each_g)
    if count < offer.count and less >= LEAST_SHARE:
        fits.append(fit("less", replace(offer, count=count + 1, each_ml=offer.each_ml * less)))
    if count:
        fuller = 1.0 + left / (count * each_g)
        if offer.level * fuller <= 1.0:
            fits.append(fit("fuller", replace(offer, count=count, each_ml=offer.each_ml * fuller)))
    rest = replace(offer, count=1, each_ml=offer.each_ml * left / each_g)
    if count < offer.count and rest.level >= LEAST_LEVEL and (count or less < LEAST_SHARE):
        fits.append(fit("part", *([replace(offer, count=count)] if count else []), rest))
    if not made.fillings and less < LEAST_SHARE:
        fits += [fit("whole", f) for f in [_smallest(melt, left, containers)] if f is not None]
    return fits


def _what(filling: Filling) -> tuple[str, float, str]:
    """Return what tells one filling of a plan from another."""
    return filling.container.slug, filling.each_ml, filling.finish


def _smallest(melt: Melt, grams: float, containers: Iterable[Container]) -> Filling | None:
    """Return all of it in the smallest container that holds it as full as it usually is."""
    wanted_ml = grams / melt.density_pour
    holding = [c for c in containers if c.usual_ml >= wanted_ml and not c.is_mould]
    container = min(holding, key=lambda c: (c.volume_ml, c.slug), default=None)
    return None if container is None else Filling(container, 1, wanted_ml)


def whole_pot(melt: Melt, container: Container, losses: Losses, *, batch_g: Decimal) -> FillPlan:
    """Return a batch poured as it is into one container, whatever that leaves of it empty.

    Raises `DoesNotFit` where the container does not hold it.
    """
    empty = plan_of(melt, (), losses, batch_g)
    each_ml = empty.left_g / melt.density_pour
    if each_ml > container.volume_ml + 1e-6:
        raise DoesNotFit(
            Message(
                "{name} holds {brim}, but this is {wanted}.",
                name=container.name,
                brim=Volume(container.volume_ml),
                wanted=Volume(each_ml),
            ),
            field="container_0",
            limit=container.volume_ml,
            unit="ml",
        )
    return plan_of(melt, (Filling(container, 1, each_ml),), losses, batch_g)
