"""The ledger of a lot, with what caused each movement."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.urls import reverse
from django.utils.translation import gettext

from calmtin.common.registry import Sources
from calmtin.core.messages import said
from calmtin.pantry.models import Lot, Movement, Withdrawal


@dataclass(frozen=True)
class Cause:
    """What took something from the shelf, in words, and the address of its page if it has one."""

    words: str
    address: str = ""


# Apps above this one say what their withdrawals are of, by the keys of the withdrawals.
cause_sources: Sources[Callable[[Any, Sequence[int]], Mapping[int, Cause]]] = Sources()


def ledger_of(user: Any, lot: Lot) -> list[tuple[Movement, Cause | None]]:
    """Return the movements of a lot, oldest first, each with its cause."""
    movements = list(lot.movements.all())
    keys = sorted({m.withdrawal_id for m in movements if m.withdrawal_id is not None})
    causes: dict[int, Cause] = {}
    for withdrawal in (
        Withdrawal.objects.of(user).filter(pk__in=keys).select_related("infusion", "rendering")
    ):
        infusion = withdrawal.infusion
        if infusion is not None:
            is_there = infusion.deleted_at is None
            address = reverse("pantry:infusion", args=[infusion.pk]) if is_there else ""
            causes[withdrawal.pk] = Cause(said("infusion of {herb}", herb=infusion.herb), address)
        elif withdrawal.rendering is not None:
            rendering = withdrawal.rendering
            is_there = rendering.deleted_at is None
            address = reverse("pantry:rendering", args=[rendering.pk]) if is_there else ""
            causes[withdrawal.pk] = Cause(gettext("clarified"), address)
        elif withdrawal.words:
            causes[withdrawal.pk] = Cause(withdrawal.words)
    for source in cause_sources:
        causes |= source(user, keys)
    return [(m, causes.get(m.withdrawal_id) if m.withdrawal_id else None) for m in movements]
