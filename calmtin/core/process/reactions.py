"""Finding what a skin reacts to: one ingredient at a time, on the inside of the arm.

A patch of skin is watched for two days (48 h), as patch tests are read (Johansen et al., Contact
Dermatitis 73, 2015, 195), and the skin is left alone for a week first.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, gettext_noop
from calmtin.core.quantities import Mass, Percent

REST = timedelta(days=7)  # after a flare-up
WATCH = timedelta(days=2)
PAT_G = 5.0  # of a test pat
LEAST_G = 0.02  # that a fine scale weighs of it
CALM, REACTED = "calm", "reacted"


@dataclass(frozen=True, slots=True)
class Suspect:
    """An ingredient that may have caused a flare-up of `who`, or that did (`is_found`), in pour `code`."""

    code: str
    who: str = ""
    is_found: bool = False


def still_suspected(suspects: Sequence[str], results: Mapping[str, str]) -> list[str]:
    """Return which of `suspects` are left, by the newest result of each: all that reacted, or none did yet.

    >>> still_suspected(["lavender", "shea", "rosehip"], {"lavender": "calm"})
    ['shea', 'rosehip']
    >>> still_suspected(["lavender", "shea"], {"shea": "reacted"})
    ['shea']
    """
    reacted = [slug for slug in suspects if results.get(slug) == REACTED]
    return reacted or [slug for slug in suspects if results.get(slug) != CALM]


def next_on(flared_on: date, tried_on: Iterable[date]) -> date:
    """Return the first day for the next patch: a week after the flare-up, two days after the last patch.

    >>> next_on(date(2026, 5, 1), []).isoformat(), next_on(date(2026, 5, 1), [date(2026, 5, 9)]).isoformat()
    ('2026-05-08', '2026-05-11')
    """
    return max([flared_on + REST, *(day + WATCH for day in tried_on)])


def pat_for(material: Material, percent: float, carrier: Material | None) -> Words:
    """Return how a pat of one material is made: pure where skin takes it pure, else as strong as it was.

    Scents, antioxidants, powders and colours go into `carrier`, an oil that this skin knows, at their
    `percent` of the pour; a wax is softened with it.
    """
    oil = gettext_noop("an oil you use without trouble") if carrier is None else carrier.in_words
    if material.group in ("butter", "soft_fat", "oil"):
        return Message("A little of the pure {material}.", material=material.in_words)
    if material.group == "wax":
        return Message(
            "Melt {wax} of {material} with {rest} of {oil}.",
            wax=Mass(1.0, 0),
            material=material.in_words,
            rest=Mass(PAT_G - 1.0, 0),
            oil=oil,
        )
    grams = max(PAT_G * percent / 100.0, LEAST_G)
    batch = grams * 100.0 / percent if percent > 0 else PAT_G
    return Message(
        "Stir {grams} of {material} into {rest} of {oil}: {percent}, as it was.",
        grams=Mass(grams, 2),
        material=material.in_words,
        rest=Mass(batch - grams, 1),
        oil=oil,
        percent=Percent(round(percent, 2)),
    )
