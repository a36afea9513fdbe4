"""Attack a bench as a hostile visitor, a careless maker and a failing machine would.

Run with `script/attack`. It serves a throw-away demo on this machine only, sends a bounded
number of requests to it, and exits 1 at the first answer of 500 or the first loss.
"""

from __future__ import annotations

import os
import random
import re
import resource
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import closing
from http.cookiejar import CookieJar
from pathlib import Path
from socket import create_server
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.parse import urlencode
from urllib.request import HTTPCookieProcessor, Request, build_opener

ROOT = Path(__file__).parents[1]
REQUESTS, KILLS, SEED = 4000, 30, 8

NASTY = ["", " ", "0", "-1", "1e308", "-1e308", "NaN", "inf", "9" * 400, "½", "1/0", "1,2,3", "²", "\x00"]
NASTY += ["<script>alert(1)</script>", "{{ 7*7 }}", "'; DROP TABLE x;--", "../../etc/passwd", "=1+1"]
NASTY += ["a" * 5000, "😀" * 50, "9999-12-31", "0001-01-01", "2026-02-30", "12 g", "+3", "+31", "1 oz"]
NASTY += ["5 % on top", "2 parts", "100", "99.9995", "50", "olive_oil", "my_nothing", "beeswax_yellow"]
NASTY += ["keep", "on", "yes", "%%", "\u202e"]


class Bench:
    """A demo bench served in a folder of its own."""

    def __init__(self, **environment: str) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="calmtin-attack-"))
        with closing(create_server(("127.0.0.1", 0))) as free:
            self.port = free.getsockname()[1]
        kept = {k: v for k, v in os.environ.items() if not k.startswith(("CALMTIN", "DJANGO"))}
        self.environment = {**kept, "CALMTIN_DATA": str(self.data), "CALMTIN_DEMO": "1", **environment}
        self.server: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Serve, and wait for the address."""
        command = [sys.executable, "-m", "calmtin.config.serve", "--port", str(self.port)]
        self.server = subprocess.Popen(
            command, env=self.environment, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        )
        assert self.server.stdout
        line = self.server.stdout.readline().decode()
        assert "http://" in line, line

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        """End the server."""
        assert self.server
        self.server.send_signal(how)
        self.server.communicate()

    def database(self) -> sqlite3.Connection:
        """Open the bench's database beside the server."""
        return sqlite3.connect(self.data / "calmtin.sqlite3", timeout=30)


class Visitor:
    """A signed-in browser without a screen."""

    def __init__(self, bench: Bench) -> None:
        self.address = f"http://127.0.0.1:{bench.port}"
        self.jar = CookieJar()
        self.opener = build_opener(HTTPCookieProcessor(self.jar))
        self.token = self._token(self.get("/sign-in/")[1])
        self.post("/demo/", {})
        self.token = self._token(self.get("/settings/")[1])

    def _token(self, page: str) -> str:
        found = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)
        assert found, page[:500]
        return found[1]

    def _send(self, request: Request) -> tuple[int, str]:
        try:
            with self.opener.open(request, timeout=120) as answer:
                return answer.status, answer.read().decode(errors="replace")
        except HTTPError as error:
            return error.code, error.read().decode(errors="replace")

    def get(self, path: str) -> tuple[int, str]:
        """Ask for a page."""
        return self._send(Request(self.address + path))

    def post(self, path: str, data: dict[str, Any], **headers: str) -> tuple[int, str]:
        """Send a form."""
        body = urlencode({"csrfmiddlewaretoken": self.token, **data}, errors="replace").encode()
        return self._send(Request(self.address + path, body, {"Origin": self.address, **headers}))


