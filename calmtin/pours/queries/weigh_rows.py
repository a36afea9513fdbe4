"""The lines of a weigh sheet with what the scale said."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from itertools import pairwise

from django.utils.translation import gettext

from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import Message
from calmtin.core.process.weighing import Mode, line_after, place_of, too_small, when_in_words
from calmtin.core.quantities import Mass
from calmtin.formulas.queries.scents import about_in_words
from calmtin.pantry.queries.lots import Cost
from calmtin.pours.adapters import newest_reading, scale_before_g, targets_of
from calmtin.pours.models import Pour, WeighIn, WeighLine


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
    scale_before_g: Decimal = Decimal(0)

    @property
    def is_in_cup(self) -> bool:
        """Whether it is weighed into a cup of its own, because it goes in later."""
        return place_of(self.material, pour_c=self.line.pour.pour_c) == "cup"

    @property
    def goes_in(self) -> str:
        """When what is weighed into a cup of its own goes in."""
        return when_in_words(self.material, pour_c=self.line.pour.pour_c)

    @property
    def difference(self) -> Decimal | None:
        """Grams over (or under) the plan."""
        return None if self.actual_g is None else self.actual_g - self.target_g

    @property
    def is_off(self) -> bool:
        """Whether it is over or under by what the scale can show."""
        return self.difference is not None and 2 * abs(self.difference) >= self.line.pour.scale_step_g

    @property
    def after(self) -> int:
        """The reading that a page with this row shows; 0 before there is one."""
        return self.newest.pk if self.newest else 0

    @property
    def lacking(self) -> Decimal:
        """The grams still to go in."""
        return max(self.target_g - (self.actual_g or Decimal(0)), Decimal(0))

    @property
    def is_in(self) -> bool:
        """Whether something of it is in already."""
        return self.actual_g is not None

    @property
    def mode(self) -> Mode:
        """What a typed weight usually is: added to what is in, or a correction where enough is in."""
        if self.actual_g is None:
            return "shows"
        return "add" if self.lacking >= 2 * self.line.pour.scale_step_g else "correct"

    @property
    def scale_to_g(self) -> Decimal:
        """What the scale shows once the line is complete."""
        return self.scale_before_g + self.target_g


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
    """Return the lines of a pour; `left` is what the shelf has of each counted material, g."""
    rows: list[WeighRow] = []
    for line in pour.lines.all():
        newest = newest_reading(line)
        grams = newest.grams if newest else None
        target = targets[line.position]
        exact = _exact_g(line, target)
        on_shelf = left.get(line.material)
        is_counted = on_shelf is not None and not line.is_from_pot
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
                unbooked=max(grams - booked, Decimal(0)) if grams and is_counted else Decimal(0),
                corrections=corrections_of(line),
                about=about_in_words(shelf[line.material], float(exact)),
                scale_before_g=scale_before_g(line, shelf) if line == next_up else Decimal(0),
            )
        )
    return rows


def comes_to(line: WeighLine, grams: Decimal, mode: Mode, shelf: Shelf) -> str:
    """Return in words what a line comes to once a reading is saved.

    Raises `CalmTinError` as saving does.
    """
    pour, newest = line.pour, newest_reading(line)
    in_g, before = (newest and newest.grams) or Decimal(0), scale_before_g(line, shelf)
    after = line_after(mode, grams, line_g=in_g, before_g=before)
    if mode == "add" and in_g:
        sums = Message(
            "{line} in the pot + {typed} = {after}", line=Mass(in_g), typed=Mass(grams), after=Mass(after)
        )
    elif mode == "correct" and in_g:
        sums = Message("{after} instead of {line}", after=Mass(after), line=Mass(in_g))
    elif mode == "shows" and before:
        sums = Message(
            "{typed} on the scale − {before} before it = {after}",
            typed=Mass(grams),
            before=Mass(before),
            after=Mass(after),
        )
    else:
        sums = Message("{after}", after=Mass(after))
    to_go = targets_of(pour)[line.position] - after
    if abs(to_go) < pour.scale_step_g:
        rest = gettext("on target")
    elif to_go > 0:
        rest = str(Message("{grams} to go", grams=Mass(to_go)))
    else:
        rest = str(Message("{grams} too much", grams=Mass(-to_go)))
    return f"{sums} · {rest}"
