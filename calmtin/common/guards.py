"""What the database itself refuses: records stay, poured versions and sheets do not change.

The models refuse it first, with a sentence; these triggers hold it for whatever goes
round them. An app lists its guards with `guard`; they are dropped before every
migration and laid again after it, since SQLite rebuilds tables to alter them.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.db import connection, transaction

_GUARDS: dict[str, str] = {}
# While this table holds a row, a whole maker is being removed and the guards stand aside.
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


def guard_record(table: str) -> None:
    """List the two triggers of a table whose rows are written once."""
    guard(f"{table}_update", "UPDATE", table, "a record is never changed")
    guard(f"{table}_delete", "DELETE", table, "a record is never removed")


def drop_guards(**_: Any) -> None:
    """Drop every trigger of ours: SQLite rebuilds no table that another one's trigger names."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT name FROM sqlite_master WHERE type = 'trigger' AND name LIKE 'guard@_%' ESCAPE '@'"
        )
        for (name,) in cursor.fetchall():
            cursor.execute(f"DROP TRIGGER {name}")


def lay_guards(**_: Any) -> None:
    """Create every listed trigger whose table is there; runs after each migration."""
    tables = set(connection.introspection.table_names())
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE TABLE IF NOT EXISTS {_OPEN} (reason TEXT NOT NULL)")
        for name, body in _GUARDS.items():
            cursor.execute(f"DROP TRIGGER IF EXISTS {name}")
            if body.split(" ON ")[1].split()[0] in tables:
                cursor.execute(f"CREATE TRIGGER {name} {body}")


@contextmanager
def guards_open(reason: str) -> Iterator[None]:
    """Let guarded rows be removed inside one transaction, for `reason`."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(f"INSERT INTO {_OPEN} VALUES (%s)", [reason])
        yield
        cursor.execute(f"DELETE FROM {_OPEN}")
