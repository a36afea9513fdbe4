"""What a maker does to one line of a draft, or to all of them at once."""

from __future__ import annotations

from decimal import ROUND_FLOOR, Decimal
from typing import Any

from django.db.models import Max

from calmtin.core.cautions.ceilings import fitted_scents
from calmtin.core.composition import MOST_LINES, THOUSANDTH, WHOLE, scaled_to
from calmtin.core.data.loader import ceilings, scent_facts
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.limits import BATCH_G, PERCENT, check
from calmtin.formulas.models import Line, Version
from calmtin.formulas.services.balancing import MOST_ON_TOP, choose_balancing, rebalance, spread
from calmtin.formulas.services.drafts import EditedElsewhere, edit, find_line

CENT = Decimal("0.01")

LOCKED = "This line is locked. Unlock it first."


def set_percent(
    user: Any,
    version: Version,
    *,
    key: str,
    percent: Decimal,
    seen: int,
    on_top: bool | None = None,
    typed: str = "",
) -> Version:
    """Give one line its percentage; the balancing line takes up the difference.

    `on_top` makes it percent of the base: then the base keeps its proportions and
    gives way as a whole. None leaves the line as it is in this. `typed` keeps what
    was written for it, where that was a measure.
    """
    check(percent, PERCENT, name="A percentage", field="percent", unit="%")
    with edit(user, version, seen) as (draft, shelf):
        line = find_line(draft, key)
        if line.is_balancing:
            raise DoesNotAddUp(
                "This line balances the total, so its percentage follows from the others. "
                "Let another line balance first.",
                field="percent",
            )
        if line.is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        _dose(line, percent, on_top=line.is_on_top if on_top is None else on_top, typed=typed)
        line.save()
        if line.is_on_top:
            spread(draft)
        rebalance(draft, shelf)
    return draft


def _dose(line: Line, percent: Decimal, *, on_top: bool, typed: str) -> None:
    """Give `line` its percentage, of all or of the base."""
    if on_top and percent > MOST_ON_TOP:
        raise DoesNotAddUp(
            f"Up to {MOST_ON_TOP} % can go on top of a base. What there is more of belongs in it.",
            field="percent",
            limit=float(MOST_ON_TOP),
            unit="%",
        )
    line.on_top_pct = percent if on_top else None
    line.percent, line.typed = percent, typed[:200]


def set_all(user: Any, version: Version, *, amounts: dict[str, Decimal], unit: str, seen: int) -> Version:
    """Give every line its amount at once, in grams, parts or percent; together they are the whole.

    Grams make the batch as large as their sum. Raises `DoesNotAddUp` where a locked
    line would move.
    """
    with edit(user, version, seen) as (draft, shelf):
        lines = list(draft.lines.all())
        if set(amounts) != {line.key for line in lines}:
            raise EditedElsewhere("The formula has other lines by now. Type them again.", field="revision")
        total = sum(amounts.values(), Decimal(0))
        if total <= 0:
            raise DoesNotAddUp("Give at least one line more than 0.", field="amounts")
        for line, percent in zip(lines, scaled_to([amounts[li.key] for li in lines], WHOLE), strict=True):
            if line.is_locked and line.percent != percent:
                raise DoesNotAddUp(
                    f"{shelf[line.material].label} is locked at {line.percent.normalize():f} % and would "
                    f"come to {percent.normalize():f} %. Unlock it first.",
                    field=line.key,
                )
            line.percent = percent
            line.save(update_fields=["percent"])
        if unit == "g":
            check(total, BATCH_G, name="A batch", field="amounts", unit="g")
            draft.batch_g = total.quantize(CENT)
            draft.save(update_fields=["batch_g"])
    return draft


