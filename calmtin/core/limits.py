"""Bounds that hold everywhere: in boxes, in services, in files and in the database.

A bound is a plain pair, lowest and highest. Whoever reads a number checks it against
these, so that no way in accepts what another one refuses.
"""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import Message, Words, said
from calmtin.core.quantities import Between, quantity

Span = tuple[float, float]

PERCENT: Span = (0.0, 100.0)
ON_TOP_PCT: Span = (0.0, 30.0)  # of the base; what there is more of belongs in it
BATCH_G: Span = (1.0, 50_000.0)
BATCH_OF_POUR_G: Span = (0.01, 50_000.0)
OVERRUN_PCT: Span = (0.0, 300.0)
RUNG: Span = (0.0, 10.0)

COLD_C: Span = (-20.0, 30.0)
ROOM_C: Span = (5.0, 35.0)
HOT_C: Span = (20.0, 80.0)
CHECK_C: Span = (-40.0, 110.0)
ROD_MM: Span = (0.5, 60.0)
PRESS_G: Span = (0.01, 50_000.0)

LOT_G: Span = (0.01, 1_000_000.0)
PRICE: Span = (0.0, 100_000.0)
TIMER_MINUTES: Span = (0.1, 4320.0)  # three days
PAPER_MM: Span = (50.0, 500.0)
LABEL_MM: Span = (10.0, 300.0)
HOURS: Span = (0.0, 100.0)
BUYING_DAYS: Span = (0, 120)
MARGIN_PCT: Span = (0.0, 95.0)
WEIGHT_G: Span = (0.0, 50_000.0)
MELT_C: Span = (-40.0, 120.0)
DENSITY: Span = (0.5, 8.0)
STRENGTH_PCT: Span = (10.0, 400.0)
BRIM_ML: Span = (0.1, 20_000.0)
FILL_PCT: Span = (5.0, 100.0)
LOSS_PCT: Span = (0.0, 50.0)
CAVITIES: Span = (1, 200)
USES: Span = (1, 10_000)
ON_HAND: Span = (0, 100_000)
BOUGHT: Span = (1, 100_000)
CONTAINERS: Span = (1, 500)
HERB_G: Span = (0.1, 10_000.0)
OIL_G: Span = (1.0, 50_000.0)
COMB_G: Span = (0.1, 100_000.0)

FIRST_DAY, LAST_DAY = date(1990, 1, 1), date(2100, 12, 31)

# How much text is read at all. What is longer is refused before any pattern sees it.
DOSE_CHARS = 60
RECIPE_LINE_CHARS = 300
RECIPE_CHARS = 20_000
FILE_BYTES = 5_000_000  # of a table
FORMULA_BYTES = 200_000
PICTURE_BYTES = 15_000_000  # as it is sent; what is kept is far smaller
RECORDS_BYTES = 500_000_000  # of a file with everything of a bench
PART_BYTES = 4_000_000  # a large file is sent in parts of this size
BODY_BYTES = PICTURE_BYTES + 1_000_000  # of one request: the largest of these with its envelope


def span_in_words(span: Span, unit: str = "") -> Words:
    """Return a span in words.

    >>> str(span_in_words(LOT_G, "g"))  # a million in digits too
    'from 0.01 to 1,000,000 g'
    """
    low, high = span
    first, last = quantity(low, unit), quantity(high, unit)
    if first is not None and last is not None:
        return Message("from {span}", span=Between(first, last, " to "))
    if unit:
        return Message("from {low:.10g} to {high:.10g} {unit}", low=float(low), high=float(high), unit=unit)
    return Message("from {low:.10g} to {high:.10g}", low=float(low), high=float(high))


def check(value: float | Decimal, span: Span, *, name: str, field: str = "", unit: str = "") -> None:
    """Raise `CalmTinError` with the allowed range for a number outside `span`.

    Raises `CalmTinError`.

    >>> check(12, PERCENT, name="The share")
    >>> check(Decimal("0.01"), LOT_G, name="Weight left")
    """
    low, high = span
    if not low <= float(value) <= high:  # 0.1 typed is 0.1, though no float is
        words = Message("{name} must be {span}.", name=name, span=span_in_words(span, unit))
        raise CalmTinError(words, field=field, limit=high)


def check_day(day: date | None, *, name: str, field: str = "") -> None:
    """Refuse a day that no bench has seen or will see.

    Raises `CalmTinError`.
    """
    if day is not None and not FIRST_DAY <= day <= LAST_DAY:
        raise CalmTinError(
            said(
                "{name} must be between {year} and {year2}. Check the year.",
                name=name,
                year=FIRST_DAY.year,
                year2=LAST_DAY.year,
            ),
            field=field,
        )


def check_text(text: str, most: int, *, name: str, field: str = "") -> None:
    """Refuse a text that is longer than `most` characters or that no disk can keep.

    Raises `CalmTinError`.
    """
    if len(text) > most:
        raise CalmTinError(
            said("{name} is longer than {most:,} characters. Make it shorter.", name=name, most=most),
            field=field,
        )
    if any(c == "\x00" or "\ud800" <= c <= "\udfff" for c in text):
        raise CalmTinError(
            said("{name} contains a character that can’t be saved. Remove it.", name=name), field=field
        )
