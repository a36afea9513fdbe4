"""The firmness and cautions kept with a closed pour: how they are stored and read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any

from calmtin.core.cautions.case import Caution
from calmtin.core.data.marked import as_marked, marked
from calmtin.core.engine.ladder import rung_word
from calmtin.formulas.queries.readings import AtTemperature, Firmness, Unpredicted


@dataclass(frozen=True)
class KeptFirmness:
    """The firmness that a closed pour was predicted to have, at the places of its bench then."""

    places: list[AtTemperature]

    @property
    def room(self) -> AtTemperature:
        """The firmness in the room."""
        return next(place for place in self.places if place.name == "room")


@dataclass(frozen=True)
class KeptCaution:
    """A caution of a closed pour, with the maker's reason to go on."""

    caution: Caution
    reason: str


def reading_json(firmness: Firmness | Unpredicted) -> dict[str, Any]:
    """Return a firmness as a closed pour keeps it."""
    if isinstance(firmness, Unpredicted):
        return {"reason": as_marked(firmness.reason)}
    kept = ("name", "temp_c", "rung", "low", "high")
    return {"places": [{name: getattr(place, name) for name in kept} for place in firmness.places]}


def reading_from(kept: Mapping[str, Any]) -> KeptFirmness | Unpredicted:
    """Return a firmness that a closed pour keeps."""
    if not kept.get("places"):
        return Unpredicted(marked(kept.get("reason", "")))
    return KeptFirmness(
        [AtTemperature(**place, words=rung_word(place["rung"])) for place in kept["places"]]
    )


def caution_json(caution: Caution, reason: str) -> dict[str, str]:
    """Return a caution as a closed pour keeps it."""
    kept = {field.name: getattr(caution, field.name) for field in fields(caution)}
    return {name: as_marked(words) for name, words in kept.items()} | {"reason": reason}


def cautions_from(kept: Sequence[Mapping[str, Any]]) -> list[KeptCaution]:
    """Return the cautions that a closed pour keeps."""
    return [
        KeptCaution(
            Caution(
                level=told["level"],
                key=told["key"],
                material=told["material"],
                title=marked(told["title"]),
                words=marked(told["words"]),
                instead=marked(told["instead"]),
                rule=marked(told["rule"]),
            ),
            told["reason"],
        )
        for told in kept
    ]
