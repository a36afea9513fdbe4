"""Packing items: what there is of them, and what went around the pieces of a pour."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_text
from calmtin.core.messages import said
from calmtin.packing.models import PackedWith, PackingItem
from calmtin.pours.adapters.filled import filled_at
from calmtin.pours.models import Pour
from calmtin.pours.services.rehearsing import refuse_rehearsal


@sent_once
@transaction.atomic
def add_packing_item(
    user: Any, *, name: str, on_hand: int | None = None, price: Decimal | None = None
) -> PackingItem:
    """Add a packing item; raises `CalmTinError` for a name that is taken."""
    name = name.strip()
    check_text(name, 60, name=gettext("The name"), field="name")
    if PackingItem.objects.of(user).filter(name__iexact=name).exists():
        raise CalmTinError(
            said("There is already one called {name}. Choose another name.", name=name), field="name"
        )
    _check(on_hand, price)
    return PackingItem.objects.create(owner=user, name=name, on_hand=on_hand, price=price)


@sent_once
@transaction.atomic
def buy_packing(user: Any, item: PackingItem, *, count: int, price: Decimal | None = None) -> PackingItem:
    """Add `count` that were bought to those on hand; the price of one changes where it is given."""
    read_again(user, item)
    check(count, limits.BOUGHT, name=gettext("The number bought"), field="bought")
    on_hand = (item.on_hand or 0) + count
    _check(on_hand, price)
    item.on_hand, item.price = on_hand, item.price if price is None else price
    item.save(update_fields=["on_hand", "price"])
    return item


@transaction.atomic
def remove_packing_item(user: Any, item: PackingItem) -> None:
    """Take an item off the list; what was packed with it stays on record."""
    read_again(user, item)
    item.mark_deleted()


@sent_once
@transaction.atomic
def pack_with(user: Any, pour: Pour, *, position: int, item: PackingItem, count: int) -> PackedWith:
    """Record `count` items that went around pieces of a pour; those on hand go down.

    Raises `CalmTinError` for a pour that was not made. A number on hand that was not right is no
    reason to refuse: it ends at none.
    """
    read_again(user, pour, item)
    refuse_rehearsal(pour)
    filled_at(pour, position)
    check(count, limits.BOUGHT, name=gettext("How many"), field="count")
    _use(item, count)
    return PackedWith.objects.create(pour=pour, position=position, item=item, count=count, price=item.price)


@sent_once
@transaction.atomic
def unpack(user: Any, packed: PackedWith) -> PackedWith:
    """Take back what was packed; the items are on hand again. Raises `CalmTinError` if that was done."""
    read_again(user, packed)
    if packed.undoes_id is not None or PackedWith.objects.filter(undoes=packed).exists():
        raise CalmTinError(gettext("That entry was already undone."))
    _use(packed.item, -packed.count)
    return PackedWith.objects.create(
        pour=packed.pour,
        position=packed.position,
        item=packed.item,
        count=packed.count,
        price=packed.price,
        undoes=packed,
    )


def _use(item: PackingItem, count: int) -> None:
    if item.on_hand is not None:
        item.on_hand = max(item.on_hand - count, 0)
        item.save(update_fields=["on_hand"])


def _check(on_hand: int | None, price: Decimal | None) -> None:
    if on_hand is not None:
        check(on_hand, limits.ON_HAND, name=gettext("The number on hand"), field="on_hand")
    if price is not None:
        check(price, limits.PRICE, name=gettext("The price"), field="price")
