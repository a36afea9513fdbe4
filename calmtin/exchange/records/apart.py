"""Take a kept file in; a large one in a process of its own.

Python runs one thread at a time. Beside a bench of three years that comes in within the server, an edit
of somebody else takes four times as long.
"""

from __future__ import annotations

import os
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any

import django

from calmtin.accounts.models import User
from calmtin.core.errors import CalmTinError
from calmtin.exchange.records.reading import Report, import_records
from calmtin.exchange.records.stash import size_of_stashed, stashed

LARGE = 400_000  # bytes; a process takes two seconds to start
MODEST = 10  # how much it lets others go first


def take_in_stashed(user: Any, *, only_look: bool = False) -> Report:
    """Take the file that is kept for `user` in, or only look it over, as `import_records` does."""
    if size_of_stashed(user) < LARGE:
        return _take_in(user.pk, only_look)
    # A process that begins anew: one that is forked shares the server's open book.
    with ProcessPoolExecutor(1, get_context("spawn"), initializer=django.setup) as apart:
        try:
            return apart.submit(_take_in_modestly, user.pk, only_look).result()
        except BrokenProcessPool:
            words = "That was broken off. Send the file once more: what is here already is not doubled."
            raise CalmTinError(words, field="file") from None


def _take_in_modestly(maker: int, only_look: bool) -> Report:
    os.nice(MODEST)
    return _take_in(maker, only_look)


def _take_in(maker: int, only_look: bool) -> Report:
    user = User.objects.get(pk=maker)
    with stashed(user) as file:
        return import_records(user, file, only_look=only_look)
