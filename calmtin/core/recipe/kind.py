"""Which kind of product a recipe makes: from its words, or from what it is made of."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from calmtin.core.kinds import Kind
from calmtin.core.materials import Layer, Material
from calmtin.core.messages import Words, said

# What makers call each kind, the surest first. "Shea butter" is a material, not a body butter.
_CALLED: tuple[tuple[str, str], ...] = (
    ("gloss", r"\b(?:lip )?gloss\b"),
    ("massage_bar", r"\bmassage bars?\b"),
    ("lotion_bar", r"\b(?:lotion|body|hand|solid lotion) bars?\b|\bsolid lotion\b"),
    ("lip_balm", r"\blips?(?:[- ]?(?:balm|stick|butter|salve))?\b"),
    ("whipped_butter", r"\bwhip(?:ped|s|ping)?\b"),
    ("poured_butter", r"\bbody butter\b"),
    ("soft_salve", r"\bsoft (?:salve|balm)\b|\bointment\b"),
    ("firm_salve", r"\b(?:salve|balm)s?\b"),
)


@dataclass(frozen=True, slots=True)
class KindGuess:
    """The likeliest kind of a recipe, and what tells it in words."""

    kind: str
    because: Words


def likely_kind(text: str, parts: Sequence[tuple[Material, float]], kinds: Mapping[str, Kind]) -> KindGuess:
    """Return the kind that a recipe makes: as its words call it, else as its shares fit best.

    `parts` are materials and their weights, g. Without either it is a firm salve, and says so.

    >>> from calmtin.core.data.loader import kinds, library
    >>> likely_kind("Nan's lip balm", [], kinds()).kind
    'lip_balm'
    >>> shelf = library()
    >>> likely_kind("", [(shelf["shea_refined"], 60.0), (shelf["olive_oil"], 40.0)], kinds()).kind
    'whipped_butter'
    """
    for kind, called in _CALLED:
        if kind in kinds and (found := re.search(called, text, re.IGNORECASE)):
            return KindGuess(kind, said("It says “{words}”.", words=found[0]))
    total = sum(grams for _, grams in parts)
    if total <= 0.0:
        return KindGuess("firm_salve", said("There’s nothing to guess from yet. Choose the kind."))
    shares: dict[Layer, float] = {}
    for material, grams in parts:
        shares[material.layer] = shares.get(material.layer, 0.0) + 100.0 * grams / total
    best = min(kinds.values(), key=lambda kind: (_distance(shares, kind), kind.slug))
    told = said("Its wax, butters and oils are nearest to that.")
    return KindGuess(best.slug, told)


def _distance(shares: Mapping[Layer, float], kind: Kind) -> float:
    """Return how far shares lie outside the usual ranges of a kind, points; wax counts most."""
    far = 0.0
    for layer, (low, high) in kind.ranges.items():
        share = shares.get(layer, 0.0)
        out = max(low - share, share - high, 0.0)
        middle = abs(share - (low + high) / 2.0) / max(high - low, 1.0)
        far += (3.0 if layer == "wax" else 1.0) * (out + 0.1 * middle)
    return far
