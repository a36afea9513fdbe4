"""From a lot to everything that has it: "this jar of shea was rancid: which balms, and who has them?"."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db.models import Sum

from calmtin.core.messages import said
from calmtin.packing.adapters import standing
from calmtin.packing.models import PieceGone
from calmtin.pantry.models import Infusion, Lot, Movement, Withdrawal
from calmtin.pours.adapters.filled import filled_of
from calmtin.pours.models import Leftover, Pour
from calmtin.pours.queries.withdrawal_causes import TOOK


@dataclass(frozen=True)
class Recalled:
    """A pour that has some of a lot: g of it, by which way, and where its pieces are."""

    pour: Pour
    grams: Decimal
    by: str
    left: int
    gone: list[PieceGone]


def pours_with(user: Any, lot: Lot) -> list[Recalled]:
    """Return every pour that has some of a lot in it, also by an infusion or in the leftovers of a pot."""
    found: dict[int, tuple[Decimal, str]] = {}
    seen, waiting = {lot.pk}, [(lot, "")]
    while waiting:
        one, by = waiting.pop(0)
        taken, infused = _taken_from(one)
        for pour, grams in taken.items():
            before = found.get(pour, (Decimal(0), by))
            found[pour] = before[0] + (grams if not by else 0), before[1]
        for pour, words in _poured_on(user, taken):
            found.setdefault(pour, (Decimal(0), words))
            taken.setdefault(pour, Decimal(0))
        for other, words in [*_infusions(user, infused), *_leftovers(user, taken)]:
            if other.pk not in seen:
                seen.add(other.pk)
                waiting.append((other, words))
    pours = (
        Pour.objects.of(user)
        .filter(pk__in=found)
        .select_related("version__formula")
        .prefetch_related("fillings", "yields", "pieces_gone")
    )
    return [_recalled(pour, *found[pour.pk]) for pour in pours]


def _recalled(pour: Pour, grams: Decimal, by: str) -> Recalled:
    gone = standing(pour)
    made = sum(filled.count for filled in filled_of(pour)) if pour.poured_at else 0
    return Recalled(pour, grams, by, max(made - sum(entry.count for entry in gone), 0), gone)


def _taken_from(lot: Lot) -> tuple[dict[int, Decimal], set[int]]:
    """Return what pours took from a lot, g by pour, and the infusions that its oil went into."""
    sums = (
        Movement.objects.filter(lot=lot, withdrawal__isnull=False)
        .values_list("withdrawal")
        .annotate(grams=Sum("grams"))
        .order_by()
    )
    taken = {withdrawal: -Decimal(str(grams)) for withdrawal, grams in sums if grams < 0}
    pours: dict[int, Decimal] = defaultdict(Decimal)
    for model, path, _ in TOOK:
        found = model.objects.filter(withdrawal__in=list(taken)).values_list("withdrawal", path)
        for withdrawal, pour in found:
            pours[pour] += taken[withdrawal]
    infusions = Withdrawal.objects.filter(pk__in=list(taken), infusion__isnull=False)
    return dict(pours), set(infusions.values_list("infusion", flat=True))


def _infusions(user: Any, infused: Iterable[int]) -> list[tuple[Lot, str]]:
    strained = Infusion.objects.of(user).filter(pk__in=infused, lot__isnull=False).select_related("lot")
    return [
        (infusion.lot, said("in the infusion of {herb}", herb=infusion.herb))
        for infusion in strained
        if infusion.lot
    ]


def _poured_on(user: Any, pours: Iterable[int]) -> list[tuple[int, str]]:
    """Return the samples that were poured from the rest of the pots of `pours`, one after the other."""
    found: list[tuple[int, str]] = []
    waiting = list(pours)
    while waiting:
        later = Pour.objects.of(user).filter(rest_of__in=waiting).values_list("pk", "rest_of__code")
        found += [(pk, said("in the rest of the pot of {code}", code=code)) for pk, code in later]
        waiting = [pk for pk, _ in later]
    return found


def _leftovers(user: Any, pours: Iterable[int]) -> list[tuple[Lot, str]]:
    kept = Leftover.objects.of(user).filter(pour__in=pours).select_related("lot", "pour")
    return [
        (leftover.lot, said("in the leftovers of {code}", code=leftover.pour.code)) for leftover in kept
    ]
