"""Scent: ceilings by audience and by material, the phototoxic sum, drops."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from calmtin.core.data.marked import marked
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, said

LimitStatus = Literal["limit", "none_listed", "unknown"]


@dataclass(frozen=True, slots=True)
class ScentFacts:
    """Facts about one scent; None means "not known", which is not "no limit"."""

    slug: str
    dermal_max_pct: float | None
    dermal_max_status: LimitStatus
    phototoxic_max_pct: float | None
    lip_note: str
    avoid_under_age: str
    pregnancy_note: str
    skin_note: str
    allergens: tuple[str, ...]
    flash_c: float | None = None


@dataclass(frozen=True, slots=True)
class Ceiling:
    """The scent ceiling of an audience, % in total."""

    audience: str
    total_max_pct: float
    notes: str

    @property
    def told(self) -> Words:
        """The notes as they are read."""
        return marked(self.notes)


Scents = Sequence[tuple[Material, float]]


def scent_total(lines: Scents) -> float:
    """Return the percent of scent in all of `lines` (materials and percents)."""
    return sum(percent for material, percent in lines if material.group == "scent")


def phototoxic_sum(lines: Scents, facts: Mapping[str, ScentFacts]) -> float:
    """Return the sum of each phototoxic oil's fraction of its own limit; above 1 is over.

    The limits add up, because the furocoumarins of different oils act together
    (Tisserand and Young 2014).
    """
    return sum(photo_share(material, percent, facts) for material, percent in lines)


def limit_of(material: Material, facts: Mapping[str, ScentFacts]) -> float | None:
    """Return the limit of one scent, %: the published one or its supplier's, whichever is lower.

    None when neither is known, which is not "no limit".
    """
    known = facts.get(material.slug)
    limits = (known.dermal_max_pct if known else None, material.limit_pct)
    return min((limit for limit in limits if limit is not None), default=None)


def fitted_scents(
    lines: Scents, facts: Mapping[str, ScentFacts], ceiling: Ceiling, *, sees_sun: bool
) -> list[float]:
    """Return what each of `lines` comes to, %, so that every ceiling holds.

    First each scent that is over its own limit comes down to it; then, where the sum or
    sunlight still asks for it, all scents together, to the ceiling and not below. What is no
    scent stays.
    """
    fitted = []
    for material, percent in lines:
        limit = limit_of(material, facts)
        is_over = material.group == "scent" and limit is not None and percent > limit
        fitted.append(limit if is_over and limit is not None else percent)
    at = [(material, percent) for (material, _), percent in zip(lines, fitted, strict=True)]
    total = scent_total(at)
    factor = min(1.0, ceiling.total_max_pct / total) if total > 0.0 else 1.0
    photo = phototoxic_sum(at, facts)
    if sees_sun and photo > 0.0:
        factor = min(factor, 1.0 / photo)
    return [percent * factor if m.group == "scent" else percent for m, percent in at]


def fit_factor(
    lines: Scents, facts: Mapping[str, ScentFacts], ceiling: Ceiling, *, sees_sun: bool
) -> float:
    """Return what part of all the scent is left once every ceiling holds; at most 1."""
    total = scent_total(lines)
    if total <= 0.0:
        return 1.0
    fitted = fitted_scents(lines, facts, ceiling, sees_sun=sees_sun)
    return sum(p for (m, _), p in zip(lines, fitted, strict=True) if m.group == "scent") / total


def photo_share(material: Material, percent: float, facts: Mapping[str, ScentFacts]) -> float:
    """Return the fraction of its own phototoxic limit that a scent uses up; 0 for one that has none."""
    known = facts.get(material.slug)
    return percent / known.phototoxic_max_pct if known and known.phototoxic_max_pct else 0.0


@dataclass(frozen=True, slots=True)
class Headroom:
    """How much more of a scent may go in, g, and what stops it there."""

    grams: float
    why: Words


def headroom_g(
    masses: Scents, material: Material, facts: Mapping[str, ScentFacts], ceiling: Ceiling, *, sees_sun: bool
) -> Headroom | None:
    """Return how many grams more of a scent a pot of `masses` (g) takes until the first ceiling.

    With x g more of W g, a ceiling p (0 to 1) of what is at a g now holds while
    (a + x) / (W + x) <= p, so x = (p W - a) / (1 - p). None for what is no scent.

    >>> from calmtin.core.data.loader import ceilings, library, scent_facts
    >>> shelf = library()
    >>> pot = [(shelf["olive_oil"], 99.5), (shelf["lavender"], 0.5)]
    >>> told = headroom_g(pot, shelf["lavender"], scent_facts(), ceilings()["adult_face"], sees_sun=False)
    >>> round(told.grams, 3), str(told.why)
    (0.505, 'all scents together, 1 %')
    """
    if material.group != "scent":
        return None
    whole = sum(grams for _, grams in masses)
    held = sum(grams for m, grams in masses if m.slug == material.slug)
    limits = [(scent_total(masses), ceiling.total_max_pct, said("all scents together"))]
    own = limit_of(material, facts)
    if own is not None:
        limits.append((held, own, said("the limit of {in_words}", in_words=material.in_words)))
    found = [
        Headroom(
            max((most / 100.0 * whole - now) / (1.0 - most / 100.0), 0.0),
            Message("{why}, {most:g} %", why=why, most=most),
        )
        for now, most, why in limits
        if most < 100.0
    ]
    known = facts.get(material.slug)
    if sees_sun and known and known.phototoxic_max_pct:
        most = known.phototoxic_max_pct
        used = phototoxic_sum([(m, 100.0 * grams) for m, grams in masses], facts)
        found.append(
            Headroom(
                max((whole - used) / (100.0 / most - 1.0), 0.0), Message("sunlight, {most:g} %", most=most)
            )
        )
    return min(found, key=lambda room: room.grams, default=None)


def drops_of(
    grams: float, density: float, drops_per_ml: tuple[float, float, float]
) -> tuple[float, float, float]:
    """Return drops for `grams`: usual, fewest, most. `density` g/ml; drops a ml as given.

    >>> [round(d) for d in drops_of(0.885, 0.885, (20.0, 20.0, 40.0))]
    [20, 20, 40]
    """
    ml = grams / density
    usual, few, many = drops_per_ml
    return ml * usual, ml * few, ml * many
