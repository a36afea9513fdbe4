"""A version's rows to the core's composition, and its doses back."""

from __future__ import annotations

from calmtin.core.composition import Composition, Part
from calmtin.core.materials import Shelf
from calmtin.core.process.tincture import TINCTURE
from calmtin.formulas.models import Version

DOSE = ("percent", "on_top_pct", "is_balancing")
MEASURED = ("typed", "typed_g", "low_g", "high_g")


def alcohol_pct_of(version: Version) -> float | None:
    """Return the strength of a version's tincture, % by volume; None without one or if not given."""
    lines = [line for line in version.lines.all() if line.material == TINCTURE]
    return lines[0].alcohol_pct if lines else None


def composition_of(version: Version, shelf: Shelf) -> Composition:
    """Return the version as the core takes it: bottom layer first, within it as entered."""
    parts = [
        Part(
            key=line.key,
            material=shelf[line.material],
            percent=line.percent,
            is_balancing=line.is_balancing,
            is_locked=line.is_locked,
            on_top_pct=line.on_top_pct,
            alcohol_pct=line.alcohol_pct,
            alcohol_typed=line.alcohol_typed,
            measured=line.measured,
        )
        for line in version.lines.all()
    ]
    return Composition.of(parts, overrun=version.overrun)


def keep_doses(version: Version, composition: Composition) -> None:
    """Write the doses of `composition` to the draft's lines, those that differ."""
    # Which line balances is taken away before it is given: there is never a second one.
    for line in sorted(version.lines.all(), key=lambda line: composition[line.key].is_balancing):
        part = composition[line.key]
        if any(getattr(line, field) != getattr(part, field) for field in DOSE):
            for field in DOSE:
                setattr(line, field, getattr(part, field))
            line.save(update_fields=DOSE)
