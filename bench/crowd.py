"""Print what 20 makers at once wait for: the formula page and an edit, beside a bare page.

Run with `script/crowd`. Serves a throw-away demo on this machine only.
"""

from __future__ import annotations

import shutil
import sqlite3
import statistics
import threading
import time
from collections.abc import Callable
from contextlib import closing

from bench.attack import Bench, Visitor

MAKERS, ASKS = 20, 10


def p95_ms(visitors: list[Visitor], ask: Callable[[Visitor], tuple[int, str]]) -> float:
    """Return the 95th percentile of all makers' waits while all of them ask at once."""
    taken: list[float] = []

    def run(visitor: Visitor) -> None:
        for _ in range(ASKS):
            start = time.perf_counter()
            status, _ = ask(visitor)
            assert status == 200, status
            taken.append(1000.0 * (time.perf_counter() - start))

    threads = [threading.Thread(target=run, args=(visitor,)) for visitor in visitors]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return statistics.quantiles(taken, n=20)[-1]


def main() -> None:
    """Time three pages with all makers at once."""
    bench = Bench()
    bench.start()
    try:
        visitors = [Visitor(bench) for _ in range(MAKERS)]
        with closing(sqlite3.connect(bench.data / "calmtin.sqlite3")) as book:
            (pk,) = book.execute("SELECT id FROM formulas_formula WHERE name LIKE 'Headwind%'").fetchone()
        bare = p95_ms(visitors, lambda v: v.get("/settings/"))
        print(f"{MAKERS} makers at once, 95th percentile")
        print(f"a bare page (settings)  {bare:7.0f} ms")
        for name, path in (("the formula page", f"/formulas/{pk}/"), ("all formulas", "/formulas/")):
            slow = p95_ms(visitors, lambda v, path=path: v.get(path))
            print(f"{name:22}  {slow:7.0f} ms  {slow / bare:5.1f} times a bare page")
    finally:
        bench.stop()
        shutil.rmtree(bench.data, ignore_errors=True)


if __name__ == "__main__":
    main()
