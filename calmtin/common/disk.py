"""What a disk that is full, or may not be written to, says in words."""

from __future__ import annotations

import errno
import sqlite3

from django.utils.translation import gettext_noop

# A disk that is full, a quota that is used up, a file that may not grow.
FULL = {errno.ENOSPC, errno.EDQUOT, errno.EFBIG}
DISK_FULL = gettext_noop("The disk is full, so nothing was saved. Free some space, then try again.")


def is_full(error: BaseException) -> bool:
    """Return whether an error says that there is no room left."""
    if isinstance(error, OSError):
        return error.errno in FULL
    return isinstance(error, sqlite3.OperationalError) and "full" in str(error).lower()


def disk_words(error: BaseException) -> str:
    """Return the message for an error of the disk or the database."""
    return DISK_FULL if is_full(error) else str(error)
