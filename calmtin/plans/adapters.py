"""Variants of a version for a test series, and the pot that they come from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.composition import THOUSANDTH, WHOLE, Composition, Part
from calmtin.core.messages import digits, listed
from calmtin.core.process.weighing import share_out


def at_share(parts: Sequence[Part], part: Part, share: Decimal) -> list[Decimal]:
    """Return the percents of `parts` with one of them at `share` (0 to 1), the rest in proportion."""
    others = (1 - share) * WHOLE / (WHOLE - part.percent)
    return [WHOLE * share if p is part else p.percent * others for p in parts]


@dataclass(frozen=True)
class Variant:
    """One pour of a series: the version as it is, or with other lines, or cooled in another way.

    `rows` are (key, slug, percent) as `apply_lines` takes them; none leaves the lines as they are.
    """

    rows: tuple[tuple[str, str, Decimal], ...] = ()
    cooling: str = ""

    @property
    def is_as_it_is(self) -> bool:
        """Whether nothing is changed."""
        return not self.rows and not self.cooling


@dataclass(frozen=True)
class OnePot:
    """A series from one pot, g: the line that rises, its shares (0 to 1), and what a sample loses."""

    key: str
    shares: tuple[Decimal, ...]
    start_g: Decimal
    lost_g: Decimal


def rows_at(parts: Sequence[Part], exact: Sequence[Decimal]) -> tuple[tuple[str, str, Decimal], ...]:
    """Return the lines of a version at `exact` percents, which add up to 100."""
    shares = list(exact)
    shares[-1] = WHOLE - sum(shares[:-1], Decimal(0))
    percents = share_out(shares, THOUSANDTH)
    return tuple((p.key, p.material.slug, percent) for p, percent in zip(parts, percents, strict=True))


def ladder_variants(
    composition: Composition, part: Part, shares: Sequence[Decimal]
) -> tuple[list[Variant], str]:
    """Return the variants of a ladder: one line at each of `shares` (0 to 1), and what varies in words."""
    mine = composition[part.key]
    variants = [
        Variant(rows=rows_at(composition.parts, at_share(composition.parts, mine, share)))
        for share in shares
    ]
    told = listed(digits(100 * share, ".3g") for share in shares)
    return variants, f"{part.material.in_words} {told} %"
