"""Measure the grown bench and the makers at once, and put both into docs/performance.md.

Run with `script/bench --write`; takes about six minutes. The words around the figures stay as they are.
"""

from __future__ import annotations

import subprocess
import sys
from datetime import date
from pathlib import Path

PAGE = Path(__file__).parents[1] / "docs" / "performance.md"
PARTS = {"grown": "bench/grown.py", "crowd": "bench/crowd.py"}


def put(page: str, name: str, told: str) -> str:
    """Return the page with `told` between the marks of a name."""
    head, rest = page.split(f"<!-- {name} -->")
    tail = rest.split(f"<!-- end of {name} -->")[1]
    return f"{head}<!-- {name} -->{told}<!-- end of {name} -->{tail}"


def main() -> None:
    """Measure each part by itself and write what it printed between its marks."""
    page = PAGE.read_text()
    for name, script in PARTS.items():
        told = subprocess.run([sys.executable, script], check=True, capture_output=True, text=True).stdout
        page = put(page, name, f"\n{told.strip()}\n")
    PAGE.write_text(put(page, "day", f"{date.today():%-d %B %Y}"))


if __name__ == "__main__":
    main()
