"""The lines of a weigh sheet with what the scale said."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from itertools import pairwise

from calmtin.core.materials import Material, Shelf
from calmtin.core.process.weighing import too_small
from calmtin.formulas.queries.scents import about_in_words
from calmtin.pantry.queries.lots import Cost
from calmtin.pours.adapters import (
    newest_reading,
)
from calmtin.pours.models import (
    Pour,
    WeighIn,
    WeighLine,
)


@dataclass(frozen=True)
class Corrected:
    """An entry that corrected a closed sheet, with the reading before it, g."""

    was: Decimal | None
    reason: str
    at: datetime


@dataclass(frozen=True)
class WeighRow:
    """A line of the weigh sheet with its newest reading.

    `target_g` is what it comes to: as planned, or scaled up since. `left` is what the shelf has
    where that is less than is still to be weighed, g; `unbooked` what was weighed and was not on
    the shelf, of materials that the maker keeps count of.
    """

    line: WeighLine
    material: Material
    target_g: Decimal
    actual_g: Decimal | None
    newest: WeighIn | None
    is_next: bool
    is_small: bool
    left: Decimal | None
    unbooked: Decimal
    corrections: list[Corrected]
    about: str

    @property
    def difference(self) -> Decimal | None:
        """Grams over (or under) the plan."""
        return None if self.actual_g is None else self.actual_g - self.target_g

    @property
    def after(self) -> int:
        """The reading that a page with this row shows; 0 before there is one."""
        return self.newest.pk if self.newest else 0

    @property
    def lacking(self) -> Decimal:
        """The grams still to add to a weighed line, after the sheet was scaled up."""
        return max(self.target_g - (self.actual_g or self.target_g), Decimal(0))


def _exact_g(line: WeighLine, target_g: Decimal) -> Decimal:
    """Return what a line comes to before the scale rounds it, which may leave nothing of a few drops."""
    is_as_planned = target_g == line.planned_g
    return line.percent * line.pour.batch_g / 100 if is_as_planned else target_g


def corrections_of(line: WeighLine) -> list[Corrected]:
    """Return the corrections of a line, oldest first."""
    readings = sorted(line.weigh_ins.all(), key=lambda reading: reading.pk)
    return [
        Corrected(before.grams, after.reason, after.at)
        for before, after in pairwise(readings)
        if after.reason
    ]


def weigh_rows(
    pour: Pour,
    shelf: Shelf,
    targets: Mapping[int, Decimal],
    left: Mapping[str, Decimal],
    cost: Cost,
    next_up: WeighLine | None,
) -> list[WeighRow]:
    """Return the lines of a pour; `left` is what the shelf has of each material, g, where it is counted."""
    rows: list[WeighRow] = []
    for line in pour.lines.all():
        newest = newest_reading(line)
        grams = newest.grams if newest else None
        target = targets[line.position]
        exact = _exact_g(line, target)
        on_shelf = left.get(line.material)
        short = on_shelf is not None and grams is None and on_shelf < target
        booked = cost.booked_g.get(line.material, Decimal(0))
        rows.append(
            WeighRow(
                line=line,
                material=shelf[line.material],
                target_g=target,
                actual_g=grams,
                newest=newest,
                is_next=line == next_up,
                is_small=too_small(exact, pour.scale_step_g),
                left=on_shelf if short else None,
                unbooked=max(grams - booked, Decimal(0)) if grams and on_shelf is not None else Decimal(0),
                corrections=corrections_of(line),
                about=about_in_words(shelf[line.material], float(exact)),
            )
        )
    return rows
