"""What can be done about a line that was over-poured."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.process.rescue import scaled_up
from calmtin.plans.queries.supply import pot_words
from calmtin.pours.models import (
    Pour,
)
from calmtin.pours.queries.weigh_rows import WeighRow

# An over-pour that is worth saving: two steps of the scale, and a fiftieth of the line.
OVER_STEPS, OVER_SHARE = 2, Decimal("0.02")


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


def over_pour_of(pour: Pour, rows: list[WeighRow], left: Mapping[str, Decimal]) -> Rescue | None:
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
