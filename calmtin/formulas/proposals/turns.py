"""Whose turn it is to solve: one search per maker and two per process, each for a few seconds.

A solver keeps a core busy. Whoever asks again while their own search runs has changed
their mind, so the earlier one stops; whoever has left stops theirs.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.http import HttpRequest
from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.solver.search import Stop

DEADLINE_S = 3.0
WAIT_S = 4.0
AT_ONCE = 2
AT_DOOR = 3  # searching and waiting together: one thread of the server stays free for everybody else

_slots = threading.BoundedSemaphore(AT_ONCE)
_door = threading.BoundedSemaphore(AT_DOOR)
_lock = threading.Lock()
_running: dict[Any, _Turn] = {}


class _Turn:
    """One search: over once its time is up, its asker is gone, or a newer one took its place."""

    def __init__(self, gone: Callable[[], bool]) -> None:
        self.gone = gone
        self.ends_at = float("inf")
        self.is_superseded = False
        self.is_done = threading.Event()

    def is_over(self) -> bool:
        return self.is_superseded or time.monotonic() > self.ends_at or self.gone()


@contextmanager
def solving_turn(request: HttpRequest) -> Iterator[Stop]:
    """Wait for the maker's turn and yield an event that stops the search.

    Raises `CalmTinError` when none comes free in time, or too many wait already.
    """
    maker = request.user.pk
    turn = _Turn(request.META.get("waitress.client_disconnected") or (lambda: False))
    with _lock:
        earlier = _running.get(maker)
        _running[maker] = turn
        if earlier:
            earlier.is_superseded = True
    until, is_in = time.monotonic() + WAIT_S, False
    try:
        # Whoever asks again takes the place that their earlier search is leaving.
        is_in = _door.acquire(timeout=WAIT_S if earlier else 0.0)
        if (
            not is_in
            or (earlier and not earlier.is_done.wait(WAIT_S))
            or not _slots.acquire(timeout=max(0.0, until - time.monotonic()))
        ):
            raise CalmTinError(gettext("Calm Tin is calculating other formulas. Try again in a moment."))
        try:
            turn.ends_at = time.monotonic() + DEADLINE_S
            yield turn.is_over
        finally:
            _slots.release()
    finally:
        if is_in:
            _door.release()
        turn.is_done.set()
        with _lock:
            if _running.get(maker) is turn:
                del _running[maker]
