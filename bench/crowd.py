"""Print what makers wait for each other: 20 at once for a minute, and one beside another's heavy work.

Run with `script/crowd`. Serves a throw-away book with 21 makers on this machine only; each has the
demo's season, carried in. Each of the 20 presses something, waits up to two seconds and presses again:
pages, searches, edits, checks, now and then a solve or a sheet of labels. Every edit is counted.
"""

from __future__ import annotations

import json
import os
import random
import shutil
import statistics
import threading
import time
from collections import defaultdict
from collections.abc import Callable
from functools import partial
from io import BytesIO
from typing import Any
from urllib.request import HTTPCookieProcessor, Request, build_opener
from uuid import uuid4
from zipfile import ZIP_DEFLATED, ZipFile

from bench.attack import Bench, Visitor

MAKERS, SECONDS, PAUSE_S, BESIDE_S = 20, 60.0, 2.0, 12.0
SEASONS = 50  # that make a bench of three years
PASSWORD = "tern quay boathouse"
EVERY = {"edit": 6, "Today": 4, "a formula": 4, "formulas": 2, "the log": 2, "a pour": 3, "pantry": 2}
EVERY |= {"a bare page": 4, "a check": 2, "a target solved": 1, "labels as PDF": 1}


class Maker(Visitor):
    """A maker who signed in by name, and what is on their bench."""

    def __init__(self, bench: Bench, name: str, of: dict[str, int]) -> None:
        self.address = f"http://127.0.0.1:{bench.port}"
        self.opener = build_opener(HTTPCookieProcessor())
        self.token = self._token(self.get("/sign-in/")[1])
        self.post("/sign-in/", {"username": name, "password": PASSWORD})
        self.token = self._token(self.get("/settings/")[1])
        self.of, self.edits, self.seen = of, 0, of["revision"]

    def send_file(self, path: str, name: str, body: bytes) -> int:
        """Send a file with a form."""
        edge = uuid4().hex
        head = f'--{edge}\r\nContent-Disposition: form-data; name="'
        told = f'{head}csrfmiddlewaretoken"\r\n\r\n{self.token}\r\n{head}{name}"; filename="f.zip"\r\n'
        whole = (
            told.encode() + b"Content-Type: application/zip\r\n\r\n" + body + f"\r\n--{edge}--\r\n".encode()
        )
        kind = {"Content-Type": f"multipart/form-data; boundary={edge}", "Origin": self.address}
        return self._send(Request(self.address + path, whole, kind))[0]

    def do(self, what: str, dice: random.Random) -> int:
        """Do one thing and return the answer's status."""
        formula = f"/formulas/{self.of['formula']}/"
        if what == "edit":
            data = {"percent": f"{12 + dice.random() * 8:.1f}", "seen": self.seen}
            line = f"{formula}v/{self.of['version']}/lines/{self.of['line']}/percent/"
            status, page = self.post(line, data, **{"HX-Request": "true"})
            if status == 200 and "problem" not in page.split("<main")[0]:
                self.edits, self.seen = self.edits + 1, self.seen + 1
            return status
        if what == "a check":
            data = {"temp": "21", "felt_rung": "6", "verdict": "tweak", "request_key": str(uuid4())}
            return self.post(f"/pours/{self.of['pour']}/check/", data)[0]
        paths = {
            "Today": "/",
            "a formula": formula,
            "formulas": "/formulas/?q=salve",
            "the log": "/pours/?verdict=keep",
            "a pour": f"/pours/{self.of['pour']}/",
            "pantry": "/pantry/",
            "a bare page": "/settings/",
            "a target solved": f"{formula}v/{self.of['version']}/target/?rung={5 + 2 * dice.random():.1f}",
            "labels as PDF": f"/labels/{self.of['print']}/sheet.pdf",
        }
        return self.fetch(paths[what])

    def fetch(self, path: str) -> int:
        """Ask for a page or a file, and return the answer's status."""
        with self.opener.open(self.address + path, timeout=60) as answer:
            answer.read()
            return int(answer.status)


