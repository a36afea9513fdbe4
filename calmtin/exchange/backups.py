"""Copies of the whole book: written while it is in use, checked before they replace anything.

A copy is one zip file with the database, the media and a manifest of their checksums.
"""

from __future__ import annotations

import hashlib
import json
import os
import sqlite3
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db.migrations.loader import MigrationLoader
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext
from filelock import FileLock, Timeout

from calmtin.accounts.models import PORTER
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said

FORMAT, VERSION = "calmtin.backup", 1
DATABASE, MANIFEST, MEDIA = "calmtin.sqlite3", "manifest.json", "media/"
DAILY, WEEKLY = 7, 4
MOST_BYTES = 50 * 2**30
# PRAGMA application_id: "CTbk" for a maker's book, "CTdm" for the demo's.
BOOK_MARK, DEMO_MARK = 0x4354626B, 0x4354646D


class BadBackup(CalmTinError):
    """A file that is no whole copy of a book, or one that this Calm Tin cannot read."""


def database_file() -> Path:
    """Return the file of this installation's database."""
    return Path(str(settings.DATABASES["default"]["NAME"]))


def copies_folder() -> Path:
    """Return where this installation keeps its own copies."""
    return Path(settings.DATA_DIR) / "copies"


@contextmanager
def folder_alone() -> Iterator[None]:
    """Hold the lock of the data folder, to serve from it or to replace its contents.

    Raises `CalmTinError` where a server or a restore holds it.
    """
    folder = Path(settings.DATA_DIR)
    folder.mkdir(parents=True, exist_ok=True)
    lock = FileLock(folder / "server.lock", timeout=0)
    try:
        lock.acquire()
    except Timeout:
        raise CalmTinError(
            said(
                "Calm Tin is already running on {folder}, or a backup is being restored there. "
                "Stop it first, or use another folder (CALMTIN_DATA).",
                folder=folder,
            )
        ) from None
    try:
        yield
    finally:
        lock.release()


def write_backup(target: Path | None = None) -> Path:
    """Write a backup to `target` and verify it; the server may keep running.

    Raises `CalmTinError` when there is no book yet, or the file is there already.
    """
    if not database_file().exists():
        raise CalmTinError(gettext("There is nothing to back up yet."))
    if target is None:
        target = copies_folder() / f"calm-tin-{timezone.localtime():%Y-%m-%d-%H%M%S}.zip"
    if target.exists():
        raise CalmTinError(
            said(
                "{target} already exists. Choose another name; backups are never overwritten.",
                target=target,
            )
        )
    target.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=target.parent, prefix=".copying-") as folder:
        database = Path(folder) / DATABASE
        with (
            closing(sqlite3.connect(database_file())) as source,
            closing(sqlite3.connect(database)) as copy,
        ):
            # All pages in one step: a single read of the book, whatever is written meanwhile.
            source.backup(copy, pages=-1)
            copy.execute("PRAGMA journal_mode = DELETE")
        check_database(database)
        unfinished = Path(folder) / "copy.zip"
        _zip(unfinished, database)
        read_manifest(unfinished)
        with unfinished.open("rb") as handle:
            os.fsync(handle.fileno())
        unfinished.replace(target)
    return target


def _zip(file: Path, database: Path) -> None:
    media = Path(settings.MEDIA_ROOT)
    found = [path for path in sorted(media.rglob("*")) if path.is_file()] if media.is_dir() else []
    members = {DATABASE: database} | {MEDIA + str(path.relative_to(media)): path for path in found}
    manifest = {
        "format": FORMAT,
        "version": VERSION,
        "written": timezone.now().isoformat(timespec="seconds"),
        "sha256": {name: _sha256(path.open("rb")) for name, path in members.items()},
    }
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(MANIFEST, json.dumps(manifest, indent=2))
        for name, path in members.items():
            archive.write(path, name)


def _sha256(handle: Any) -> str:
    with handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def read_manifest(file: Path) -> dict[str, Any]:
    """Return the manifest of a copy whose every byte is as it was written, or refuse it."""
    try:
        with zipfile.ZipFile(file) as archive:
            if sum(member.file_size for member in archive.infolist()) > MOST_BYTES:
                raise BadBackup(
                    gettext("This file unpacks to far more than a backup can hold. Nothing was changed.")
                )
            manifest = json.loads(archive.read(MANIFEST))
            if manifest.get("format") != FORMAT or manifest.get("version") != VERSION:
                raise BadBackup(gettext("This is not a Calm Tin backup, or one of a newer version."))
            sums = manifest["sha256"]
            if set(archive.namelist()) != {MANIFEST, *sums} or DATABASE not in sums:
                raise BadBackup(gettext("This backup is incomplete."))
            for name, wanted in sums.items():
                if name != DATABASE and (not name.startswith(MEDIA) or ".." in Path(name).parts):
                    raise BadBackup(gettext("This backup holds files that do not belong in a backup."))
                if _sha256(archive.open(name)) != wanted:
                    raise BadBackup(gettext("This backup is damaged."))
    except BadBackup:
        raise
    except (
        OSError,
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        AttributeError,
        TypeError,
        EOFError,
    ) as error:
        raise BadBackup(said("This is not a complete Calm Tin backup ({error}).", error=error)) from None
    except Exception as error:  # zlib and zipfile raise their own kinds on damaged data
        raise BadBackup(said("This backup is damaged ({error}).", error=error)) from None
    return manifest


