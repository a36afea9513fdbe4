"""How numbers are read from addresses and written to files, in one place."""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal
from typing import Any, overload

from django.db.models import DecimalField, Sum

from calmtin.core.errors import CalmTinError
from calmtin.core.quantities import shortest

CENT = Decimal("0.01")
_WHOLE = re.compile(r"[0-9]{1,9}")


@overload
def whole_number(text: str | None) -> int | None: ...
@overload
def whole_number(text: str | None, default: int) -> int: ...
def whole_number(text: str | None, default: int | None = None) -> int | None:
    """Return the whole number of up to nine digits that `text` is; `default` for anything else."""
    return int(text) if text and _WHOLE.fullmatch(text) else default


def read_box(problems: dict[str, str], box: str, read: Callable[[], Decimal]) -> Decimal:
    """Return what a box says; 0, with the reason in `problems`, where it cannot be read."""
    try:
        return read()
    except CalmTinError as refused:
        problems[box] = str(refused)
        return Decimal(0)


def plain(value: Decimal | float | None) -> str:
    """Write a number for a file: shortest digits, never an exponent; nothing for None."""
    return "" if value is None else shortest(value)


class SumGrams(Sum):
    """The sum of grams in hundredths: exact, where SQLite's own sum is a float with crumbs."""

    def __init__(self, expression: str, **extra: Any) -> None:
        super().__init__(expression, output_field=DecimalField(max_digits=14, decimal_places=2), **extra)

    def convert_value(self, value: object, *_: object) -> Decimal:
        """Return the sum to the hundredth; 0 where there was nothing."""
        # Added to nothing, a sum of -0.00 is 0.00.
        return Decimal(str(value)).quantize(CENT) + 0 if value is not None else Decimal("0.00")
