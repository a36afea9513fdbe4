"""Cautions about labels: allergens, cross-contact and claims."""

from __future__ import annotations

import re
from collections.abc import Iterator

from calmtin.core.allergens import Allergen, allergen_words
from calmtin.core.cautions.case import Case, Caution
from calmtin.core.messages import said

_CLAIM = re.compile(
    r"\b(heal(?:s|ed|ing)?|cur(?:e|es|ing)|treat(?:s|ment)?|medic\w*|remed\w*|eczema|psoriasis|dermatitis|arthritis|"
    r"anti-?(?:bacterial|fungal|inflammatory|septic|viral)|pain\s*reli\w+|spf\s*\d*|sun-?\s?(?:screen|block)|"
    r"sun\s+protect\w*|infection)\b",
    re.IGNORECASE,
)

OATS = frozenset({"colloidal_oatmeal"})


def allergens_rule(case: Case) -> Iterator[Caution]:
    """Name what the label must name; what only comes along from the field is a note of its own."""
    used = [material for material, percent in case.lines if percent > 0.0]
    found = {flag for m in used if m.slug not in OATS for flag in m.allergens}
    if any(m.slug in OATS for m in used) and Allergen.WHEAT not in found:
        yield Caution(
            "note",
            "cross_contact",
            "",
            said("Oats may carry traces of wheat"),
            said("Oats are often grown and milled near wheat."),
            said("Say so on the label, or use oats certified gluten-free."),
            said("Cross-contact, not an ingredient."),
        )
    if found:
        yield Caution(
            "note",
            "allergens",
            "",
            said("Contains {flags}", flags=", ".join(sorted(map(allergen_words, found)))),
            said("Say so on the label."),
            said("Patch test first."),
            said("From the materials’ allergens."),
        )


def claims_rule(case: Case) -> Iterator[Caution]:
    """Name words that claim what oils and butters cannot do."""
    found = claim_in(case.name) or claim_in(case.notes)
    if found:
        yield found


def claim_in(text: str) -> Caution | None:
    """Return the caution on a claim in a name or a note, if there is one."""
    found = _CLAIM.search(text)
    if found is None:
        return None
    return Caution(
        "think",
        "claim",
        "",
        said("“{found}” is a claim", found=found[0]),
        said("Oils and butters are neither medicine nor sunscreen."),
        said("Choose words that say what it is or how it feels."),
        said("Labels follow local rules."),
    )
