"""One pour, being weighed or done, with its checks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from itertools import pairwise
from typing import Any, cast

import numpy as np
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.cautions.case import Caution
from calmtin.core.engine.firmness import rung_at
from calmtin.core.engine.ladder import rung_word, to_rungs
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import said
from calmtin.core.packing.pieces import Pieces, weigh_up
from calmtin.core.process.checks import in_words
from calmtin.core.process.rescue import scaled_up
from calmtin.core.process.run_sheet import BATH, run_sheet
from calmtin.core.process.weighing import too_small
from calmtin.formulas.queries.formula import cautions_for, told_at_once
from calmtin.formulas.queries.readings import Firmness, Unpredicted, firmness_of
from calmtin.formulas.queries.scents import about_in_words
from calmtin.pantry.queries.lots import Cost, LotView, cost_of, in_stock, left_of
from calmtin.pictures.ladder import Verdict
from calmtin.pictures.section import TinSection, tin_section
from calmtin.pours.adapters import (
    actual_parts,
    age_days,
    batch_of,
    newest_grams,
    newest_reading,
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
    Check,
    PotAddition,
    Pour,
    PourFilling,
    PourFinishPart,
    WeighIn,
    WeighLine,
)
from calmtin.pours.queries.clocks import Running, clocks_at_scale
from calmtin.pours.queries.prefetching import asking, read_along
from calmtin.pours.queries.supply import pot_words

# An over-pour that is worth saving: two steps of the scale, and a fiftieth of the line.
OVER_STEPS, OVER_SHARE = 2, Decimal("0.02")


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


@dataclass(frozen=True)
class Event:
    """Something that happened on pour day: a step with its note, or what the thermometer said."""

    at: datetime
    what: str
    note: str
    temp_c: float | None = None


@dataclass(frozen=True)
class Rescue:
    """The options for an over-poured line, with their effects.

    Scaled up, the pot comes to `batch_g`, `larger_g` more than before; `to_add` is what then is
    still to go in, `short` what the shelf lacks of that. `may_take_out` says that it is unmixed still;
    `more` what the rest fills, and `pot` whether a pot holds it all.
    """

    row: WeighRow
    over_g: Decimal
    batch_g: Decimal
    to_add: list[tuple[Material, Decimal]]
    short: list[tuple[Material, Decimal]]
    larger_g: Decimal
    may_take_out: bool
    more: str
    pot: str


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


@dataclass(frozen=True)
class CheckView:
    """A check with the planned and actual predictions at its temperature."""

    check: Check
    planned_rung: float | None
    actual_rung: float | None
    felt_words: str
    after: timedelta
    pressed_rung: float | None
    pressed_words: str
    signs: list[tuple[str, str, bool]]

    @property
    def off(self) -> float | None:
        """Rungs by which the felt result lies above the prediction."""
        if self.check.felt_rung is None or self.actual_rung is None:
            return None
        return float(self.check.felt_rung) - self.actual_rung


OF_A_PAGE = (
    "steps_done",
    "timers",
    "readings",
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
    "label_prints",
    "pieces_gone",
    "version__lines",
)


def pour_with_lines(user: Any, *, without: Sequence[str] = (), **lookup: Any) -> Pour:
    """Return the maker's pour with all that its page reads, or 404; `without` some relations."""
    names = [name for name in OF_A_PAGE if name not in without]
    pours = asking(Pour.every().select_related("version__formula", "stove", "closing"), *names)
    found: Pour = pours.own_or_404(user, **lookup)
    read_along([found], *names, *(OF_CLOSING if closing_of(found) else ()))
    found.called_now = as_closed(found)  # type: ignore[attr-defined]  # what its formula is called by now
    return found


def _exact_g(line: WeighLine, target_g: Decimal) -> Decimal:
    """Return what a line comes to before the scale rounds it, which may leave nothing of a few drops."""
    is_as_planned = target_g == line.planned_g
    return line.percent * line.pour.batch_g / 100 if is_as_planned else target_g


def pour_view(pour: Pour, shelf: Shelf, bench: Bench) -> PourView:
    """Return the page of one pour."""
    rows: list[WeighRow] = []
    next_up = next_line(pour) if pour.is_weighing else None
    shelf = shelf_of(pour, shelf)
    closing, targets = closing_of(pour), targets_of(pour)
    cost = cost_of(withdrawals_of(pour), costs_of_closing(pour))
    left = left_of(pour.owner) if pour.is_weighing or not _all_booked(pour, cost) else {}
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
                corrections=_corrections(line),
                about=about_in_words(shelf[line.material], float(exact)),
            )
        )
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
        in_pot_g=weight,
        pot=_pot(in_pot, max(sum(targets.values(), Decimal(0)), pour.batch_g)),
        batch_g=sum(targets.values(), Decimal(0)),
        rescue=_rescue(pour, rows, left) if pour.is_weighing else None,
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
        events=_events(pour, shelf),
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


