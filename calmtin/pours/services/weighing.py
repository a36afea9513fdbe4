"""What a maker does at the scale. Closing a sheet and weighing onto it cannot both win."""

from __future__ import annotations

from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.accounts.queries import bench_of
from calmtin.accounts.services import set_on_bench
from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError, DoesNotFit
from calmtin.core.limits import WEIGHT_G, check, check_text
from calmtin.core.messages import Message, said
from calmtin.core.process.weighing import Mode, line_after
from calmtin.core.quantities import Mass
from calmtin.formulas.queries.stops import refuse_open_stops
from calmtin.formulas.services import mark_poured
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, Withdrawal
from calmtin.pantry.services.lots import put_back, take_from_stock
from calmtin.pours.adapters import keeping_of, newest_reading, now_of, scale_before_g, standing_readings
from calmtin.pours.adapters.filled import parts_by_finish
from calmtin.pours.models import FinishWeighIn, Pour, PourFinishPart, WeighIn, WeighLine
from calmtin.pours.services.closing import keep_closing

# A reading this far over its target is a slip of the finger, not an over-pour.
MOST_TIMES_TARGET = 20


@transaction.atomic
def weigh(
    user: Any,
    line: WeighLine,
    grams: Decimal,
    *,
    after: int | None = None,
    mode: Mode = "shows",
    lot: Lot | None = None,
) -> None:
    """Record a reading of the scale for a line; saying the same again adds nothing.

    `mode` says what the grams are: what the scale shows, what was added, or what is in really. `lot`
    is where it came from, before the one that the sheet chose.

    `after` is the reading that the page showed (0 where it showed none): what is added comes on top
    of that one, so that a reading which is sent again counts once. Raises `CalmTinError` where
    another page has weighed the line since.
    """
    read_again(user, line, lot)
    _refuse_poured(line.pour)
    newest = line.weigh_ins.last()
    shown = newest if after is None else line.weigh_ins.filter(pk=after).first()
    grams = line_after(
        mode,
        grams,
        line_g=(shown and shown.grams) or Decimal(0),
        before_g=scale_before_g(line, shelf_for(user)),
    )
    _check_grams(line, grams)
    if newest is not None and newest.grams == grams:
        return
    _refuse_stale(newest, after)
    _put_back(user, newest)
    if lot is not None and lot.material != line.material:
        raise CalmTinError(gettext("That lot is of something else. Choose one from the list."), field="lot")
    WeighIn.objects.create(line=line, grams=grams, lot=lot, withdrawal=_take(user, line, grams, lot))


def _take(user: Any, line: WeighLine, grams: Decimal, lot: Lot | None) -> Withdrawal | None:
    """Take a line's weight from stock; a rehearsal takes nothing, nor does what was in the pot."""
    if line.pour.is_rehearsal or line.is_from_pot:
        return None
    return take_from_stock(user, line.material, grams, first=lot.pk if lot else line.lot_id)


@transaction.atomic
def weigh_finish(user: Any, part: PourFinishPart, grams: Decimal, *, after: int | None = None) -> None:
    """Record what the scale said for a part of a finish, as `weigh` does for a line.

    It goes in once the pot is split, so the sheet is closed by then. Raises `CalmTinError` before.
    """
    read_again(user, part)
    if part.pour.called_off_at is not None or part.pour.is_weighing:
        raise CalmTinError(
            gettext("Close the weigh sheet of the pot first; then the pot is split."), field="grams"
        )
    check(grams, WEIGHT_G, name="A weight", field="grams", unit="g")
    _check_slip(grams, part.planned_g)
    newest = part.weigh_ins.last()
    if newest is not None and newest.grams == grams:
        return
    _refuse_stale(newest, after)
    _put_back(user, newest)
    FinishWeighIn.objects.create(
        part=part,
        grams=grams,
        at=now_of(part.pour),
        withdrawal=None if part.pour.is_rehearsal else take_from_stock(user, part.material, grams),
    )
    keep_closing(user, part.pour)


def _refuse_stale(newest: WeighIn | FinishWeighIn | None, after: int | None) -> None:
    """Refuse what a page says that has not seen the newest reading."""
    if after is None or (newest.pk if newest else 0) == after:
        return
    words = Message(
        "Another page saved {kept} here meanwhile. Check the scale, and press Enter again if what "
        "you typed is right.",
        kept=Mass(newest.grams) if newest and newest.grams is not None else "nothing",
    )
    raise CalmTinError(words, field="grams")


def _check_grams(line: WeighLine, grams: Decimal) -> None:
    """Refuse what no scale shows for this line."""
    check(grams, WEIGHT_G, name="A weight", field="grams", unit="g")
    _check_slip(grams, line.planned_g)


def _check_slip(grams: Decimal, planned_g: Decimal) -> None:
    """Refuse a slip of the finger."""
    most = max(planned_g * MOST_TIMES_TARGET, Decimal(20))
    if grams > most:
        raise DoesNotFit(
            Message(
                "{grams} is far more than the planned {planned}. Check the decimal point and the "
                "unit on the scale.",
                grams=Mass(grams),
                planned=Mass(planned_g),
            ),
            field="grams",
            limit=float(most),
            unit="g",
        )


