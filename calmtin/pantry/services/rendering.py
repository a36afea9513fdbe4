"""Raw comb rendered to wax, and a raw butter clarified: started, done step by step, weighed as a lot."""

from __future__ import annotations

from datetime import date, datetime, time
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_day
from calmtin.core.messages import said
from calmtin.core.process.making import STEPS, Job
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Infusion, Lot, MakingMark, Movement, Rendering
from calmtin.pantry.services.correcting import keep_correction
from calmtin.pantry.services.lots import (
    correct_lot,
    first_to_expire,
    make_lot,
    price_of,
    put_back,
    take_from_stock,
)

WAX_FROM_COMB = "beeswax_yellow"


@sent_once
@transaction.atomic
def start_rendering(
    user: Any, *, kind: str, raw_g: Decimal, started_on: date, material: str = WAX_FROM_COMB
) -> Rendering:
    """Start to render comb, or to clarify a butter, which is taken from the shelf.

    Raises `CalmTinError` for a butter that is none.
    """
    check(raw_g, limits.COMB_G, name=gettext("The weight"), field="raw_g", unit="g")
    check_day(started_on, name=gettext("The start"), field="started_on")
    if kind not in Rendering.Kind.values:
        raise CalmTinError(gettext("Choose comb or a raw butter."), field="kind")
    is_butter = kind == Rendering.Kind.BUTTER
    slug = shelf_for(user)[material].slug if is_butter else WAX_FROM_COMB
    if is_butter and shelf_for(user)[slug].group not in ("butter", "soft_fat"):
        raise CalmTinError(gettext("Choose a butter or a soft fat."), field="material")
    rendering = Rendering.objects.create(
        owner=user, kind=kind, material=slug, raw_g=raw_g, started_on=started_on
    )
    if is_butter:
        take_from_stock(user, slug, raw_g, kind=Movement.Kind.USED, rendering=rendering)
    mark_start(user, rendering=rendering, on=started_on)
    return rendering


@sent_once
@transaction.atomic
def finish_rendering(user: Any, rendering: Rendering, *, clean_g: Decimal, done_on: date) -> Lot:
    """Weigh what came of it: a lot with the price and the date of what went in, where that is known.

    Raises `CalmTinError` when it was weighed before, or gives more than went in.
    """
    read_again(user, rendering)
    check_day(done_on, name=gettext("The day"), field="done_on")
    if rendering.lot_id is not None:
        raise CalmTinError(
            gettext("This has been weighed already. Correct the weight below."), field="clean_g"
        )
    _check_clean(rendering, clean_g)
    is_comb = rendering.kind == Rendering.Kind.COMB
    lot = make_lot(
        user,
        material=rendering.material,
        amount_g=clean_g,
        bought_on=done_on,
        price=price_of(rendering.withdrawals.all(), rendering.raw_g),
        best_before=first_to_expire(rendering.withdrawals.all()),
        note=gettext("rendered from comb") if is_comb else gettext("clarified"),
    )
    rendering.clean_g, rendering.done_on, rendering.lot = clean_g, done_on, lot
    rendering.save(update_fields=["clean_g", "done_on", "lot"])
    return lot


@sent_once
@transaction.atomic
def render_at_once(user: Any, *, clean_g: Decimal, started_on: date, **what: Any) -> Rendering:
    """Record what is rendered already; `what` as it is started. What came of it becomes a lot."""
    rendering: Rendering = start_rendering(user, started_on=started_on, **what)
    finish_rendering(user, rendering, clean_g=clean_g, done_on=started_on)
    rendering.refresh_from_db()
    return rendering


@transaction.atomic
def correct_rendering(user: Any, rendering: Rendering, *, clean_g: Decimal, reason: str) -> bool:
    """Correct the weight of what came of it, and its lot with it. Say whether anything changed."""
    read_again(user, rendering)
    if rendering.lot is None:
        raise CalmTinError(gettext("Nothing has been weighed yet."), field="clean_g")
    _check_clean(rendering, clean_g)
    changed = keep_correction(user, rendering, reason=reason, clean_g=clean_g)
    if changed:
        correct_lot(user, rendering.lot, reason=reason, amount_g=clean_g)
    return changed


@transaction.atomic
def delete_rendering(user: Any, rendering: Rendering) -> None:
    """Delete one that was never weighed; a butter goes back to the shelf."""
    read_again(user, rendering)
    if rendering.lot_id is not None:
        raise CalmTinError(gettext("This has been weighed, so it stays on record."))
    for withdrawal in rendering.withdrawals.all():
        put_back(user, withdrawal)
    rendering.mark_deleted()


def _check_clean(rendering: Rendering, clean_g: Decimal) -> None:
    if 0 < clean_g <= rendering.raw_g:
        return
    words = (
        gettext("The clean wax must weigh more than 0 and no more than the comb.")
        if rendering.kind == Rendering.Kind.COMB
        else gettext("The butter must weigh more than 0 and no more than what you melted.")
    )
    raise CalmTinError(words, field="clean_g", limit=float(rendering.raw_g), unit="g")


def mark_start(
    user: Any, *, on: date, infusion: Infusion | None = None, rendering: Rendering | None = None
) -> None:
    """Note when a job began, from which its clocks count: now, or at noon of another day."""
    at = timezone.now()
    if on != timezone.localdate(at):
        at = timezone.make_aware(datetime.combine(on, time(12)))
    MakingMark.objects.create(owner=user, infusion=infusion, rendering=rendering, key="start", at=at)


@sent_once
@transaction.atomic
def mark_step(user: Any, row: Infusion | Rendering, *, key: str, is_done: bool = True) -> MakingMark:
    """Mark a step of a job as done, or as not done after all.

    Raises `CalmTinError` for a step it does not have, and for a job that is over.
    """
    read_again(user, row)
    if row.lot_id is not None:
        raise CalmTinError(gettext("This is finished. Its lot is in the pantry."))
    job = Job(row.method if isinstance(row, Infusion) else row.kind)
    if key not in [step.key for step in STEPS[job]]:
        raise CalmTinError(said("There is no step “{key}” here.", key=key[:20]))
    of = {"infusion": row} if isinstance(row, Infusion) else {"rendering": row}
    return MakingMark.objects.create(owner=user, key=key, is_done=is_done, at=timezone.now(), **of)
