"""Strangers who knock, rows of another maker in bodies, and whether a bench goes out and in whole."""

from __future__ import annotations

import io
import json
import statistics
import threading
import time
from zipfile import ZipFile

from bench.attack.files import of_another_bench
from bench.attack.served import Bench, Visitor, open_pour

STRANGERS, SECONDS = 20, 12.0
MOST_WAIT_S = 1.0
OTHER = "stroke side"
# Where rows are shown and changed, and their tables.
OWNED = {
    "/pantry/lots/": "pantry_lot",
    "/pantry/containers/": "pantry_owncontainer",
    "/pantry/making/": "pantry_infusion",
    "/pours/": "pours_pour",
    "/formulas/": "formulas_formula",
}


def strangers(bench: Bench) -> str:
    """Let twenty strangers knock with other names each time, while a maker's pages are asked for."""
    maker, stop, knocks = Visitor(bench), threading.Event(), [0] * STRANGERS
    maker.get("/")

    def knock(n: int) -> None:
        stranger = Visitor(bench, signs_in=False)
        while not stop.is_set():
            stranger.post("/sign-in/", {"username": f"name{n}-{knocks[n]}", "password": "guess-the-word"})
            knocks[n] += 1

    threads = [threading.Thread(target=knock, args=(n,)) for n in range(STRANGERS)]
    for thread in threads:
        thread.start()
    waits, end = [], time.monotonic() + SECONDS
    while time.monotonic() < end:
        start = time.monotonic()
        assert maker.get("/settings/")[0] == 200
        waits.append(time.monotonic() - start)
        time.sleep(0.1)
    stop.set()
    for thread in threads:
        thread.join()
    longest, median = max(waits), statistics.median(waits)
    assert longest < MOST_WAIT_S, longest
    waited = f"{1000 * median:.0f} ms, at most {1000 * longest:.0f}"
    return f"{sum(knocks)} knocks of {STRANGERS} strangers; a maker waits {waited}"


def foreign_rows(bench: Bench) -> str:
    """Name rows of another maker in addresses and bodies: nothing of theirs is shown or changed."""
    visitor = Visitor(bench)
    file = bench.data / "all.zip"
    file.write_bytes(of_another_bench(visitor.fetch("/records/all.zip")))
    make = "from calmtin.accounts.models import Bench, User; "
    make += f"Bench.objects.create(user=User.objects.create_user({OTHER!r}))"
    assert bench.manage("shell", "-c", make).wait() == 0
    assert bench.manage("records", "in", OTHER, str(file)).wait() == 0
    [(other,)] = bench.ask("SELECT id FROM accounts_user WHERE username = ?", OTHER)
    theirs = {
        kind: [pk for (pk,) in bench.ask(f"SELECT id FROM {table} WHERE owner_id = ? LIMIT 3", other)]
        for kind, table in OWNED.items()
    }
    told = "SELECT * FROM {} WHERE owner_id = ?"
    before = {table: bench.ask(told.format(table), other) for table in OWNED.values()}
    sent = 0
    for address, pks in theirs.items():
        for pk in pks:
            for form in ({"reason": "mine"}, {"delete": "yes"}, {"act": "void", "void-reason": "mine"}):
                assert visitor.get(f"{address}{pk}/")[0] == 404, address
                assert visitor.post(f"{address}{pk}/", form)[0] in (403, 404, 405), address
                sent += 2
    pour = open_pour(bench)
    for lot in theirs["/pantry/lots/"]:
        visitor.post(f"/pours/{pour}/weigh/0/", {"grams": "5", "lot": lot}, **{"HX-Request": "true"})
        sent += 1
    after = {table: bench.ask(told.format(table), other) for table in before}
    used = bench.ask("SELECT count(*) FROM pours_weighin w JOIN pantry_lot l ON l.id = w.lot_id "
                     "JOIN pours_weighline n ON n.id = w.line_id JOIN pours_pour p ON p.id = n.pour_id "
                     "WHERE l.owner_id <> p.owner_id")  # fmt: skip
    assert before == after and used == [(0,)] and sent > 30, (sent, used)
    return f"{sent} requests with rows of another maker: none shown, nothing changed"


def history(bench: Bench) -> str:
    """Close pours, edit every master, and compare what their cards say."""
    visitor = Visitor(bench)
    pours = [pk for (pk,) in bench.ask("SELECT pour_id FROM pours_closing ORDER BY id LIMIT 12")]
    before = {pk: json.loads(visitor.fetch(f"/pours/{pk}/card.json")) for pk in pours}
    for pk, seen in bench.ask("SELECT id, revision FROM formulas_formula WHERE owner_id = 1"):
        told = {
            "name": f"Renamed {pk}",
            "kind": "gloss",
            "audience": "adult_lips",
            "notes": "",
            "seen": seen,
        }
        visitor.post(f"/formulas/{pk}/details/", told)
    for (slug,) in bench.ask(
        "SELECT DISTINCT material FROM pours_weighline WHERE material NOT LIKE 'my%' LIMIT 20"
    ):
        own = {"own_figures": "yes", "inci": "Something Else", "density": "0.8", "strength_pct": "50"}
        visitor.post(f"/pantry/materials/{slug}/", own)
    for pk, price in bench.ask("SELECT id, 33 FROM pantry_lot WHERE owner_id = 1"):
        told = {
            "act": "fix",
            "amount_g": "900",
            "price": price,
            "bought_on": "2026-01-01",
            "reason": "wrong",
        }
        visitor.post(f"/pantry/lots/{pk}/", told)
    after = {pk: json.loads(visitor.fetch(f"/pours/{pk}/card.json")) for pk in pours}
    differ = [pk for pk in pours if before[pk] != after[pk]]
    renamed = bench.ask("SELECT count(*) FROM formulas_formula WHERE name LIKE 'Renamed %'")[0][0]
    assert pours and renamed and not differ, (len(pours), renamed, differ)
    return (
        f"{len(pours)} closed pours say the same after {renamed} formulas, materials and lots were edited"
    )


def closure(bench: Bench) -> str:
    """Take everything out, bring it into an empty book, and take it out again: equal."""
    file = of_another_bench(Visitor(bench).fetch("/records/all.zip"))
    fresh = Bench()
    fresh.start()
    try:
        command = fresh.manage("records", "in", "tern_quay", _written(fresh, file))
        assert command.wait() == 0
        again = Visitor(fresh).fetch("/records/all.zip")
    finally:
        fresh.end()
    there, here = _rows(file), _rows(again)
    lost = {table: len(keys - here[table]) for table, keys in there.items() if keys - here[table]}
    assert not lost, lost
    return (
        f"{sum(len(keys) for keys in there.values())} rows out, into another book and out again, none lost"
    )


def _written(bench: Bench, file: bytes) -> str:
    path = bench.data / "all.zip"
    path.write_bytes(file)
    return str(path)


def _rows(file: bytes) -> dict[str, set[str]]:
    with ZipFile(io.BytesIO(file)) as opened:
        names = [name for name in opened.namelist() if name.startswith("records/")]
        return {name: {row["_key"] for row in json.loads(opened.read(name))} for name in names}
