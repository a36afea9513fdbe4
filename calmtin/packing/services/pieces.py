"""Say where the pieces of a pour went, and what work was in it."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.limits import CONTAINERS, HOURS, PRICE, check, check_day, check_text
from calmtin.core.messages import said
from calmtin.packing.adapters import standing
from calmtin.packing.models import PieceGone
from calmtin.pours.adapters.filled import filled_at
from calmtin.pours.models import Pour
from calmtin.pours.services.rehearsing import refuse_rehearsal


@sent_once
@transaction.atomic
def send_pieces(
    user: Any,
    pour: Pour,
    *,
    position: int,
    went: str,
    count: int,
    on: date,
    who: str = "",
    price: Decimal | None = None,
    note: str = "",
) -> PieceGone:
    """Record that pieces of a pour were kept, given, sold, refilled, set aside or broken.

    Raises `CalmTinError` for more than are there, a price of what was not sold, or a pour that was
    not made.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    filled = filled_at(pour, position)
    if went not in PieceGone.Went.values:
        raise CalmTinError(gettext("Choose an outcome from the list."), field="went")
    check(count, CONTAINERS, name=gettext("How many"), field="count")
    check_day(on, name=gettext("The day"), field="on")
    check_text(who, 60, name=gettext("Who it went to"), field="who")
    check_text(note, 200, name=gettext("The note"), field="note")
    if price is not None and went not in (PieceGone.Went.SOLD, PieceGone.Went.REFILL):
        raise CalmTinError(
            gettext("Only pieces that were sold have a price. Leave it empty."), field="price"
        )
    if price is not None:
        check(price, PRICE, name=gettext("The price"), field="price")
    left = filled.count - sum(entry.count for entry in standing(pour) if entry.position == position)
    if count > left:
        raise DoesNotFit(
            said(
                "Only {left} of the {count} are left. Count again, or undo an entry below.",
                left=left,
                count=filled.count,
            ),
            field="count",
            limit=left,
        )
    return PieceGone.objects.create(
        pour=pour,
        position=position,
        went=went,
        count=count,
        on=on,
        who=who.strip(),
        price=price,
        note=note.strip(),
    )


@sent_once
@transaction.atomic
def undo_piece(user: Any, gone: PieceGone) -> PieceGone:
    """Undo an entry of where pieces went; it stays on record, taken back.

    Raises `CalmTinError` where it was taken back already.
    """
    read_again(user, gone)
    if gone.undoes_id is not None or PieceGone.objects.filter(undoes=gone).exists():
        raise CalmTinError(gettext("That entry was already undone."))
    return PieceGone.objects.create(
        pour=gone.pour,
        position=gone.position,
        went=gone.went,
        count=gone.count,
        on=gone.on,
        who=gone.who,
        price=gone.price,
        undoes=gone,
    )


@transaction.atomic
def count_hours(user: Any, pour: Pour, *, hours: Decimal | None) -> Pour:
    """Say how many hours of work were in a pour; its price for a stall follows from that."""
    read_again(user, pour)
    if hours is not None:
        check(hours, HOURS, name=gettext("The work"), field="hours", unit="hours")
    pour.hours = None if hours is None else float(hours)
    pour.save(update_fields=["hours"])
    return pour
