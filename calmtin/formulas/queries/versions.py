"""Two versions of a formula side by side: lines, grams, firmness and cost."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import written
from calmtin.core.quantities import Mass
from calmtin.formulas.models import Line, Version
from calmtin.formulas.queries.readings import AtTemperature, Firmness, Unpredicted, firmness_of
from calmtin.pantry.queries.lots import cost_of_100_g
from calmtin.pictures.curve import SofteningCurve, beside


@dataclass(frozen=True)
class DiffRow:
    """A material in two versions; None where it is not in one."""

    material: Material
    before: Line | None
    after: Line | None

    @property
    def change(self) -> Decimal:
        """Percentage points from the first to the second."""
        was = self.before.percent if self.before else Decimal(0)
        return (self.after.percent if self.after else Decimal(0)) - was


@dataclass(frozen=True)
class VersionDiff:
    """Two versions side by side: lines, firmness and cost."""

    a: Version
    b: Version
    rows: list[DiffRow]
    firmness_a: Firmness | Unpredicted
    firmness_b: Firmness | Unpredicted
    places: list[tuple[AtTemperature, AtTemperature]]
    cost_a: Decimal | None
    cost_b: Decimal | None
    curve: SofteningCurve | None

    @property
    def changed(self) -> list[DiffRow]:
        """The materials whose share differs."""
        return [row for row in self.rows if row.change]

    @property
    def kept(self) -> list[DiffRow]:
        """The materials whose share is the same in both."""
        return [row for row in self.rows if not row.change]

    @property
    def other_process(self) -> list[tuple[str, str, str]]:
        """A difference in process: its name, before and after."""
        told = [
            (gettext("Batch"), written(Mass(self.a.batch_g)), written(Mass(self.b.batch_g))),
            (gettext("Cooled"), self.a.get_cooling_display(), self.b.get_cooling_display()),
            (gettext("Whipped"), f"{self.a.overrun_pct} % more", f"{self.b.overrun_pct} % more"),
        ]
        return [(name, before, after) for name, before, after in told if before != after]


def version_diff(
    a: Version, b: Version, shelf: Shelf, bench: Bench, costs: dict[str, Decimal]
) -> VersionDiff:
    """Return what changed from one version to another. Costs are of 100 g, where all are known."""
    lines_a, lines_b = ({line.material: line for line in v.lines.all()} for v in (a, b))
    order = [slug for slug in shelf if slug in lines_a or slug in lines_b]
    firm = [
        firmness_of(
            [(shelf[s], float(line.percent)) for s, line in lines.items()],
            version.formula,
            bench,
            overrun=version.overrun,
        )
        for version, lines in ((a, lines_a), (b, lines_b))
    ]
    both = list(zip(firm[0].places, firm[1].places, strict=True)) if firm[0] and firm[1] else []
    cost = [
        cost_of_100_g(costs, [(slug, line.percent) for slug, line in lines.items()])
        for lines in (lines_a, lines_b)
    ]
    rows = [DiffRow(shelf[s], lines_a.get(s), lines_b.get(s)) for s in order]
    curve = beside(firm[1].curve, firm[0].curve) if firm[0] and firm[1] else None
    return VersionDiff(a, b, rows, firm[0], firm[1], both, cost[0], cost[1], curve)
