"""Open a file of records that may be anybody's: nothing in it is believed before it was checked."""

from __future__ import annotations

import json
import re
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import IO, Any
from zipfile import BadZipFile, ZipFile, ZipInfo

from jsonschema_rs import Draft202012Validator

from calmtin.core.errors import CalmTinError
from calmtin.exchange.records.tables import TABLE_NAMED, TABLES, schema_of
from calmtin.exchange.records.writing import BENCH, FORMAT, MANIFEST, VERSION

MOST_ZIP = 500_000_000
MOST_ENTRIES = 20_000
MOST_JSON = 120_000_000  # bytes of one table, unpacked
MOST_PHOTO = 15_000_000
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
        "version": {"type": "integer"},
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


NOT_OURS = "This is no file of Calm Tin’s records. Choose one that “Take everything along” wrote."


class BadRecords(CalmTinError):
    """A file of records that is not taken in; nothing was changed."""

    def __init__(self, sentence: str) -> None:
        super().__init__(f"{sentence} Nothing was changed.", field="file")


@dataclass(frozen=True)
class Archive:
    """What a file of records holds, checked by its schemas: settings, rows by table, photos by name."""

    settings: Mapping[str, Any]
    rows: Mapping[str, list[dict[str, Any]]]
    photos: Mapping[str, bytes]


@cache
def _validator(table: str) -> Draft202012Validator:
    return Draft202012Validator(schema_of(TABLE_NAMED[table]))


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
        raise BadRecords("This is no zip file that can be read, or it is broken.") from None


def _entries(opened: ZipFile) -> dict[str, ZipInfo]:
    """Return the entries by name, none of them strange, doubled or too large."""
    infos = opened.infolist()
    if len(infos) > MOST_ENTRIES:
        raise BadRecords(f"The file has more than {MOST_ENTRIES:,} entries.")
    entries: dict[str, ZipInfo] = {}
    for info in infos:
        if not _NAME.fullmatch(info.filename) or info.filename in entries:
            raise BadRecords(f"“{info.filename[:60]}” does not belong in a file of records.")
        most = MOST_PHOTO if info.filename.startswith("photos/") else MOST_JSON
        if info.file_size > most:
            raise BadRecords(f"“{info.filename}” is larger than such a file can be.")
        entries[info.filename] = info
    if sum(info.file_size for info in infos) > MOST_WHOLE:
        raise BadRecords("Unpacked, the file would be larger than a bench can be.")
    return entries


def _archive(opened: ZipFile, entries: Mapping[str, ZipInfo]) -> Archive:
    if MANIFEST not in entries:
        raise BadRecords(NOT_OURS)
    manifest = _read(opened, entries[MANIFEST])
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise BadRecords(NOT_OURS)
    if isinstance(manifest.get("version"), int) and manifest["version"] > VERSION:
        raise BadRecords("It was written by a newer Calm Tin. Bring this one up to date first.")
    _check(Draft202012Validator(_MANIFEST_SCHEMA), manifest, MANIFEST)
    rows: dict[str, list[dict[str, Any]]] = {}
    for table in TABLES:
        name, words = f"records/{table.name}.json", table.name.replace("_", " ")
        told = _read(opened, entries[name]) if name in entries else []
        _check(_validator(table.name), told, name)
        if len(told) != manifest["tables"].get(table.name, 0):
            raise BadRecords(f"Of its {words} some are missing, or too many.")
        if len({row["_key"] for row in told}) != len(told):
            raise BadRecords(f"Two of its {words} have one key.")
        rows[table.name] = told
    photos = {row["image"]: row["_key"] for row in rows["photos"]}
    for name, key in photos.items():
        if name not in entries or name != f"photos/{key}.jpg":
            raise BadRecords(f"The picture {name} is missing.")
    return Archive(manifest["settings"], rows, {name: opened.read(entries[name]) for name in photos})


def _read(opened: ZipFile, info: ZipInfo) -> Any:
    try:
        return json.loads(opened.read(info), parse_constant=_no_constant)
    except (ValueError, RecursionError):
        raise BadRecords(f"“{info.filename}” is not JSON that can be read.") from None


def _no_constant(name: str) -> None:
    raise ValueError(name)


def _check(validator: Draft202012Validator, told: Any, name: str) -> None:
    """Refuse what does not keep to its schema, with the first place where it does not."""
    try:
        wrong = next(iter(validator.iter_errors(told)), None)
    except ValueError:  # nested without an end, or half a character in a text
        raise BadRecords(f"{name} is not as its schema says (as a whole).") from None
    if wrong is not None:
        place = ", ".join(str(step) for step in wrong.instance_path) or "as a whole"
        raise BadRecords(f"{name} is not as its schema says ({place[:60]}).")
