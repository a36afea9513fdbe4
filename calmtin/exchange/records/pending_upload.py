"""A file that was looked over, kept until its maker agrees: one for each, in the data folder."""

from __future__ import annotations

from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import PART_BYTES, RECORDS_BYTES
from calmtin.core.messages import said
from calmtin.exchange.import_process import run_for
from calmtin.exchange.records.archive import unpacked_size
from calmtin.exchange.records.reading import Report, import_records


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


def stash_part(user: Any, part: bytes, *, at: int, size: int) -> None:
    """Keep a part of a file that begins at byte `at` of `size`; the last one makes it whole.

    Raises `CalmTinError` for a part out of its order, and for more than a file may have.
    """
    path = _path(user)
    growing = path.with_suffix(".part")
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    if not 0 < size <= RECORDS_BYTES or at + len(part) > size or not 0 < len(part) <= PART_BYTES:
        raise CalmTinError(
            said("The file is larger than {records_bytes} MB.", records_bytes=RECORDS_BYTES // 1000000),
            field="file",
        )
    if at != (growing.stat().st_size if at and growing.exists() else 0):
        raise CalmTinError(gettext("Part of the file is missing. Send the file again."), field="file")
    with growing.open("ab" if at else "wb") as kept:
        growing.chmod(0o600)
        kept.write(part)
    if at + len(part) == size:
        growing.replace(path)


def stashed(user: Any) -> IO[bytes]:
    """Return the kept upload; raises `CalmTinError` if it has expired."""
    try:
        return _path(user).open("rb")
    except OSError:
        raise CalmTinError(
            gettext("The file is no longer available. Choose it again."), field="file"
        ) from None


def take_in_stashed(user: Any, *, only_look: bool = False) -> Report:
    """Take the file that is kept for `user` in, or only look it over, as `import_records` does."""
    with stashed(user) as file:
        size = unpacked_size(file)
    return run_for(_take_in, user, only_look, size=size)


def _take_in(user: Any, only_look: bool) -> Report:
    with stashed(user) as file:
        return import_records(user, file, only_look=only_look)


def drop(user: Any) -> None:
    """Let go of the file that was kept, whole or in parts."""
    for path in (_path(user), _path(user).with_suffix(".part")):
        path.unlink(missing_ok=True)
