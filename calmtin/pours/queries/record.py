"""One pour, being weighed or done, with its checks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.materials import Material, Shelf
from calmtin.core.packing.pieces import Pieces, weigh_up
from calmtin.formulas.queries.formula import cautions_for, told_at_once
from calmtin.formulas.queries.readings import Firmness, Unpredicted, firmness_of
from calmtin.pantry.queries.lots import Cost, LotView, cost_of, in_stock, left_of
from calmtin.pictures.section import TinSection, tin_section
from calmtin.pours.adapters import (
    actual_parts,
    boiled_down,
    newest_grams,
    newest_yield,
    next_line,
    overrun_of,
    planned_parts,
    targets_of,
    weighed_g,
    weights_of,
    withdrawals_of,
)
from calmtin.pours.adapters.closed import (
    OF_CLOSING,
    as_closed,
    closing_of,
    costs_of_closing,
    shelf_of,
)
from calmtin.pours.adapters.kept import KeptCaution, KeptFirmness, cautions_from, reading_from
from calmtin.pours.models import (
    PotAddition,
    Pour,
    PourFilling,
    PourFinishPart,
)
from calmtin.pours.queries.check_views import CheckView, check_views, verdict_of
from calmtin.pours.queries.clocks import Running, clocks_at_scale
from calmtin.pours.queries.events import Event, events_of
from calmtin.pours.queries.over_pour import Rescue, over_pour_of
from calmtin.pours.queries.prefetching import asking, read_along
from calmtin.pours.queries.weigh_rows import WeighRow, weigh_rows


@dataclass(frozen=True)
class Given:
    """What a pour really gave, g: filled, left, and what that leaves as clung to pot and spatula.

    `pieces` are the single weights of each filling, summed up.
    """

    filled_g: Decimal
    left_g: Decimal
    clung_g: Decimal
    pieces: list[tuple[PourFilling, Pieces]]


@dataclass(frozen=True)
class PourView:
    """A pour, being weighed or done; `weighed_g` includes later additions."""

    pour: Pour
    rows: list[WeighRow]
    next_row: WeighRow | None
    is_in_turn: bool
    in_pot_g: Decimal
    batch_g: Decimal
    pot: TinSection
    rescue: Rescue | None
    added: list[tuple[PotAddition, Material]]
    planned: Firmness | KeptFirmness | Unpredicted
    so_far: Firmness | KeptFirmness | Unpredicted
    checks: list[CheckView]
    verdict: str
    cost: Cost
    cautions: list[Caution]
    kept_cautions: list[KeptCaution]
    given: Given | None
    weighed_g: Decimal
    events: list[Event]
    finish_parts: list[tuple[PourFinishPart, Material, Decimal | None]]
    lots: list[LotView]
    lot_first: int | None
    about: str
    timers: list[Running]

    @property
    def renamed_to(self) -> str:
        """What its formula is called by now, where that is something else than when it was closed."""
        now = getattr(self.pour, "called_now", "")
        return now if now != self.pour.version.formula.name else ""

    @property
    def currency(self) -> str | None:
        """The currency of its prices: that of the day it was closed; none says the bench's own."""
        closing = closing_of(self.pour)
        return closing.currency if closing else None

    @property
    def weighed(self) -> int:
        """How many lines have a weight."""
        return sum(row.actual_g is not None for row in self.rows)

    @property
    def after(self) -> int:
        """The newest reading of all; 0 before there is one."""
        return max((row.after for row in self.rows), default=0)

    @property
    def cost_each(self) -> Decimal:
        """What one container's content cost."""
        return self.cost.total / self.pour.count

    @property
    def unpriced(self) -> list[tuple[Material, Decimal]]:
        """Weighed materials without a price: from an unpriced lot, or no lot."""
        weighed = [(row.material, row.actual_g) for row in self.rows if row.actual_g]
        rest = [(m, grams - self.cost.priced_g.get(m.slug, Decimal(0))) for m, grams in weighed]
        return [(material, grams) for material, grams in rest if grams > 0]

    @property
    def shift(self) -> float:
        """Rungs by which the weights so far move the prediction at room temperature."""
        if not self.planned or not self.so_far:
            return 0.0
        return self.so_far.room.rung - self.planned.room.rung

    @property
    def is_as_planned(self) -> bool:
        """Whether the weights so far move the prediction by nothing that is shown."""
        return not round(self.shift, 1)


OF_A_PAGE = (
    "steps_done",
    "timers",
    "readings",
    "pot_weights",
    "lines__weigh_ins",
    "checks",
    "checks__photos",
    "kept",
    "fillings",
    "finish_parts",
    "finish_parts__weigh_ins",
    "yields",
    "replans",
    "additions",
    "version__lines",
)


def pour_with_lines(
    user: Any, *, without: Sequence[str] = (), also: Sequence[str] = (), **lookup: Any
) -> Pour:
    """Return the maker's pour with all that its page reads, or 404.

    It leaves out the relations of `without`, and reads those of `also` too.
    """
    names = [*(name for name in OF_A_PAGE if name not in without), *also]
    pours = asking(Pour.every().select_related("version__formula", "stove", "closing"), *names)
    found: Pour = pours.own_or_404(user, **lookup)
    read_along([found], *names, *(OF_CLOSING if closing_of(found) else ()))
    found.called_now = as_closed(found)  # type: ignore[attr-defined]  # what its formula is called by now
    return found


