"""Hold a draft at 100: one line balances, and what is on top of the base stays so."""

from __future__ import annotations

from decimal import Decimal

from calmtin.core.composition import THOUSANDTH, WHOLE, balancing_percent, of_base, of_total, scaled_to
from calmtin.core.errors import DoesNotAddUp
from calmtin.core.materials import Shelf
from calmtin.formulas.models import Line, Version

# What is on top keeps its percent of the base as long as rounding alone moves it.
ROUNDING = Decimal("0.0006")
MOST_ON_TOP = 30  # percent of the base


def choose_balancing(version: Version, shelf: Shelf) -> None:
    """Let the largest liquid oil of the base balance, or the largest line where there is none.

    A locked line does not: raises `DoesNotAddUp` when there is no other.
    """
    top, base = _top_and_base(version)
    free = [line for line in base or top if not line.is_locked]
    if not free:
        raise DoesNotAddUp("No other line can balance the total. Unlock one first.", field="percent")
    chosen = max(free, key=lambda line: (shelf[line.material].layer == "oil", line.percent))
    version.lines.filter(pk=chosen.pk).update(is_balancing=True, on_top_pct=None)


def rebalance(version: Version, shelf: Shelf) -> None:
    """Set the balancing line to what the others leave of 100."""
    lines = list(version.lines.all())
    balancing = next((line for line in lines if line.is_balancing), None)
    if balancing is None:
        return
    others = [line.percent for line in lines if line is not balancing]
    balancing.percent = balancing_percent(others, name=shelf[balancing.material].label)
    balancing.save(update_fields=["percent"])


def spread(version: Version) -> None:
    """Give what is on top its percent of the base, and let the base keep its proportions beneath it.

    Locked lines of the base stay to the letter. Where nothing else has any weight the
    balancing line takes up the rest. Raises `DoesNotAddUp` when the locks leave no room.
    """
    top, base = _top_and_base(version)
    locked = [line for line in base if line.is_locked]
    free = [line for line in base if not line.is_locked]
    shares = of_total([line.on_top_pct for line in top])
    left = WHOLE - sum(shares, Decimal(0)) - sum((line.percent for line in locked), Decimal(0))
    if left < 0:
        raise DoesNotAddUp("Locked lines leave no room for that. Unlock one first.", field="percent")
    for line, percent in zip(top, shares, strict=True):
        line.percent = percent
    if sum((line.percent for line in free), Decimal(0)) > 0:
        for line, percent in zip(free, scaled_to([line.percent for line in free], left), strict=True):
            line.percent = percent
    for line in top + free:
        line.save(update_fields=["percent"])


def settle_on_top(version: Version) -> None:
    """Say anew what is on top in percent of the base, where an edit has moved it."""
    top, _ = _top_and_base(version)
    total = sum((line.percent for line in top), Decimal(0))
    shares = of_total([line.on_top_pct for line in top])
    if all(abs(line.percent - share) <= ROUNDING for line, share in zip(top, shares, strict=True)):
        return
    parts = [of_base(line.percent, total).quantize(THOUSANDTH) if total < WHOLE else WHOLE for line in top]
    for line, part in zip(top, parts, strict=True):
        # What has grown past a finishing part is part of the base from now on.
        line.on_top_pct = part if part <= MOST_ON_TOP else None
        line.save(update_fields=["on_top_pct"])
    if any(part > MOST_ON_TOP for part in parts):
        settle_on_top(version)


def _top_and_base(version: Version) -> tuple[list[Line], list[Line]]:
    lines = list(version.lines.all())
    return [line for line in lines if line.is_on_top], [line for line in lines if not line.is_on_top]
