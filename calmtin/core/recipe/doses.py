"""What is typed into a line: percent of all, percent on top of the base, or any measure."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.errors import CalmTinError, DoesNotAddUp
from calmtin.core.limits import DOSE_CHARS, check_text
from calmtin.core.materials import Material
from calmtin.core.recipe.reader import weigh_typed
from calmtin.core.units import read_number

_ON_TOP = re.compile(
    r"\+?(?P<number>[^%a-z]*) ?(?:%|percent)? ?(?:on ?top(?: of the base)?|of (?:the )?base)"
    r"|\+(?P<plus>.*)",
    re.IGNORECASE,
)
_OF_ALL = re.compile(r"(?P<number>[^%a-z]*) ?(?:%|percent)? ?of (?:it )?all", re.IGNORECASE)
_PARTS = re.compile(r"\d ?parts?\b", re.IGNORECASE)
# Letters, but no number such as "1e9" and no lone word: "5 g", "1/2 tsp", "two cups".
_MEASURE = re.compile(r"(?:[\d½¼¾⅓⅔⅛]|\ba\b|one|two|three|half)[\d\s./½¼¾⅓⅔⅛]*[A-Za-z]{1,}", re.IGNORECASE)
_EXPONENT = re.compile(r"[\d.,]+e[\d+-]+", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Dose:
    """A dose as it was typed: percent of all, or of the base when it goes `on_top`.

    `on_top` is None where nothing was said about it; `typed` holds a measure as it
    was written, since the percent was worked out from it.
    """

    percent: Decimal
    on_top: bool | None = None
    typed: str = ""


def read_dose(
    text: str,
    material: Material,
    *,
    batch_g: Decimal,
    drops_per_ml: tuple[float, float, float] | None = None,
) -> Dose:
    """Return the dose in `text` for one material in a batch of `batch_g`.

    "+3", "3 % on top" and "3 of the base" go on top of the base; "3 of all" does not.

    Raises `CalmTinError` with what to type instead: no number, a unit that does not
    fit, more than the batch.

    >>> from calmtin.core.data.loader import library
    >>> read_dose("12 g", library()["beeswax_yellow"], batch_g=Decimal(60)).percent
    Decimal('20.000')
    >>> read_dose("+3", library()["lavender"], batch_g=Decimal(60)).on_top
    True
    """
    name = material.label
    check_text(text, DOSE_CHARS, name="The amount", field="percent")
    # White space is folded once, so that no pattern has to look for where it ends.
    cleaned = " ".join(text.split())
    if found := _ON_TOP.fullmatch(cleaned):
        number = found["plus"] if found["number"] is None else found["number"]
        return Dose(read_number(number, name=name, high=100.0, unit="%"), on_top=True)
    if found := _OF_ALL.fullmatch(cleaned):
        return Dose(read_number(found["number"], name=name, high=100.0, unit="%"), on_top=False)
    if _PARTS.search(cleaned):
        raise CalmTinError(
            "Parts only make sense for all lines together. Use “All at once” for them.", field="percent"
        )
    if not _MEASURE.match(cleaned) or _EXPONENT.fullmatch(cleaned):
        return Dose(read_number(cleaned, name=name, high=100.0, unit="%"))
    grams = weigh_typed(cleaned, material, drops_per_ml=drops_per_ml).grams
    percent = (100 * Decimal(repr(grams)) / batch_g).quantize(THOUSANDTH)
    if percent > WHOLE:
        raise DoesNotAddUp(
            f"That is {grams:.1f} g, more than the batch of {batch_g.normalize():f} g.",
            field="percent",
            limit=float(batch_g),
            unit="g",
        )
    return Dose(percent, on_top=False, typed=cleaned)
