"""Purchases: buy, reweigh, correct, remove from the shelf.

Stock is a ledger: nothing in it is changed, and each movement that something
else caused refers to its withdrawal.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext, gettext_noop

from calmtin.common.idempotency import sent_once
from calmtin.common.numbers import CENT, SumGrams
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_day, check_text
from calmtin.core.messages import Message
from calmtin.core.quantities import Mass, in_both
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Infusion, Lot, Movement, Rendering, Withdrawal, with_left


@sent_once
@transaction.atomic
def buy_lot(user: Any, *, material: str, amount_g: Decimal, bought_on: date, **facts: Any) -> Lot:
    """Put a purchase on the shelf and open its ledger."""
    return _open(user, Movement.Kind.BOUGHT, material, amount_g, bought_on, facts)


@transaction.atomic
def make_lot(user: Any, *, material: str, amount_g: Decimal, bought_on: date, **facts: Any) -> Lot:
    """Put on the shelf what its maker made, and open its ledger."""
    return _open(user, Movement.Kind.MADE, material, amount_g, bought_on, facts)


def _open(
    user: Any, kind: str, material: str, amount_g: Decimal, bought_on: date, facts: dict[str, Any]
) -> Lot:
    slug = shelf_for(user)[material].slug
    check_lot(amount_g=amount_g, bought_on=bought_on, **facts)
    lot = Lot.objects.create(owner=user, material=slug, amount_g=amount_g, bought_on=bought_on, **facts)
    Movement.objects.create(lot=lot, kind=kind, grams=amount_g)
    return lot


def price_of(withdrawals: Iterable[Withdrawal], whole_g: Decimal) -> Decimal | None:
    """Return what something that was made cost; None unless all of `whole_g` g has a price."""
    cost, taken_g = Decimal(0), Decimal(0)
    for movement in Movement.objects.filter(withdrawal__in=list(withdrawals)).select_related("lot"):
        if movement.lot.cost_per_g is None:
            return None
        cost -= movement.grams * movement.lot.cost_per_g
        taken_g -= movement.grams
    return cost.quantize(CENT) if taken_g >= whole_g else None


def first_to_expire(withdrawals: Iterable[Withdrawal]) -> date | None:
    """Return the first best-before of the lots that something was made of."""
    lots = Lot.objects.filter(movements__withdrawal__in=list(withdrawals), best_before__isnull=False)
    return lots.order_by("best_before").values_list("best_before", flat=True).first()


def check_lot(
    *,
    amount_g: Decimal,
    bought_on: date,
    price: Decimal | None = None,
    best_before: date | None = None,
    opened_on: date | None = None,
    note: str = "",
    typed: str = "",
) -> None:
    """Refuse a purchase that cannot be: too little, too much, a year that no bench sees."""
    check(amount_g, limits.LOT_G, name="A lot", field="amount", unit="g")
    if price is not None:
        check(price, limits.PRICE, name=gettext("The price"), field="price")
    check_day(bought_on, name=gettext("The day it was bought"), field="bought_on")
    check_day(best_before, name=gettext("Best before"), field="best_before")
    check_day(opened_on, name=gettext("The day it was opened"), field="opened_on")
    check_text(note, 200, name=gettext("The note"), field="note")
    check_text(typed, 120, name=gettext("The amount"), field="amount")


_CORRECTED = {
    "amount_g": "weight",
    "price": "price",
    "bought_on": gettext_noop("bought on"),
    "best_before": gettext_noop("best before"),
    "opened_on": gettext_noop("opened on"),
    "note": "note",
}


@sent_once
@transaction.atomic
def correct_lot(user: Any, lot: Lot, *, reason: str, **facts: Any) -> Movement | None:
    """Correct a purchase; the ledger keeps the earlier facts.

    `facts` are amount_g, price, bought_on, best_before, opened_on and note. None when
    nothing differs. What has been used of the lot stays used.
    """
    read_again(user, lot)
    if not reason.strip():
        raise CalmTinError(gettext("Give a reason: a slip of the finger, the wrong unit."), field="reason")
    was = {name: getattr(lot, name) for name in _CORRECTED}
    now = was | facts
    check_lot(**now)
    used = was["amount_g"] - balance(lot)
    if not lot.voided_at and now["amount_g"] < used:
        raise CalmTinError(
            Message(
                "{used} of it have been used, so the lot must have weighed at least that.", used=Mass(used)
            ),
            field="amount_g",
        )
    changed = [name for name in _CORRECTED if was[name] != now[name]]
    if not changed:
        return None
    said = ", ".join(f"{_CORRECTED[name]} {_said(name, was)} → {_said(name, now)}" for name in changed)
    for name in changed:
        setattr(lot, name, now[name])
    if "amount_g" in changed:
        lot.typed = ""
    lot.save(update_fields=[*changed, "typed"])
    difference = Decimal(0) if lot.voided_at else now["amount_g"] - was["amount_g"]
    return _enter(lot, Movement.Kind.CORRECTED, difference, f"{reason.strip()}: {said}")


def _said(name: str, facts: Mapping[str, Any]) -> str:
    value = facts[name]
    if name == "amount_g":
        return in_both(value)
    return f"{value.normalize():f}" if isinstance(value, Decimal) else str(value or "nothing")


@transaction.atomic
def void_lot(user: Any, lot: Lot, *, reason: str) -> Lot:
    """Take a lot off the shelf that should not be there; its ledger stays and says why."""
    read_again(user, lot)
    if not reason.strip():
        raise CalmTinError(
            gettext("Give a reason: entered twice, thrown away, given away."), field="reason"
        )
    if lot.voided_at is None:
        lot.voided_at = timezone.now()
        lot.save(update_fields=["voided_at"])
        _enter(lot, Movement.Kind.VOIDED, -balance(lot), reason.strip())
    return lot


@transaction.atomic
def restore_lot(user: Any, lot: Lot) -> Lot:
    """Put a removed lot back on the shelf with its balance."""
    read_again(user, lot)
    if lot.voided_at is not None:
        gone = lot.movements.filter(kind=Movement.Kind.VOIDED).last()
        lot.voided_at = None
        lot.save(update_fields=["voided_at"])
        _enter(
            lot, Movement.Kind.CORRECTED, -gone.grams if gone else Decimal(0), gettext("back on the shelf")
        )
    return lot


def _enter(lot: Lot, kind: str, grams: Decimal, reason: str) -> Movement:
    """Add a line to a lot's ledger; what does not fit into its reason is cut with a sign."""
    words = reason if len(reason) <= 200 else f"{reason[:199]}…"
    return Movement.objects.create(lot=lot, kind=kind, grams=grams, reason=words)


