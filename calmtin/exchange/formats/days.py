"""Days as spreadsheets write them: ISO, day or month first, with points, slashes or names."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import date, datetime
from typing import Literal

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_day
from calmtin.core.messages import said

Order = Literal["", "day", "month"]
_NUMBERS = re.compile(r"(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})\.?")
_NAMED = ("%d %B %Y", "%d %b %Y", "%d. %B %Y", "%B %d, %Y", "%b %d, %Y", "%d-%b-%Y", "%d-%b-%y")


def order_of(cells: Iterable[str], *, chosen: str = "") -> Order:
    """Return whether the days of a file are written day or month first; "" where none tells.

    One day after the 12th settles it for all. Raises `CalmTinError` with the field "dates" where every
    day may be read both ways and nothing was `chosen`.

    >>> order_of(["2026-05-31"]), order_of(["3/4/2026", "31/5/2026"])
    ('', 'day')
    >>> order_of(["3/4/2026"], chosen="month")
    'month'
    """
    found = [(text, int(m[1]), int(m[2])) for text in cells if (m := _NUMBERS.match(text))]
    if not found:
        return ""
    if any(first > 12 for _, first, _ in found):
        return "day"
    if any(second > 12 for _, _, second in found):
        return "month"
    # With points the day comes first wherever they are in use.
    doubtful = [text for text, first, second in found if first != second and "." not in text]
    if doubtful and chosen not in ("day", "month"):
        words = said("Is “{text}” written day first or month first? Choose one.", text=doubtful[0][:20])
        raise CalmTinError(words, field="dates")
    return "month" if chosen == "month" else "day"


def read_day(text: str, column: str, order: Order = "") -> date:
    """Return a day of a file; raises `CalmTinError` for what is none.

    >>> read_day("31.5.26", "poured", "day"), read_day("May 31, 2026", "poured")
    (datetime.date(2026, 5, 31), datetime.date(2026, 5, 31))
    """
    day = _read(text.strip(), order)
    if day is None:
        words = "“{column}” must be a day such as 2026-05-31, not “{text}”."
        raise CalmTinError(said(words, column=column, text=text[:20]))
    check_day(day, name=f"“{column}”")
    return day


def _read(text: str, order: Order) -> date | None:
    try:
        return date.fromisoformat(text[:10])
    except ValueError:
        pass
    if found := _NUMBERS.match(text):
        first, second, year = int(found[1]), int(found[2]), int(found[3])
        month, day = (first, second) if order == "month" else (second, first)
        try:
            return date(year if year > 99 else 2000 + year, month, day)
        except ValueError:
            return None
    for form in _NAMED:
        try:
            return datetime.strptime(text, form).date()  # a day has no zone
        except ValueError:
            continue
    return None
