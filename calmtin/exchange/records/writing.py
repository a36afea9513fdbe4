"""Write everything of a maker into one file: JSON with its schemas, the same as CSV, and the photos."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import IO, Any
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile

from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.accounts.queries import bench_of
from calmtin.exchange.formats.spreadsheets import no_formula
from calmtin.exchange.models import Origin
from calmtin.exchange.records.rows import Keys, rows_of
from calmtin.exchange.records.staging import without_lock
from calmtin.exchange.records.tables import TABLES, Table, schema_of
from calmtin.pours.models import CheckPhoto

FORMAT, VERSION = "calmtin.records", 4
MANIFEST = "calm-tin.json"
BENCH = [field.name for field in Bench._meta.concrete_fields if field.name not in ("id", "user")]
READ_ME = """Everything of one maker's bench in Calm Tin.

records/   one JSON file for each table; a row refers to others by their keys
schema/    the JSON Schema (2020-12) of each of these files
csv/       the same rows for a spreadsheet; Calm Tin does not read these
photos/    pictures of pours, named by the key of their row in records/photos.json

Decimals and days are text, times are ISO 8601 with their zone, weights grams, temperatures Celsius.
A key is the bench that made a row and its number there; it stays the same wherever the row goes.
"""


@contextmanager
def one_state(user: Any) -> Iterator[None]:
    """Read a maker's records from one state of the book, without holding up writers."""
    Origin.objects.get_or_create(owner=user)  # written before: a transaction that reads cannot
    with without_lock():
        yield


def write_records(user: Any, target: IO[bytes]) -> dict[str, int]:
    """Write all that is a maker's into `target` as a zip; return how many rows of each table.

    It is written from one state of the book: the caller stands in `one_state`.
    """
    keys = Keys(user)
    counts: dict[str, int] = {}
    with ZipFile(target, "w", ZIP_DEFLATED) as file:
        for table in TABLES:
            rows = list(rows_of(user, table, keys))
            counts[table.name] = len(rows)
            file.writestr(f"records/{table.name}.json", _json(rows))
            file.writestr(f"schema/{table.name}.schema.json", _json(schema_of(table)))
            file.writestr(f"csv/{table.name}.csv", _csv(table, rows))
        for photo in CheckPhoto.objects.of(user).iterator():
            with photo.image.open("rb") as picture:
                name = f"photos/{keys.key_of('photos', photo.pk)}.jpg"
                file.writestr(name, picture.read(), ZIP_STORED)
        file.writestr("README.txt", READ_ME)
        file.writestr(MANIFEST, _json(_manifest(user, keys, counts)))
    return counts


def _manifest(user: Any, keys: Keys, counts: dict[str, int]) -> dict[str, Any]:
    bench = bench_of(user)
    return {
        "format": FORMAT,
        "version": VERSION,
        "bench": keys.origin,
        "made_at": timezone.now().isoformat(timespec="seconds"),
        "tables": counts,
        "settings": {name: _setting(getattr(bench, name)) for name in BENCH},
    }


def _setting(value: Any) -> Any:
    return value if value is None or isinstance(value, bool | int | float | str) else str(value)


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, indent=1)


def _csv(table: Table, rows: Iterable[dict[str, Any]]) -> str:
    """Return rows as CSV; no cell is run as a formula by what opens it."""
    out = io.StringIO(newline="")
    names = ["_key", *(field.name for field in table.fields)]
    writer = csv.writer(out)
    writer.writerow(names)
    for row in rows:
        writer.writerow([_cell(row[name]) for name in names])
    return out.getvalue()


def _cell(value: Any) -> Any:
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False)
    return no_formula(value) if isinstance(value, str) else value
