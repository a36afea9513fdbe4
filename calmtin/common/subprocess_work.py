"""Work in a process of its own, with a limit to its memory and its time.

A file may be anybody's. Within the server a large or hostile one would hold everybody up: Python runs one
thread at a time, and all threads share one memory. This module is imported before Django is set up.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context, parent_process
from threading import Lock, Thread
from typing import Any, TypeVar

import django
from django.db import connection
from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError

try:
    import resource
except ImportError:  # Windows has no such limits
    resource = None  # type: ignore[assignment]

T = TypeVar("T")

SMALL = 100_000  # bytes of text, which the server reads itself: a process takes two seconds to start
MEMORY = 1_200_000_000  # bytes
SECONDS = 300  # of the processor; a bench of three years takes one minute
MODEST = 10  # how much it lets others go first
WAIT_S = 20.0  # for the file of somebody else that is being read

_one_at_a_time = Lock()


def run_apart(
    work: Callable[..., T], *args: Any, size: int, memory: int = MEMORY, seconds: int = SECONDS
) -> T:
    """Return what `work` returns, worked out in a process of its own where `size` bytes are not small.

    `work` and `args` are pickled, so a function of a module and plain values. Raises `CalmTinError` where
    it needs too much memory or time, and what `work` raises.
    """
    if size <= SMALL:
        return work(*args)
    if not _one_at_a_time.acquire(timeout=WAIT_S):
        raise CalmTinError(gettext("Another file is being imported. Try again in a minute."), field="file")
    try:
        begun = connection.settings_dict["NAME"], memory, seconds
        # A process that begins anew: one that is forked shares the server's open book.
        with ProcessPoolExecutor(1, get_context("spawn"), initializer=_begin, initargs=begun) as apart:
            return apart.submit(work, *args).result()
    except (BrokenProcessPool, MemoryError):
        raise CalmTinError(
            gettext(
                "This file needs too much time or memory, so Calm Tin stopped reading it. You can send "
                "it again; nothing will be duplicated."
            ),
            field="file",
        ) from None
    finally:
        _one_at_a_time.release()


def _end_with_the_server() -> None:
    """Wait for the server's end and end too: left alone, it would wait for work for ever."""
    server = parent_process()
    assert server is not None
    server.join()
    os._exit(1)


def _begin(book: Any, memory: int, seconds: int) -> None:
    Thread(target=_end_with_the_server, daemon=True).start()
    django.setup()
    connection.settings_dict["NAME"] = book
    if resource is not None:
        os.nice(MODEST)
        for limit, most in ((resource.RLIMIT_DATA, memory), (resource.RLIMIT_CPU, seconds)):
            resource.setrlimit(limit, (most, most))
