"""A series from one pot: what the pot is by now, and the addition that its next sample needs."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from calmtin.common.numbers import CENT
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf
from calmtin.core.process.series import next_addition
from calmtin.pours.adapters.pot import actual_parts, newest_yield
from calmtin.pours.models import Pour


@dataclass(frozen=True)
class NextSample:
    """The next sample of a pot: the line that rises, what is in the pot, g, and what is added to it.

    `problem` says why there is no addition for it.
    """

    number: int
    count: int
    key: str
    material: Material
    rest: list[tuple[Material, Decimal]]
    rest_g: Decimal
    add_g: Decimal
    share: Decimal
    sample_g: Decimal
    lost_g: Decimal
    problem: str = ""


def next_sample(last: Pour, shelf: Shelf) -> NextSample | None:
    """Return the sample after `last`, by what is really in its pot; None where its series has no more."""
    series = last.series
    if series is None or series.one_pot is None or last.called_off_at is not None:
        return None
    told = series.one_pot
    poured = series.pours.filter(called_off_at=None)
    number, shares = poured.count(), [Decimal(share) for share in told["shares"]]
    if number >= len(shares) or poured.filter(pk__gt=last.pk).exists():
        return None
    sample_g, lost_g = Decimal(told["sample_g"]), Decimal(told["lost_g"])
    line = next(line for line in last.lines.all() if line.key == told["key"])
    parts = [(material, Decimal(repr(grams))) for material, grams in actual_parts(last, shelf)]
    whole_g = sum((grams for _, grams in parts), Decimal(0))
    counted = newest_yield(last)
    # What was weighed back is what is there; else a sample and its loss are gone.
    rest_g = counted.left_g if counted and counted.left_g else max(whole_g - sample_g - lost_g, Decimal(0))
    rest = [(material, (grams * rest_g / whole_g).quantize(CENT)) for material, grams in parts]
    rest_g = sum((grams for _, grams in rest), Decimal(0))
    mine = next((grams for material, grams in rest if material.slug == line.material), Decimal(0))
    share = mine / rest_g if rest_g else Decimal(0)
    add_g, problem = Decimal(0), ""
    try:
        add_g, share = next_addition(rest_g, share, shares[number], step_g=last.scale_step_g)
    except CalmTinError as refused:
        problem = str(refused)
    return NextSample(
        number + 1,
        len(shares),
        told["key"],
        shelf[line.material],
        rest,
        rest_g,
        add_g,
        share,
        sample_g,
        lost_g,
        problem,
    )
