"""Books and files of earlier versions: they open with everything that they said."""

from __future__ import annotations

import gzip
import os
import re
import sqlite3
import subprocess
import sys
import tempfile
import unittest
import zipfile
from contextlib import closing
from pathlib import Path
from unittest import mock

from django.db import connections
from django.test import TestCase
from django.urls import reverse

from calmtin.common import schema
from calmtin.common.schema import SCHEMA
from calmtin.exchange.backups import check_database
from calmtin.exchange.records.reading import import_records
from calmtin.packing.models import LabelText
from calmtin.packing.queries.trace_lot import pours_with
from calmtin.pantry.models import Correction, Lot, Movement, Withdrawal, with_left
from calmtin.pours.models import Leftover, Pour, PourFilling, WeighIn
from tests.bench_data import maker
from tests.exchange.test_records import InAFolder, rows_in, written

ROOT = Path(__file__).resolve().parents[2]
# A book of 1.0.2 with two makers, and the file of all records of one. On both benches infusions, a
# material, a container and a sheet of labels were corrected and deleted; a leftover's note was edited.
DATA = ROOT / "tests" / "data"


def tables(book: sqlite3.Connection) -> dict[str, list[str]]:
    """Return the statement that made each table, index and trigger, as a list of its words in order."""
    made = book.execute("SELECT name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite@_%' ESCAPE '@'")
    return {name: sorted(re.findall(r"[^\s(),]+", sql)) for name, sql in made if sql}


class EmptyBook(unittest.TestCase):
    def test_what_the_shipped_tables_lack_is_migrated(self) -> None:
        """A migration that is newer than the file runs by itself, on an empty database too."""
        text = SCHEMA.read_text()
        newest = re.findall(r"INSERT INTO \"django_migrations\".*'pantry','0012_uses'.*\n", text)
        self.assertEqual(len(newest), 1)
        with tempfile.TemporaryDirectory() as folder:
            older = Path(folder) / "schema.sql"
            older.write_text(text.replace(newest[0], ""))
            file = str(Path(folder) / "empty.sqlite3")
            connections.databases["empty"] = {**connections["default"].settings_dict, "NAME": file}
            self.addCleanup(connections.databases.pop, "empty")
            connection = connections["empty"]
            self.addCleanup(connection.close)
            with mock.patch.object(schema, "SCHEMA", older):
                self.assertFalse(schema.lay_schema(connection))
                self.assertIn("pantry_lot", connection.introspection.table_names())
                self.assertFalse(schema.lay_schema(connection))  # it is not empty any more


