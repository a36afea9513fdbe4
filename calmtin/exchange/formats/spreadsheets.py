"""Text in files that a spreadsheet opens: never run as a formula, and back again to the letter."""

from __future__ import annotations

import re

# What a spreadsheet takes for a formula, however many apostrophes stand before it already.
_RUNS = re.compile(r"'*[=+\-@\t\r]")


def no_formula(text: str) -> str:
    """Return `text` with an apostrophe before it where a spreadsheet would run it.

    >>> no_formula("=1+1"), no_formula("Cox's balm"), no_formula("'=1")
    ("'=1+1", "Cox's balm", "''=1")
    """
    return f"'{text}" if _RUNS.match(text) else text


def as_typed(cell: str) -> str:
    """Return what `no_formula` was given; an apostrophe that belongs stays.

    >>> as_typed(no_formula("-5 % discount")), as_typed("'t Hooft")
    ('-5 % discount', "'t Hooft")
    """
    return cell[1:] if cell.startswith("'") and _RUNS.match(cell) else cell
