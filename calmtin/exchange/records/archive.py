"""Open a records file from any source: nothing in it is trusted before it is checked."""

from __future__ import annotations

import json
import re
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import IO, Any
from zipfile import BadZipFile, ZipFile, ZipInfo

from django.utils.translation import gettext, gettext_noop
from jsonschema_rs import Draft202012Validator, ValidationError

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import PICTURE_BYTES
from calmtin.core.messages import said
from calmtin.exchange.records import version_1, version_2, version_3
from calmtin.exchange.records.tables import MOST_ROWS, TABLE_NAMED, TABLES, schema_of
from calmtin.exchange.records.writing import BENCH, FORMAT, MANIFEST, VERSION

MOST_ENTRIES = 20_000
# A bench of three years has 67,000 rows in 24 MB of JSON; these are several times that. What a file
# claims is checked before any of it is read.
MOST_JSON = 40_000_000  # bytes of one table, unpacked
MOST_JSON_ALL = 120_000_000  # bytes of all tables
MOST_ROWS_ALL = 300_000
MOST_VALUES, MOST_OBJECTS = 4_000_000, 1_000_000  # of one table
MOST_MANIFEST = 20_000  # bytes
MOST_WHOLE = 1_500_000_000
_NAME = re.compile(
    r"(calm-tin\.json|README\.txt|records/[a-z_]+\.json|schema/[a-z_]+\.schema\.json|csv/[a-z_]+\.csv|"
    r"photos/[0-9a-f]{12}-[0-9]{1,18}\.jpg)"
)
_SETTING = {"type": ["string", "number", "boolean", "null"], "maxLength": 80}
_MANIFEST_SCHEMA: dict[str, Any] = {
    "type": "object",
    "properties": {
        "format": {"const": FORMAT},
        "version": {"type": "integer", "minimum": 1},
        "bench": {"type": "string", "pattern": "^[0-9a-f]{12}$"},
        "made_at": {"type": "string"},
        "tables": {"type": "object", "additionalProperties": {"type": "integer", "minimum": 0}},
        "settings": {
            "type": "object",
            "properties": dict.fromkeys(BENCH, _SETTING),
            "additionalProperties": False,
        },
    },
    "required": ["format", "version", "bench", "tables", "settings"],
}


NOT_OURS = gettext_noop("This isn’t a Calm Tin records file. Choose one made with “Export everything”.")


class BadRecords(CalmTinError):
    """A file of records that is not taken in; nothing was changed."""

    def __init__(self, sentence: str) -> None:
        super().__init__(said("{sentence} Nothing was changed.", sentence=sentence), field="file")


@dataclass(frozen=True)
class Archive:
    """What a file of records holds, checked by its schemas: settings, rows by table, photos by name."""

    settings: Mapping[str, Any]
    rows: Mapping[str, list[dict[str, Any]]]
    photos: Mapping[str, bytes]


@cache
def _validator(table: str) -> Draft202012Validator:
    """Return what checks one row of a table."""
    return Draft202012Validator(schema_of(TABLE_NAMED[table])["items"])


def unpacked_size(file: IO[bytes]) -> int:
    """Return the unpacked size that a zip's tables claim, bytes; 0 if it is no zip."""
    try:
        with ZipFile(file) as opened:
            return sum(info.file_size for info in opened.infolist() if info.filename.endswith(".json"))
    except (BadZipFile, OSError, ValueError, NotImplementedError):
        return 0
    finally:
        file.seek(0)


def open_records(file: IO[bytes]) -> Archive:
    """Return what a zip of records holds.

    Raises `BadRecords` for what is no such file, is too large, has a name in it that does not belong
    there, or does not keep to its schemas.
    """
    try:
        with ZipFile(file) as opened:
            entries = _entries(opened)
            return _archive(opened, entries)
    except (BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError):
        raise BadRecords(gettext("This zip file is broken or can’t be read.")) from None


def _entries(opened: ZipFile) -> dict[str, ZipInfo]:
    """Return the entries by name, none of them strange, doubled or too large."""
    infos = opened.infolist()
    if len(infos) > MOST_ENTRIES:
        raise BadRecords(
            said("The file has more than {most_entries:,} entries.", most_entries=MOST_ENTRIES)
        )
    entries: dict[str, ZipInfo] = {}
    for info in infos:
        if not _NAME.fullmatch(info.filename) or info.filename in entries:
            raise BadRecords(
                said("“{filename}” doesn’t belong in a records file.", filename=info.filename[:60])
            )
        most = PICTURE_BYTES if info.filename.startswith("photos/") else MOST_JSON
        if info.file_size > most:
            raise BadRecords(
                said("“{filename}” is larger than such a file can be.", filename=info.filename)
            )
        entries[info.filename] = info
    tables = sum(info.file_size for info in infos if info.filename.startswith("records/"))
    if sum(info.file_size for info in infos) > MOST_WHOLE or tables > MOST_JSON_ALL:
        raise BadRecords(gettext("Unpacked, the file would be larger than a bench can be."))
    return entries


