"""Kills under load, in the middle of an import, a copy and a restore; a locked book; a full disk."""

from __future__ import annotations

import random
import resource
import signal
import sqlite3
import threading
import time
from collections import Counter
from contextlib import closing
from pathlib import Path

from bench.attack.files import of_another_bench
from bench.attack.served import Bench, Visitor, open_pour, weigh_in

KILLS = 15


def is_sound(file: Path) -> bool:
    """Return whether a book is whole."""
    with closing(sqlite3.connect(file)) as book:
        return (
            bool(book.execute("PRAGMA integrity_check").fetchone()[0] == "ok")
            and not book.execute("PRAGMA foreign_key_check").fetchone()
        )


def kills(bench: Bench) -> str:
    """Kill the server under load; of weights that are each sent once, none is lost or there twice."""
    sent = iter(f"{1 + n / 100:.2f}".rstrip("0").rstrip(".") for n in range(100, 40_000))
    acknowledged: list[str] = []
    lock = threading.Lock()
    ((before,),) = bench.ask("SELECT max(id) FROM pours_weighin")

    def load(position: int, visitor: Visitor, pour: int, stop: threading.Event) -> None:
        while not stop.is_set():
            with lock:
                grams = next(sent)
            if not weigh_in(visitor, pour, position, grams):
                return
            acknowledged.append(grams)

    for round_ in range(KILLS):
        if round_:
            bench.start()
        pour, stop = open_pour(bench), threading.Event()

        visitors = [Visitor(bench) for _ in range(3)]
        threads = [
            threading.Thread(target=load, args=(position, visitor, pour, stop))
            for position, visitor in enumerate(visitors)
        ]
        for thread in threads:
            thread.start()
        enough, deadline = len(acknowledged) + 3 + round_, time.monotonic() + 10.0
        while len(acknowledged) < enough and time.monotonic() < deadline:
            time.sleep(0.005)
        bench.stop(signal.SIGKILL)
        stop.set()
        for thread in threads:
            thread.join()
    rows = bench.ask("SELECT grams FROM pours_weighin WHERE id > ?", before)
    kept = Counter(round(grams, 2) for (grams,) in rows)
    missing = [grams for grams in acknowledged if not kept[round(float(grams), 2)]]
    twice = [grams for grams in acknowledged if kept[round(float(grams), 2)] > 1]
    took = bench.ask(
        "SELECT count(*) FROM pantry_movement m WHERE m.withdrawal_id IS NOT NULL AND NOT EXISTS "
        "(SELECT 1 FROM pantry_withdrawal w WHERE w.id = m.withdrawal_id)"
    )
    assert len(acknowledged) > 3 * KILLS
    assert not missing and not twice and took == [(0,)], (missing, twice, took)
    assert is_sound(bench.data / "calmtin.sqlite3")
    bench.start()
    return (
        f"{KILLS} SIGKILLs, {len(acknowledged)} weights of three pages acknowledged, none lost or doubled"
    )


def kills_of_work(bench: Bench) -> str:
    """Kill an import, a copy and a restore at odd moments; a whole book is left each time."""
    dice, visitor = random.Random(3), Visitor(bench)
    file = of_another_bench(visitor.fetch("/records/all.zip"))
    before = bench.ask("SELECT count(*) FROM formulas_formula WHERE owner_id = 1")
    for _ in range(3):
        killer = threading.Timer(dice.uniform(0.5, 6.0), bench.stop, [signal.SIGKILL])
        killer.start()
        try:
            visitor.send_file("/records/", "file", file)
            visitor.post("/records/", {"take_in": "yes"})
        except OSError:
            pass
        killer.join()
        assert is_sound(bench.data / "calmtin.sqlite3")
        bench.start()
        visitor = Visitor(bench)
    after = bench.ask("SELECT count(*) FROM formulas_formula WHERE owner_id = 1")
    assert after[0][0] in (before[0][0], 2 * before[0][0]), (before, after)
    copy = bench.data / "copies" / "whole.zip"
    assert bench.manage("backup", str(copy)).wait() == 0
    for n in range(4):
        half = bench.data / "copies" / f"half-{n}.zip"
        command = bench.manage("backup", str(half))
        time.sleep(dice.uniform(0.8, 2.5))
        command.kill()
        command.wait()
        assert not half.exists() or half.stat().st_size > 0
    bench.stop()
    found = bench.ask("SELECT count(*) FROM pours_weighin")
    for _ in range(5):
        command = bench.manage("restore", str(copy), "--yes")
        time.sleep(dice.uniform(0.8, 2.5))
        command.kill()
        command.wait()
        bench.start()
        assert is_sound(bench.data / "calmtin.sqlite3")
        assert bench.ask("SELECT count(*) FROM pours_weighin") == found
        bench.stop()
    bench.start()
    return "3 imports, 4 copies and 5 restores killed: a whole book each time, and the same weights in it"


def locked(bench: Bench) -> str:
    """Hold the database for 30 s: reading goes on, and a writer is told that the bench is busy."""
    visitor, pour = Visitor(bench), open_pour(bench)
    with closing(bench.database()) as book:
        book.isolation_level = None
        book.execute("BEGIN IMMEDIATE")
        start = time.monotonic()
        status, page = visitor.post(f"/pours/{pour}/weigh/0/", {"grams": "5"}, **{"HX-Request": "true"})
        waited = time.monotonic() - start
        assert status == 503 and "busy" in page, (status, page[:300])
        assert visitor.get("/formulas/")[0] == 200
        book.execute("ROLLBACK")
    assert weigh_in(visitor, pour, 0, "5.5")
    return f"after {waited:.0f} s the maker reads “{page}”; afterwards it goes through"


def full_disk(bench: Bench) -> str:
    """Fill the disk: nothing is half saved, and the maker reads why, in an upload too."""
    bench.stop()

    def small() -> None:
        size = (bench.data / "calmtin.sqlite3").stat().st_size + 300_000
        resource.setrlimit(resource.RLIMIT_FSIZE, (size, size))
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)

    bench.start(preexec_fn=small)
    visitor, pour = Visitor(bench), open_pour(bench)
    before = bench.ask("SELECT count(*) FROM pours_weighin")[0][0]
    told = ""
    for n in range(4000):
        status, page = visitor.post(
            f"/pours/{pour}/weigh/0/", {"grams": f"{1 + n / 100:.2f}"}, **{"HX-Request": "true"}
        )
        if status != 200:
            told = page
            break
    assert status == 503 and "not" in told.lower(), (status, told[:300])
    bench.stop()
    after = bench.ask("SELECT count(*) FROM pours_weighin")[0][0]
    assert is_sound(bench.data / "calmtin.sqlite3")
    assert after - before == n, (before, after, n)
    bench.start()
    return f"{n} weights kept, then the maker reads “{told}”"
