"""A variant of a version for a test series."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.composition import WHOLE, Part


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