def _archive(opened: ZipFile, entries: Mapping[str, ZipInfo]) -> Archive:
    manifest = _manifest(opened, entries)
    rows: dict[str, list[Any]] = {}
    for table in TABLES:
        name = f"records/{table.name}.json"
        told = _read(opened, entries[name]) if name in entries else []
        if not isinstance(told, list) or len(told) != manifest["tables"].get(table.name, 0):
            raise BadRecords(
                said(
                    "Some of its {table} are missing, or there are too many.",
                    table=table.name.replace("_", " "),
                )
            )
        rows[table.name] = told
    if manifest["version"] == 1:
        version_1.upgrade(rows)
    if manifest["version"] <= 2:
        version_2.upgrade(rows)
    if manifest["version"] <= 3:
        version_3.upgrade(rows)
    for table in TABLES:
        _check_rows(table.name, rows[table.name])
    photos = {row["image"]: row["_key"] for row in rows["photos"]}
    for name, key in photos.items():
        if name not in entries or name != f"photos/{key}.jpg":
            raise BadRecords(said("The picture {name} is missing.", name=name))
    return Archive(manifest["settings"], rows, {name: opened.read(entries[name]) for name in photos})


def _manifest(opened: ZipFile, entries: Mapping[str, ZipInfo]) -> dict[str, Any]:
    """Return a file's manifest: version and row counts, within the limits of a bench."""
    if MANIFEST not in entries or entries[MANIFEST].file_size > MOST_MANIFEST:
        raise BadRecords(NOT_OURS)
    manifest = _read(opened, entries[MANIFEST])
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise BadRecords(NOT_OURS)
    if isinstance(manifest.get("version"), int) and manifest["version"] > VERSION:
        raise BadRecords(gettext("It was written by a newer Calm Tin. Bring this one up to date first."))
    _check(Draft202012Validator(_MANIFEST_SCHEMA), manifest, MANIFEST)
    if sum(manifest["tables"].values()) > MOST_ROWS_ALL:
        raise BadRecords(
            said("The file has more than {most_rows_all:,} rows.", most_rows_all=MOST_ROWS_ALL)
        )
    return manifest


def _read(opened: ZipFile, info: ZipInfo) -> Any:
    """Return what a JSON file holds; one that would take much more room than it has bytes is refused."""
    raw = opened.read(info)
    if raw.count(b",") + raw.count(b"[") > MOST_VALUES or raw.count(b"{") > MOST_OBJECTS:
        raise BadRecords(said("“{filename}” holds more than such a file can.", filename=info.filename))
    try:
        return json.loads(raw, parse_constant=_no_constant)
    except (ValueError, RecursionError):
        raise BadRecords(
            said("“{filename}” is not JSON that can be read.", filename=info.filename)
        ) from None


def _no_constant(name: str) -> None:
    raise ValueError(name)


def _check_rows(table: str, told: list[Any]) -> None:
    """Refuse a table at its first row that does not keep to the schema, or has the key of another one."""
    validator, name = _validator(table), f"records/{table}.json"
    if len(told) > MOST_ROWS:
        raise BadRecords(said("“{name}” has more than {most_rows:,} rows.", name=name, most_rows=MOST_ROWS))
    for place, row in enumerate(told):
        _check(validator, row, name, place)
    if len({row["_key"] for row in told}) != len(told):
        raise BadRecords(said("Two of its {table} have the same key.", table=table.replace("_", " ")))


def _check(validator: Draft202012Validator, told: Any, name: str, *place: int) -> None:
    """Refuse what does not keep to its schema, with the first place where it does not."""
    try:
        validator.validate(told)
    except ValidationError as wrong:
        where = ", ".join(str(step) for step in (*place, *wrong.instance_path)) or gettext("as a whole")
        raise BadRecords(
            said("{name} is not as its schema says ({where}).", name=name, where=where[:60])
        ) from None
    except ValueError:  # nested without an end, or half a character in a text
        raise BadRecords(said("{name} is not as its schema says (as a whole).", name=name)) from None
