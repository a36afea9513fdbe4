"""Copies of the book: written under load, checked before they replace anything."""

from __future__ import annotations

import atexit
import io
import json
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Callable
from contextlib import closing
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path
from threading import Event, Thread
from typing import Any
from unittest import mock

from django.core.management import CommandError, call_command
from django.test import SimpleTestCase, override_settings
from django.utils import timezone

from calmtin.core.errors import CalmTinError
from calmtin.exchange import backups, restoring


class WithBook(SimpleTestCase):
    """A book of its own in a folder of its own, beside the tests' database."""

    databases: set[str] = set()

    def setUp(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="calmtin-data-"))
        self.addCleanup(shutil.rmtree, self.data)
        self.book = self.data / "calmtin.sqlite3"
        shutil.copy(_empty_book(), self.book)
        databases = {"default": {"ENGINE": "django.db.backends.sqlite3", "NAME": self.book}}
        changed = override_settings(DATA_DIR=self.data, MEDIA_ROOT=self.data / "media", DATABASES=databases)
        changed.enable()
        self.addCleanup(changed.disable)

    def add(self, name: str, book: Path | None = None) -> None:
        with closing(sqlite3.connect(book or self.book)) as db:
            db.execute("PRAGMA journal_mode=WAL")
            db.execute(
                "INSERT INTO accounts_user (username, password, is_superuser, first_name, last_name, email,"
                " is_staff, is_active, date_joined) VALUES (?, '', 0, '', '', '', 0, 1, '2026-01-01')",
                [name],
            )
            db.commit()

    def names(self, book: Path | None = None) -> list[str]:
        with closing(sqlite3.connect(book or self.book)) as db:
            return [name for (name,) in db.execute("SELECT username FROM accounts_user ORDER BY id")]


@cache
def _empty_book() -> Path:
    """Return a migrated book that is copied for every test."""
    data = Path(tempfile.mkdtemp(prefix="calmtin-book-"))
    atexit.register(shutil.rmtree, data)
    module = "calmtin.config.settings"
    environment = {**os.environ, "CALMTIN_DATA": str(data), "DJANGO_SETTINGS_MODULE": module}
    command = [sys.executable, "manage.py", "migrate", "-v0"]
    subprocess.run(command, env=environment, check=True, capture_output=True)
    return data / "calmtin.sqlite3"


