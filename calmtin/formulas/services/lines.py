"""Edits to one line of a draft, or to all of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import ROUND_FLOOR, Decimal
from typing import Any

from django.db.models import Max
from django.utils.translation import gettext

from calmtin.core.cautions.ceilings import fitted_scents
from calmtin.core.composition import MOST_LINES, THOUSANDTH
from calmtin.core.data.loader import ceilings, scent_facts
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.limits import PERCENT, check
from calmtin.core.materials import Shelf
from calmtin.core.measured import Measured
from calmtin.core.messages import said
from calmtin.formulas.adapters import MEASURED, composition_of, keep_doses
from calmtin.formulas.models import Line, Version
from calmtin.formulas.services.balancing import hold
from calmtin.formulas.services.batch import set_batch_of
from calmtin.formulas.services.drafts import EditedElsewhere, edit, find_line


def set_percent(
    user: Any,
    version: Version,
    *,
    key: str,
    percent: Decimal,
    seen: int,
    on_top: bool | None = None,
) -> Version:
    """Give one line its percentage; the balancing line takes up the difference.

    `on_top` makes it percent of the base: then the base keeps its proportions and
    gives way as a whole. None leaves the line as it is in this.
    """
    check(percent, PERCENT, name="A percentage", field="percent", unit="%")
    with edit(user, version, seen) as (draft, shelf):
        line = find_line(draft, key)
        line.measured = None
        line.save(update_fields=MEASURED)
        on_top = line.is_on_top if on_top is None else on_top
        keep_doses(draft, composition_of(draft, shelf).given(key, percent, on_top=on_top))
    return draft


def set_weight(
    user: Any, version: Version, *, key: str, measured: Measured, seen: int, on_top: bool | None = None
) -> Version:
    """Give one line its weight in the pot: the others keep their grams, batch and percentages follow.

    `on_top` and None as in `set_percent`. What was measured stays beside the line with its
    range, for as long as it says what the line weighs.
    """
    with edit(user, version, seen) as (draft, shelf):
        line = find_line(draft, key)
        _weigh(draft, shelf, line, measured, on_top=line.is_on_top if on_top is None else on_top)
    return draft


def _weigh(draft: Version, shelf: Shelf, line: Line, measured: Measured, *, on_top: bool) -> None:
    composition = composition_of(draft, shelf)
    changed, batch_g = composition.in_pot(line.key, measured.grams, draft.batch_g, on_top=on_top)
    others = [part for part in composition if part.key != line.key]
    if all(part.measured_in(draft.batch_g) for part in others) or not any(p.is_balancing for p in others):
        # Nobody has typed a percentage that some line should balance: the largest oil does.
        changed = changed.balanced_by_largest()
    set_batch_of(draft, batch_g)
    line.measured = measured
    line.save(update_fields=MEASURED)
    keep_doses(draft, changed)


def confirm_weight(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Accept the present weight of a measured line as exact; its range is dropped."""
    with edit(user, version, seen) as (draft, shelf):
        line, part = find_line(draft, key), composition_of(draft, shelf)[key]
        measured = part.measured_in(draft.batch_g)
        if measured is None:
            raise CalmTinError(gettext("This line no longer has a measure to confirm."), field="percent")
        line.measured = Measured(measured.words, measured.grams, measured.grams, measured.grams)
        line.save(update_fields=MEASURED)
    return draft


def set_all(
    user: Any,
    version: Version,
    *,
    amounts: dict[str, Decimal],
    is_weighed: bool,
    seen: int,
    measured: Mapping[str, Measured | None] | None = None,
    added: Sequence[tuple[str, Decimal, Measured | None]] = (),
) -> Version:
    """Set every line's amount, by weight, parts or percent; together they are the whole.

    Weights, g, make the batch as large as their sum. `added` are new lines, by slug; `measured`
    says of lines that were typed how they were measured. Raises `DoesNotAddUp` where a locked
    line would move.
    """
    with edit(user, version, seen) as (draft, shelf):
        if set(amounts) != {line.key for line in draft.lines.all()}:
            raise EditedElsewhere(
                gettext("The formula’s lines have changed. Enter the amounts again."), field="revision"
            )
        amounts, known = dict(amounts), dict(measured or {})
        for slug, amount, how in added:
            line = _new_line(draft, shelf, slug)
            amounts[line.key], known[line.key] = amount, how
        composition = composition_of(draft, shelf).of_amounts(amounts)
        if not any(part.is_balancing for part in composition):
            composition = composition.balanced_by_largest()
        if is_weighed:
            set_batch_of(draft, sum(amounts.values(), Decimal(0)))
        for line in draft.lines.filter(key__in=known):
            line.measured = known[line.key]
            line.save(update_fields=MEASURED)
        keep_doses(draft, composition)
    return draft


