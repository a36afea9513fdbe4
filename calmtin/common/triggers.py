"""What the database itself refuses: records stay, poured versions and sheets do not change.

The models refuse it first, with a sentence; these triggers hold it for whatever goes
round them. An app lists its guards with `guard`; they are dropped before every
migration and laid again after it, since SQLite rebuilds tables to alter them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

from django.db import connection, transaction

_GUARDS: dict[str, str] = {}
# While this table holds a row, a whole maker is removed or handed over, and the guards stand aside.
# Only the one writing transaction ever sees it.
_OPEN = "calmtin_guards_open"


def guard(name: str, event: str, table: str, sentence: str, *, when: str = "1") -> None:
    """List a trigger: refuse `event` ("DELETE", "UPDATE OF percent", ...) on `table` with `sentence`.

    `when` is SQL over OLD and NEW; the trigger acts where it holds.
    """
    _GUARDS[f"guard_{name}"] = (
        f"BEFORE {event} ON {table} WHEN ({when}) AND NOT EXISTS (SELECT 1 FROM {_OPEN}) "
        f"BEGIN SELECT RAISE(ABORT, '{sentence}'); END"
    )


def follow(name: str, event: str, table: str, statement: str) -> None:
    """List a trigger that runs our SQL after `event` on `table`."""
    _GUARDS[f"guard_{name}"] = f"AFTER {event} ON {table} BEGIN {statement}; END"


def guard_record(table: str) -> None:
    """List the two triggers of a table whose rows are written once."""
    guard(f"{table}_update", "UPDATE", table, "a record is never changed")
    guard(f"{table}_delete", "DELETE", table, "a record is never removed")


def drop_guards(*, plan: Sequence[object] = (), **_: Any) -> None:
    """Drop every trigger before tables change: SQLite rebuilds none that another one's trigger names."""
    if plan:
        with transaction.atomic(), connection.cursor() as cursor:
            for name in _laid(cursor):
                cursor.execute(f"DROP TRIGGER {name}")


def lay_guards(**_: Any) -> None:
    """Lay every listed trigger whose table is there, as it is listed; runs after each migration."""
    tables = set(connection.introspection.table_names())
    wanted = {
        name: f"CREATE TRIGGER {name} {body}"
        for name, body in _GUARDS.items()
        if body.split(" ON ")[1].split()[0] in tables
    }
    with transaction.atomic(), connection.cursor() as cursor:
        if _OPEN not in tables:
            cursor.execute(f"CREATE TABLE {_OPEN} (reason TEXT NOT NULL)")
        laid = _laid(cursor)
        for name in [name for name, sql in laid.items() if wanted.get(name) != sql]:
            cursor.execute(f"DROP TRIGGER {name}")
        for sql in [sql for name, sql in wanted.items() if laid.get(name) != sql]:
            cursor.execute(sql)


def _laid(cursor: Any) -> dict[str, str]:
    """Return the triggers of ours that the database has, by name."""
    cursor.execute(
        "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'guard@_%' ESCAPE '@'"
    )
    return dict(cursor.fetchall())


@contextmanager
def guards_open(reason: str) -> Iterator[None]:
    """Let guarded rows be removed or change hands inside one transaction, for `reason`."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(f"INSERT INTO {_OPEN} VALUES (%s)", [reason])
        yield
        cursor.execute(f"DELETE FROM {_OPEN}")
