"""Attack a bench as hostile visitors, careless makers and a failing machine would.

    script/attack [NAME ...]     all attacks, or those named

It serves a throw-away demo on this machine only, sends a bounded number of requests to it, prints a table
and exits 1 where anything was lost, doubled, done unasked or answered with an error.
"""

from __future__ import annotations

import sys
import time
import traceback
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from bench.attack.boxes import boxes, weights
from bench.attack.durability import full_disk, kills, kills_of_work, locked
from bench.attack.files import hostile_files
from bench.attack.fuzz import fuzz
from bench.attack.others import closure, foreign_rows, history, strangers
from bench.attack.served import Bench, first_start

ATTACKS: dict[str, Callable[[Bench], str]] = {
    "boxes": boxes,
    "weights": weights,
    "fuzz": fuzz,
    "files": hostile_files,
    "strangers": strangers,
    "foreign rows": foreign_rows,
    "history": history,
    "closure": closure,
    "kills": kills,
    "kills of work": kills_of_work,
    "locked": locked,
    "full disk": full_disk,
}


ALONE = {"strangers"}  # it measures how long a maker waits


def attack(name: str) -> bool:
    """Run one attack on a bench of its own and print what came of it."""
    start, bench, is_held = time.monotonic(), Bench(), False
    try:
        bench.start()
        said, is_held = ATTACKS[name](bench), True
    except Exception:
        said = "FAILED"
        traceback.print_exc()
    finally:
        bench.end()
    print(f"| {name} | {said} | {time.monotonic() - start:.0f} s |", flush=True)
    return is_held


def main() -> int:
    """Run the attacks, two at a time, and print a table."""
    begun, asked = time.monotonic(), sys.argv[1:] or list(ATTACKS)
    first_start()  # once, before two ask for it at a time
    with ThreadPoolExecutor(2) as beside:
        held = list(beside.map(attack, [name for name in asked if name not in ALONE]))
    held += [attack(name) for name in asked if name in ALONE]
    failed = held.count(False)
    print(f"{len(held) - failed} passed, {failed} failed, in {time.monotonic() - begun:.0f} s")
    return min(failed, 1)


if __name__ == "__main__":
    sys.exit(main())
