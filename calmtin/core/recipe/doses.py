"""A dose as typed into a line: percent of the total, percent on top of the base, or a measure."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import DOSE_CHARS, check_text
from calmtin.core.materials import Material
from calmtin.core.measured import Measured
from calmtin.core.messages import Words, gettext_noop, said
from calmtin.core.notation import USUAL, Notation
from calmtin.core.recipe.boxes import refuse_leftovers
from calmtin.core.recipe.grammar import read_phrase
from calmtin.core.recipe.typed import weigh_typed
from calmtin.core.units import read_number

_ON_TOP = re.compile(
    r"\+?(?P<rest>.*?) ?(?:on ?top(?: of the base)?|of (?:the )?base)|\+(?P<plus>.*)", re.IGNORECASE
)
_OF_ALL = re.compile(r"(?P<rest>.*?) ?of (?:it )?all", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Dose:
    """A dose as typed: percent of the total or, `on_top`, of the base; or a `measured` amount.

    One of `percent` and `measured` is None; `how` is why a measure weighs what it does. `on_top`
    is None where nothing was said about it.
    """

    percent: Decimal | None
    on_top: bool | None = None
    measured: Measured | None = None
    how: Words = ""


def read_dose(
    text: str,
    material: Material,
    *,
    drops_per_ml: tuple[float, float, float] | None = None,
    notation: Notation = USUAL,
) -> Dose:
    """Return the dose in `text` for one material.

    A bare number is percent. "+3", "3 % on top" and "+1 1/2 tsp" go on top of the base;
    "3 of all" does not. Raises `CalmTinError` with what to type instead: no number, a unit
    that does not fit, more than 100 %.

    >>> from calmtin.core.data.loader import library
    >>> read_dose("12 g", library()["beeswax_yellow"]).measured.grams
    Decimal('12.000')
    >>> read_dose("+3", library()["lavender"]).on_top
    True
    """
    check_text(text, DOSE_CHARS, name=gettext_noop("The amount"), field="percent")
    # White space is folded once, so that no pattern has to look for where it ends.
    cleaned, on_top = " ".join(text.split()), None
    if found := _ON_TOP.fullmatch(cleaned):
        cleaned, on_top = (found["plus"] if found["rest"] is None else found["rest"]).strip(), True
    elif found := _OF_ALL.fullmatch(cleaned):
        cleaned, on_top = found["rest"].strip(), False
    phrase = read_phrase(cleaned, notation)
    units = {amount.unit for amount in phrase.amounts}
    if "part" in units:
        raise CalmTinError(
            said("Parts only work for the whole formula. Use “Edit as a table”."), field="percent"
        )
    if units - {None, "percent"} or phrase.asides:
        if not phrase.is_minus and not cleaned.startswith(("-", "−")):  # refused below, in its own words
            refuse_leftovers(phrase, cleaned)
        weight = weigh_typed(cleaned, material, drops_per_ml=drops_per_ml, notation=notation)
        words = " ".join(text.split()).removeprefix("+").strip()
        measured = Measured.of(words, weight.grams, weight.low, weight.high)
        return Dose(None, on_top, measured, "" if measured.is_sure else weight.how)
    number = re.sub(r" ?(?:%|per ?cent)$", "", cleaned, flags=re.IGNORECASE)
    return Dose(read_number(number, name=material.label, high=100.0, unit="%", notation=notation), on_top)