class Copies(WithBook):
    def test_what_is_only_in_the_log_is_in_the_copy(self) -> None:
        with closing(sqlite3.connect(self.book)) as reader:
            reader.execute("PRAGMA journal_mode=WAL")
            reader.execute("BEGIN")
            reader.execute("SELECT 1 FROM accounts_user").fetchall()
            self.add("cox")
            self.assertGreater((self.data / "calmtin.sqlite3-wal").stat().st_size, 0)
            written = backups.write_backup(self.data / "copy.zip")
        (self.data / "media").mkdir()
        self.add("bow")
        restoring.Restoring(written).replace_book()
        self.assertEqual(self.names(), ["cox"])

    def test_a_copy_under_load_restores_to_a_consistent_state(self) -> None:
        """Twenty writes a second, each of two rows that belong together."""
        stop, done = Event(), []

        def write() -> None:
            with closing(sqlite3.connect(self.book, timeout=20)) as db:
                db.execute("PRAGMA journal_mode=WAL")
                while not stop.wait(0.05):
                    n = len(done)
                    for half in ("stroke", "bow"):
                        db.execute(
                            "INSERT INTO accounts_user (username, password, is_superuser, first_name,"
                            " last_name, email, is_staff, is_active, date_joined)"
                            " VALUES (?, '', 0, '', '', '', 0, 1, '2026-01-01')",
                            [f"{half} {n}"],
                        )
                    db.commit()
                    done.append(n)

        writer = Thread(target=write)
        writer.start()
        try:
            copies = []
            for n in range(5):
                before = len(done)
                copies.append((before, backups.write_backup(self.data / f"copy-{n}.zip")))
                stop.wait(0.15)
        finally:
            stop.set()
            writer.join()
        self.assertGreater(len(done), 5)
        for before, file in copies:
            restoring.Restoring(file).replace_book()
            names = self.names()
            self.assertEqual(len(names) % 2, 0)
            self.assertGreaterEqual(len(names) // 2, before)

    def test_media_come_along_and_what_was_replaced_is_kept(self) -> None:
        photo = self.data / "media" / "pours" / "1.jpg"
        photo.parent.mkdir(parents=True)
        photo.write_bytes(b"set")
        self.add("cox")
        file = backups.write_backup()
        photo.write_bytes(b"grainy")
        self.add("bow")
        kept = restoring.Restoring(file).replace_book()
        self.assertEqual((photo.read_bytes(), self.names()), (b"set", ["cox"]))
        self.assertEqual((kept / "media/pours/1.jpg").read_bytes(), b"grainy")
        self.assertEqual(self.names(kept / "calmtin.sqlite3"), ["cox", "bow"])
        self.assertEqual(self.book.stat().st_mode & 0o777, 0o600)

    def test_a_copy_is_never_overwritten(self) -> None:
        file = backups.write_backup(self.data / "copy.zip")
        with self.assertRaises(CommandError):
            call_command("backup", str(file))


class WrongFiles(WithBook):
    def refused(self, file: Path, words: str) -> None:
        before = self.book.read_bytes()
        with self.assertRaisesRegex(CommandError, words):
            call_command("restore", str(file), "--yes")
        self.assertEqual(self.book.read_bytes(), before)
        left = {path.name for path in self.data.iterdir()} - {file.name}
        self.assertEqual(left, {"calmtin.sqlite3"})

    def forged(self, **members: bytes) -> Path:
        """Write a copy whose manifest agrees with what is in it."""
        import hashlib

        file = self.data / "forged.zip"
        sums = {name: hashlib.sha256(data).hexdigest() for name, data in members.items()}
        manifest = {"format": "calmtin.backup", "version": 1, "written": "2026-05-01", "sha256": sums}
        with zipfile.ZipFile(file, "w") as archive:
            archive.writestr("manifest.json", json.dumps(manifest))
            for name, data in members.items():
                archive.writestr(name, data)
        return file

    def test_broken_cut_and_foreign_files_change_nothing(self) -> None:
        whole = backups.write_backup(self.data / "copy.zip").read_bytes()
        file = self.data / "copy.zip"
        for cut in (0, 10, len(whole) // 2, len(whole) - 1):
            file.write_bytes(whole[:cut])
            self.refused(file, "not a complete|damaged")
        # Inside the book itself: a byte of a date in the archive's own tables would not matter.
        with zipfile.ZipFile(io.BytesIO(whole)) as archive:
            (book,) = [member for member in archive.infolist() if member.filename.endswith(".sqlite3")]
        first, size = book.header_offset + 200, book.compress_size - 400
        for place in range(first, first + size, size // 12):
            file.write_bytes(whole[:place] + bytes([whole[place] ^ 0xFF]) + whole[place + 1 :])
            self.refused(file, "not a complete|damaged|not whole")
        file.write_text("what,material")
        self.refused(file, "not a complete")

    def test_other_databases_and_other_members_are_refused(self) -> None:
        other = self.data / "other.sqlite3"
        with closing(sqlite3.connect(other)) as db:
            db.execute("CREATE TABLE recipes (name)")
            db.commit()
        data = other.read_bytes()
        other.unlink()
        self.refused(self.forged(**{"calmtin.sqlite3": data}), "is not Calm Tin’s")
        self.refused(
            self.forged(**{"calmtin.sqlite3": b"SQLite format 3\0 and no more"}), "is not Calm Tin’s"
        )
        book = self.book.read_bytes()
        self.refused(self.forged(**{"calmtin.sqlite3": book, "media/../../x": b"!"}), "do not belong")
        self.refused(self.forged(**{"calmtin.sqlite3": book, "secret_key": b"!"}), "do not belong")
        self.refused(self.forged(other=b"1"), "incomplete")

    def test_a_newer_book_is_refused_with_a_clear_sentence(self) -> None:
        newer = self.data / "newer.sqlite3"
        shutil.copy(self.book, newer)
        with closing(sqlite3.connect(newer)) as db:
            db.execute(
                "INSERT INTO django_migrations (app, name, applied)"
                " VALUES ('pours', '0099_fill', '2027-01-01')"
            )
            db.commit()
        data = newer.read_bytes()
        newer.unlink()
        self.refused(self.forged(**{"calmtin.sqlite3": data}), "written by a newer Calm Tin .*0099_fill")

    def test_nothing_is_replaced_while_the_server_runs(self) -> None:
        file = backups.write_backup(self.data / "copy.zip")
        before = self.book.read_bytes()
        with backups.folder_alone(), self.assertRaisesRegex(CommandError, "Stop it first"):
            call_command("restore", str(file), "--yes")
        self.assertEqual(self.book.read_bytes(), before)


class Interrupted(WithBook):
    """A restore that is stopped anywhere leaves the old book or the new one, and a start says which."""

    def setUp(self) -> None:
        super().setUp()
        (self.data / "media").mkdir()
        (self.data / "media" / "1.jpg").write_bytes(b"new")
        self.add("cox")
        self.file = backups.write_backup(self.data / "copy.zip")
        (self.data / "media" / "1.jpg").write_bytes(b"old")
        self.add("bow")

    def restore_until(self, step: int) -> bool:
        """Restore, and fail as a killed process would before the disk changes for the `step`-th time."""
        copy = restoring.Restoring(self.file)
        done = 0

        def counted(real: Callable[..., Any]) -> Callable[..., Any]:
            def change(*args: Any, **kwargs: Any) -> Any:
                nonlocal done
                done += 1
                if done == step:
                    raise KeyboardInterrupt
                return real(*args, **kwargs)

            return change

        changes = {name: counted(getattr(Path, name)) for name in ("rename", "replace", "unlink", "mkdir")}
        try:
            with mock.patch.multiple(Path, **changes):
                copy.replace_book()
        except KeyboardInterrupt:
            return True
        return False

    def state(self) -> tuple[list[str], bytes]:
        return self.names(), (self.data / "media" / "1.jpg").read_bytes()

    def test_wherever_it_stops_a_start_has_a_whole_book(self) -> None:
        old, new = (["cox", "bow"], b"old"), (["cox"], b"new")
        seen, step = set(), 1
        while self.restore_until(step):
            planned = (self.data / restoring.PLAN).exists()
            words = restoring.finish_restore()
            self.assertEqual(self.state(), new if planned else old, step)
            self.assertEqual(bool(words), planned)
            if planned:
                self.assertIn("A restore had been interrupted. It is finished now. What was here", words)
                [kept] = self.data.glob("replaced-*")
                self.assertEqual(self.names(kept / "calmtin.sqlite3"), old[0])
                self.assertEqual((kept / "media" / "1.jpg").read_bytes(), b"old")
                shutil.rmtree(kept)
                (self.data / "media" / "1.jpg").write_bytes(b"old")
                self.add("bow")
            self.assertEqual([*self.data.glob(".restoring-*"), *self.data.glob(restoring.PLAN)], [])
            self.assertEqual(restoring.finish_restore(), "")
            seen.add(planned)
            step += 1
        self.assertEqual((seen, self.state()), ({True, False}, new))

    def test_a_command_that_made_an_empty_book_in_between_loses_nothing(self) -> None:
        step = 1
        while self.restore_until(step) and self.book.exists():
            restoring.finish_restore()
            for kept in self.data.glob("replaced-*"):
                shutil.rmtree(kept)
                self.add("bow")
            step += 1
        sqlite3.connect(self.book).close()
        self.book.touch()
        restoring.finish_restore()
        self.assertEqual(self.state(), (["cox"], b"new"))
        [kept] = self.data.glob("replaced-*")
        self.assertEqual(self.names(kept / "calmtin.sqlite3"), ["cox", "bow"])

    def test_a_folder_that_held_a_book_is_never_taken_for_new(self) -> None:
        restoring.mark_held()
        self.book.unlink()
        for empty in (False, True):
            if empty:  # as a command leaves it that opened what was not there
                sqlite3.connect(self.book).execute("PRAGMA journal_mode=WAL")
            with self.assertRaisesMessage(CalmTinError, "held a database, and its file calmtin.sqlite3 is"):
                restoring.refuse_lost_book()
        (self.data / restoring.HELD).unlink()
        shutil.rmtree(self.data / "copies", ignore_errors=True)
        self.book.unlink()
        restoring.refuse_lost_book()  # a new folder


class DailyCopies(WithBook):
    def test_seven_days_and_four_weeks_are_kept(self) -> None:
        first = timezone.make_aware(datetime(2026, 3, 2, 9))
        copies: list[Path] = []
        for day in range(60):
            now = first + timedelta(days=day)
            copies.append(Path(f"daily-{now:%Y-%m-%d}.zip"))
            gone = backups.old_copies(copies, now)
            copies = [path for path in copies if path not in gone]
        kept = [path.stem.removeprefix("daily-") for path in copies]
        last = (first + timedelta(days=59)).date()
        self.assertEqual(kept[-7:], [str(last - timedelta(days=n)) for n in range(6, -1, -1)])
        self.assertEqual(len(kept), 11)
        weeks = [datetime.fromisoformat(day).isocalendar()[1] for day in kept[:4]]
        self.assertEqual(weeks, list(range(weeks[0], weeks[0] + 4)))

    def test_the_settings_page_says_when(self) -> None:
        self.assertIn("no backup yet", backups.copy_notes()[0])
        old = self.data / "copies" / "daily-2026-01-01.zip"
        old.parent.mkdir()
        old.touch()
        self.assertEqual(backups.copy_if_due(), backups.daily_copies()[-1])
        self.assertIsNone(backups.copy_if_due())
        self.assertFalse(old.exists())
        self.assertIn("Last backup", backups.copy_notes()[0])
