"""A code that a phone reads from a screen or a label."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

import segno

QUIET = 4  # modules of white around it, by ISO/IEC 18004; white paper around it counts too


@dataclass(frozen=True)
class QR:
    """A QR code: its width in modules, quiet zone included, and its dark rows (x, y, length)."""

    width: int
    dark: tuple[tuple[int, int, int], ...]
    address: str

    @property
    def path(self) -> str:
        """The dark modules as one path."""
        return "".join(f"M{x} {y}h{length}v1h-{length}z" for x, y, length in self.dark)


def qr_code(address: str, *, quiet: int = QUIET) -> QR:
    """Return the QR code of an address, that can be read with an eighth of it dirty.

    >>> qr_code("https://192.168.0.7:8443/").width
    33
    """
    runs = []
    matrix = segno.make_qr(address, error="m").matrix
    for y, row in enumerate(matrix, start=quiet):
        x = quiet
        for is_dark, modules in groupby(row):
            length = len(list(modules))
            if is_dark:
                runs.append((x, y, length))
            x += length
    return QR(len(matrix) + 2 * quiet, tuple(runs), address)
