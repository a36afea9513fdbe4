"""Hostile files through the pages that take files: refused in a sentence, with little memory and time."""

from __future__ import annotations

import io
import json
import re
import time
from zipfile import ZIP_DEFLATED, ZipFile

from bench.attack.served import Bench, Visitor

MOST_MB, MOST_S = 600, 60.0


def of_another_bench(file: bytes) -> bytes:
    """Return a file of records as if another bench had written it, and not packed: it is large then."""
    out = io.BytesIO()
    with ZipFile(io.BytesIO(file)) as before, ZipFile(out, "w") as after:
        origin = re.search(rb'"bench": "([0-9a-f]{12})"', before.read("calm-tin.json"))
        assert origin
        for name in before.namelist():
            content = before.read(name)
            if not name.startswith("photos/"):
                content = content.replace(origin[1], b"0123456789ab")
            after.writestr(name.replace(origin[1].decode(), "0123456789ab"), content)
    return out.getvalue()


def zipped(rows: str, declared: int) -> bytes:
    """Return a file of records whose lots are `rows`."""
    manifest = {"format": "calmtin.records", "version": 2, "bench": "0123456789ab", "settings": {}}
    out = io.BytesIO()
    with ZipFile(out, "w", ZIP_DEFLATED) as file:
        file.writestr("calm-tin.json", json.dumps(manifest | {"tables": {"lots": declared}}))
        file.writestr("records/lots.json", rows)
    return out.getvalue()


def hostile() -> dict[str, tuple[str, str, bytes]]:
    """Return, by name, the address, the field and the content of each file."""
    records, log, formula = "/records/", "/pours/import/", "/formulas/import/"
    many = ",".join(["{}"] * 3_000_000)
    header = ",".join(f"c{n}" for n in range(200_000))
    rows = "formula,poured,materials\n" + "Salve,2026-05-01,20 g beeswax; 80 g olive oil\n" * 4900
    return {
        "3,000,000 empty rows": (records, "file", zipped(f"[{many}]", 3_000_000)),
        "as many, said to be one": (records, "file", zipped(f"[{many}]", 1)),
        "90,000 rows of nothing": (records, "file", zipped(f"[{','.join(['{}'] * 90_000)}]", 90_000)),
        "lists without an end": (records, "file", zipped("[" * 1_000_000, 1)),
        "39 MB of one text": (records, "file", zipped(f'["{"a" * 39_000_000}"]', 1)),
        "a broken zip": (records, "file", b"PK\x03\x04" + b"\x00" * 4000),
        "200,000 columns": (log, "file", (header + "\n" + "x\n" * 3000).encode()),
        "4,900 rows of notes": (log, "file", rows.encode()),
        "a formula of 5 MB": (formula, "file", b"[" + b"{}," * 1_600_000 + b"{}]"),
        "half a character": (formula, "file", b'{"format": "\xed\xa0\x80"}'),
    }


def hostile_files(bench: Bench) -> str:
    """Send each file while another page is asked for; no 500, no long wait, little memory."""
    visitor, slowest = Visitor(bench), ("", 0.0)
    before = bench.ask("SELECT count(*) FROM pours_pour")
    for name, (address, field, content) in hostile().items():
        start = time.monotonic()
        status, page = visitor.send_file(address, field, content)
        took = time.monotonic() - start
        assert status < 500, (name, status, page[-600:])
        assert took < MOST_S, (name, took)
        slowest = max(slowest, (name, took), key=lambda pair: pair[1])
        assert visitor.get("/")[0] == 200
    assert bench.ask("SELECT count(*) FROM pours_pour") == before
    memory = bench.most_memory_mb()
    assert memory < MOST_MB, memory
    worst = f"slowest {slowest[0]}, {slowest[1]:.1f} s"
    return f"{len(hostile())} files refused; {worst}; server at most {memory:.0f} MB"
