"""The server is killed and connections are cut in the middle of a pour: every reading is there once."""

from __future__ import annotations

import contextlib
import http.client
import os
import random
import re
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from decimal import Decimal
from pathlib import Path
from urllib.parse import urlencode

ROOT = Path(__file__).resolve().parents[2]
TIMES = 20
BEYOND = 2.0  # times what a reading takes: some are killed before, some after it is kept


# What a server imports takes it seconds; it is imported once, and each server is a child of that.
FORKER = """
import os, signal, sys
import django
django.setup()
import calmtin.config.urls
from calmtin.config.serve import main
signal.signal(signal.SIGCHLD, signal.SIG_IGN)
for line in sys.stdin:
    child = os.fork()
    if not child:
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        sys.argv = ["serve", "--port", line.strip()]
        main()
        os._exit(0)
    print(child, flush=True)
"""


class Bench:
    """A server of its own, on a book of its own, and one maker who weighs."""

    def __init__(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="calmtin-killed-"))
        settings = {"DJANGO_SETTINGS_MODULE": "calmtin.config.settings", "PYTHONPATH": str(ROOT)}
        self.env = {**os.environ, **settings, "CALMTIN_DATA": str(self.data), "CALMTIN_DEMO": "1"}
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.cookies: dict[str, str] = {}
        self.forker = subprocess.Popen(
            [sys.executable, "-c", FORKER],
            env=self.env,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        self.start()

    def start(self) -> None:
        assert self.forker.stdin and self.forker.stdout
        self.forker.stdin.write(f"{self.port}\n")
        self.forker.stdin.flush()
        told = self.forker.stdout.readline()
        while not told.strip().isdigit():  # the server before this one said where it is
            told = self.forker.stdout.readline()
        self.process = int(told)
        for _ in range(1200):
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.05)
        raise AssertionError("The server did not come up.")

    def kill(self) -> None:
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.process, signal.SIGKILL)
            while True:
                os.kill(self.process, 0)
                time.sleep(0.002)

    def end(self) -> None:
        self.kill()
        self.forker.kill()
        self.forker.communicate()
        shutil.rmtree(self.data)

    def send(self, path: str, data: dict[str, str] | None = None) -> http.client.HTTPConnection:
        """Send a request; the answer is still to be read."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
        headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items())}
        body = None
        if data is not None:
            body = urlencode({"csrfmiddlewaretoken": self.cookies.get("csrftoken", ""), **data})
            headers |= {"Content-Type": "application/x-www-form-urlencoded", "HX-Request": "true"}
        connection.request("GET" if data is None else "POST", path, body, headers)
        return connection

    def ask(self, path: str, data: dict[str, str] | None = None) -> str:
        """Return the page that answers; raises `OSError` or `HTTPException` where none comes."""
        connection = self.send(path, data)
        answer = connection.getresponse()
        page = answer.read().decode()
        for cookie in answer.headers.get_all("Set-Cookie") or []:
            name, value = cookie.split(";")[0].split("=", 1)
            self.cookies[name] = value
        assert answer.status < 400, page[-500:]
        connection.close()
        return page


class Killed(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.addCleanup(self.bench.end)
        self.bench.ask("/sign-in/")
        self.bench.ask("/demo/", {})
        with sqlite3.connect(self.bench.data / "calmtin.sqlite3") as book:
            [(self.pour,)] = book.execute(
                "SELECT id FROM pours_pour WHERE poured_at IS NULL AND called_off_at IS NULL"
            ).fetchall()
        self.grams: dict[int, list[Decimal]] = {0: [Decimal(1)], 1: [Decimal(2)]}
        for line, [grams] in self.grams.items():
            after, begun = self.after(line), time.monotonic()
            self.bench.ask(self.path(line), {"grams": f"{grams}", "after": after})
            self.slowest_s = BEYOND * (time.monotonic() - begun)

    def path(self, line: int) -> str:
        return f"/pours/{self.pour}/weigh/{line}/"

    def after(self, line: int) -> str:
        page = self.bench.ask(f"/pours/{self.pour}/")
        found = re.search(rf'action="{self.path(line)}".*?name="after" value="(\d+)"', page, re.DOTALL)
        assert found
        return found[1]

    def stored(self, line: int) -> list[Decimal]:
        with sqlite3.connect(self.bench.data / "calmtin.sqlite3") as book:
            rows = book.execute(
                "SELECT w.grams FROM pours_weighin w JOIN pours_weighline l ON l.id = w.line_id"
                " WHERE l.pour_id = ? AND l.position = ? ORDER BY w.id",
                (self.pour, line),
            ).fetchall()
        return [Decimal(str(grams)) for (grams,) in rows][-len(self.grams[line]) :]

    def weigh_through(self, line: int, trouble: str, wait_s: float) -> int:
        """Add 0.01 g to a line through trouble after `wait_s`; return how often it had to be sent."""
        reading = {"grams": "+0.01", "after": self.after(line)}
        killer = threading.Timer(wait_s, self.bench.kill)
        sent = 1
        try:
            if trouble == "cut":
                connection = self.bench.send(self.path(line), reading)
                time.sleep(wait_s)
                connection.close()
                raise ConnectionError
            killer.start()
            self.bench.ask(self.path(line), reading)
        except (OSError, http.client.HTTPException):
            sent += 1
        if trouble == "killed":
            killer.join()
            self.bench.start()
        if sent > 1:
            self.bench.ask(self.path(line), reading)
        self.grams[line].append(self.grams[line][-1] + Decimal("0.01"))
        return sent

    def test_every_reading_is_there_once(self) -> None:
        rng = random.Random(20261125)
        lost = {"cut": 0, "killed": 0}
        for trouble in sorted(list(lost) * TIMES, key=lambda _: rng.random()):
            line = rng.randrange(2)
            lost[trouble] += self.weigh_through(line, trouble, rng.uniform(0, self.slowest_s)) - 1
            self.assertEqual(self.stored(line), self.grams[line])
        self.assertEqual(lost["cut"], TIMES)
        self.assertGreater(lost["killed"], 3)
        self.assertLess(lost["killed"], TIMES)