def make_book(bench: Bench, names: list[str], empty: list[str]) -> tuple[dict[str, dict[str, int]], bytes]:
    """Fill the bench's book with makers; return what is on the bench of each of `names`, and a season."""
    os.environ |= bench.environment | {"DJANGO_SETTINGS_MODULE": "calmtin.config.settings"}
    import django

    django.setup()
    from calmtin.accounts.models import User
    from calmtin.exchange.records.reading import import_records
    from calmtin.exchange.records.writing import write_records

    season = BytesIO()
    write_records(User.objects.get(), season)
    hashed = ""
    for name in [*names, *empty]:
        user = User(username=name)
        user.set_password(PASSWORD)
        hashed = hashed or user.password
        user.password = hashed
        user.save()
        if name in names:
            import_records(user, season)
    return {name: _on_bench(User.objects.get(username=name)) for name in names}, season.getvalue()


def grown(season: bytes) -> bytes:
    """Return a file of records with a season many times over, each as of another bench."""
    from calmtin.exchange.records.writing import MANIFEST

    out = BytesIO()
    with ZipFile(BytesIO(season)) as one, ZipFile(out, "w", ZIP_DEFLATED) as many:
        told = json.loads(one.read(MANIFEST))
        origins = [f"{n:012x}" for n in range(SEASONS)]
        for name in one.namelist():
            content = one.read(name)
            if name.startswith("records/"):
                texts = [content.decode().replace(told["bench"], origin) for origin in origins]
                many.writestr(name, json.dumps([row for text in texts for row in json.loads(text)]))
            elif name.startswith("photos/"):
                for origin in origins:
                    many.writestr(name.replace(told["bench"], origin), content)
        told["tables"] = {table: rows * SEASONS for table, rows in told["tables"].items()}
        many.writestr(MANIFEST, json.dumps(told))
    return out.getvalue()


def _on_bench(user: Any) -> dict[str, int]:
    from calmtin.formulas.models import Formula
    from calmtin.packing.models import LabelPrint
    from calmtin.pours.models import Pour

    formula = Formula.objects.of(user).get(name="Headwind lip stick")
    draft = next(v for v in formula.versions.order_by("-number") if not v.is_poured)
    return {
        "formula": formula.pk,
        "version": draft.number,
        "version_pk": draft.pk,
        "revision": draft.revision,
        "line": draft.lines.get(material="castor_oil").key,
        "pour": Pour.objects.of(user).filter(poured_at__isnull=False, called_off_at=None)[0].pk,
        "checks": Pour.objects.of(user).filter(poured_at__isnull=False)[0].checks.count(),
        "print": LabelPrint.objects.of(user)[0].pk,
    }