def _rescue(pour: Pour, rows: list[WeighRow], left: Mapping[str, Decimal]) -> Rescue | None:
    """Return what can be done about the line that is most over its target, by more than a hand's slip."""
    over = [
        row
        for row in rows
        if row.difference is not None
        and row.difference >= max(OVER_STEPS * pour.scale_step_g, OVER_SHARE * row.target_g)
    ]
    if not over:
        return None
    worst = max(over, key=lambda row: (row.actual_g or Decimal(0)) / max(row.target_g, pour.scale_step_g))
    try:
        up = scaled_up(
            [row.target_g for row in rows], [row.actual_g for row in rows], step_g=pour.scale_step_g
        )
    except CalmTinError:
        return None
    to_add = [(row.material, grams) for row, grams in zip(rows, up.to_add, strict=True) if grams > 0]
    short = [(m, grams - left[m.slug]) for m, grams in to_add if m.slug in left and left[m.slug] < grams]
    before = sum((row.target_g for row in rows), Decimal(0))
    over_g = worst.difference or Decimal(0)
    is_unmixed = pour.weighed_into == Pour.Weighing.CUPS or _is_newest(worst, rows)
    larger = up.batch_g - before
    parts = [(row.material, float(grams)) for row, grams in zip(rows, up.targets, strict=True) if grams > 0]
    pot = pot_words(pour.owner, float(up.batch_g), parts)
    more = _more_filled(pour, larger)
    return Rescue(worst, over_g, up.batch_g, to_add, short, larger, is_unmixed, more, pot)


def _more_filled(pour: Pour, larger_g: Decimal) -> str:
    """Return what a larger pot fills beyond the plan, in words."""
    filling = next(iter(pour.fillings.all()), None)
    if filling is None or not filling.each_g:
        return gettext("You need a container for the rest.")
    count = int(larger_g * Decimal(repr(1.0 - pour.loss)) / filling.each_g)
    if not count:
        return said(
            "That is not enough for another {container_name}; it will be left over.",
            container_name=filling.container_name,
        )
    return said(
        "That fills {count} × {container_name} more.", count=count, container_name=filling.container_name
    )


def _is_newest(row: WeighRow, rows: list[WeighRow]) -> bool:
    """Return whether nothing was poured on top of a line since."""
    return row.after == max(other.after for other in rows)


def _events(pour: Pour, shelf: Shelf) -> list[Event]:
    """Return the events of a pour with their times and temperatures, oldest first."""
    done_steps = [done for done in pour.steps_done.all() if done.is_done]
    names = {BATH: gettext("Back to the bath")}
    if not all(done.title or done.key == BATH for done in done_steps):
        # Done before the sheet kept what it called a step.
        names |= {step.key: step.title for step in run_sheet(batch_of(pour, shelf))}
    steps = [Event(done.at, done.title or names.get(done.key, done.key), done.note) for done in done_steps]
    readings = [
        Event(reading.at, reading.get_place_display(), "", reading.temp_c)
        for reading in pour.readings.all()
    ]
    tests = [
        Event(
            c.made_at,
            said(
                "A drop {get_set_test_display}: {rung_word}",
                get_set_test_display=c.get_set_test_display(),
                rung_word=rung_word(float(c.felt_rung)),
            ),
            "",
            c.temp_c,
        )
        for c in pour.checks.all()
        if c.set_test and c.felt_rung is not None
    ]
    return sorted([*steps, *readings, *tests], key=lambda event: event.at)


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


def _corrections(line: WeighLine) -> list[Corrected]:
    readings = sorted(line.weigh_ins.all(), key=lambda reading: reading.pk)
    return [
        Corrected(before.grams, after.reason, after.at)
        for before, after in pairwise(readings)
        if after.reason
    ]


def weighed_cautions(pour: Pour, shelf: Shelf, bench: Bench) -> list[Caution]:
    """Return what the weights bring that the formula did not: a scent weighed double, say.

    Lines that are still to be weighed count as planned.
    """

    def found(masses: list[tuple[Material, float]]) -> list[Caution]:
        total = sum(mass for _, mass in masses) or 1.0
        percents = [(material, round(100.0 * mass / total, 4)) for material, mass in masses]
        return cautions_for(percents, pour.version, bench, batch_g=pour.batch_g)

    formula = [(shelf[line.material], float(line.percent)) for line in pour.lines.all()]
    return told_at_once(found(actual_parts(pour, shelf)), found(formula))


def _pot(in_pot: Sequence[tuple[WeighRow, Decimal]], batch_g: Decimal) -> TinSection:
    """Return the pot with its contents, its height being the planned batch."""
    layers = [
        (row.line.key, row.material.label, row.material.layer, float(grams / batch_g * 100))
        for row, grams in in_pot
    ]
    filled = min(1.0, sum(layer[3] for layer in layers) / 100.0)
    return tin_section(layers, width=170.0, height=230.0, filled=filled)


def check_views(pour: Pour, shelf: Shelf) -> list[CheckView]:
    """Return a pour's results, oldest first, each beside its predictions."""
    checks = [check for check in pour.checks.all() if not check.set_test]
    if not checks:
        return []
    planned, actual = planned_parts(pour, shelf), actual_parts(pour, shelf)
    overrun = overrun_of(pour)
    return [
        CheckView(
            check=check,
            planned_rung=rung_at(planned, check.temp_c, overrun=overrun, age_days=age_days(pour, check)),
            actual_rung=rung_at(actual, check.temp_c, overrun=overrun, age_days=age_days(pour, check)),
            felt_words=rung_word(float(check.felt_rung)) if check.felt_rung is not None else "",
            after=check.made_at - (pour.poured_at or pour.started_at),
            pressed_rung=(pressed := pressed_rung(check)),
            pressed_words="" if pressed is None else rung_word(pressed),
            signs=in_words(check.signs),
        )
        for check in checks
    ]


def pressed_rung(check: Check) -> float | None:
    """Return the rung of a check's press test, as the rod's grams say; None without one."""
    return None if check.pressed is None else float(to_rungs(np.array(check.pressed)))


def verdict_of(pour: Pour) -> Verdict:
    """Return the newest verdict on a pour, or nothing."""
    newest = next((check.verdict for check in reversed(list(pour.checks.all())) if check.verdict), "")
    return cast(Verdict, newest)
