"""Which material do these words mean?"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from rapidfuzz import fuzz

from calmtin.core.errors import UnknownMaterial
from calmtin.core.materials import Material, Shelf

SURE, POSSIBLE = 0.86, 0.62

MOST_OFFERS = 4  # of a name that may mean several

# Letters alone do not make corn starch of unicorn tears: a word must be the same, or a slip of it.
UNLIKELY, SAME_WORD = 0.5, 80.0

LIKELY = 0.7  # as sure as a guess must be to be offered


@dataclass(frozen=True, slots=True)
class Choice:
    """A material that the words may mean, with a confidence of 0 to 1."""

    slug: str
    confidence: float


def match(words: str, shelf: Shelf, synonyms: Mapping[str, str]) -> list[Choice]:
    """Return the materials that `words` may mean, the likeliest first."""
    return match_names(words, names_of(shelf, synonyms))


def name_material(words: str, shelf: Shelf, synonyms: Mapping[str, str]) -> Material:
    """Return the one material that `words` mean: its slug, a name it goes by, or a clear part of one.

    Raises `UnknownMaterial` with what it may be where that is not sure.
    """
    if words in shelf:
        return shelf[words]
    names = names_of(shelf, synonyms)
    plain = plain_words(words)
    # An INCI name may be that of several grades: then it does not say which.
    inci = {slug: plain_words(material.inci) for slug, material in shelf.items()}
    if plain in names and list(inci.values()).count(plain) < 2:
        return shelf[names[plain]]
    known = [slug for name, slug in names.items() if plain and plain in name]
    held = list(dict.fromkeys([*known, *(slug for slug, name in inci.items() if plain and plain in name)]))
    if len(held) == 1:
        return shelf[held[0]]
    likely = held or [c.slug for c in match_names(words, names) if c.confidence >= LIKELY]
    text = words.strip()[:40]
    if not likely:
        raise UnknownMaterial(
            f"There is no material called “{text}” on the shelf. "
            "Choose one from the list, or add it to the pantry first.",
            field="material",
            material=text,
        )
    offers = [shelf[slug].label for slug in likely[:MOST_OFFERS]]
    more = " or another one" if len(likely) > MOST_OFFERS else ""
    raise UnknownMaterial(
        f"“{text}” may be {' or '.join(offers)}{more}. Type or choose one of them.",
        field="material",
        material=text,
    )


def names_of(shelf: Shelf, synonyms: Mapping[str, str]) -> dict[str, str]:
    """Return every name that a material of the shelf goes by."""
    names: dict[str, str] = {}
    for slug, material in shelf.items():
        for name in (material.name, material.label, slug.replace("_", " "), material.inci):
            names.setdefault(plain_words(name), slug)
    names.update({plain_words(name): slug for name, slug in synonyms.items() if slug in shelf})
    names.pop("", None)
    # A maker's own material is meant by its own name before anything else.
    names.update({plain_words(m.name): slug for slug, m in shelf.items() if m.source == "the maker's own"})
    return names


def plain_words(name: str) -> str:
    """Return a name in lower case, without marks."""
    return " ".join(re.findall(r"[^\W_]+", name.lower().replace("’", "").replace("'", "")))


def _share_a_word(words: str, name: str) -> bool:
    """Return whether one word of each is the same, or differs by a slip of the pen."""
    return any(fuzz.ratio(one, other) >= SAME_WORD for one in words.split() for other in name.split())


def match_names(words: str, names: Mapping[str, str]) -> list[Choice]:
    """Return what `words` may mean among known names, the likeliest first."""
    plain = plain_words(words)
    if not plain:
        return []
    if plain in names:
        exact = names[plain]
        return [Choice(exact, 1.0)]
    best: dict[str, float] = {}
    for name, slug in names.items():
        ratio = fuzz.ratio(plain, name) / 100.0
        sorted_ratio = fuzz.token_sort_ratio(plain, name) / 100.0
        score = max(ratio, sorted_ratio)
        # All the words of a known name stand in the line: surer the more of it they are.
        inside = set(name.split())
        if inside <= set(plain.split()):
            score = max(score, 0.70 + 0.28 * len(name) / max(len(plain), 1))
        if score >= POSSIBLE and not _share_a_word(plain, name):
            score = UNLIKELY
        best[slug] = max(best.get(slug, 0.0), min(score, 0.99))
    ranked = sorted(best.items(), key=lambda pair: -pair[1])[:6]
    return [Choice(slug, round(score, 3)) for slug, score in ranked if score >= 0.45]
