"""Predicted feel from the composition: short bars with words, never false precision.

These are judgements from composition. Each says what it rests on; none is measured.
"""

from __future__ import annotations

from dataclasses import dataclass

from calmtin.core.engine.blend import Blend
from calmtin.core.engine.firmness import SKIN_C, read
from calmtin.core.materials import Material
from calmtin.core.messages import Message, Words, gettext_noop
from calmtin.core.quantities import Percent, Temperature

# Share of a full bar that a liquid of each skin feel adds to the film it leaves.
_FILM = {"rich": 1.0, "sticky": 0.85, "medium": 0.7, "light": 0.4, "dry": 0.35}
# How much each wax holds the finger back, by its skin feel.
_DRAG = {"sticky": 1.0, "dry": 0.7, "medium": 0.6, "rich": 0.5, "light": 0.4}
# Loose starches and clays take up about this many times their weight of oil.
_UPTAKE = 1.5


@dataclass(frozen=True, slots=True)
class Feel:
    """One judgement: `level` from 0 to 1 for a bar, words for it, and its basis."""

    name: str
    level: float
    words: str
    basis: Words


def _words(level: float, steps: tuple[str, ...]) -> str:
    return steps[min(len(steps) - 1, int(level * len(steps)))]


def feels(blended: Blend, room_c: float) -> tuple[Feel, Feel, Feel]:
    """Return skin melt, glide and grease of a blend kept at `room_c`, C.

    Skin melt is the share of the crystals at room temperature that are gone at
    33 C. Glide grows with what is liquid at 33 C and falls with wax and powder.
    Grease is the liquid film by the feel of its oils, less what powder takes up.
    """
    reading = read(blended, [room_c, SKIN_C])
    at_room, on_skin = (float(v) for v in reading.solid_pct)
    melt = 1.0 - on_skin / at_room if at_room > 0.5 else 1.0
    powder = sum(p for m, p in _rows(blended) if m.is_filler)
    liquid = max(0.0, 100.0 - on_skin - powder)
    drag = sum(p * _DRAG.get(m.skin_feel, 0.6) for m, p in _rows(blended) if m.group == "wax")
    glide = min(1.0, max(0.0, liquid / 100.0 - drag / 100.0 - powder / 50.0 + 0.1))
    film = 0.0
    for i, (material, percent) in enumerate(_rows(blended)):
        if material.fractions:
            melted = percent * (1.0 - float(reading.crystal_pct[1, i]) / 100.0)
            film += melted * _FILM.get(material.skin_feel, 0.5)
    grease = min(1.0, max(0.0, (film - _UPTAKE * powder) / 90.0))
    return (
        Feel(
            gettext_noop("melts on skin"),
            melt,
            _words(
                melt,
                ("hardly", "a little", gettext_noop("about half"), "mostly", gettext_noop("all of it")),
            ),
            Message(
                "{room} is solid at room temperature and {skin} at {at}.",
                room=Percent(round(at_room)),
                skin=Percent(round(on_skin)),
                at=Temperature(SKIN_C),
            ),
        ),
        Feel(
            "glide",
            glide,
            _words(glide, ("drags", gettext_noop("some drag"), "easy", "slips")),
            gettext_noop("The share that is liquid on skin, less the drag of waxes and powders."),
        ),
        Feel(
            "grease",
            grease,
            _words(grease, ("dry", gettext_noop("light film"), gettext_noop("rich film"), "greasy")),
            gettext_noop("How rich the liquid oils feel, less what powders absorb."),
        ),
    )


def _rows(blended: Blend) -> list[tuple[Material, float]]:
    return [(m, float(p)) for m, p in zip(blended.materials, blended.percent, strict=True)]
