"""script/manage plan FILE: a formula and containers in, a weigh sheet in JSON out."""

from __future__ import annotations

from typing import Any

from calmtin.core.data.loader import library
from calmtin.exchange.command import FileCommand
from calmtin.exchange.formats.formula import read_json
from calmtin.exchange.formats.plan import plan


class Command(FileCommand):
    """Plan a fill; needs no database."""

    help = "Plan how much to melt for containers, or what a batch fills, and print it as JSON."
    file_help = "a JSON file with a formula and containers, or - for standard input"

    def answer(self, text: str, _: dict[str, Any], /) -> dict[str, Any]:
        """Return the plan as JSON."""
        return plan(read_json(text), library())