def fit_scents(user: Any, version: Version, *, seen: int) -> Version:
    """Bring scents down until every ceiling holds: each to its own limit, then all to the sum.

    The balancing line takes up what is freed.
    """
    with edit(user, version, seen) as (draft, shelf):
        formula, composition = draft.formula, composition_of(draft, shelf)
        scents = [part for part in composition if part.material.group == "scent"]
        fitted = fitted_scents(
            [(part.material, float(part.percent)) for part in scents],
            scent_facts(),
            ceilings()[formula.audience],
            sees_sun=formula.sees_sun,
        )
        doses = {}
        for part, percent in zip(scents, fitted, strict=True):
            # Rounded first, so that the crumbs of a float do not cost a thousandth.
            exact = Decimal(repr(round(percent, 6))).quantize(THOUSANDTH, rounding=ROUND_FLOOR)
            if exact == part.percent:
                continue
            if part.is_locked or part.is_balancing:
                raise DoesNotAddUp(
                    said("{label} is locked. Unlock it first.", label=part.material.label), field="percent"
                )
            doses[part.key] = exact
        keep_doses(draft, composition.dosed(doses).balanced())
    return draft


def set_lock(user: Any, version: Version, *, key: str, is_locked: bool, seen: int) -> Version:
    """Lock a line, so that neither a hand nor the solver moves it; the balancing line cannot be."""
    with edit(user, version, seen) as (draft, _):
        line = find_line(draft, key)
        if line.is_balancing and is_locked:
            raise DoesNotAddUp(
                gettext(
                    "This line makes up the rest, so it can’t be locked. Let another line make up the "
                    "rest first."
                ),
                field="percent",
            )
        line.is_locked = is_locked
        line.save(update_fields=["is_locked"])
    return draft


def trade(user: Any, version: Version, *, key: str, other: str, percent: Decimal, seen: int) -> Version:
    """Give one line `percent` and let `other` take up the difference; the rest stays as it is.

    Raises `DoesNotAddUp` when the two together are less than that, either is locked, or
    both are the same line.
    """
    check(percent, PERCENT, name="A percentage", field="percent", unit="%")
    with edit(user, version, seen) as (draft, shelf):
        for one in (key, other):
            find_line(draft, one)
        keep_doses(draft, composition_of(draft, shelf).traded(key, other, percent))
    return draft


def add_line(
    user: Any,
    version: Version,
    *,
    slug: str,
    seen: int,
    percent: Decimal | None = None,
    measured: Measured | None = None,
    on_top: bool = False,
) -> Version:
    """Add a material, in percent of all or of the base, or as much of it as was measured.

    The first one is 100 % and balances; measured, it is the batch.
    """
    if percent is not None:
        check(percent, PERCENT, name="A percentage", field="percent", unit="%")
    with edit(user, version, seen) as (draft, shelf):
        line = _new_line(draft, shelf, slug)
        if measured is not None:
            _weigh(draft, shelf, line, measured, on_top=on_top)
            return draft
        composition = composition_of(draft, shelf)
        if len(composition) > 1:
            composition = composition.given(line.key, percent or Decimal(0), on_top=on_top)
        else:
            composition = composition.balanced_by(line.key).balanced()
        keep_doses(draft, composition)
    return draft


def _new_line(draft: Version, shelf: Shelf, slug: str) -> Line:
    """Add a line of nothing yet; refuse one too many, and a material that is there."""
    if draft.lines.count() >= MOST_LINES:
        raise DoesNotAddUp(
            said(
                "A formula can have up to {most_lines} lines. Remove one before adding another.",
                most_lines=MOST_LINES,
            ),
            field="material",
            limit=MOST_LINES,
        )
    material = shelf[slug]
    if draft.lines.filter(material=slug).exists():
        raise CalmTinError(
            said("{label} is already in the formula. Change its line instead.", label=material.label),
            field="material",
            material=slug,
        )
    return draft.lines.create(position=next_position(draft), material=slug, percent=Decimal(0))


def next_position(draft: Version) -> int:
    """Return the place of a new line: behind the last."""
    last = draft.lines.aggregate(last=Max("position"))["last"]
    return 0 if last is None else last + 1


def remove_line(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Take a line out; if it balanced the total, another line takes over."""
    with edit(user, version, seen) as (draft, shelf):
        line = find_line(draft, key)
        line.delete()
        hold(draft, shelf, spread=line.is_on_top)
    return draft


def balance_with(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Let another line balance the total from now on; no percentage changes."""
    with edit(user, version, seen) as (draft, shelf):
        find_line(draft, key)
        keep_doses(draft, composition_of(draft, shelf).balanced_by(key))
    return draft
