"""script/manage solve FILE: a formula and a target in, the least change in JSON out."""

from __future__ import annotations

from typing import Any

from calmtin.core.data.loader import library
from calmtin.exchange.command import FileCommand
from calmtin.exchange.formats.solution import solve_file


class Command(FileCommand):
    """Solve a formula for a target firmness; needs no database."""

    help = "Find the formula that meets a target with the least change and print it as JSON."
    file_help = "a JSON file with formula, target, lock and range, or - for standard input"

    def answer(self, text: str, _: dict[str, Any], /) -> dict[str, Any]:
        """Return the solution as JSON."""
        return solve_file(text, library())
