"""Keep a draft at 100 %: one line makes up the rest, and doses on top of the base stay."""

from __future__ import annotations

from calmtin.core.materials import Shelf
from calmtin.formulas.adapters import composition_of, keep_doses
from calmtin.formulas.models import Version


def hold(version: Version, shelf: Shelf, *, spread: bool = False) -> None:
    """Let what balances take up what the others leave, another line where none does.

    With `spread`, what is on top keeps its percent of the base, which gives way as a whole.
    """
    composition = composition_of(version, shelf)
    if not composition.parts:
        return
    if not any(part.is_balancing for part in composition):
        composition = composition.balanced_by_largest()
    if spread:
        composition = composition.spread()
    keep_doses(version, composition.balanced())


def settle(version: Version, shelf: Shelf) -> None:
    """Recalculate on-top percentages after the base has changed."""
    composition = composition_of(version, shelf)
    settled = composition.settled()
    if settled is not composition:
        keep_doses(version, settled)
