"""Text in files that a spreadsheet opens: never run as a formula, and back again to the letter."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from typing import Any

from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import FILE_BYTES
from calmtin.core.messages import said

MOST_COLUMNS = 60  # each row has a cell for each of them

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


def table_rows(text: str, *, required: Sequence[str], most: int) -> list[dict[str, Any]]:
    """Return the rows under the header of a CSV file.

    Raises `CalmTinError` for what is none, is too large, or lacks a column that is `required`.
    """
    if len(text) > FILE_BYTES:
        raise CalmTinError(
            said("The file is larger than {file_bytes} MB.", file_bytes=FILE_BYTES // 1000000), field="file"
        )
    rows: list[dict[str, Any]] = []
    try:
        reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline=""), strict=True)
        if len(reader.fieldnames or ()) > MOST_COLUMNS:
            raise CalmTinError(
                said("The header has more than {most_columns} columns.", most_columns=MOST_COLUMNS),
                field="file",
            )
        for row in reader:
            rows.append(row)
            # While reading: what is too long is never read to its end.
            if len(rows) > most:
                raise CalmTinError(
                    said("Import up to {most} rows at once.", most=most), field="file", limit=most
                )
    except csv.Error as error:
        raise CalmTinError(said("This is not a CSV file: {error}.", error=error), field="file") from None
    if not rows:
        raise CalmTinError(gettext("There are no rows below the header."), field="file")
    missing = [column for column in required if column not in rows[0]]
    if missing:
        raise CalmTinError(
            said("The header is missing the column {missing}.", missing=missing[0]), field="file"
        )
    return rows
