"""Scent: ceilings by audience and by material, the phototoxic sum, drops."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from calmtin.core.materials import Material

LimitStatus = Literal["limit", "none_listed", "unknown"]


@dataclass(frozen=True, slots=True)
class ScentFacts:
    """What is known of one scent; None is "not known", which is not "no limit"."""

    slug: str
    dermal_max_pct: float | None
    dermal_max_status: LimitStatus
    phototoxic_max_pct: float | None
    lip_note: str
    avoid_under_age: str
    pregnancy_note: str
    skin_note: str
    allergens: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Ceiling:
    """The most scent in all, %, for an audience."""

    audience: str
    total_max_pct: float
    notes: str


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
    """Return the most of one scent, %: its published limit or its supplier's, whichever is lower.

    None when neither is known, which is not "no limit".
    """
    known = facts.get(material.slug)
    limits = (known.dermal_max_pct if known else None, material.limit_pct)
    return min((limit for limit in limits if limit is not None), default=None)


def fit_factor(
    lines: Scents, facts: Mapping[str, ScentFacts], ceiling: Ceiling, *, sees_sun: bool
) -> float:
    """Return what to multiply every scent by so that the strictest ceiling holds; at most 1."""
    total = scent_total(lines)
    if total <= 0.0:
        return 1.0
    factors = [1.0, ceiling.total_max_pct / total]
    for material, percent in lines:
        limit = limit_of(material, facts)
        if material.group == "scent" and limit is not None and percent > 0.0:
            factors.append(limit / percent)
    photo = phototoxic_sum(lines, facts)
    if sees_sun and photo > 0.0:
        factors.append(1.0 / photo)
    return min(factors)


def photo_share(material: Material, percent: float, facts: Mapping[str, ScentFacts]) -> float:
    """Return the fraction of its own phototoxic limit that a scent uses up; 0 for one that has none."""
    known = facts.get(material.slug)
    return percent / known.phototoxic_max_pct if known and known.phototoxic_max_pct else 0.0


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
