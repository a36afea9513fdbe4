"""Hash one password at a time, so that strangers who knock leave the processor to those who are in."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, Lock
from typing import Any

from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError

QUEUE = 1  # who may wait while one password is hashed; each of them holds a thread of the server
WAIT_S = 3.0

_hashing = Lock()
_places = BoundedSemaphore(1 + QUEUE)


class TooManySigningIn(CalmTinError):
    """Other passwords are being checked; this one has to wait."""

    status = 503


@contextmanager
def hashing_slot() -> Iterator[None]:
    """Hold the one place for hashing; raises `TooManySigningIn` where the queue is full or too slow."""
    refused = TooManySigningIn(gettext("Others are signing in at the moment. Try again in a few seconds."))
    if not _places.acquire(blocking=False):
        raise refused
    try:
        if not _hashing.acquire(timeout=WAIT_S):
            raise refused
        try:
            yield
        finally:
            _hashing.release()
    finally:
        _places.release()


class OneAtATimePBKDF2(PBKDF2PasswordHasher):
    """Django's usual hash, of which one is worked out at a time."""

    def encode(self, password: str, salt: str, iterations: int | None = None) -> Any:
        """Return the hash; raises `TooManySigningIn`."""
        with hashing_slot():
            return super().encode(password, salt, iterations)