def pour_view(pour: Pour, shelf: Shelf, bench: Bench, *, at: int | None = None) -> PourView:
    """Return the page of one pour; `at` is the position of the line to weigh, where it was asked for."""
    in_turn = next_line(pour) if pour.is_weighing else None
    asked = next((line for line in pour.lines.all() if line.position == at), None)
    next_up = asked if pour.is_weighing and asked is not None else in_turn
    shelf = shelf_of(pour, shelf)
    closing, targets = closing_of(pour), targets_of(pour)
    cost = cost_of(withdrawals_of(pour), costs_of_closing(pour))
    left = left_of(pour.owner) if pour.is_weighing or not _all_booked(pour, cost) else {}
    rows = weigh_rows(pour, shelf, targets, left, cost, next_up)
    in_pot = [(row, row.actual_g) for row in rows if row.actual_g]
    weight = sum((grams for _, grams in in_pot), Decimal(0))
    with_added = weighed_g(pour)
    planned, overrun = planned_parts(pour, shelf), overrun_of(pour)
    formula = pour.version.formula
    checks = check_views(pour, shelf)
    following = next((row for row in rows if row.is_next), None)
    return PourView(
        pour=pour,
        rows=rows,
        next_row=following,
        is_in_turn=next_up == in_turn,
        in_pot_g=weight,
        pot=_pot(in_pot, max(sum(targets.values(), Decimal(0)), pour.batch_g)),
        batch_g=sum(targets.values(), Decimal(0)),
        rescue=over_pour_of(pour, rows, left) if pour.is_weighing else None,
        added=[(addition, shelf[addition.material]) for addition in pour.additions.all()],
        planned=reading_from(closing.planned)
        if closing
        else firmness_of(planned, formula, bench, overrun=overrun),
        so_far=reading_from(closing.made)
        if closing
        else firmness_of(actual_parts(pour, shelf), formula, bench, overrun=overrun),
        checks=checks,
        verdict=verdict_of(pour),
        cautions=weighed_cautions(pour, shelf, bench) if weight and not closing else [],
        kept_cautions=cautions_from(closing.cautions) if closing else [],
        cost=cost,
        given=_given(pour, with_added),
        weighed_g=with_added,
        events=events_of(pour, shelf),
        finish_parts=[(p, shelf[p.material], newest_grams(p)) for p in pour.finish_parts.all()],
        lots=_lots_for(pour, following),
        lot_first=following.line.lot_id if following else None,
        about=following.about if following else "",
        timers=clocks_at_scale(pour, shelf) if pour.is_weighing else [],
    )


def _all_booked(pour: Pour, cost: Cost) -> bool:
    """Return whether every weight came from stock, so that no balance has to be asked for."""
    weighed = ((line.material, newest_grams(line)) for line in pour.lines.all())
    return all(
        grams is not None and grams <= cost.booked_g.get(slug, Decimal(0)) for slug, grams in weighed
    )


def _lots_for(pour: Pour, row: WeighRow | None) -> list[LotView]:
    """Return the lots that a line may be weighed from, first to expire first; a rehearsal uses none."""
    if row is None or row.actual_g is not None or pour.is_rehearsal:
        return []
    return in_stock(pour.owner, timezone.localdate(), row.line.material)


def _given(pour: Pour, weighed_g: Decimal) -> Given | None:
    """Return what the newest count of a pour says."""
    newest = newest_yield(pour)
    if newest is None:
        return None
    gone = pour.driven_off_g + pour.test_g + pour.powder_g + newest.filled_g + newest.left_g
    weighed = weights_of(newest)
    pieces = [
        (filling, weigh_up(weighed[filling.position], float(filling.each_g)))
        for filling in pour.fillings.all()
        if weighed.get(filling.position)
    ]
    return Given(newest.filled_g, newest.left_g, weighed_g - gone, pieces)


def weighed_cautions(pour: Pour, shelf: Shelf, bench: Bench) -> list[Caution]:
    """Return what the weights bring that the formula did not: a scent weighed double, say.

    Lines that are still to be weighed count as planned.
    """

    def found(masses: list[tuple[Material, float]]) -> list[Caution]:
        total = sum(mass for _, mass in masses) or 1.0
        percents = [(material, round(100.0 * mass / total, 4)) for material, mass in masses]
        return cautions_for(percents, pour.version, bench, batch_g=pour.batch_g)

    formula = [(shelf[line.material], float(line.percent)) for line in pour.lines.all()]
    return told_at_once(found(boiled_down(pour, actual_parts(pour, shelf))), found(formula))


def _pot(in_pot: Sequence[tuple[WeighRow, Decimal]], batch_g: Decimal) -> TinSection:
    """Return the pot with its contents, its height being the planned batch."""
    layers = [
        (row.line.key, row.material.label, row.material.layer, float(grams / batch_g * 100))
        for row, grams in in_pot
    ]
    filled = min(1.0, sum(layer[3] for layer in layers) / 100.0)
    return tin_section(layers, width=170.0, height=230.0, filled=filled)
