"""What an older Calm Tin referred to in words and could not be found again at the upgrade."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from calmtin.pantry.models import Correction, Withdrawal


@dataclass(frozen=True)
class Unmatched:
    """A record whose source was deleted before references were kept: its name and time."""

    what: str
    words: str
    at: datetime


def unmatched_of(user: Any) -> list[Unmatched]:
    """Return a maker's records that refer to something only in words, oldest first."""
    found = [
        Unmatched("taken from the pantry for", withdrawal.words, withdrawal.at)
        for withdrawal in Withdrawal.objects.of(user).exclude(words="")
    ]
    found += [
        Unmatched("correction of", correction.words, correction.at)
        for correction in Correction.objects.of(user).exclude(words="")
    ]
    return sorted(found, key=lambda one: one.at)
