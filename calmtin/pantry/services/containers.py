"""Containers of the maker's own."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core import limits
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check, check_text
from calmtin.core.messages import said
from calmtin.pantry.models import OwnContainer, Vessel
from calmtin.pantry.services.correcting import keep_correction, refuse_in_use


@sent_once
@transaction.atomic
def add_container(user: Any, *, name: str, brim_ml: float, **facts: Any) -> OwnContainer:
    """Add a container or mould of the maker's own."""
    _check_container(name, brim_ml, facts)
    return OwnContainer.objects.create(owner=user, name=name, brim_ml=brim_ml, **facts)


@transaction.atomic
def correct_container(
    user: Any, row: OwnContainer, *, reason: str, name: str, brim_ml: float, **facts: Any
) -> bool:
    """Put a container right; pours of it keep the size they had. Say whether anything changed."""
    read_again(user, row)
    _check_container(name, brim_ml, facts)
    return keep_correction(user, row, reason=reason, name=name, brim_ml=brim_ml, **facts)


@transaction.atomic
def use_containers(user: Any, row: OwnContainer, count: int) -> OwnContainer:
    """Take `count` filled containers off those on hand, or give them back where it is negative.

    Moulds are reused, so they stay; so do containers whose number on hand is not recorded.
    """
    read_again(user, row)
    if row.on_hand is None or row.is_reused or count == 0:
        return row
    row.on_hand = max(row.on_hand - count, 0)
    row.save(update_fields=["on_hand"])
    return row


@sent_once
@transaction.atomic
def buy_containers(user: Any, row: OwnContainer, *, count: int) -> OwnContainer:
    """Add `count` containers that were bought to those on hand; raises `CalmTinError` for too many."""
    read_again(user, row)
    check(count, limits.BOUGHT, name=gettext("The number bought"), field="bought")
    on_hand = (row.on_hand or 0) + count
    check(on_hand, limits.ON_HAND, name=gettext("The number on hand"), field="bought")
    row.on_hand = on_hand
    row.save(update_fields=["on_hand"])
    return row


@transaction.atomic
def delete_container(user: Any, row: OwnContainer) -> None:
    """Delete a container that no pour has used; raises `CalmTinError` with the pours otherwise."""
    read_again(user, row)
    refuse_in_use(user, row.slug, row.name)
    row.mark_deleted()


def _check_container(name: str, brim_ml: float, facts: dict[str, Any]) -> None:
    check_text(name, 80, name=gettext("The name"), field="name")
    check(brim_ml, limits.BRIM_ML, name=gettext("To the brim it"), field="brim_ml", unit="ml")
    for field, span in {
        "usual_level_pct": limits.FILL_PCT,
        "cavities": limits.CAVITIES,
        "uses": limits.USES,
        "on_hand": limits.ON_HAND,
        "price": limits.PRICE,
        "tare_g": limits.WEIGHT_G,
    }.items():
        if facts.get(field) is not None:
            check(facts[field], span, name="This", field=field)


@transaction.atomic
def add_vessel(user: Any, *, name: str, use: str, brim_ml: float) -> Vessel:
    """Add a pot, a bowl or a jug; raises `CalmTinError` for a name that is taken."""
    check_text(name, 60, name=gettext("The name"), field="vessel_name")
    check(brim_ml, limits.BRIM_ML, name=gettext("To the brim it"), field="vessel_ml", unit="ml")
    if Vessel.objects.of(user).filter(name__iexact=name).exists():
        raise CalmTinError(
            said("There is already one called {name}. Choose another name.", name=name), field="vessel_name"
        )
    return Vessel.objects.create(owner=user, name=name, use=use, brim_ml=brim_ml)


@transaction.atomic
def remove_vessel(user: Any, vessel: Vessel) -> None:
    """Take a pot, bowl or jug off the bench."""
    Vessel.objects.of(user).filter(pk=vessel.pk).delete()