def check_database(file: Path) -> dict[str, int]:
    """Return the contents of a database in words; refuse a broken, foreign or newer one."""
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as book:
            if book.execute("PRAGMA integrity_check").fetchone()[0] != "ok":
                raise BadBackup(gettext("The database in this copy is damaged."))
            if book.execute("PRAGMA foreign_key_check").fetchone():
                raise BadBackup(gettext("The database in this copy does not hold together."))
            applied = set(book.execute("SELECT app, name FROM django_migrations").fetchall())
            refuse_newer(applied)
            held = {
                "makers": "accounts_user WHERE id",
                "formulas": "formulas_formula WHERE owner_id",
                "pours": "pours_pour WHERE owner_id",
            }
            makers = f"(SELECT id FROM accounts_user WHERE username NOT LIKE '{PORTER}%')"
            return {
                name: book.execute(f"SELECT count(*) FROM {of} IN {makers}").fetchone()[0]
                for name, of in held.items()
            }
    except sqlite3.Error as error:
        raise BadBackup(
            said("The database in this backup is not Calm Tin’s ({error}).", error=error)
        ) from None


def refuse_newer(applied: set[tuple[str, str]]) -> None:
    """Raise `BadBackup` when a database has migrations that this code does not know."""
    loader = MigrationLoader(None, load=False)
    loader.load_disk()
    known = set(loader.disk_migrations)
    labels = {app for app, _ in known}
    newer = sorted(f"{app} {name}" for app, name in applied if app in labels and (app, name) not in known)
    if newer:
        raise BadBackup(
            said(
                "This database was written by a newer Calm Tin (it has {newer}). Update Calm Tin, then "
                "open it; nothing was changed.",
                newer=newer[-1],
            )
        )


def daily_copies() -> list[Path]:
    """Return the copies that the server made by itself, oldest first."""
    return sorted(copies_folder().glob("daily-*.zip"))


def newest_copy() -> datetime | None:
    """Return when the newest copy of this book was written, of whatever kind."""
    times = [path.stat().st_mtime for path in copies_folder().glob("*.zip")]
    return datetime.fromtimestamp(max(times), tz=timezone.get_current_timezone()) if times else None


def copy_notes() -> list[str]:
    """Return when the book was last backed up, for the settings page."""
    at = newest_copy()
    if at is None:
        return [gettext("There is no backup yet. The server makes one every day.")]
    return [
        said(
            "Last backup: {at}. The server keeps one of each of the last "
            "{daily} days and {weekly} weeks; script/manage backup writes one for you to take away.",
            at=date_format(at, "j F Y, H:i"),
            daily=DAILY,
            weekly=WEEKLY,
        )
    ]


def copy_if_due(today: datetime | None = None) -> Path | None:
    """Write today's copy unless there is one, and let go of the old ones."""
    now = today or timezone.localtime()
    target = copies_folder() / f"daily-{now:%Y-%m-%d}.zip"
    if target.exists() or not database_file().exists():
        return None
    written = write_backup(target)
    for path in old_copies(daily_copies(), now):
        path.unlink()
    return written


def old_copies(copies: list[Path], now: datetime) -> list[Path]:
    """Return the daily copies that are not kept: all but the last 7 days' and one of each of 4 weeks."""
    kept: set[Path] = set()
    weeks: dict[tuple[int, int], Path] = {}
    for path in copies:
        day = datetime.strptime(path.stem, "daily-%Y-%m-%d").date()
        if day > now.date() - timedelta(days=DAILY):
            kept.add(path)
        elif day > now.date() - timedelta(weeks=WEEKLY + 1):
            weeks.setdefault(day.isocalendar()[:2], path)
    kept.update(list(weeks.values())[-WEEKLY:])
    return [path for path in copies if path not in kept]


def tidy_modes() -> None:
    """Restrict the data folder to its owner: folders 0700, files 0600."""
    data = Path(settings.DATA_DIR)
    if not data.is_dir():
        return
    for path in [data, *data.rglob("*")]:
        wanted = 0o700 if path.is_dir() else 0o600
        # A copy in the making comes and goes beside the book.
        with suppress(FileNotFoundError):
            if not path.is_symlink() and path.stat().st_mode & 0o777 != wanted:
                path.chmod(wanted)


def check_book() -> None:
    """Refuse to open a book that is damaged; a quick look at every page of it.

    Raises `CalmTinError` with what to do.
    """
    if not database_file().exists():
        return
    try:
        with closing(sqlite3.connect(database_file(), timeout=20)) as book:
            sound = book.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok"
    except sqlite3.DatabaseError:
        sound = False
    if not sound:
        raise CalmTinError(
            said(
                "The database {database_file} is damaged. Restore a backup: script/manage restore "
                "{copies_folder}/… (the damaged one is kept).",
                database_file=database_file(),
                copies_folder=copies_folder(),
            )
        )


def mark_of(file: Path) -> int:
    """Return the mark of a database; 0 where it has none or is not there."""
    if not file.exists():
        return 0
    with closing(sqlite3.connect(file)) as book:
        return int(book.execute("PRAGMA application_id").fetchone()[0])


def set_mark(mark: int) -> None:
    """Mark this installation's database."""
    if mark_of(database_file()) == mark:
        return
    with closing(sqlite3.connect(database_file(), timeout=20)) as book:
        book.execute(f"PRAGMA application_id = {mark}")
        book.commit()


def checkpoint() -> None:
    """Bring everything into the database file itself, so that it is whole on its own."""
    with closing(sqlite3.connect(database_file(), timeout=5)) as book:
        book.execute("PRAGMA wal_checkpoint(TRUNCATE)")
