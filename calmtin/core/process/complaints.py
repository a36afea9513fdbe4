"""What a maker says of a pour in a word: which way its firmness is off, and what bothers.

One vocabulary for a check, the next pour and every file. A complaint means "more of this than I
want"; it is no measurement, and nothing is said of what is not complained about.
"""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import gettext_noop, said


class Feels(StrEnum):
    """How firm a pour is for what it is for, in the maker's judgement."""

    RIGHT = "right"
    TOO_SOFT = "too_soft"
    TOO_HARD = "too_hard"

    @property
    def words(self) -> str:
        """The words for it on pages."""
        return said(_FEELS[self])


class Complaint(StrEnum):
    """What bothers, in the order in which a check lists them."""

    GREASY = "greasy"
    DRY = "dry"
    DRAGS = "drags"
    SLIPS = "slips"
    STICKY = "sticky"
    GRAINY = "grainy"
    SWEATS = "sweats"
    SCENT = "scent"
    COLOUR = "colour"
    IRRITATES = "irritates"

    @property
    def words(self) -> str:
        """The words for it on pages."""
        return said(_COMPLAINTS[self])


_FEELS = {
    Feels.RIGHT: gettext_noop("Just right"),
    Feels.TOO_SOFT: gettext_noop("Too soft"),
    Feels.TOO_HARD: gettext_noop("Too hard"),
}
_COMPLAINTS = {
    Complaint.GREASY: gettext_noop("Greasy"),
    Complaint.DRY: gettext_noop("Dry"),
    Complaint.DRAGS: gettext_noop("Drags"),
    Complaint.SLIPS: gettext_noop("Slips"),
    Complaint.STICKY: gettext_noop("Sticky"),
    Complaint.GRAINY: gettext_noop("Grainy"),
    Complaint.SWEATS: gettext_noop("Sweats"),
    Complaint.SCENT: gettext_noop("Scent is wrong"),
    Complaint.COLOUR: gettext_noop("Colour is wrong"),
    Complaint.IRRITATES: gettext_noop("Irritates"),
}


def read_complaints(told: Iterable[str]) -> list[str]:
    """Return complaints in their order, each once; raises `CalmTinError` for one that there is not.

    >>> read_complaints(["sticky", "greasy", "sticky"])
    ['greasy', 'sticky']
    """
    there = set(told)
    if not there <= set(Complaint):
        words = said("Choose from {words}.", words=", ".join(Complaint))
        raise CalmTinError(words, field="complaints")
    return [str(complaint) for complaint in Complaint if complaint in there]


def complaint_words(told: Iterable[str]) -> list[str]:
    """Return complaints in words.

    >>> complaint_words(["greasy", "scent"])
    ['Greasy', 'Scent is wrong']
    """
    return [Complaint(slug).words for slug in told]
