"""Summer and winter: two formulas under one name, and from which warmth of the room it is summer."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import ROOM_C, check
from calmtin.formulas.models import Formula, Season, SeasonPair, Version
from calmtin.formulas.services.finishes import branch


@sent_once
@transaction.atomic
def pair_seasons(user: Any, version: Version, *, season: str, summer_from_c: float) -> Formula:
    """Make a formula the one for `season`, and a copy of this version the one for the other.

    Returns the copy. Raises `CalmTinError` for a formula that is one of a pair already.
    """
    read_again(user, version)
    formula = version.formula
    if formula.pair_id is not None:
        raise CalmTinError(gettext("This formula has its other season already."), field="season")
    if season not in Season.values:
        raise CalmTinError(gettext("Choose summer or winter."), field="season")
    _check(summer_from_c)
    other = branch(user, version, name=formula.name)
    pair = SeasonPair.objects.create(owner=user, summer_from_c=summer_from_c)
    for one, of in ((formula, Season(season)), (other, Season(season).other)):
        one.pair, one.season = pair, of
        one.save(update_fields=["pair", "season"])
    return other


@transaction.atomic
def set_switch(user: Any, pair: SeasonPair, *, summer_from_c: float) -> None:
    """Say from which temperature of the room, C, the summer one of a pair is in season."""
    read_again(user, pair)
    _check(summer_from_c)
    pair.summer_from_c = summer_from_c
    pair.save(update_fields=["summer_from_c"])


@transaction.atomic
def part_seasons(user: Any, pair: SeasonPair) -> None:
    """Let the two of a pair be formulas of their own again; both keep their names."""
    read_again(user, pair)
    pair.formulas.update(pair=None, season="")
    pair.delete()


def _check(summer_from_c: float) -> None:
    check(summer_from_c, ROOM_C, name=gettext("The temperature"), field="summer_from", unit="°C")