def fit_scents(user: Any, version: Version, *, seen: int) -> Version:
    """Bring scents down until every ceiling holds: each to its own limit, then all to the sum.

    The balancing line takes up what is freed.
    """
    with edit(user, version, seen) as (draft, shelf):
        formula = draft.formula
        scents = [line for line in draft.lines.all() if shelf[line.material].group == "scent"]
        fitted = fitted_scents(
            [(shelf[line.material], float(line.percent)) for line in scents],
            scent_facts(),
            ceilings()[formula.audience],
            sees_sun=formula.sees_sun,
        )
        for line, percent in zip(scents, fitted, strict=True):
            # Rounded first, so that the crumbs of a float do not cost a thousandth.
            exact = Decimal(repr(round(percent, 6))).quantize(THOUSANDTH, rounding=ROUND_FLOOR)
            if exact == line.percent:
                continue
            if line.is_locked or line.is_balancing:
                raise DoesNotAddUp(
                    f"{shelf[line.material].label} is locked. Unlock it first.", field="percent"
                )
            line.percent = exact
            line.save(update_fields=["percent"])
        rebalance(draft, shelf)
    return draft


def set_lock(user: Any, version: Version, *, key: str, is_locked: bool, seen: int) -> Version:
    """Lock a line, so that neither a hand nor the solver moves it; the balancing line cannot be."""
    with edit(user, version, seen) as (draft, _):
        line = find_line(draft, key)
        if line.is_balancing and is_locked:
            raise DoesNotAddUp(
                "This line balances the total, so it has to move. Let another line balance first.",
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
    if key == other:
        raise DoesNotAddUp("A line cannot trade with itself. Choose another one.", field="percent")
    check(percent, PERCENT, name="A percentage", field="percent", unit="%")
    with edit(user, version, seen) as (draft, shelf):
        line, across = find_line(draft, key), find_line(draft, other)
        if line.is_locked or across.is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        both = line.percent + across.percent
        if percent > both:
            names = f"{shelf[line.material].label} and {shelf[across.material].label}"
            raise DoesNotAddUp(
                f"{names} make {both.normalize():f} % together.",
                field="percent",
                limit=float(both),
                unit="%",
            )
        line.percent, across.percent = percent, both - percent
        line.save(update_fields=["percent"])
        across.save(update_fields=["percent"])
    return draft


def add_line(
    user: Any,
    version: Version,
    *,
    slug: str,
    percent: Decimal,
    seen: int,
    on_top: bool = False,
    typed: str = "",
) -> Version:
    """Add a material, in percent of all or of the base; the first one balances at 100 %."""
    check(percent, PERCENT, name="A percentage", field="percent", unit="%")
    with edit(user, version, seen) as (draft, shelf):
        count = draft.lines.count()
        if count >= MOST_LINES:
            raise DoesNotAddUp(
                f"A formula holds up to {MOST_LINES} lines. Remove one before adding another.",
                field="material",
                limit=MOST_LINES,
            )
        material = shelf[slug]
        if draft.lines.filter(material=slug).exists():
            raise CalmTinError(
                f"{material.label} is in the formula already. Change its line instead.",
                field="material",
                material=slug,
            )
        line = Line(version=draft, position=next_position(draft), material=slug, is_balancing=not count)
        _dose(line, percent if count else WHOLE, on_top=on_top and count > 0, typed=typed)
        line.save()
        if line.is_on_top:
            spread(draft)
        rebalance(draft, shelf)
    return draft


def next_position(draft: Version) -> int:
    """Return the place of a new line: behind the last."""
    last = draft.lines.aggregate(last=Max("position"))["last"]
    return 0 if last is None else last + 1


def remove_line(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Take a line out; if it balanced the total, another line takes over."""
    with edit(user, version, seen) as (draft, shelf):
        line = find_line(draft, key)
        line.delete()
        if line.is_balancing and draft.lines.exists():
            choose_balancing(draft, shelf)
        if line.is_on_top and draft.lines.exists():
            spread(draft)
        rebalance(draft, shelf)
    return draft


def balance_with(user: Any, version: Version, *, key: str, seen: int) -> Version:
    """Let another line balance the total from now on; no percentage changes."""
    with edit(user, version, seen) as (draft, _):
        line = find_line(draft, key)
        if line.is_locked:
            raise DoesNotAddUp(LOCKED, field="percent")
        draft.lines.update(is_balancing=False)
        draft.lines.filter(pk=line.pk).update(is_balancing=True, on_top_pct=None)
    return draft
