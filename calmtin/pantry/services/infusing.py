"""Dried herbs in oil, from the start to the strained lot."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_day, check_text
from calmtin.core.messages import Message, said
from calmtin.core.process.making import Job, infused_best_before
from calmtin.core.quantities import Mass, in_both
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Infusion, Lot, Movement, OwnMaterial, due_date
from calmtin.pantry.services.correcting import keep_correction
from calmtin.pantry.services.lots import (
    correct_lot,
    first_to_expire,
    make_lot,
    price_of,
    put_back,
    take_from_stock,
)
from calmtin.pantry.services.materials import add_material
from calmtin.pantry.services.rendering import mark_start


@sent_once
@transaction.atomic
def start_infusion(
    user: Any, *, herb: str, herb_g: Decimal, oil: str, oil_g: Decimal, method: str, started_on: date
) -> Infusion:
    """Start a dried herb in oil; the oil is taken from stock."""
    due_on = _check_infusion(user, herb, herb_g, oil, oil_g, method, started_on)
    infusion = Infusion.objects.create(
        owner=user,
        herb=herb,
        herb_g=herb_g,
        oil=oil,
        oil_g=oil_g,
        method=method,
        started_on=started_on,
        due_on=due_on,
    )
    _take(user, infusion)
    mark_start(user, infusion=infusion, on=started_on)
    return infusion


@transaction.atomic
def correct_infusion(
    user: Any,
    infusion: Infusion,
    *,
    reason: str,
    herb: str,
    herb_g: Decimal,
    oil: str,
    oil_g: Decimal,
    method: str,
    started_on: date,
) -> bool:
    """Put an infusion right that is not strained yet; the shelf follows. Say whether anything changed."""
    read_again(user, infusion)
    if infusion.strained_on is not None:
        raise CalmTinError(
            gettext("This infusion has been strained; correct its lot instead."), field="herb"
        )
    due_on = _check_infusion(user, herb, herb_g, oil, oil_g, method, started_on)
    changed = keep_correction(
        user,
        infusion,
        reason=reason,
        herb=herb,
        herb_g=herb_g,
        oil=oil,
        oil_g=oil_g,
        method=method,
        started_on=started_on,
        due_on=due_on,
    )
    if changed:
        _put_back(user, infusion)
        _take(user, infusion)
    return changed


@transaction.atomic
def delete_infusion(user: Any, infusion: Infusion) -> None:
    """Delete an infusion that was never strained; its oil goes back to the shelf."""
    read_again(user, infusion)
    if infusion.strained_on is not None:
        raise CalmTinError(gettext("This infusion has been strained, so it stays on record."))
    _put_back(user, infusion)
    infusion.mark_deleted()


def _take(user: Any, infusion: Infusion) -> None:
    """Take the oil of an infusion from the shelf."""
    take_from_stock(user, infusion.oil, infusion.oil_g, kind=Movement.Kind.USED, infusion=infusion)


def _put_back(user: Any, infusion: Infusion) -> None:
    """Give the shelf back the oil that an infusion took."""
    for withdrawal in infusion.withdrawals.all():
        put_back(user, withdrawal)


def _check_infusion(
    user: Any, herb: str, herb_g: Decimal, oil: str, oil_g: Decimal, method: str, started_on: date
) -> date:
    """Refuse an impossible infusion; return the day it is due."""
    material = shelf_for(user)[oil]
    if material.layer != "oil":
        raise CalmTinError(gettext("Infuse in a liquid oil."), field="oil", material=oil)
    check_text(herb, 80, name=gettext("The herb"), field="herb")
    check(herb_g, limits.HERB_G, name=gettext("The herb"), field="herb_g", unit="g")
    check(oil_g, limits.OIL_G, name=gettext("The oil"), field="oil_g", unit="g")
    check_day(started_on, name=gettext("The start"), field="started_on")
    if method not in Infusion.Method.values:
        raise CalmTinError(gettext("Choose a cold or a warm infusion."), field="method")
    due_on = due_date(method, started_on)
    check_day(due_on, name=gettext("The day it is strained"), field="started_on")
    return due_on


@sent_once
@transaction.atomic
def strain(user: Any, infusion: Infusion, *, recovered_g: Decimal, strained_on: date) -> Lot:
    """Strain an infusion: the oil recovered becomes a lot of an oil that behaves as its base.

    It costs what its oil cost and keeps no longer than that. Raises `CalmTinError` when it was
    strained before, or gives more than went in.
    """
    read_again(user, infusion)
    check_day(strained_on, name=gettext("The day it was strained"), field="strained_on")
    if infusion.strained_on is not None:
        raise CalmTinError(gettext("This infusion has been strained already."), field="recovered_g")
    _check_recovered(infusion, recovered_g)
    base = shelf_for(user)[infusion.oil]
    name = said("{herb} in {oil}", herb=infusion.herb.strip().capitalize(), oil=base.in_words)
    known = OwnMaterial.objects.of(user).filter(name=name).first()
    material = known or add_material(
        user,
        name=name,
        group="oil",
        behaves_like=base.slug if base.slug in library() else "infused_oil",
        allergens=";".join(base.allergens),
        vegan=base.vegan,
        notes=gettext("Infused oil; behaves as its base oil."),
    )
    withdrawals = infusion.withdrawals.all()
    lot = make_lot(
        user,
        material=material.slug,
        amount_g=recovered_g,
        bought_on=strained_on,
        price=price_of(withdrawals, infusion.oil_g),
        best_before=infused_best_before(
            Job(infusion.method),
            started_on=infusion.started_on,
            strained_on=strained_on,
            oil=first_to_expire(withdrawals),
            oil_months=base.shelf_life_opened_months or base.shelf_life_months,
        ),
        note=said("strained, {in_both} left in the herb", in_both=in_both(infusion.oil_g - recovered_g)),
    )
    infusion.strained_on, infusion.recovered_g, infusion.lot = strained_on, recovered_g, lot
    infusion.save(update_fields=["strained_on", "recovered_g", "lot"])
    return lot


@transaction.atomic
def correct_strained(user: Any, infusion: Infusion, *, recovered_g: Decimal, reason: str) -> bool:
    """Correct the weight of a strained oil, and its lot with it. Say whether anything changed."""
    read_again(user, infusion)
    if infusion.lot is None:
        raise CalmTinError(gettext("This infusion is not strained yet."), field="recovered_g")
    _check_recovered(infusion, recovered_g)
    changed = keep_correction(user, infusion, reason=reason, recovered_g=recovered_g)
    if changed:
        correct_lot(user, infusion.lot, reason=reason, amount_g=recovered_g)
    return changed


def _check_recovered(infusion: Infusion, recovered_g: Decimal) -> None:
    if not 0 < recovered_g <= infusion.oil_g:
        raise CalmTinError(
            Message("{oil} of oil went in, so you can’t recover more than that.", oil=Mass(infusion.oil_g)),
            field="recovered_g",
            limit=float(infusion.oil_g),
            unit="g",
        )
