"""The server is killed and connections are cut in the middle of a pour: every reading is there once."""

from __future__ import annotations

import http.client
import random
import re
import threading
import time
import unittest
from decimal import Decimal
from itertools import product

from tests.own_server import Bench

TIMES = 4
BEYOND = 3.0  # times what a reading takes: some are killed before, some after it is kept


class Killed(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.addCleanup(self.bench.end)
        [(self.pour,)] = self.bench.book(
            "SELECT id FROM pours_pour WHERE poured_at IS NULL AND called_off_at IS NULL"
        )
        self.grams: dict[int, list[Decimal]] = {0: [Decimal(1)], 1: [Decimal(2)]}
        for line, [grams] in self.grams.items():
            after, begun = self.after(line), time.monotonic()
            self.bench.ask(self.path(line), {"grams": f"{grams}", "after": after})
            self.slowest_s = BEYOND * (time.monotonic() - begun)

    def path(self, line: int) -> str:
        return f"/pours/{self.pour}/weigh/{line}/"

    def after(self, line: int) -> str:
        page = self.bench.ask(f"/pours/{self.pour}/?line={line}")
        found = re.search(rf'action="{self.path(line)}".*?name="after" value="(\d+)"', page, re.DOTALL)
        assert found
        return found[1]

    def stored(self, line: int) -> list[Decimal]:
        rows = self.bench.book(
            "SELECT w.grams FROM pours_weighin w JOIN pours_weighline l ON l.id = w.line_id"
            " WHERE l.pour_id = ? AND l.position = ? ORDER BY w.id",
            (self.pour, line),
        )
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
        waits = [self.slowest_s * (n + 0.5) / TIMES for n in range(TIMES)]
        for trouble, wait_s in sorted(product(lost, waits), key=lambda _: rng.random()):
            line = rng.randrange(2)
            lost[trouble] += self.weigh_through(line, trouble, wait_s) - 1
            self.assertEqual(self.stored(line), self.grams[line])
        self.assertEqual(lost["cut"], TIMES)
        self.assertGreater(lost["killed"], 0)
        self.assertLess(lost["killed"], TIMES)
