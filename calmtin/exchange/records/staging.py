"""Staging of imported rows beside the book; they are written by one statement per table.

Only a transaction that writes holds other makers up. What is laid ready stands in tables of this
connection alone, which takes no lock; and a statement that copies a whole table runs in the database,
with Python's other threads going on meanwhile, where a statement a row would wait for them each time.
"""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from django.db import connection, connections, transaction

AT_ONCE = 5_000  # rows of one short transaction, where it need not be all at once
BREATH_S = 0.03  # between two of them: who waits for the book asks for it every 25 ms at first


@contextmanager
def without_lock() -> Iterator[None]:
    """Open a read transaction on one state of the book, without holding up writers."""
    book: Any = connection
    book.ensure_connection()
    usual, book.transaction_mode = book.transaction_mode, "DEFERRED"
    try:
        with transaction.atomic():
            yield
    finally:
        book.transaction_mode = usual


def numbers(name: str, count: int) -> Iterator[int]:
    """Set `count` numbers of a database table aside, which no other row will have."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("UPDATE sqlite_sequence SET seq = seq + %s WHERE name = %s", [count, name])
        if not cursor.rowcount:
            cursor.execute("INSERT INTO sqlite_sequence (name, seq) VALUES (%s, %s)", [name, count])
        cursor.execute("SELECT seq FROM sqlite_sequence WHERE name = %s", [name])
        last = cursor.fetchone()[0]
    return iter(range(last - count + 1, last + 1))


@dataclass(frozen=True)
class Staged:
    """Rows of one kind that lie ready in a table of their own, `place`; `columns` of them, quoted.

    Values are kept as they are: what a table sets by itself keeps what the file says.
    """

    place: str
    table: str
    columns: tuple[str, ...]
    first: int
    last: int

    @classmethod
    def lay(cls, place: str, rows: Sequence[Any], fields: Sequence[Any] | None = None) -> Staged:
        """Lay rows that have their numbers ready, whole or only some `fields`; stand in `without_lock`."""
        meta, quote = type(rows[0])._meta, connection.ops.quote_name
        told = meta.concrete_fields if fields is None else [meta.pk, *fields]
        columns = tuple(quote(field.column) for field in told)
        book = connections[connection.alias]  # asked for once, not for each value
        values = [
            [field.get_db_prep_save(getattr(row, field.attname), book) for field in told] for row in rows
        ]
        kept = [f"{column} INTEGER PRIMARY KEY" if column == '"id"' else column for column in columns]
        marks = ", ".join(["%s"] * len(columns))
        with connection.cursor() as cursor:
            cursor.execute(f"CREATE TEMP TABLE {quote(place)} ({', '.join(kept)})")
            cursor.executemany(f"INSERT INTO {quote(place)} VALUES ({marks})", values)
        of_rows = [row.pk for row in rows]
        return cls(quote(place), quote(meta.db_table), columns, min(of_rows), max(of_rows))

    def add(self, numbers: range | None = None, *, replace: bool = False) -> None:
        """Add the rows, or those with `numbers`, to the table that they are of.

        With `replace` each takes the place of one that says the same.
        """
        names, verb = ", ".join(self.columns), "INSERT OR REPLACE" if replace else "INSERT"
        told = numbers or range(self.first, self.last + 1)
        self._run(
            f"{verb} INTO main.{self.table} ({names}) "
            f"SELECT {names} FROM temp.{self.place} WHERE id BETWEEN %s AND %s",
            [told.start, told.stop - 1],
        )

    def change(self) -> None:
        """Update the existing rows from staging."""
        names = ", ".join(column for column in self.columns if column != '"id"')
        self._run(
            f"UPDATE main.{self.table} SET ({names}) = "
            f"(SELECT {names} FROM temp.{self.place} AS told WHERE told.id = {self.table}.id) "
            f"WHERE id IN (SELECT id FROM temp.{self.place})"
        )

    def drop(self) -> None:
        """Drop the staging table."""
        self._run(f"DROP TABLE IF EXISTS temp.{self.place}")

    @staticmethod
    def _run(words: str, told: Sequence[Any] = ()) -> None:
        with connection.cursor() as cursor:
            cursor.execute(words, told)


def add_bit_by_bit(coming: Sequence[Staged], *, replace: bool = False) -> None:
    """Add the rows of several tables in short transactions, with a pause after each for others."""
    for bit in _bits(coming):
        with transaction.atomic():
            for staged, of_it in bit:
                staged.add(of_it, replace=replace)
        time.sleep(BREATH_S)


def _bits(coming: Sequence[Staged]) -> Iterator[list[tuple[Staged, range]]]:
    """Yield groups of rows in order, of one table or several, `AT_ONCE` at most."""
    bit: list[tuple[Staged, range]] = []
    room = AT_ONCE
    for staged in coming:
        low = staged.first
        while low <= staged.last:
            of_it = range(low, min(low + room, staged.last + 1))
            bit.append((staged, of_it))
            low, room = of_it.stop, room - len(of_it)
            if not room:
                yield bit
                bit, room = [], AT_ONCE
    if bit:
        yield bit
