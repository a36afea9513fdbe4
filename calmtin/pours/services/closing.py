"""Keep what a pour says when it is closed; add to it when the pot itself is corrected or added to."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain
from typing import Any

from django.db import transaction

from calmtin.accounts.queries import bench_of
from calmtin.common.owned import read_again
from calmtin.formulas.queries.formula import reasons_of
from calmtin.formulas.queries.readings import firmness_of
from calmtin.pantry.adapters import facts_of, shelf_for
from calmtin.pantry.models import Lot
from calmtin.pours.adapters import (
    actual_parts,
    finish_withdrawals_of,
    overrun_of,
    planned_parts,
    withdrawals_of,
)
from calmtin.pours.adapters.cautions import cautions_of_pour
from calmtin.pours.adapters.closed import as_closed, closing_of, shelf_of
from calmtin.pours.adapters.filled import filled_of
from calmtin.pours.adapters.kept import caution_json, reading_json
from calmtin.pours.models import Closing, ClosingLot, Pour


@transaction.atomic
def keep_closing(user: Any, pour: Pour) -> Closing | None:
    """Keep what a closed pour says today: names, figures, prices, firmness and cautions.

    What it keeps already stays: a later correction of its weights, or an addition, adds its materials
    and lots and moves the firmness by the weights. None for a rehearsal or a pour that is open.
    """
    read_again(user, pour)
    if pour.is_rehearsal or pour.is_weighing:
        return None
    bench, formula = bench_of(user), pour.version.formula
    closing = closing_of(pour)
    if closing is None:
        closing = Closing(
            pour=pour,
            formula_name=formula.name,
            kind=formula.kind,
            audience=formula.audience,
            sees_sun=formula.sees_sun,
            currency=bench.currency,
            materials={},
            containers=list(_containers(pour)),
        )
    else:
        as_closed(pour)
    closing.materials = facts_of(user, _materials_of(pour)) | closing.materials
    pour.closing = closing
    shelf = shelf_of(pour, shelf_for(user))
    overrun = overrun_of(pour)
    if not closing.planned:
        planned = firmness_of(planned_parts(pour, shelf), formula, bench, overrun=overrun)
        closing.planned = reading_json(planned)
    made = actual_parts(pour, shelf)
    closing.made = reading_json(firmness_of(made, formula, bench, overrun=overrun))
    reasons = reasons_of(formula)
    closing.cautions = [
        caution_json(caution, reasons.get((caution.key, caution.material, caution.level), ""))
        for caution in cautions_of_pour(pour, shelf, bench)
    ]
    closing.save()
    _keep_lots(closing, pour)
    return closing


def _materials_of(pour: Pour) -> Iterator[str]:
    lists = (pour.lines.all(), pour.additions.all(), pour.finish_parts.all())
    return (row.material for row in chain(*lists))


def _containers(pour: Pour) -> Iterator[dict[str, Any]]:
    for filled in filled_of(pour):
        container = filled.container
        price = container.price if container else None
        yield {
            "kind": filled.kind,
            "volume_ml": container.volume_ml if container else 0.0,
            "price": None if price is None else f"{price:f}",
        }


def _keep_lots(closing: Closing, pour: Pour) -> None:
    """Keep the price and the days of each lot that the pour took from and that is not kept yet."""
    withdrawals = [*withdrawals_of(pour), *finish_withdrawals_of(pour)]
    kept = closing.lots.values("lot")
    lots = Lot.objects.filter(movements__withdrawal__in=withdrawals).exclude(pk__in=kept).distinct()
    ClosingLot.objects.bulk_create(
        ClosingLot(
            closing=closing,
            lot=lot,
            price=lot.price,
            amount_g=lot.amount_g,
            bought_on=lot.bought_on,
            best_before=lot.best_before,
        )
        for lot in lots
    )


def keep_missing_closings() -> int:
    """Keep what older closed pours say today, for those without a record of it; return how many."""
    missing = Pour.objects.filter(closing=None).exclude(poured_at=None, called_off_at=None)
    done = 0
    for pour in missing.select_related("owner").order_by("pk").iterator():
        done += keep_closing(pour.owner, pour) is not None
    return done
