"""script/manage learn FILE: a log of test pours in, the learned figures as JSON out."""

from __future__ import annotations

from typing import Any

from calmtin.core.data.loader import library
from calmtin.exchange.command import FileCommand
from calmtin.exchange.formats.formula import read_json
from calmtin.exchange.formats.observations import learned_from


class Command(FileCommand):
    """Learn from a log of test pours; needs no database."""

    help = "Learn from thumb and press tests of formulas, and predict others; prints JSON."
    file_help = "a JSON file with observations and what to predict, or - for standard input"

    def answer(self, text: str, _: dict[str, Any], /) -> dict[str, Any]:
        """Return the learned figures as JSON."""
        return learned_from(read_json(text), library())
