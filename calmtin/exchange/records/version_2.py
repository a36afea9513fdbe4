"""Read a file of records of version 2, which had no undone readings and no guessed temperatures."""

from __future__ import annotations

from typing import Any

ADDED = (("weigh_ins", "undoes", None), ("checks", "is_temp_guessed", False))


def upgrade(rows: dict[str, list[Any]]) -> None:
    """Give the rows of a file of version 2 the columns of version 3."""
    for table, column, value in ADDED:
        for row in rows.get(table, ()):
            if isinstance(row, dict):
                row.setdefault(column, value)
