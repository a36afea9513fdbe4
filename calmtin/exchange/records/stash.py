"""A file that was looked over, kept until its maker agrees: one for each, in the data folder."""

from __future__ import annotations

from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from calmtin.core.errors import CalmTinError


def _path(user: Any) -> Path:
    return Path(settings.DATA_DIR) / "incoming" / f"{user.pk}.zip"


def stash(user: Any, sent: UploadedFile[Any]) -> None:
    """Keep a file that was sent; it takes the place of one that was kept before."""
    path = _path(user)
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    with path.open("wb") as kept:
        path.chmod(0o600)
        for chunk in sent.chunks():
            kept.write(chunk)


def stashed(user: Any) -> IO[bytes]:
    """Return the file that was kept; raises `CalmTinError` where there is none any more."""
    try:
        return _path(user).open("rb")
    except OSError:
        raise CalmTinError("The file is not here any more. Choose it again.", field="file") from None


def size_of_stashed(user: Any) -> int:
    """Return how many bytes the file that was kept has; 0 where there is none."""
    path = _path(user)
    return path.stat().st_size if path.exists() else 0


def drop(user: Any) -> None:
    """Let go of the file that was kept."""
    _path(user).unlink(missing_ok=True)
