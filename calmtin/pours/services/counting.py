"""Count the yield of a pour: filled, left over, and lost."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.numbers import CENT
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.limits import WEIGHT_G, check
from calmtin.core.messages import Message, said
from calmtin.core.packing.keeping import STORAGES
from calmtin.core.quantities import Mass
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot
from calmtin.pantry.queries.lots import cost_of
from calmtin.pantry.services import keep_blend, make_lot
from calmtin.pantry.services.containers import use_containers
from calmtin.pours.adapters import dry_parts, keeping_of, newest_yield, weighed_g, withdrawals_of
from calmtin.pours.models import Leftover, Pour, Yield
from calmtin.pours.services.rehearsing import refuse_rehearsal

SCALE_ERROR = Decimal("1.02")  # by which two scales, or two readings, may disagree


@sent_once
@transaction.atomic
def record_yield(
    user: Any,
    pour: Pour,
    *,
    filled_g: Decimal,
    left_g: Decimal,
    pieces: Mapping[int, Sequence[Decimal]] | None = None,
    counts: Mapping[int, int] | None = None,
) -> Yield:
    """Record the filled containers and leftovers; earlier counts stay, the newest is used.

    `pieces` are the weights of single ones, g, `counts` how many there are, by the position of their
    filling. The next plans learn from it what clings. Raises `CalmTinError` for a pour that is not closed,
    and for more than was in the pot.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    if pour.is_weighing or pour.called_off_at is not None:
        raise CalmTinError(gettext("Finish the pour before you count."), field="left_g")
    check(left_g, WEIGHT_G, name=gettext("Weight left"), field="left_g", unit="g")
    weighed = weighed_g(pour)
    most = (weighed - pour.driven_off_g) * SCALE_ERROR
    if filled_g + left_g > most:
        raise DoesNotFit(
            Message(
                "{told} is more than the {held} in the pot. Check the counts and weights.",
                told=Mass(filled_g + left_g, 1),
                held=Mass(weighed - pour.driven_off_g, 1),
            ),
            field="left_g",
            limit=float(most),
            unit="g",
        )
    _use_up_containers(user, pour, counts or {})
    told = [[place, [f"{grams:f}" for grams in weights]] for place, weights in (pieces or {}).items()]
    return Yield.objects.create(
        pour=pour,
        filled_g=filled_g,
        left_g=left_g,
        pieces=told,
        counts=[[place, int(count)] for place, count in (counts or {}).items()],
    )


def _use_up_containers(user: Any, pour: Pour, counts: Mapping[int, int]) -> None:
    """Take what was filled off the containers on hand: all at the first count, the difference later."""
    last = newest_yield(pour)
    before = {int(place): int(count) for place, count in last.counts} if last else {}
    for filling in pour.fillings.select_related("own_container"):
        more = int(counts.get(filling.position, 0)) - before.get(filling.position, 0)
        if filling.own_container is not None:
            use_containers(user, filling.own_container, more)


@sent_once
@transaction.atomic
def keep_leftovers(user: Any, pour: Pour, *, left_g: Decimal, today: date) -> Lot:
    """Put the leftovers of a pot into the pantry, as a lot of that blend.

    It costs its share of what the pot cost and keeps no longer than what went into it. Raises
    `CalmTinError` where it is in the pantry already.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    if pour.leftovers.filter(lot__voided_at=None).exists():
        raise CalmTinError(gettext("The leftovers of this pour are already in the pantry."), field="left_g")
    check(left_g, (0.01, WEIGHT_G[1]), name=gettext("Weight left"), field="left_g", unit="g")
    shelf = shelf_for(user)
    blend = keep_blend(
        user,
        name=said("{formula}, left over", formula=pour.version.formula.name[:60]),
        parts=[(material.slug, mass) for material, mass in dry_parts(pour, shelf)],
        by_name=False,
    )
    withdrawals = withdrawals_of(pour)
    lots = Lot.objects.of(user).filter(movements__withdrawal__in=withdrawals, best_before__isnull=False)
    total, weighed = cost_of(withdrawals).total, weighed_g(pour)
    lot = make_lot(
        user,
        material=blend.slug,
        amount_g=left_g,
        bought_on=today,
        price=(total * left_g / weighed).quantize(CENT) if total and weighed else None,
        best_before=lots.order_by("best_before").values_list("best_before", flat=True).first(),
        note=said("left over from {code}", code=pour.code),
        typed="weighed",
    )
    Leftover.objects.create(pour=pour, lot=lot)
    return lot


@transaction.atomic
def store_at(user: Any, pour: Pour, *, storage: str) -> Pour:
    """Say where a pour is kept; until when it keeps follows from that.

    Raises `CalmTinError` for a place that is not offered, or a pour that is not poured yet.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    if storage not in STORAGES:
        raise CalmTinError(gettext("Choose how it is stored from the list."), field="storage")
    if pour.poured_at is None:
        raise CalmTinError(gettext("Finish weighing to see how long it keeps."), field="storage")
    pour.storage = storage
    kept = keeping_of(pour, shelf_for(user))
    pour.use_by = kept.best_before if kept else None
    pour.save(update_fields=["storage", "use_by"])
    return pour