@sent_once
@transaction.atomic
def undo_weight(user: Any, pour: Pour, *, after: int | None = None) -> WeighLine | None:
    """Take a line one reading back, to what it came to before; return that line.

    It is the line that was weighed last. `after` is the newest reading that the page showed; one that
    it did not show stays.
    """
    read_again(user, pour)
    _refuse_poured(pour)
    standing = {line: standing_readings(line) for line in pour.lines.prefetch_related("weigh_ins")}
    weighed = [line for line, readings in standing.items() if readings]
    if not weighed:
        return None
    line = max(weighed, key=lambda line: standing[line][-1].pk)
    *earlier, undone = standing[line]
    newest = newest_reading(line)
    if after is not None and newest is not None and newest.pk > after:
        raise CalmTinError(
            gettext("Another page saved a weight meanwhile. You see it now; undo it if it is wrong.")
        )
    _put_back(user, newest)
    before = earlier[-1] if earlier else None
    grams, lot = (before.grams, before.lot) if before else (None, None)
    WeighIn.objects.create(
        line=line,
        grams=grams,
        lot=lot,
        undoes=undone,
        withdrawal=None if grams is None else _take(user, line, grams, lot),
    )
    return line


@transaction.atomic
def finish_weighing(user: Any, pour: Pour, *, poured_at: datetime | None = None) -> Pour:
    """Close the weigh sheet: everything is in the pot and poured.

    Raises `CalmTinError` while a line has no weight, or when nothing has any; `StopFirst` for a stop
    about what was weighed that was not acknowledged.
    """
    read_again(user, pour)
    if pour.poured_at is not None:
        return pour
    _refuse_poured(pour)
    shelf = shelf_for(user)
    newest = {line: newest_reading(line) for line in pour.lines.prefetch_related("weigh_ins")}
    missing = [shelf[li.material].label for li, w in newest.items() if w is None or w.grams is None]
    if missing:
        raise CalmTinError(
            said("Not weighed yet: {missing}. Type 0 for what you left out.", missing=", ".join(missing)),
            field="grams",
        )
    if not any(w.grams for w in newest.values() if w):
        raise CalmTinError(gettext("Every weight is 0, so the pot is empty."), field="grams")
    if not pour.is_rehearsal and poured_at is None:
        for parts in parts_by_finish(pour, shelf).values():
            refuse_open_stops(pour.version, parts, bench_of(user), batch_g=pour.batch_g)
    pour.poured_at = poured_at or now_of(pour)
    kept = keeping_of(pour, shelf)
    pour.use_by = kept.best_before if kept else None
    pour.save(update_fields=["poured_at", "use_by"])
    if not pour.is_rehearsal:
        mark_poured(user, pour.version, pour.poured_at)
        keep_closing(user, pour)
    return pour


@transaction.atomic
def correct_weight(user: Any, line: WeighLine, grams: Decimal, *, reason: str) -> WeighIn | None:
    """Correct a weight of a closed sheet by an entry that keeps the old one; None where it agrees.

    The pantry gets back what the old one took. Raises `CalmTinError` on a sheet that is
    still open, or without a reason.
    """
    read_again(user, line)
    if line.pour.is_weighing or line.pour.called_off_at is not None:
        raise CalmTinError(gettext("Close the weigh sheet before you correct it here."), field="grams")
    if not reason.strip():
        raise CalmTinError(gettext("Give a reason: misread, typed on the wrong line."), field="reason")
    check_text(reason, 200, name=gettext("The reason"), field="reason")
    _check_grams(line, grams)
    newest = line.weigh_ins.last()
    if newest is not None and newest.grams == grams:
        return None
    _put_back(user, newest)
    lot = newest.lot if newest else None
    reading = WeighIn.objects.create(
        line=line,
        grams=grams,
        reason=reason.strip(),
        lot=lot,
        withdrawal=_take(user, line, grams, lot),
    )
    keep_closing(user, line.pour)
    return reading


@transaction.atomic
def weigh_into(user: Any, pour: Pour, *, weighed_into: str) -> Pour:
    """Save how this sheet is weighed, into cups or one pot, and weigh the next ones the same way."""
    read_again(user, pour)
    _refuse_poured(pour)
    if weighed_into not in Pour.Weighing.values:
        raise CalmTinError(gettext("Choose how you weigh from the list."), field="page")
    pour.weighed_into = weighed_into
    pour.save(update_fields=["weighed_into"])
    set_on_bench(user, weighed_into=weighed_into)
    return pour


def _put_back(user: Any, reading: WeighIn | FinishWeighIn | None) -> None:
    """Give the pantry back what an earlier reading took."""
    if reading is not None and reading.withdrawal is not None:
        put_back(user, reading.withdrawal)


def _refuse_poured(pour: Pour) -> None:
    if pour.called_off_at is not None:
        raise CalmTinError(gettext("This pour was cancelled. Start another one."), field="grams")
    if not pour.is_weighing:
        raise CalmTinError(
            gettext("This pour is closed. Correct a weight in its batch record, under “Correct a weight”."),
            field="grams",
        )
