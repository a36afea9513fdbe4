"""How long a pour keeps: best before, months once it is opened, and the reasons.

A rule of the craft built on the shelf lives of the materials table (recalled from practice; see
docs/model.md, section 8), not a measurement: fats go rancid by oxidation, the most unsaturated first.
A stability test of one's own beats it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal, get_args

from calmtin.core.materials import Material, percents_of
from calmtin.core.messages import Message, Words, gettext_noop, said

Storage = Literal["cool", "room", "bathroom", "car"]
STORAGES: tuple[Storage, ...] = get_args(Storage)
STORAGE_NAMES: dict[Storage, str] = {
    "cool": gettext_noop("cool and dark"),
    "room": gettext_noop("in a room"),
    "bathroom": gettext_noop("in a bathroom"),
    "car": gettext_noop("in a car or a pocket"),
}
# Oxidation about doubles for ten degrees (Labuza, J. Food Sci. 1971): some 5 C either way, and a car.
AT: dict[Storage, float] = {"cool": 1.4, "room": 1.0, "bathroom": 0.8, "car": 0.5}

DAYS_A_MONTH = 30.44
LEAST_SHARE = 1.0  # percent, below which an oil does not set the pace
FULL_SHARE = 20.0  # percent, from which it sets it alone
LITTLE_GAINS = 0.5  # how much longer the least share of it keeps
GUARDED = 1.3  # what an antioxidant lengthens by
GUARDS = {
    "tocopherols_50": 0.1,
    "tocopherols_95": 0.05,
    "rosemary_extract": 0.05,
}  # least percent that does
MOST_MONTHS = 24.0  # longer than that nobody should promise without a test
WET_MONTHS = 1.0  # with water in it and no preservative
MOST_OPENED, LEAST_OPENED = 12, 3
FATS = ("butter", "soft_fat", "oil")

SMELLS = gettext_noop("If it smells of crayons or old nuts, throw it away, whatever the date.")


@dataclass(frozen=True)
class Keeping:
    """Until when a pour keeps, how many months once it is opened, and why: shortest reason first."""

    best_before: date
    opened_months: int
    reasons: tuple[Words, ...]
    paced_by: Material | None


def keeping(
    parts: Sequence[tuple[Material, float]],
    made_on: date,
    *,
    lots: Mapping[str, date | None] | None = None,
    storage: Storage = "room",
) -> Keeping | None:
    """Return how long a pour of `parts` (pure materials, masses) keeps, made on a day and stored so.

    `lots` holds, by slug, until when the lot keeps that was used. None where nothing has weight. The
    pace is set by the fat whose opened shelf life, lengthened where there is little of it, is the
    shortest; an antioxidant lengthens it by 1.3, warmth shortens it; nothing outlives its lots.
    """
    percents = percents_of(parts)
    if not percents:
        return None
    reasons: list[Words] = []
    months, pace = _pace(percents)
    if pace is not None:
        reasons.append(
            Message(
                "{label}, {percents:.0f} % of it, goes rancid first: {opened:.0f} months once opened.",
                label=pace.label,
                percents=percents[pace],
                opened=_opened(pace),
            )
        )
        guard = next((m for m, pct in percents.items() if pct >= GUARDS.get(m.slug, 101.0)), None)
        months *= GUARDED if guard else 1.0
        reasons.append(
            Message("{guard} makes it keep {times:g} times as long.", guard=guard.label, times=GUARDED)
            if guard
            else said("There is no antioxidant to slow it.")
        )
        months *= AT[storage]
        if storage != "room":
            reasons.append(
                Message(
                    "Stored {storage}, it keeps {times:g} times as long as in a room.",
                    storage=STORAGE_NAMES[storage],
                    times=AT[storage],
                )
            )
    if months > MOST_MONTHS:
        months = MOST_MONTHS
        reasons.append(said("Calm Tin gives at most 24 months; longer needs your own test."))
    wet = [material for material in percents if material.is_wet]
    if wet:
        months = min(months, WET_MONTHS)
        reasons.append(
            said(
                "{label} brings water, so mould can grow: use within a month, kept in the fridge.",
                label=wet[0].label,
            )
        )
    until = made_on + timedelta(days=round(months * DAYS_A_MONTH))
    first = min(((day, slug) for slug, day in (lots or {}).items() if day is not None), default=(None, ""))
    if first[0] is not None and first[0] < until:
        until = max(first[0], made_on)
        name = next((m.in_words for m in percents if m.slug == first[1]), first[1])
        reasons.append(
            said(
                "The lot of {name} expires then, and a balm keeps no longer than its ingredients.",
                name=name,
            )
        )
    left = (until - made_on) / timedelta(days=DAYS_A_MONTH)
    opened = 1 if wet else int(min(max(left // 2, LEAST_OPENED), MOST_OPENED))
    return Keeping(until, min(opened, max(int(left), 1)), tuple(reasons), pace)


def _opened(material: Material) -> float:
    """Return how long a material keeps once opened, months; infinite where not known."""
    return material.shelf_life_opened_months or material.shelf_life_months or float("inf")


def _pace(percents: Mapping[Material, float]) -> tuple[float, Material | None]:
    """Return the months allowed by the most fragile fat, and that fat."""
    found = [
        (_opened(m) * (1.0 + LITTLE_GAINS * max(1.0 - pct / FULL_SHARE, 0.0)), m)
        for m, pct in percents.items()
        if m.layer in FATS and pct >= LEAST_SHARE and _opened(m) != float("inf")
    ]
    if not found:
        return MOST_MONTHS, None
    return min(found, key=lambda pair: pair[0])