class OldBook(TestCase):
    """A book of 1.0.2 is migrated as script/serve does it."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.file, cls.copies = Path(folder.name) / "calmtin.sqlite3", Path(folder.name) / "copies"
        with closing(sqlite3.connect(cls.file)) as book:
            book.executescript(gzip.decompress((DATA / "book_1_0_2.sql.gz").read_bytes()).decode())
        cls.before = cls.sums(cls.file)
        environment = {**os.environ, "CALMTIN_DATA": folder.name}
        command = [sys.executable, "manage.py", "migrate", "--settings", "calmtin.config.settings"]
        subprocess.run(command, env=environment, cwd=ROOT, check=True, capture_output=True)

    @staticmethod
    def sums(file: Path) -> list[tuple[object, ...]]:
        """Return what is left of each lot, g."""
        with closing(sqlite3.connect(file)) as book:
            return book.execute(
                "SELECT lot_id, round(sum(grams), 2), count(*) FROM pantry_movement GROUP BY lot_id"
            ).fetchall()

    def ask(self, question: str) -> list[tuple[object, ...]]:
        with closing(sqlite3.connect(self.file)) as book:
            return book.execute(question).fetchall()

    def test_a_copy_was_made_before(self) -> None:
        (copy,) = self.copies.glob("before-migration-*.zip")
        with zipfile.ZipFile(copy) as held:
            self.assertIn("calmtin.sqlite3", held.namelist())

    def test_its_tables_are_those_of_a_new_book(self) -> None:
        """A new book's tables are made in one step, an old book's by the steps that it replaces."""
        with closing(sqlite3.connect(self.file)) as book:
            upgraded, new = tables(book), tables(connections["default"].connection)
        self.assertEqual(upgraded.keys(), new.keys())
        self.assertEqual([name for name in new if upgraded[name] != new[name]], [])

    def test_the_shipped_tables_are_those_of_all_migrations(self) -> None:
        """`manage.py schema --write` renews them after a migration was added."""
        with closing(sqlite3.connect(":memory:")) as shipped:
            shipped.executescript(SCHEMA.read_text())
            asked = "SELECT app, name FROM django_migrations"
            self.assertEqual(set(shipped.execute(asked)), set(self.ask(asked)))
            # An old book also has the permissions of tables that have moved to another app since.
            asked = (
                "SELECT c.app_label, c.model, p.codename FROM auth_permission p"
                " JOIN django_content_type c ON c.id = p.content_type_id"
            )
            self.assertLessEqual(set(shipped.execute(asked)), set(self.ask(asked)))

    def test_it_is_sound_and_every_gram_is_where_it_was(self) -> None:
        self.assertEqual(check_database(self.file), {"makers": 2, "formulas": 4, "pours": 8})
        self.assertEqual(self.sums(self.file), self.before)

    def test_what_was_named_in_words_is_referred_to(self) -> None:
        took = "SELECT count(*) FROM pantry_movement WHERE withdrawal_id IS NULL AND kind IN {}"
        self.assertEqual(self.ask(took.format("('weighed', 'put_back', 'used')")), [(0,)])
        lost = "SELECT count(*) FROM pours_weighin w JOIN pours_weighline l ON l.id = w.line_id "
        lost += "WHERE w.withdrawal_id IS NULL AND l.material = 'olive_oil'"
        self.assertEqual(self.ask(lost), [(0,)])
        self.assertEqual(
            self.ask("SELECT p.code, l.note FROM pours_leftover o JOIN pours_pour p ON p.id = o.pour_id "
                     "JOIN pantry_lot l ON l.id = o.lot_id WHERE p.owner_id = 1 ORDER BY 1"),
            [("OH-01", "from the rowing club day"), ("OH-02", "left over from OH-02")],
        )  # fmt: skip
        own = "SELECT container, c.name FROM {} f JOIN pantry_owncontainer c ON c.id = f.own_container_id"
        for table in ("pours_pour", "pours_pourfilling"):
            self.assertEqual(self.ask(own.format(table)), [("", "Bailer tin")] * 4)
        self.assertEqual(
            self.ask("SELECT t.sheet, s.name FROM pours_labeltext t LEFT JOIN pours_labelsheet s "
                     "ON s.id = t.own_sheet_id ORDER BY t.id"),
            [("", "Reel"), ("", None)] * 2,
        )  # fmt: skip

    def test_what_could_not_be_found_keeps_its_words(self) -> None:
        words = "SELECT words FROM pantry_{} WHERE words <> '' AND owner_id = 1 ORDER BY id"
        untold = [("infusion 3",), ("infusion 3, corrected 1",), ("infusion 4",)]
        self.assertEqual(self.ask(words.format("withdrawal")), untold)
        deleted = [("own material 2",), ("own container 2",), ("infusion 3",)]
        self.assertEqual(self.ask(words.format("correction")), deleted)


class OldFile(InAFolder, TestCase):
    """The file of all records that 1.0.2 wrote, and refused to read again."""

    def setUp(self) -> None:
        super().setUp()
        self.user = maker("cox")
        with (DATA / "records_1.zip").open("rb") as file:
            self.report = import_records(self.user, file)

    def test_it_comes_in_with_what_it_referred_to(self) -> None:
        self.assertEqual(self.report.added["pours"], 4)
        reading = WeighIn.objects.filter(line__material="olive_oil", withdrawal__isnull=True)
        self.assertFalse(reading.exists())
        took = Movement.objects.filter(withdrawal=None).exclude(kind__in=("bought", "corrected"))
        self.assertFalse(took.exists())
        self.assertEqual(
            {pour.own_container.name for pour in Pour.objects.exclude(own_container=None)}, {"Bailer tin"}
        )
        self.assertEqual(PourFilling.objects.exclude(own_container=None).count(), 2)
        told = LabelText.objects.order_by("pk").values_list("sheet", "own_sheet__name")
        self.assertEqual(list(told), [("", "Reel"), ("", None)])
        self.assertEqual(
            sorted(Leftover.objects.values_list("pour__code", "lot__note")),
            [("OH-01", "from the rowing club day"), ("OH-02", "left over from OH-02")],
        )
        self.assertEqual(Correction.objects.exclude(words="").count(), 3)
        self.assertEqual(Withdrawal.objects.exclude(words="").count(), 3)
        self.client.force_login(self.user)
        page = self.client.get(reverse("exchange:records"))
        self.assertContains(page, "6 records whose source was deleted")
        self.assertContains(page, "taken from the pantry for infusion")

    def test_a_lot_is_traced_through_an_infusion_and_a_leftover_whose_note_was_edited(self) -> None:
        oil = Lot.objects.get(material="olive_oil", movements__kind="bought")
        self.assertEqual(
            {found.pour.code for found in pours_with(self.user, oil)}, {"OH-01", "OH-02", "SF-01"}
        )

    def test_it_goes_out_and_in_again_without_a_difference(self) -> None:
        mine = written(self.user)
        other = maker("bow")
        import_records(other, mine)
        self.assertEqual(rows_in(written(other)), rows_in(mine))
        # The old file once more adds nothing: its rows are known by their keys.
        with (DATA / "records_1.zip").open("rb") as file:
            again = import_records(self.user, file)
        self.assertEqual((again.added, again.left), ({}, 0))

    def test_the_ledger_of_the_file_comes_to_what_it_came_to(self) -> None:
        left = {lot.material: lot.left for lot in with_left(Lot.objects.of(self.user))}
        self.assertEqual(left["olive_oil"] > 0, True)
        self.assertEqual(sum(lot.left for lot in with_left(Lot.objects.of(self.user))), sum(
            movement.grams for movement in Movement.objects.of(self.user)
        ))  # fmt: skip
