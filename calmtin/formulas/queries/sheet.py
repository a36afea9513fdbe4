"""One version on one sheet of paper: its lines in whole steps of the scale."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.core.materials import Shelf
from calmtin.core.process.weighing import too_small, weigh_sheet, whole_steps
from calmtin.formulas.models import Version
from calmtin.formulas.queries.formula import FormulaView, LineView, formula_view


@dataclass(frozen=True)
class SheetRow:
    """A line with its grams on this scale, and whether they are too few for it."""

    item: LineView
    grams: Decimal
    is_small: bool


@dataclass(frozen=True)
class SheetView:
    """The sheet: the page's view, its rows and the batch in whole steps, g."""

    formula: FormulaView
    rows: list[SheetRow]
    batch_g: Decimal


def sheet_view(version: Version, shelf: Shelf, bench: Bench) -> SheetView:
    """Return a version as it is weighed on the bench's scale."""
    view, step = formula_view(version, shelf, bench), bench.scale_step_g
    items = [item for group in view.groups for item in group.lines if item.line.percent > 0]
    batch = whole_steps(version.batch_g, step)
    grams = weigh_sheet([item.line.percent for item in items], batch, step) if items else []
    rows = [
        SheetRow(item, weight, too_small(weight, step)) for item, weight in zip(items, grams, strict=True)
    ]
    return SheetView(view, rows, batch)
