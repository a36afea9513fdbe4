"""Read a file of records of version 1, in which causes, containers and pots were named in words.

Nothing in it is believed: what is not as version 1 wrote it is left for the schemas to refuse.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from typing import Any

Rows = dict[str, list[Any]]

_TOOK = {"weigh-in": "weigh_ins", "finish weigh-in": "finish_weigh_ins", "addition": "additions"}
_CORRECTED = {
    "own material": ("own_material", "own_materials"),
    "own container": ("own_container", "containers"),
    "infusion": ("infusion", "infusions"),
}
_NAMED = (
    ("pours", "container", "own_container", "containers"),
    ("fillings", "container", "own_container", "containers"),
    ("label_texts", "sheet", "own_sheet", "label_sheets"),
)
_GONE = "gone"  # what version 1 called a container or a sheet that was deleted
_SPOKEN = re.compile(r"([a-z][a-z -]{0,30}?) ([0-9a-f]{12}-[0-9]{1,18})(?:,.{0,30})?")
_LEFT_OVER = re.compile(r"left over from (\S{1,14}(?: \d{1,9})?)")


def upgrade(rows: Rows) -> None:
    """Give the rows of a file of version 1 the columns and tables of version 2."""
    for name in ("own_materials", "containers", "infusions"):
        for row in _dicts(rows, name):
            row.setdefault("deleted_at", None)
    rows["withdrawals"] = _withdrawals(rows)
    for row in _dicts(rows, "corrections"):
        _refer_correction(row, rows)
    for name, column, own, target in _NAMED:
        keys = _keys(rows, target)
        for row in _dicts(rows, name):
            called = row.get(column)
            row[own] = None
            if isinstance(called, str) and (called == _GONE or called.startswith("my_")):
                key = called.removeprefix("my_")
                row |= {column: "", own: key if key in keys else None}
    rows["leftovers"] = _leftovers(rows)


def _dicts(rows: Rows, table: str) -> Iterator[dict[str, Any]]:
    return (row for row in rows.get(table, ()) if isinstance(row, dict))


def _keys(rows: Rows, table: str) -> set[str]:
    return {row["_key"] for row in _dicts(rows, table) if isinstance(row.get("_key"), str)}


def _derived(of: str, key: Any) -> str:
    """Return the key of a row that version 1 did not have: the same whenever the file is read."""
    origin, _, number = str(key).partition("-")
    return f"{hashlib.sha256(f'{of} of {origin}'.encode()).hexdigest()[:12]}-{number}"


def _withdrawals(rows: Rows) -> list[Any]:
    """Return what took from the shelf, by the words in the ledger; let rows refer to it."""
    found: dict[str, dict[str, Any]] = {}
    infusions = _keys(rows, "infusions")
    taking = {words: _keys(rows, table) for words, table in _TOOK.items()}
    for movement in _dicts(rows, "movements"):
        source = movement.pop("source", "")
        movement["withdrawal"] = None
        if not isinstance(source, str) or not source:
            continue
        if source not in found:
            spoken = _SPOKEN.fullmatch(source)
            cause, key = (spoken[1], spoken[2]) if spoken else ("", "")
            is_infusion = cause == "infusion" and key in infusions
            found[source] = {
                "_key": _derived("withdrawals", movement.get("_key")),
                "infusion": key if is_infusion else None,
                "words": "" if is_infusion or key in taking.get(cause, ()) else source[:60],
                "at": movement.get("at"),
            }
        movement["withdrawal"] = found[source]["_key"]
    for words, table in _TOOK.items():
        for row in _dicts(rows, table):
            took = found.get(f"{words} {row.get('_key')}")
            row["withdrawal"] = took["_key"] if took else None
    return list(found.values())


def _refer_correction(row: dict[str, Any], rows: Rows) -> None:
    what = row.pop("what", "")
    row |= {"own_material": None, "own_container": None, "infusion": None, "words": ""}
    spoken = _SPOKEN.fullmatch(what) if isinstance(what, str) else None
    column, table = _CORRECTED.get(spoken[1] if spoken else "", ("", ""))
    if spoken and table and spoken[2] in _keys(rows, table):
        row[column] = spoken[2]
    else:
        row["words"] = str(what)[:80] or "unknown"


def _leftovers(rows: Rows) -> list[Any]:
    """Return the lots that were leftovers of a pot: by their notes, or the names of their blends."""
    pours = {row.get("code"): row.get("_key") for row in _dicts(rows, "pours")}
    blends = {row.get("slug"): row.get("name") for row in _dicts(rows, "own_blends")}
    was = {
        movement.get("lot"): movement.get("reason")
        for movement in _dicts(rows, "movements")
        if movement.get("kind") == "corrected" and "left over from" in str(movement.get("reason"))
    }
    found = []
    for lot in _dicts(rows, "lots"):
        name = blends.get(lot.get("material"))
        for words in (lot.get("note"), was.get(lot.get("_key")), name) if name else ():
            told = _LEFT_OVER.search(str(words))
            if told and told[1] in pours:
                key = _derived("leftovers", lot.get("_key"))
                row = {"_key": key, "pour": pours[told[1]], "lot": lot.get("_key")}
                found.append({**row, "at": lot.get("added_at")})
                break
    return found
