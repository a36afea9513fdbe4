"""What a closed pour keeps, and how it is read as it was closed, whatever was changed since."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from calmtin.core.materials import Shelf
from calmtin.core.process.fill import Container
from calmtin.pantry.adapters import shelf_from
from calmtin.pantry.models import Lot
from calmtin.pours.models import Closing, Pour

# Pages that show closed pours read these along.
OF_CLOSING = ("closing__lots",)


def closing_of(pour: Pour) -> Closing | None:
    """Return what a pour keeps since it was closed; None before, and for a rehearsal."""
    return getattr(pour, "closing", None)


def shelf_of(pour: Pour, shelf: Shelf) -> Shelf:
    """Return the shelf with the materials of a closed pour as they were when it was closed."""
    closing = closing_of(pour)
    return shelf if closing is None else shelf_from(closing.materials, shelf)


def as_closed(pour: Pour) -> str:
    """Give a pour its formula as it was when the pour was closed, in memory only.

    Return what it is called today.
    """
    closing, formula = closing_of(pour), pour.version.formula
    name = str(formula.name)
    if closing is not None:
        formula.name, formula.kind = closing.formula_name, closing.kind
        formula.audience, formula.sees_sun = closing.audience, closing.sees_sun
    return name


def costs_of_closing(pour: Pour) -> dict[int, Decimal | None]:
    """Return what a gram of each lot of a closed pour cost then, by the key of the lot."""
    closing = closing_of(pour)
    rows = closing.lots.all() if closing else ()
    return {row.lot_id: None if row.price is None else row.price / row.amount_g for row in rows}


def lots_as_closed(pour: Pour, lots: Mapping[str, Lot]) -> dict[str, Lot]:
    """Return the lots that a pour is of, by material, with the days that they had when it was closed."""
    closing = closing_of(pour)
    then = {row.lot_id: row for row in closing.lots.all()} if closing else {}
    for lot in lots.values():
        if lot.pk in then:
            lot.bought_on, lot.best_before = then[lot.pk].bought_on, then[lot.pk].best_before
    return dict(lots)


def container_at(pour: Pour, place: int, now: Container | None) -> Container | None:
    """Return the container of a filling as it was when the pour was closed; `now` before that."""
    closing = closing_of(pour)
    if closing is None or place >= len(closing.containers):
        return now
    kept = closing.containers[place]
    price = None if kept["price"] is None else Decimal(kept["price"])
    return Container(
        slug="", name="", kind=kept["kind"], volume_ml=kept["volume_ml"], usual_level=1.0,
        is_nominal=False, on_hand=None, cavities=1, price=price,
    )  # fmt: skip
