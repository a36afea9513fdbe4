"""A large file comes in by a process of its own, and whoever dies meanwhile leaves nothing behind."""

from __future__ import annotations

import os
import signal
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from bench.attack.files import of_another_bench
from calmtin.accounts.models import PORTER
from tests.own_server import Bench

WAIT_S = 60.0
PORTERS = f"accounts_user WHERE username LIKE '{PORTER}%'"


def until(is_so: Callable[[], Any], what: str) -> Any:
    """Wait until something is so, and return what it came to."""
    deadline = time.monotonic() + WAIT_S
    while not (found := is_so()):
        if time.monotonic() > deadline:
            raise AssertionError(f"{what} did not come.")
        time.sleep(0.005)
    return found


class Apart(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = Bench()
        self.addCleanup(self.bench.end)
        self.book = self.bench.book
        self.file = of_another_bench(self.bench.fetch("/records/all.zip"))

    def helper(self) -> int:
        """Return the process that the server has beside it, 0 for none."""
        tasks = Path(f"/proc/{self.bench.process}/task")
        found = [n for told in tasks.glob("*/children") for n in told.read_text().split()]
        # Python's own, which looks after what processes share, comes first.
        working = [n for n in found if b"spawn_main" in Path(f"/proc/{n}/cmdline").read_bytes()]
        return int(working[0]) if working else 0

    def look(self) -> str:
        return self.bench.ask("/records/", {"file": SimpleUploadedFile("all.zip", self.file)})

    def test_it_comes_in_whole_or_not_at_all(self) -> None:
        formulas = self.book("SELECT count(*) FROM formulas_formula WHERE owner_id = 1")
        self.assertIn("New:", self.look())

        def kill_while_it_comes_in() -> None:
            until(lambda: self.book(f"SELECT 1 FROM {PORTERS}"), "the porter")
            os.kill(until(self.helper, "a process of its own"), signal.SIGKILL)

        killer = threading.Thread(target=kill_while_it_comes_in)
        killer.start()
        self.assertIn("stopped reading it", self.bench.ask("/records/", {"take_in": "yes"}))
        killer.join()
        self.assertEqual(self.book("SELECT count(*) FROM formulas_formula WHERE owner_id = 1"), formulas)
        # What it left is nobody's to see, and goes with the next look after the book.
        [(porter,)] = self.book(f"SELECT id FROM {PORTERS}")
        self.book(f"UPDATE accounts_user SET date_joined = '2026-01-01 10:00:00' WHERE id = {porter}")
        self.bench.kill()
        self.bench.start()
        until(lambda: not self.book(f"SELECT 1 FROM accounts_user WHERE id = {porter}"), "the upkeep")

        self.assertIn("New:", self.look())
        self.assertIn("Imported:", self.bench.ask("/records/", {"take_in": "yes"}) + self.bench.ask("/"))
        [(twice,)] = self.book("SELECT count(*) FROM formulas_formula WHERE owner_id = 1")
        self.assertEqual(twice, 2 * formulas[0][0])
        self.assertFalse(self.book(f"SELECT 1 FROM {PORTERS}"))
        self.assertFalse(self.helper())
        self.assertIn("Everything in this file is already here.", self.look())