def work(makers: list[Maker]) -> tuple[dict[str, list[float]], list[str]]:
    """Let all makers work for a minute; return their waits by what they did, ms, and what failed."""
    waits: dict[str, list[float]] = defaultdict(list)
    failed: list[str] = []
    things, weights = list(EVERY), list(EVERY.values())
    until = time.monotonic() + SECONDS

    def run(n: int, maker: Maker) -> None:
        dice = random.Random(n)
        while time.monotonic() < until:
            time.sleep(dice.random() * PAUSE_S)
            (what,) = dice.choices(things, weights)
            start = time.perf_counter()
            try:
                status = maker.do(what, dice)
            except Exception as error:
                failed.append(f"{what}: {error}")
                continue
            waits[what].append(1000.0 * (time.perf_counter() - start))
            if status != 200:
                failed.append(f"{what}: {status}")

    threads = [threading.Thread(target=run, args=pair) for pair in enumerate(makers)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return waits, failed


def beside(other: Maker, heavy: Callable[[], object] | None) -> tuple[float, float]:
    """Return the median and the longest wait of `other` for a page and an edit, ms, beside `heavy`.

    What is heavy is done again and again, or once where that takes longer.
    """
    done = threading.Event()

    def again() -> None:
        while heavy is not None and not done.is_set():
            heavy()

    thread = threading.Thread(target=again)
    thread.start()
    dice, taken = random.Random(1), []
    until = time.monotonic() + BESIDE_S
    while time.monotonic() < until or thread.is_alive():
        if time.monotonic() >= until:
            done.set()
        for what in ("a bare page", "edit"):
            start = time.perf_counter()
            assert other.do(what, dice) == 200, what
            taken.append(1000.0 * (time.perf_counter() - start))
            time.sleep(0.05)
    thread.join()
    return statistics.median(taken), max(taken)


def main() -> None:
    """Measure the crowd, then one maker beside another's heavy work."""
    bench = Bench()
    bench.start()
    names = [f"maker{n}" for n in range(MAKERS + 1)]
    empty = [f"new{n}" for n in range(30)]
    try:
        on_bench, season = make_book(bench, names, empty)
        makers = [Maker(bench, name, on_bench[name]) for name in names]
        waits, failed = work(makers[:-1])
        report(waits, failed)
        lost = count_lost(makers)
        print(
            f"\n{len(failed)} of them failed, {lost} of {sum(m.edits for m in makers)} edits were lost.\n"
        )
        solver, other = makers[0], makers[-1]
        target = (
            f"/formulas/{solver.of['formula']}/v/{solver.of['version']}/target/?rung=9.5&min_rung=4&hot=36"
        )
        newcomers = iter(empty)

        def take_in(file: bytes = season) -> None:
            one = Maker(bench, next(newcomers), solver.of)
            assert one.send_file("/records/", "file", file) == 200
            assert one.post("/records/", {"take_in": "yes"})[0] == 200

        heavy: dict[str, Callable[[], object] | None] = {
            "nothing": None,
            "targets solved, one after the other": lambda: solver.fetch(target),
            "label sheets as PDF": lambda: solver.fetch(f"/labels/{solver.of['print']}/sheet.pdf"),
            "whole benches taken in": take_in,
            "a bench of three years taken in": partial(take_in, grown(season)),
            "a whole bench taken along": lambda: solver.fetch("/records/all.zip"),
        }
        print("| what another maker does | median wait | longest wait |\n|---|---|---|")
        for what, one in heavy.items():
            middle, longest = beside(other, one)
            print(f"| {what} | {middle:.0f} ms | {longest:.0f} ms |", flush=True)
    finally:
        bench.stop()
        shutil.rmtree(bench.data, ignore_errors=True)


def report(waits: dict[str, list[float]], failed: list[str]) -> None:
    """Print the waits as a table."""
    bare = _p95(waits["a bare page"])
    count = sum(map(len, waits.values()))
    print(
        f"{MAKERS} makers, {SECONDS:.0f} s, {count} requests, up to {PAUSE_S:.0f} s from one to the next.\n"
    )
    print("| what | how often | median | 95 % wait less than | to a bare page |\n|---|---|---|---|---|")
    for what, taken in sorted(waits.items(), key=lambda pair: _p95(pair[1])):
        middle = statistics.median(taken)
        slow = _p95(taken)
        print(f"| {what} | {len(taken)} | {middle:.0f} ms | {slow:.0f} ms | {slow / bare:.1f}x |")
    for words in failed[:10]:
        print(f"failed: {words}")


def _p95(taken: list[float]) -> float:
    return statistics.quantiles(taken, n=20)[-1] if len(taken) > 1 else taken[0]


def count_lost(makers: list[Maker]) -> int:
    """Return how many edits were answered and are not in the book."""
    from calmtin.formulas.models import Version

    lost = 0
    for maker in makers:
        revision = Version.objects.get(pk=maker.of["version_pk"]).revision
        lost += abs(maker.of["revision"] + maker.edits - revision)
    return lost


if __name__ == "__main__":
    main()