@sent_once
@transaction.atomic
def reweigh(user: Any, lot: Lot, *, actual_g: Decimal, reason: str) -> Movement | None:
    """Correct a lot's balance to what the scale says, with the reason; None when it agrees."""
    if not reason.strip():
        raise CalmTinError(gettext("Give a reason: spilled, given away, inaccurate scale."), field="reason")
    read_again(user, lot)
    check(actual_g, (0.0, limits.LOT_G[1]), name=gettext("Weight left"), field="actual", unit="g")
    if lot.voided_at is not None:
        raise CalmTinError(
            gettext("This lot was removed from the shelf. Restore it first."), field="actual"
        )
    difference = actual_g.quantize(Decimal("0.01")) - balance(lot)
    return _enter(lot, Movement.Kind.CORRECTED, difference, reason.strip()) if difference else None


@transaction.atomic
def take_from_stock(
    user: Any,
    material: str,
    grams: Decimal,
    *,
    kind: str = "weighed",
    first: int | None = None,
    infusion: Infusion | None = None,
    rendering: Rendering | None = None,
) -> Withdrawal | None:
    """Take `grams` from the lots of a material, first to expire first; None where no lot holds any.

    `first` is the key of a lot that was chosen to be used before the others, `infusion` or `rendering`
    what it is for. Stock that was never recorded cannot run out: what the lots do not hold is not booked.
    """
    read_again(user, infusion, rendering)
    withdrawal: Withdrawal | None = None
    left = grams
    lots = with_left(Lot.objects.of(user).filter(material=material, voided_at=None))
    for lot in sorted(lots, key=lambda lot: lot.pk != first):
        taken = min(left, lot.left)
        if taken > 0:
            withdrawal = withdrawal or Withdrawal.objects.create(
                owner=user, infusion=infusion, rendering=rendering
            )
            Movement.objects.create(lot=lot, kind=kind, grams=-taken, withdrawal=withdrawal)
            left -= taken
        if left <= 0:
            break
    return withdrawal


@transaction.atomic
def put_back(user: Any, withdrawal: Withdrawal) -> None:
    """Put back what a withdrawal took, once."""
    read_again(user, withdrawal)
    back = Movement.Kind.PUT_BACK
    movements = list(withdrawal.movements.all())
    if any(movement.kind == back for movement in movements):
        return
    for movement in movements:
        Movement.objects.create(
            lot_id=movement.lot_id, kind=back, grams=-movement.grams, withdrawal=withdrawal
        )


def balance(lot: Lot) -> Decimal:
    """Return the balance of a lot, g: the sum of its ledger."""
    left: Decimal = lot.movements.aggregate(total=SumGrams("grams"))["total"]
    return left
