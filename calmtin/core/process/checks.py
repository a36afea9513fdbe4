"""When to check a pour, the signs to look for, and the words for what was found."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from types import MappingProxyType

from calmtin.core.cached import cached_property
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material
from calmtin.core.messages import gettext_noop, said


@dataclass(frozen=True, slots=True)
class Sign:
    """Something to look for: the question and its words, from least to most.

    `bad_from` is the first of the words that is a fault; None where no word is. `group` is where a
    check page lists it.
    """

    slug: str
    asks: str
    words: tuple[str, ...]
    bad_from: int | None = None

    @property
    def group(self) -> str:
        """The group of a check page that it stands in."""
        return next((group for group, slugs in _GROUPED.items() if self.slug in slugs), "looks")


SIGNS: Mapping[str, Sign] = MappingProxyType(
    {
        sign.slug: sign
        for sign in (
            Sign("grain", gettext_noop("Grain"), ("smooth", gettext_noop("fine grains"), "gritty"), 1),
            Sign(
                "sweating",
                gettext_noop("Sweating"),
                ("dry", gettext_noop("beads of oil"), gettext_noop("wet with oil")),
                1,
            ),
            Sign("bloom", gettext_noop("Bloom"), ("even", "a haze", gettext_noop("white patches")), 1),
            Sign("sinkhole", gettext_noop("Sinkhole"), ("level", "a dip", "a hole"), 1),
            Sign("air", gettext_noop("Air pockets"), ("none", "a few", "many"), 1),
            Sign(
                "separation", gettext_noop("Separation"), ("one", "a ring", gettext_noop("two layers")), 1
            ),
            Sign(
                "colour",
                gettext_noop("Colour"),
                (gettext_noop("as poured"), gettext_noop("a shade off"), "changed"),
                1,
            ),
            Sign("scent", gettext_noop("Scent"), ("gone", "faint", "right", gettext_noop("too strong"))),
            Sign("rancid", gettext_noop("Smells of crayons or old nuts"), ("no", "a little", "yes"), 1),
            Sign(
                "glide",
                gettext_noop("Glide"),
                (gettext_noop("stays put"), "short", "glides", gettext_noop("slips away")),
            ),
            Sign("drag", gettext_noop("Drag"), ("none", "some", "pulls"), 1),
            Sign("tack", gettext_noop("Tack"), ("none", "some", "sticks"), 2),
            Sign("greasy_1", gettext_noop("Greasy after 1 minute"), ("dry", "a little", "greasy")),
            Sign("greasy_10", gettext_noop("Greasy after 10 minutes"), ("dry", "a little", "greasy"), 2),
            Sign(
                "absorbs",
                gettext_noop("Goes into the skin"),
                (gettext_noop("sits on top"), "slowly", "quickly"),
            ),
            Sign("residue", gettext_noop("Leaves"), ("nothing", "a film", gettext_noop("white traces")), 1),
            Sign("where", gettext_noop("Tried on"), ("skin", "lips")),
            Sign(
                "flare_up",
                gettext_noop("Flare-up or rash"),
                ("none", gettext_noop("itches or reddens"), "a rash"),
                1,
            ),
            Sign(
                "liked",
                gettext_noop("Liked it"),
                (
                    "no",
                    gettext_noop("not much"),
                    gettext_noop("it will do"),
                    "yes",
                    gettext_noop("very much"),
                ),
            ),
            Sign("drop", gettext_noop("Dropped from a table"), ("whole", "dented", "cracked"), 1),
        )
    }
)

SIGN_GROUPS: Mapping[str, str] = MappingProxyType(
    {
        "looks": gettext_noop("How it looks"),
        "smells": gettext_noop("How it smells"),
        "skin": gettext_noop("On skin or lips"),
        "liked": gettext_noop("How well it is liked"),
    }
)
_LOOKS = ("grain", "sweating", "bloom", "sinkhole", "air", "separation")
_ON_SKIN = ("glide", "drag", "tack", "greasy_1", "greasy_10", "absorbs", "residue", "where", "flare_up")
_GROUPED = {"smells": ("scent", "rancid"), "skin": _ON_SKIN, "liked": ("liked",)}


@dataclass(frozen=True, slots=True)
class Look:
    """A check: a time, or a place and condition, and the questions asked first.

    `after` is the time since it was poured; `place` where it lies meanwhile: one of the bench's
    temperatures, or "" for the room. `slack` is how much sooner it counts as done.
    """

    slug: str
    name: str
    asks: tuple[str, ...]
    after: timedelta | None = None
    place: str = ""
    how: str = ""

    @property
    def due_words(self) -> str:
        """The sentence shown when the check is due."""
        return said("Check due: {name}", name=self.name.lower())

    @property
    def slack(self) -> timedelta:
        """How much sooner than it is due a look counts for it."""
        return (self.after or timedelta(0)) / 4


_SET = Look("set", gettext_noop("Has it set?"), ("sinkhole", "air", "separation"), timedelta(minutes=30))
_HOUR = Look("hour", gettext_noop("1-hour check"), ("sinkhole", "bloom", "air"), timedelta(hours=1))
_DAY = Look("day", gettext_noop("1-day check"), (*_LOOKS, "scent", *_ON_SKIN, "liked"), timedelta(days=1))
_TWO_DAYS = Look(
    "two_days", gettext_noop("2-day check"), ("grain", "sweating", "air", "glide"), timedelta(days=2)
)
_WEEK = Look(
    "week",
    gettext_noop("1-week check"),
    ("grain", "sweating", "bloom", "scent", "liked"),
    timedelta(days=7),
)
_MONTH = Look(
    "month",
    gettext_noop("1-month check"),
    ("grain", "bloom", "colour", "scent", "rancid"),
    timedelta(days=30),
)
_END = Look("end", gettext_noop("Best-before check"), ("rancid", "colour", "scent", "sweating"))

# Tests that a maker sets up: not due at a time, but for the one at skin warmth.
TESTS: tuple[Look, ...] = (
    Look(
        "skin",
        gettext_noop("At skin warmth"),
        (),
        place="skin",
        how=gettext_noop("Hold it in a closed hand or pocket for half an hour."),
    ),
    Look(
        "hot",
        gettext_noop("Hot car"),
        ("sweating", "separation"),
        place="hot",
        how=gettext_noop("Leave it behind a sunny window for an afternoon."),
    ),
    Look(
        "cold",
        gettext_noop("Cold"),
        ("bloom", "drag"),
        place="cold",
        how=gettext_noop("Leave it in the cold overnight and test it at once."),
    ),
    Look(
        "drop",
        gettext_noop("Drop"),
        ("drop",),
        how=gettext_noop("Drop it once from a table onto a hard floor."),
    ),
)
LOOKS: Mapping[str, Look] = MappingProxyType(
    {look.slug: look for look in (_SET, _HOUR, _DAY, _TWO_DAYS, _WEEK, _MONTH, _END, *TESTS)}
)
FREE = Look("", gettext_noop("Check"), (*_LOOKS, "scent", *_ON_SKIN, "liked"))

SKIN_EVERY = 3  # every third pour is asked for a thumb test at skin warmth
NO_LONGER = timedelta(days=45)  # after which a look that was missed is not asked for any more


def look_named(slug: str) -> Look:
    """Return the look of a slug; without one, the check that asks for nothing in particular."""
    return LOOKS.get(slug, FREE)


@dataclass(frozen=True)
class Schedule:
    """The looks of one pour, due at their times, and which were taken.

    `taken` are looks that were made: their slug ("" where none was named) and when.
    """

    looks: tuple[tuple[Look, datetime], ...]
    taken: tuple[tuple[str, datetime], ...]

    @cached_property
    def open(self) -> list[tuple[Look, datetime]]:
        """The looks that are still to be taken, soonest first.

        A look is taken once it was named, or once the pour was looked at when it was due or later;
        a later one that is due takes the place of those before it.
        """
        return [
            (look, due)
            for look, due in self.looks
            if not any(slug == look.slug or (at >= due - look.slack) for slug, at in self.taken)
        ]

    def due(self, now: datetime) -> tuple[Look, datetime] | None:
        """Return the look that is due: the latest of those whose time has come."""
        come = [pair for pair in self.open if pair[1] <= now]
        if not come or now - come[-1][1] > NO_LONGER:
            return None
        return come[-1]

    def coming(self, now: datetime) -> tuple[Look, datetime] | None:
        """Return the next look that is still to come."""
        return next((pair for pair in self.open if pair[1] > now), None)


def looks_of(
    poured_at: datetime, *, is_whipped: bool, end_of_life: datetime | None = None
) -> list[tuple[Look, datetime]]:
    """Return the checks of a pour with their times; a whipped one has a check after two days too."""
    timed = [_SET, _HOUR, _DAY, *([_TWO_DAYS] if is_whipped else []), _WEEK, _MONTH]
    found = [(look, poured_at + (look.after or timedelta(0))) for look in timed]
    if end_of_life is not None and end_of_life > found[-1][1]:
        found.append((_END, end_of_life))
    return found


def read_signs(found: Mapping[str, object]) -> dict[str, int]:
    """Return the signs that were found as positions of their words; unanswered ones are left out.

    Raises `CalmTinError` for a sign or a word that there is not.

    >>> read_signs({"grain": "1", "bloom": ""})
    {'grain': 1}
    """
    kept: dict[str, int] = {}
    for slug, value in found.items():
        if value in ("", None):
            continue
        sign = SIGNS.get(slug)
        text = str(value)
        if sign is None or not text.isdecimal() or int(text) >= len(sign.words):
            raise CalmTinError(said("Choose one of the words offered."), field=slug)
        kept[slug] = int(text)
    return kept


def in_words(signs: Mapping[str, int]) -> list[tuple[str, str, bool]]:
    """Return the answers as question, word and whether it is a fault, in the order of the list."""
    return [
        (sign.asks, sign.words[signs[slug]], sign.bad_from is not None and signs[slug] >= sign.bad_from)
        for slug, sign in SIGNS.items()
        if slug in signs
    ]


def new_to(tried: Sequence[Material], well: Iterable[str]) -> list[Material]:
    """Return the materials that a person has not yet used without a flare-up, scents first.

    `well` are the slugs of all that this person used and that did nothing.
    """
    known = set(well)
    return sorted((m for m in tried if m.slug not in known), key=lambda m: (m.group != "scent", m.name))
