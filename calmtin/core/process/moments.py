"""The moment at which a pour is felt: how warm it is by then, and whether that tells of the cold product.

A tin that is felt too early is softer than it will be, and one straight from the fridge harder. What
is felt is compared with the prediction for that moment, and with nothing else.
"""

from __future__ import annotations

from enum import StrEnum

from calmtin.core.messages import gettext_noop, said
from calmtin.core.process.heat import FRIDGE_C, ROOM_C, Place, after, solids_of, surroundings
from calmtin.core.process.pouring import CHILLED, COLD_C, USUAL_PIECE_G, WHIPS_C, rested
from calmtin.core.process.steps import Batch

# After as long as this anything that a kitchen fills is as warm as its surroundings.
COLD_BY_MINUTES = 12 * 60.0


class Moment(StrEnum):
    """What a pour was like when it was felt, for a maker who has no thermometer in it."""

    ROOM = ""
    WHISK = "whisk"
    MOULD = "mould"
    FRIDGE = "fridge"

    @property
    def words(self) -> str:
        """The words for it on pages."""
        return said(_WORDS[self])

    @property
    def is_unset(self) -> bool:
        """Whether it has not set by then, so that it tells nothing about the cold product."""
        return self in (Moment.WHISK, Moment.MOULD)


_WORDS = {
    Moment.ROOM: gettext_noop("Set, at room temperature"),
    Moment.WHISK: gettext_noop("Straight from the whisk"),
    Moment.MOULD: gettext_noop("Still warm"),
    Moment.FRIDGE: gettext_noop("Straight from the fridge"),
}


def moments_of(batch: Batch, minutes: float, *, room_c: float = ROOM_C) -> list[Moment]:
    """Return the moments that make sense for a pour `minutes` after it was filled."""
    early: list[Moment] = []
    if batch.route != "pour":
        early = [Moment.WHISK] if minutes < COLD_BY_MINUTES else []
    elif is_warm(batch, minutes, room_c=room_c):
        early = [Moment.MOULD]
    return [*early, Moment.ROOM, Moment.FRIDGE]


def filled_c(batch: Batch, minutes: float, *, room_c: float = ROOM_C) -> float:
    """Return how warm what was poured is, C, `minutes` after it was filled.

    It follows the heat model of the run sheet: a rest on the bench, then the fridge, where the route
    is one that chills. What is whipped is as warm as it was whipped.

    >>> from calmtin.core.data.loader import library
    >>> shelf = library()
    >>> parts = [(shelf["beeswax_yellow"], 20.0), (shelf["olive_oil"], 80.0)]
    >>> of = Batch(parts, "firm_salve", "slow_bench", overrun=0.0, set_c=60.0, scents={})
    >>> [round(filled_c(of, minutes)) for minutes in (0, 20, 60, 240)]
    [65, 41, 25, 21]
    """
    grams = batch.each_g or USUAL_PIECE_G
    if batch.route != "pour":
        return WHIPS_C
    solids = solids_of(batch.parts)
    temp_c, rest = rested(batch, solids, grams)
    if minutes <= rest:
        start_c = batch.pour_c if batch.pour_c is not None else temp_c
        return after(solids, start_c, surroundings("bench", grams, room_c=room_c), minutes=minutes)
    place: Place = "fridge" if batch.cooling in CHILLED else "bench"
    return after(solids, temp_c, surroundings(place, grams, room_c=room_c), minutes=minutes - rest)


def is_warm(batch: Batch, minutes: float, *, room_c: float = ROOM_C) -> bool:
    """Return whether what was poured is still warm inside, `minutes` after it was filled."""
    if minutes >= COLD_BY_MINUTES or batch.route != "pour":
        return False
    return filled_c(batch, minutes, room_c=room_c) > room_c + COLD_C


def moment_c(moment: Moment, batch: Batch, minutes: float, *, room_c: float = ROOM_C) -> float:
    """Return how warm a sample is likely to be at a moment, C, where nobody measured it."""
    if moment == Moment.FRIDGE:
        return FRIDGE_C
    if moment.is_unset:
        return round(filled_c(batch, minutes, room_c=room_c))
    return room_c
