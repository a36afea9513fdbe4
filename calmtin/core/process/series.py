"""A series of small tests: from one pot to which wax is added, or from pots of their own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from itertools import pairwise

from calmtin.core.errors import DoesNotAddUp
from calmtin.core.messages import said
from calmtin.core.process.weighing import nearest_step, whole_steps


@dataclass(frozen=True, slots=True)
class Rung:
    """One sample of a series: the wanted share, the addition before it, and the actual share.

    `pot_g` is what is in the pot when it is poured, after the addition.
    """

    wanted: Decimal
    add_g: Decimal
    pot_g: Decimal
    share: Decimal

    @property
    def off(self) -> Decimal:
        """How far its share is from the one that was wanted."""
        return abs(self.share - self.wanted)


@dataclass(frozen=True, slots=True)
class Ladder:
    """A one-pot ladder: the pot to begin with, in g of the line and of all the rest, and its samples."""

    start_g: Decimal
    line_g: Decimal
    rest_g: Decimal
    rungs: tuple[Rung, ...]

    @property
    def worst(self) -> Decimal:
        """How far the worst sample is from its share."""
        return max(rung.off for rung in self.rungs)


def one_pot(wanted: Sequence[Decimal], *, sample_g: Decimal, loss_g: Decimal, step_g: Decimal) -> Ladder:
    """Return a ladder of samples poured from one pot, to whose rest more of one line is added.

    `wanted` are the shares (0 to 1) of that line in the whole, rising; each sample takes
    `sample_g` and `loss_g` (what clings, a drop to test) with the composition that the pot has.
    The pot is as small as its last sample allows. Additions are exact for what is then in the
    pot: x = m (t - s) / (1 - t), rounded to `step_g`, and later ones make up for it. Raises
    `DoesNotAddUp` for shares that do not rise.

    >>> ladder = one_pot([Decimal("0.15"), Decimal("0.18")], sample_g=Decimal(12), loss_g=Decimal(0),
    ...                  step_g=Decimal("0.1"))
    >>> str(ladder.start_g), str(ladder.rungs[1].add_g), round(ladder.rungs[1].share, 4)
    ('23.6', '0.4', Decimal('0.1767'))
    """
    if not wanted or not all(0 < share < 1 for share in wanted):
        raise DoesNotAddUp(said("Percentages must be above 0 and below 100."), field="shares")
    if any(b <= a for a, b in pairwise(wanted)):
        raise DoesNotAddUp(
            said("The percentages must rise, because you can add to a pot but not take out."),
            field="shares",
        )
    taken = sample_g + loss_g
    pot = taken
    # Backwards: before an addition the pot was smaller by it.
    for before, after in zip(reversed(wanted[:-1]), reversed(wanted[1:]), strict=True):
        pot = pot * (1 - after) / (1 - before) + taken
    start = whole_steps(pot, step_g)
    line = nearest_step(start * wanted[0], step_g)
    pot, share = start, line / start
    rungs = [Rung(wanted[0], Decimal(0), pot, share)]
    for target in wanted[1:]:
        pot -= taken
        add = nearest_step(pot * (target - share) / (1 - target), step_g)
        share = (pot * share + add) / (pot + add)
        pot += add
        rungs.append(Rung(target, add, pot, share))
    return Ladder(start, line, start - line, tuple(rungs))


def next_addition(
    rest_g: Decimal, share: Decimal, wanted: Decimal, *, step_g: Decimal
) -> tuple[Decimal, Decimal]:
    """Return what goes into the rest of a pot for its next sample, g, and the share that it makes.

    `share` is what the line has of the `rest_g` g by now, `wanted` what it is to have, 0 to 1.
    Raises `DoesNotAddUp` where the pot is past it.

    >>> add, share = next_addition(Decimal(24), Decimal("0.15"), Decimal("0.18"), step_g=Decimal("0.1"))
    >>> str(add), round(share, 4)
    ('0.9', Decimal('0.1807'))
    """
    add = nearest_step(rest_g * (wanted - share) / (1 - wanted), step_g)
    if rest_g <= 0 or add <= 0:
        raise DoesNotAddUp(
            said(
                "The pot is at {share:.1f} % by now, past the {wanted:.1f} % of this sample. Leave it out.",
                share=100 * share,
                wanted=100 * wanted,
            ),
            field="shares",
        )
    return add, (rest_g * share + add) / (rest_g + add)


def own_pots(wanted: Sequence[Decimal], *, sample_g: Decimal, step_g: Decimal) -> list[Rung]:
    """Return the same samples, each weighed in a pot of its own of `sample_g`.

    >>> (rung,) = own_pots([Decimal("0.15")], sample_g=Decimal(12), step_g=Decimal("0.1"))
    >>> str(rung.add_g)
    '1.8'
    """
    found = []
    for target in wanted:
        line = nearest_step(sample_g * target, step_g)
        found.append(Rung(target, line, sample_g, line / sample_g))
    return found
