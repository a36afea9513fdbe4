"""The server's log: one JSON line for each event, never anything a maker wrote."""

from __future__ import annotations

import traceback
from types import TracebackType
from typing import Any

from pythonjsonlogger.core import RESERVED_ATTRS
from pythonjsonlogger.json import JsonFormatter

# Django hands the whole request along, whose address may hold what somebody searched for.
WITHHELD = [*RESERVED_ATTRS, "request", "server_time"]


class Lines(JsonFormatter):
    """An event as one line: when, how grave, where, what; of an error its kind and the way to it."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(
            "{asctime}{levelname}{name}{message}",
            *args,
            style="{",
            rename_fields={"asctime": "at", "levelname": "level", "name": "from"},
            reserved_attrs=WITHHELD,
            **kwargs,
        )

    def formatException(  # noqa: N802
        self,
        ei: tuple[type[BaseException], BaseException, TracebackType | None] | tuple[None, None, None],
    ) -> str:
        """Return where it happened and what kind of error it was; its own words may quote a maker."""
        kind, _, way = ei
        return "".join([*traceback.format_tb(way), kind.__name__ if kind else ""])
