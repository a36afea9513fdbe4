"""Replace the book by a copy so that any interruption leaves one whole book.

The copy is unpacked and checked beside the book, and everything is written to the disk. Then one file,
the plan, is put in place: from that moment the copy is the book. The renames that follow can be done
again from the plan, so a start that finds one finishes them. Before the plan the book is as it was.
"""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from itertools import count
from pathlib import Path
from typing import Any

from django.conf import settings
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.backups import (
    DATABASE,
    MEDIA,
    check_database,
    checkpoint,
    copies_folder,
    database_file,
    folder_alone,
    read_manifest,
    tidy_modes,
)

PLAN = "restore.json"
HELD = "holds-a-book"  # a file that a folder gets with its first book and keeps


def _data() -> Path:
    return Path(settings.DATA_DIR)


def _sync(path: Path) -> None:
    """Have the disk write a file, or the names in a folder, before going on."""
    if os.name == "nt" and path.is_dir():  # Windows cannot open a folder
        return
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


class Restoring:
    """A verified copy, ready to replace the book."""

    def __init__(self, file: Path) -> None:
        self.manifest = read_manifest(file)
        _data().mkdir(parents=True, exist_ok=True)
        self.folder = Path(tempfile.mkdtemp(dir=_data(), prefix=".restoring-"))
        try:
            with zipfile.ZipFile(file) as archive:
                archive.extractall(self.folder)
            (self.folder / MEDIA).mkdir(exist_ok=True)
            self.holds = check_database(self.folder / DATABASE)
            for path in [*self.folder.rglob("*"), self.folder]:
                _sync(path)
        except BaseException:
            self.drop()
            raise

    def drop(self) -> None:
        """Leave everything as it is."""
        shutil.rmtree(self.folder, ignore_errors=True)

    def replace_book(self) -> Path | None:
        """Replace the book by the copy; return the folder that keeps the replaced book."""
        with folder_alone():
            kept = _free_name()
            if database_file().exists():
                # What was committed last stands in a file of its own until it is brought in.
                checkpoint()
                _sync(database_file())
            _write_plan({"copy": self.folder.name, "kept": kept.name})
            _carry_out(self.folder, kept)
        tidy_modes()
        return kept if kept.exists() else None


def _free_name() -> Path:
    stamp = f"replaced-{timezone.localtime():%Y-%m-%d-%H%M%S}"
    return _unused(_data() / stamp)


def _write_plan(plan: dict[str, str]) -> None:
    """Put the plan in place: whole or not at all."""
    unfinished = _data() / f".{PLAN}"
    with unfinished.open("w") as handle:
        json.dump(plan, handle)
        handle.flush()
        os.fsync(handle.fileno())
    unfinished.replace(_data() / PLAN)
    _sync(_data())


def _carry_out(copy: Path, kept: Path) -> None:
    """Do what the plan says, from wherever it was left: the old book out, then the copy in."""
    book, media = database_file(), Path(settings.MEDIA_ROOT)
    if (copy / DATABASE).exists():  # it goes in last
        old = [book, Path(f"{book}-wal"), Path(f"{book}-shm")]
        if (copy / MEDIA).is_dir():  # it is not in yet, so what is there is the old one
            old.append(media)
        for path in old:
            if path.exists():
                kept.mkdir(mode=0o700, exist_ok=True)
                path.rename(_unused(kept / path.name))
        if kept.exists():
            _sync(kept)
        if (copy / MEDIA).is_dir():
            (copy / MEDIA).rename(media)
        (copy / DATABASE).rename(book)
        _sync(_data())
    (_data() / PLAN).unlink()
    _sync(_data())
    shutil.rmtree(copy, ignore_errors=True)


def _unused(path: Path) -> Path:
    """Return a name that nothing has: a command may have made an empty book since it was interrupted."""
    return next(p for n in count(1) if not (p := path if n == 1 else Path(f"{path}-{n}")).exists())


def finish_restore() -> str:
    """Finish an interrupted restore, or clean up one that never began; return what was done.

    The folder is held by the caller. Raises `CalmTinError` where neither can be done.
    """
    plan_file = _data() / PLAN
    if not plan_file.exists():
        for left in _data().glob(".restoring-*"):
            shutil.rmtree(left, ignore_errors=True)
        return ""
    plan = _read_plan(plan_file)
    copy, kept = _data() / plan["copy"], _data() / plan["kept"]
    if not (copy / DATABASE).exists() and not database_file().exists():
        raise CalmTinError(
            said(
                "A restore was interrupted and the copy in {copy} is gone. What was here before is "
                "in {kept}: move the files in it back to {data}, delete {plan_file}, and start again.",
                copy=copy,
                kept=kept,
                data=_data(),
                plan_file=plan_file,
            )
        )
    _carry_out(copy, kept)
    finished = gettext("A restore had been interrupted. It is finished now.")
    if kept.exists():
        return f"{finished} {said('What was here before is in {kept}.', kept=kept)}"
    return finished


def _read_plan(file: Path) -> dict[str, Any]:
    try:
        plan: dict[str, Any] = json.loads(file.read_text())
        if Path(plan["copy"]).name == plan["copy"] and Path(plan["kept"]).name == plan["kept"]:
            return plan
    except (ValueError, KeyError, TypeError):
        pass
    raise CalmTinError(
        said("{file} is not a plan of Calm Tin’s. Move it away, then start again.", file=file)
    )


def has_book() -> bool:
    """Return whether the database has tables: whatever opens one that is missing makes an empty file."""
    if not database_file().exists():
        return False
    try:
        with closing(sqlite3.connect(f"file:{database_file()}?mode=ro", uri=True)) as book:
            return bool(book.execute("SELECT count(*) FROM sqlite_master").fetchone()[0])
    except sqlite3.DatabaseError:
        return True  # damaged, and so not new


def refuse_lost_book() -> None:
    """Refuse to create a new book where the file of an existing one is missing.

    Raises `CalmTinError` with what to do.
    """
    if has_book():
        return
    traces = [_data() / HELD, *copies_folder().glob("*.zip"), *_data().glob("replaced-*")]
    if any(trace.exists() for trace in traces):
        raise CalmTinError(
            said(
                "{data} held a database, and its file {name} is missing. Put it back, or restore a backup: "
                "script/manage restore {copies_folder}/… To start an empty database, use another folder.",
                data=_data(),
                name=database_file().name,
                copies_folder=copies_folder(),
            )
        )


def mark_held() -> None:
    """Keep that a folder holds a book, once it does."""
    marker = _data() / HELD
    if not marker.exists():
        marker.write_text(gettext("Calm Tin keeps its database in this folder. Leave this file here.\n"))
        _sync(_data())
