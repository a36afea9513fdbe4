"""The ingredients on a label: by INCI name, most first, with the fragrance allergens.

The order is that of Regulation (EC) 1223/2009, article 19: descending by weight when made, below 1 %
in any order. Fragrance allergens are named from 0.001 % in what stays on the skin (Annex III). Rules
differ from place to place; the maker's authority decides.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from calmtin.core.cautions.ceilings import ScentFacts
from calmtin.core.materials import Material, percents_of, pure
from calmtin.core.messages import said

ANY_ORDER_PCT = 1.0
LEAVE_ON_PCT = 0.001  # from which an allergen of a scent is named in what stays on

# Words in the table that stand for what only a bottle says.
_UNCLEAR = re.compile(
    r"\b(carrier oil|base oil|pigment|dye|plant extract|herb extract|often with|varies)\b", re.IGNORECASE
)


@dataclass(frozen=True, slots=True)
class Ingredient:
    """A name of the list: INCI and common, and the percent by weight."""

    inci: str
    common: str
    percent: float


@dataclass(frozen=True, slots=True)
class Ingredients:
    """The list of a pot, the allergens of its scents, and the materials whose bottle has to be read."""

    listed: tuple[Ingredient, ...]
    allergens: tuple[str, ...]
    unclear: tuple[Material, ...]

    @property
    def by_inci(self) -> str:
        """The list as a label has it."""
        return ", ".join(entry.inci for entry in self.listed)

    @property
    def by_name(self) -> str:
        """The list in common words."""
        return ", ".join(dict.fromkeys(entry.common for entry in self.listed))


def ingredients_of(
    parts: Sequence[tuple[Material, float]], scents: Mapping[str, ScentFacts]
) -> Ingredients:
    """Return the ingredients of masses of materials, blends resolved, most first.

    A material that the tables know as a mixture ("A (and) B") stands with both names, each at its even
    share. An allergen is named where its scent alone lies above the threshold: how much of it is in
    that lot, only the supplier's certificate says.
    """
    inside = percents_of(pure(parts))
    shares: dict[str, float] = {}
    common: dict[str, str] = {}
    allergens: list[str] = []
    for material, percent in inside.items():
        names = inci_names(material)
        for name in names:
            shares[name] = shares.get(name, 0.0) + percent / len(names)
            common.setdefault(name, _in_a_list(material.in_words))
        facts = scents.get(material.slug)
        if facts is not None and percent >= LEAVE_ON_PCT:
            allergens += facts.allergens
    told = {name.lower() for name in shares}  # some allergens are oils that stand in the list themselves
    listed = sorted(shares.items(), key=lambda pair: (-pair[1], pair[0]))
    return Ingredients(
        tuple(Ingredient(name, common[name], percent) for name, percent in listed),
        tuple(sorted(name for name in dict.fromkeys(allergens) if name.lower() not in told)),
        tuple(material for material in inside if _UNCLEAR.search(material.inci)),
    )


def _in_a_list(words: str) -> str:
    """Return a name that can stand among others: "coconut oil, refined" is one thing, not two."""
    name, _, rest = words.partition(", ")
    return f"{name} ({rest})" if rest else words


def inci_names(material: Material) -> list[str]:
    """Return the INCI names of a material; its own name where the tables have none.

    >>> from calmtin.core.data.loader import library
    >>> [inci_names(library()[s])[0] for s in ("beeswax_yellow", "peppermint")]
    ['Cera Alba (Beeswax)', 'Mentha Piperita Oil']
    """
    # What follows a semicolon is a remark of the table, after a slash another source of the same oil.
    told = material.inci.split(";")[0].strip()
    if material.group == "scent" and told:
        plant = told.split(" / ")[0].replace(" x ", " ")
        words = plant.split() if plant.lower().endswith("oil") else [*plant.split(), said("Oil")]
        return [" ".join(word[:1].upper() + word[1:] for word in words)]
    names = [re.sub(r"\s*\((e\.g\.|often).*\)$", "", name).strip() for name in told.split(" (and) ")]
    return [name for name in names if name] or [material.label]
