"""Bases that were kept: leftovers, or a whole pot, of which some is melted again and finished."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from calmtin.accounts.models import Bench
from calmtin.core.composition import WHOLE, Composition, Part
from calmtin.core.custom_material import is_alike
from calmtin.core.engine.firmness import rung_at
from calmtin.core.materials import Material, Shelf
from calmtin.pantry.models import Lot
from calmtin.pantry.queries.lots import in_stock

BASE = "base"  # the key of its line on a weigh sheet
ALIKE_POINTS = 2.0  # by which a base may differ from what its formula says by now


@dataclass(frozen=True)
class Base:
    """A lot of a blend that is what a formula makes: what is left of it, g, and its firmness."""

    lot: Lot
    material: Material
    left_g: Decimal
    rung: float | None

    def composition(self, overrun: float) -> Composition:
        """Return a pot of nothing else."""
        return Composition.of([Part(BASE, self.material, WHOLE, is_balancing=True)], overrun=overrun)


def bases_for(
    user: Any, parts: Sequence[tuple[Material, float]], shelf: Shelf, bench: Bench, today: date
) -> list[Base]:
    """Return the bases on the shelf that hold what `parts` hold, first to expire first.

    They are told by what is in them, not by their names.
    """
    alike = [
        material
        for material in shelf.values()
        if material.made_of and is_alike([(material, 1.0)], parts, points=ALIKE_POINTS)
    ]
    return [
        Base(
            view.lot,
            material,
            view.left_g,
            rung_at([(material, 1.0)], bench.room_c, prior=bench.prior),
        )
        for material in alike
        for view in in_stock(user, today, material.slug)
    ]
