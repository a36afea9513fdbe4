"""Rows of formulas to the core's materials and masses, and back."""

from __future__ import annotations

from decimal import Decimal

from calmtin.core.materials import Material, Shelf
from calmtin.formulas.models import Line, Version


def lines_with_materials(version: Version, shelf: Shelf) -> list[tuple[Line, Material]]:
    """Return the version's lines with their materials: bottom layer first, then as entered."""
    pairs = [(line, shelf[line.material]) for line in version.lines.all()]
    order = {slug: place for place, slug in enumerate(shelf)}
    groups = [shelf[slug].group for slug in shelf]
    ranks = {group: groups.index(group) for group in dict.fromkeys(groups)}
    return sorted(pairs, key=lambda pair: (ranks[pair[1].group], pair[0].position, order[pair[0].material]))


def parts_of(version: Version, shelf: Shelf) -> list[tuple[Material, float]]:
    """Return the version as the engine takes it: materials and percentages."""
    return [(shelf[line.material], float(line.percent)) for line in version.lines.all()]


def percents_of(version: Version) -> list[tuple[str, Decimal]]:
    """Return the version's slugs and exact percentages, in the order of its lines."""
    return [(line.material, line.percent) for line in version.lines.all()]
