"""Add and remove deadlines."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CONTAINERS, check, check_day, check_text
from calmtin.formulas.models import Formula
from calmtin.packing.models import Need


@sent_once
@transaction.atomic
def add_deadline(
    user: Any, formula: Formula, *, what_for: str, needed_on: date, count: int, today: date
) -> Need:
    """Add a deadline for pieces of a formula: a gift, a market.

    Raises `CalmTinError` for a day that is past, and without a word what it is for.
    """
    read_again(user, formula)
    check_day(needed_on, name=gettext("The day"), field="needed_on")
    if needed_on <= today:
        raise CalmTinError(gettext("Choose a day in the future."), field="needed_on")
    if not what_for.strip():
        raise CalmTinError(gettext("Say what they are for, such as a market or a name."), field="what_for")
    check_text(what_for, 80, name=gettext("What they are for"), field="what_for")
    check(count, CONTAINERS, name=gettext("How many"), field="count")
    return Need.objects.create(
        owner=user, formula=formula, what_for=what_for.strip(), needed_on=needed_on, count=count
    )


@transaction.atomic
def remove_deadline(user: Any, need: Need) -> Need:
    """Say that it no longer has to be ready; it stays on record."""
    read_again(user, need)
    if need.called_off_at is None:
        need.called_off_at = timezone.now()
        need.save(update_fields=["called_off_at"])
    return need