def patterns() -> list[tuple[str, set[str]]]:
    """Return every route with the names of its arguments."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.config.settings")
    os.environ["CALMTIN_DATA"] = tempfile.mkdtemp(prefix="calmtin-none-")
    import django

    django.setup()
    from django.urls import URLResolver, get_resolver

    def walk(resolver: Any, prefix: str) -> list[tuple[str, set[str]]]:
        found = []
        for pattern in resolver.url_patterns:
            route = prefix + str(pattern.pattern)
            found += (
                walk(pattern, route)
                if isinstance(pattern, URLResolver)
                else [(route, set(re.findall(r"<(?:\w+:)?(\w+)>", route)))]
            )
        return found

    return walk(get_resolver(), "")


# What the forms of the pages are called, so that the fuzz reaches past the first check.
FIELDS = """
percent seen material batch_g cooling overrun strength scale other lock key level reason name kind
audience sees_sun notes free place use_stock take show text make rung min_rung hot skin_melt usual
wax butter oil unit was proposal container count level loss grams temp felt_rung verdict q group
mine amount form price bought_on best_before opened_on note act actual fix-amount_g fix-price fix-
bought_on fix-reason void-reason own_figures density strength_pct typical_low_pct limit_pct
behaves_like melt_low melt_high inci allergens vegan brim_ml empty_g full_g usual_level_pct cavities
on_hand herb herb_g oil_g method started_on is_dried recovered_g strained_on raw_g clean_g done_on
pot finish material_0 percent_0 a b why without lot import request_key cold_c room_c hot_c
""".split()  # noqa: SIM905


def fuzz(bench: Bench) -> None:
    """Send odd forms and queries to every address; no answer may be a 500."""
    dice = random.Random(SEED)
    routes = [route for route in patterns() if "sign-out" not in route[0]]
    visitor = Visitor(bench)
    with closing(bench.database()) as book:
        keys = [key for (key,) in book.execute("SELECT key FROM formulas_line")]
        pks = [pk for (pk,) in book.execute("SELECT id FROM formulas_formula")]
    statuses: dict[int, int] = {}
    for n in range(REQUESTS):
        route, _ = routes[n % len(routes)]
        values = {
            "pk": str(dice.choice([*pks, 1, 2, 3, 10**11])), "number": str(dice.choice([1, 1, 2, 99])),
            "key": dice.choice(keys), "slug": dice.choice(["olive_oil", "mica", "my_reed_bed_wax", "x"]),
            "position": str(dice.choice([0, 1, 99])), "finish": str(dice.choice([1, 2, 99])),
        }  # fmt: skip
        path = "/" + re.sub(r"<(?:\w+:)?(\w+)>", lambda found, values=values: values[found[1]], route)
        data = {dice.choice(FIELDS): dice.choice(NASTY) for _ in range(dice.randint(0, 12))}
        way = dice.random()
        if way < 0.35:
            status, page = visitor.get(f"{path}?{urlencode(data, errors='replace')}")
        else:
            headers = {"HX-Request": "true"} if way > 0.7 else {}
            status, page = visitor.post(path, data, **headers)
        if status == 403:  # a sign-in among the attacks changed the token
            visitor = Visitor(bench)
        statuses[status] = statuses.get(status, 0) + 1
        assert status < 500, f"{status} for {path} with {data}\n{page[:2000]}"
        if not n % 500:
            for check in ("/", "/formulas/", "/pantry/", "/pours/"):
                assert visitor.get(check)[0] == 200, check
    print(
        f"fuzz: {REQUESTS} requests over {len(routes)} addresses, answers {dict(sorted(statuses.items()))}"
    )


def weigh_in(visitor: Visitor, pour: int, position: int, grams: str) -> bool:
    """Send one weight; return whether the server acknowledged it."""
    try:
        status, page = visitor.post(
            f"/pours/{pour}/weigh/{position}/", {"grams": grams}, **{"HX-Request": "true"}
        )
    except (URLError, OSError, ConnectionError):
        return False
    return status == 200 and f'value="{grams}"' in page


def kills(bench: Bench) -> None:
    """Kill the server under load, again and again; nothing that was acknowledged may be missing."""
    acknowledged: list[str] = []
    for round_ in range(KILLS):
        if round_:
            bench.start()
        visitor = Visitor(bench)
        with closing(bench.database()) as book:
            (pour,) = book.execute("SELECT id FROM pours_pour WHERE poured_at IS NULL").fetchone()
        stop = threading.Event()

        def load(
            round_: int = round_,
            visitor: Visitor = visitor,
            stop: threading.Event = stop,
            pour: int = pour,
        ) -> None:
            for n in range(400):
                grams = f"{1 + round_ + n / 100:.2f}".rstrip("0").rstrip(".")
                if stop.is_set() or not weigh_in(visitor, pour, n % 4, grams):
                    return
                acknowledged.append(grams)

        thread = threading.Thread(target=load)
        thread.start()
        time.sleep(0.3 + 0.02 * round_)
        bench.stop(signal.SIGKILL)
        stop.set()
        thread.join()
    with closing(bench.database()) as book:
        assert book.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        kept = {
            float(grams)
            for (grams,) in book.execute("SELECT grams FROM pours_weighin WHERE grams IS NOT NULL")
        }
        half = book.execute(
            "SELECT count(*) FROM pours_weighin w WHERE w.grams > 0 AND NOT EXISTS "
            "(SELECT 1 FROM pours_weighline l WHERE l.id = w.line_id)"
        ).fetchone()[0]
    missing = [grams for grams in acknowledged if float(grams) not in kept]
    assert not missing and not half, missing
    bench.start()
    print(f"kills: {KILLS} SIGKILLs under load, {len(acknowledged)} acknowledged weights, none missing")


def locked(bench: Bench) -> None:
    """Hold the database for 30 s: reading goes on, and a writer is told that the bench is busy."""
    visitor = Visitor(bench)
    with closing(bench.database()) as book:
        (pour,) = book.execute("SELECT id FROM pours_pour WHERE poured_at IS NULL").fetchone()
        book.isolation_level = None
        book.execute("BEGIN IMMEDIATE")
        start = time.monotonic()
        status, page = visitor.post(f"/pours/{pour}/weigh/0/", {"grams": "5"}, **{"HX-Request": "true"})
        waited = time.monotonic() - start
        assert status == 503 and "busy" in page, (status, page[:300])
        assert visitor.get("/formulas/")[0] == 200
        time.sleep(max(0.0, 30 - waited))
        book.execute("ROLLBACK")
    assert weigh_in(visitor, pour, 0, "5.5")
    print(f"locked: after {waited:.0f} s the maker reads “{page}”; afterwards it goes through")


def unwritable(bench: Bench) -> None:
    """Fill the disk: nothing is half saved, and the maker reads why."""
    bench.stop()

    def small() -> None:
        size = (bench.data / "calmtin.sqlite3").stat().st_size + 300_000
        resource.setrlimit(resource.RLIMIT_FSIZE, (size, size))
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)

    command = [sys.executable, "-m", "calmtin.config.serve", "--port", str(bench.port)]
    bench.server = subprocess.Popen(
        command, env=bench.environment, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        preexec_fn=small,
    )  # fmt: skip
    assert bench.server.stdout and bench.server.stdout.readline()
    visitor = Visitor(bench)
    with closing(bench.database()) as book:
        (pour,) = book.execute("SELECT id FROM pours_pour WHERE poured_at IS NULL").fetchone()
        before = book.execute("SELECT count(*) FROM pours_weighin").fetchone()[0]
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
    with closing(bench.database()) as book:
        after = book.execute("SELECT count(*) FROM pours_weighin").fetchone()[0]
        assert book.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    assert after - before == n, (before, after, n)
    print(f"full disk: {n} weights kept, then the maker reads “{told}”")
    bench.start()


def main() -> None:
    """Run every attack on one bench."""
    bench = Bench()
    bench.start()
    try:
        fuzz(bench)
        kills(bench)
        locked(bench)
        unwritable(bench)
    finally:
        bench.stop()
        shutil.rmtree(bench.data, ignore_errors=True)


if __name__ == "__main__":
    main()
