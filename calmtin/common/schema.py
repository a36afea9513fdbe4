"""The tables of an empty database in one file, which a first start loads instead of every migration.

The file is made from the migrations and checked against them (`manage.py schema`), so the two say
the same. A database that has tables already is migrated as before.
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from django.utils import timezone

SCHEMA = Path(__file__).with_name("schema.sql")
_WHEN = re.compile(r"(INSERT INTO \"django_migrations\" VALUES\(\d+,'\w+','\w+',)'[^']+'")


def lay_schema(connection: Any) -> bool:
    """Lay the tables into an empty database; say whether that left no migration to run."""
    if connection.introspection.table_names() or not SCHEMA.exists():
        return False
    with connection.constraint_checks_disabled():  # rows may stand before those that they point to
        connection.connection.executescript(SCHEMA.read_text())
    MigrationRecorder(connection).migration_qs.update(applied=timezone.now())
    loader = MigrationLoader(connection, ignore_no_migrations=True)
    return set(loader.disk_migrations) == set(loader.applied_migrations)


def schema_of(book: Path) -> str:
    """Return the file for a database that went through every migration and holds nothing else."""
    with closing(sqlite3.connect(book)) as opened:
        return "\n".join(_lines(opened)) + "\n"


def _lines(opened: sqlite3.Connection) -> Iterator[str]:
    for statement in opened.iterdump():
        yield _WHEN.sub(r"\1'2000-01-01 00:00:00'", statement)
