"""Text in files that a spreadsheet opens: never run as a formula, and back again to the letter."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from types import MappingProxyType
from typing import Any, TypeVar

from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import FILE_BYTES
from calmtin.core.messages import said

T = TypeVar("T")
SHOWN_CELLS = 3  # of a column that is named by hand
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


def table_rows(
    text: str, *, required: Sequence[str], most: int, known_as: Mapping[str, str] = MappingProxyType({})
) -> list[dict[str, Any]]:
    """Return the rows under the header of a file, whatever a spreadsheet put between its cells.

    Commas, semicolons or tabs; a header in any case and order, by its usual other names (`known_as`);
    empty rows at the end are none. Raises `CalmTinError` for what is no such file, is too large, or
    lacks a column that is `required`.
    """
    if len(text) > FILE_BYTES:
        raise CalmTinError(
            said("The file is larger than {file_bytes} MB.", file_bytes=FILE_BYTES // 1000000), field="file"
        )
    rows: list[dict[str, Any]] = []
    try:
        text = text.lstrip("\ufeff")
        delimiter = _delimiter(text)
        reader = csv.DictReader(io.StringIO(text, newline=""), strict=True, delimiter=delimiter)
        header = reader.fieldnames or ()
        if len(header) > MOST_COLUMNS:
            raise CalmTinError(
                said("The header has more than {most_columns} columns.", most_columns=MOST_COLUMNS),
                field="file",
            )
        reader.fieldnames = _columns(header, known_as)
        for row in reader:
            rows.append(row)
            # While reading: what is too long is never read to its end.
            if len(rows) > most:
                raise CalmTinError(
                    said("Import up to {most} rows at once.", most=most), field="file", limit=most
                )
    except csv.Error as error:
        raise CalmTinError(said("This is not a CSV file: {error}.", error=error), field="file") from None
    while rows and not any((cell or "").strip() for cell in rows[-1].values() if isinstance(cell, str)):
        rows.pop()
    if not rows:
        raise CalmTinError(gettext("There are no rows below the header."), field="file")
    missing = [column for column in required if column not in rows[0]]
    if missing:
        raise CalmTinError(
            said("No column is called {missing}. Choose which one it is.", missing=missing[0]),
            field="columns",
        )
    return rows


@dataclass(frozen=True)
class HeaderCell:
    """A column of a file: what its header says, its first cells, and the column of ours that it is."""

    place: int
    text: str
    first: list[str]
    is_column: str


def header_of(
    text: str, columns: Sequence[str], known_as: Mapping[str, str] = MappingProxyType({})
) -> list[HeaderCell]:
    """Return the columns of a file with their first cells; none where its first line is no row.

    `is_column` is empty for one that is none of ours.

    >>> cells = header_of("What;Grams\\nwax;20\\n", ["amount_g"], {"grams": "amount_g"})
    >>> [(cell.text, cell.first, cell.is_column) for cell in cells]
    [('What', ['wax'], ''), ('Grams', ['20'], 'amount_g')]
    """
    first, delimiter = _first_line(text), _delimiter(text)
    if not first:
        return []
    lines = io.StringIO(text.lstrip("\ufeff"), newline="")
    try:
        header, *rows = islice(csv.reader(lines, delimiter=delimiter), 1 + SHOWN_CELLS)
    except (csv.Error, ValueError):
        return []
    names = _columns(header, known_as)
    return [
        HeaderCell(
            place,
            cell.strip(),
            [row[place].strip()[:40] for row in rows if place < len(row) and row[place].strip()],
            name if name in columns else "",
        )
        for place, (cell, name) in enumerate(zip(header[:MOST_COLUMNS], names, strict=False))
    ]


def with_header(text: str, names: Mapping[int, str]) -> str:
    """Return a file with the header cells at some places named anew; one that is named "" is left out.

    >>> with_header("What;Grams\\nwax;20\\n", {1: "amount_g"})
    'What;amount_g\\nwax;20\\n'
    """
    first, delimiter = _first_line(text), _delimiter(text)
    if not first:
        return text
    header = next(csv.reader([first], delimiter=delimiter))
    out = io.StringIO()
    named = [names.get(n, cell) or f"– {cell}" for n, cell in enumerate(header)]
    csv.writer(out, delimiter=delimiter, lineterminator="").writerow(named)
    return out.getvalue() + text.lstrip("\ufeff")[len(first) :]


def _first_line(text: str) -> str:
    """Return the first line of a file; nothing where a quote in it goes on over the next."""
    line = text.lstrip("\ufeff").split("\n", 1)[0].rstrip("\r")
    return "" if line.count('"') % 2 else line


def _delimiter(text: str) -> str:
    """Return what parts the cells of the header: the commonest of semicolons, tabs and commas."""
    header = text.split("\n", 1)[0]
    return max(",;\t", key=header.count)


def _columns(header: Sequence[str], known_as: Mapping[str, str]) -> list[str]:
    """Return the columns of a header by our names; what stands twice keeps its own name."""
    found: list[str] = []
    for cell in header:
        plain = re.sub(r"[\s\-./()]+", "_", (cell or "").strip().lower()).strip("_")
        name = known_as.get(plain, plain)
        found.append(name if name not in found else cell)
    return found


def gather(problems: list[str], read: Callable[[], T], otherwise: T) -> T:
    """Return what `read` returns; what it refuses goes into `problems`, so that all are told at once."""
    try:
        return read()
    except CalmTinError as refused:
        problems.append(str(refused))
        return otherwise
