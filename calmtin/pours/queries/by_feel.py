"""What was added to a pot beside its sheet, what may be, and how much of it still fits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.translation import gettext

from calmtin.core.cautions.ceilings import Headroom, headroom_g
from calmtin.core.data.loader import ceilings, scent_facts
from calmtin.core.materials import Material, Shelf
from calmtin.formulas.queries.scents import drops_in
from calmtin.pantry.queries.lots import left_of
from calmtin.pours.models import PotAddition, Pour

BY_FEEL = ("scent", "powder", "colour", "antioxidant", "other")


@dataclass(frozen=True)
class Felt:
    """What went into the pot beside its sheet, and what percentage of it is in there now."""

    addition: PotAddition
    material: Material
    percent: float


def rooms_of(pour: Pour, parts: Sequence[tuple[Material, float]]) -> list[tuple[Material, Headroom, float]]:
    """Return how much more of each scent of the sheet the pot takes: grams and drops, and what stops it."""
    formula = pour.version.formula
    facts, ceiling = scent_facts(), ceilings()[formula.audience]
    found = []
    for material, _ in parts:
        room = headroom_g(parts, material, facts, ceiling, sees_sun=formula.sees_sun)
        if room is not None:
            found.append((material, room, drops_in(material, room.grams)[0]))
    return found


def may_add(pour: Pour, shelf: Shelf) -> list[tuple[str, list[tuple[str, str]]]]:
    """Return the materials that may be added by feel once the sheet is closed, in groups.

    First what is in the pot, scents before all, then what is in stock, then all other materials.
    """
    if pour.is_weighing or pour.called_off_at is not None:
        return []

    def usual(material: Material) -> tuple[int, str]:
        group = material.group
        return (BY_FEEL.index(group) if group in BY_FEEL else len(BY_FEEL), material.label)

    inside = {line.material for line in pour.lines.all()} | {a.material for a in pour.additions.all()}
    stocked = {slug for slug, grams in left_of(pour.owner).items() if grams > 0 and slug in shelf} - inside
    others = set(shelf) - inside - stocked
    groups = (
        (gettext("in this pot"), inside),
        (gettext("in stock"), stocked),
        (gettext("other materials"), others),
    )
    return [
        (words, [(m.slug, m.label) for m in sorted((shelf[slug] for slug in slugs), key=usual)])
        for words, slugs in groups
        if slugs
    ]


def felt_of(pour: Pour, shelf: Shelf, masses: Sequence[tuple[Material, float]]) -> list[Felt]:
    """Return what was added by feel, with the percent of the pot that its material is now."""
    parts = {material.slug: grams for material, grams in masses}
    whole = sum(parts.values()) or 1.0
    return [
        Felt(addition, shelf[addition.material], 100.0 * parts[addition.material] / whole)
        for addition in pour.additions.all()
        if addition.by_feel
    ]
