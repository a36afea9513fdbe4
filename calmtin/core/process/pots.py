"""One pot of base, several finishes: how the pot is divided, and what is added to each share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.errors import DoesNotFit
from calmtin.core.materials import Material
from calmtin.core.messages import said
from calmtin.core.process.weighing import share_out, too_small


@dataclass(frozen=True, slots=True)
class PartDose:
    """A finishing part: percent of the base, and grams in steps of the scale."""

    material: Material
    percent: Decimal
    grams: Decimal
    is_small: bool


@dataclass(frozen=True, slots=True)
class Portion:
    """The share of the pot for one finish, and what is added to it, g."""

    base_g: Decimal
    parts: tuple[PartDose, ...]

    @property
    def total_g(self) -> Decimal:
        """The finished portion, g."""
        return self.base_g + sum((part.grams for part in self.parts), Decimal(0))


def split_pot(
    base_g: Decimal,
    shares: Sequence[Decimal],
    finishes: Sequence[Sequence[tuple[Material, Decimal]]],
    *,
    resolution: Decimal,
) -> list[Portion]:
    """Return the portions of a pot of `base_g`, shared as `shares` (any numbers, 0 for none).

    `finishes` hold each portion's parts in percent of its base. The bases are whole
    steps of the scale and sum to exactly the pot; each part is rounded to the
    nearest step. Raises `DoesNotFit` when nothing is shared, or for a pot that is
    no whole number of steps.

    >>> [str(p.base_g) for p in split_pot(Decimal(100), [Decimal(1), Decimal(2)], [[], []], \
resolution=Decimal("0.1"))]
    ['33.3', '66.7']
    """
    whole = sum(shares, Decimal(0))
    if whole <= 0:
        raise DoesNotFit(said("Give at least one finish a share of the pot."), field="shares")
    bases = share_out([base_g * share / whole for share in shares], resolution)
    found = []
    for base, parts in zip(bases, finishes, strict=True):
        doses = []
        for material, percent in parts:
            exact = base * percent / 100
            grams = (exact / resolution).to_integral_value() * resolution
            doses.append(PartDose(material, percent, grams, too_small(exact, resolution)))
        found.append(Portion(base, tuple(doses)))
    return found
