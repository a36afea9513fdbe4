"""Everything of a maker as one file: out and in again with nothing lost, doubled or believed too soon."""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Callable
from datetime import date
from decimal import Decimal
from functools import partial
from io import BytesIO, StringIO
from pathlib import Path
from typing import Any, cast
from unittest import mock
from zipfile import ZIP_DEFLATED, ZipFile

from django.apps import apps
from django.core.management import CommandError, call_command
from django.db import IntegrityError, connection, transaction
from django.test import SimpleTestCase, TestCase, override_settings
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as PropertyCase
from jsonschema import Draft202012Validator

from calmtin.accounts.models import PORTER, Bench, User
from calmtin.accounts.queries import makers
from calmtin.checks.queries.calibration import NOTHING_YET
from calmtin.common.models import Sent
from calmtin.common.owned import Owned
from calmtin.core.engine.firmness import rung_at
from calmtin.exchange.models import Carried, Origin
from calmtin.exchange.records.archive import BadRecords, open_records
from calmtin.exchange.records.reading import RecordsImport, import_records
from calmtin.exchange.records.staging import Staged, _bits
from calmtin.exchange.records.tables import TABLES
from calmtin.exchange.records.writing import write_records
from calmtin.exchange.upkeep import upkeep
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.services import add_finish, set_percent, start_next_version
from calmtin.packing.services import send_pieces
from calmtin.pantry import services as pantry
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, Movement, with_left
from calmtin.pours.models import Check, CheckPhoto, Pour, WeighIn
from calmtin.pours.services import cancel_pour, record_check, weigh
from tests.bench_data import Reads, a_picture, draft, maker, pour_of, salve

DAY = date(2026, 5, 1)


def written(user: User) -> BytesIO:
    """Return a maker's file."""
    file = BytesIO()
    write_records(user, file)
    return file


def rows_in(file: BytesIO) -> dict[str, dict[str, Any]]:
    """Return the rows of a file by table and key."""
    with ZipFile(file) as opened:
        return {
            table.name: {row["_key"]: row for row in json.loads(opened.read(f"records/{table.name}.json"))}
            for table in TABLES
        }


def photos_in(file: BytesIO) -> dict[str, bytes]:
    with ZipFile(file) as opened:
        return {name: opened.read(name) for name in opened.namelist() if name.startswith("photos/")}


def changed(file: BytesIO, name: str, change: Callable[[Any], Any]) -> BytesIO:
    """Return a file with one of its entries changed."""
    out = BytesIO()
    with ZipFile(file) as before, ZipFile(out, "w", ZIP_DEFLATED) as after:
        for entry in before.namelist():
            told = before.read(entry)
            after.writestr(entry, json.dumps(change(json.loads(told))) if entry == name else told)
    return out


class InAFolder:
    """A test case whose pictures and files lie in a folder of its own."""

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        inside = override_settings(MEDIA_ROOT=self.folder / "media", DATA_DIR=self.folder)
        inside.enable()
        self.addCleanup(inside.disable)

    def pictures(self) -> list[Path]:
        return sorted(self.folder.rglob("*.jpg"))


def a_bench(name: str) -> User:
    """Return a maker with one of each thing that a bench has much of."""
    user = maker(name)
    pantry.add_material(user, name="Reed wax", group="wax", behaves_like="soy_wax")
    tin = pantry.add_container(user, name="Bailer tin", brim_ml=70.0)
    pantry.buy_lot(user, material="beeswax_yellow", amount_g=Decimal(400), price=Decimal(9), bought_on=DAY)
    pantry.start_infusion(
        user,
        herb="calendula",
        herb_g=Decimal(20),
        oil="olive_oil",
        oil_g=Decimal(200),
        method="cold",
        started_on=DAY,
    )
    formula = salve(user)
    add_finish(user, formula, name="minty", parts=[("peppermint", Decimal("0.5"))])
    pour = pour_of(user, draft(formula), done=True)
    pour.fillings.update(container="", own_container=tin, container_name=tin.name)
    record_check(
        user,
        pour,
        temp_c=20.5,
        felt_rung=Decimal("4.5"),
        verdict="keep",
        signs={"grain": "1"},
        photo=a_picture(),
    )
    version = start_next_version(user, draft(formula))
    wax = version.lines.get(material="beeswax_yellow")
    set_percent(user, version, key=wax.key, percent=Decimal(20), seen=version.revision)
    send_pieces(user, pour, position=pour.fillings.get().position, went="given", count=1, on=DAY, who="bow")
    return user


class Whole(InAFolder, Reads, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.user = a_bench("stroke")
        self.file = written(self.user)
        self.other = User.objects.create_user("bow", password="oar-and-tallow-7")

    def test_every_table_travels(self) -> None:
        stays = {Bench, Sent, Carried, Origin}  # the bench travels as settings
        owned = {model for model in apps.get_models() if issubclass(model, Owned)}
        self.assertEqual(owned - stays, {table.model for table in TABLES})

    def test_its_rows_keep_to_the_schemas_in_it(self) -> None:
        with ZipFile(self.file) as opened:
            for table in TABLES:
                schema = json.loads(opened.read(f"schema/{table.name}.schema.json"))
                Draft202012Validator.check_schema(schema)
                Draft202012Validator(schema).validate(json.loads(opened.read(f"records/{table.name}.json")))
            lines = opened.read("csv/lines.csv").decode().splitlines()
        self.assertEqual(len(lines), 1 + len(rows_in(self.file)["lines"]))

    def test_out_and_in_it_is_the_same_bench(self) -> None:
        Bench.objects.filter(user=self.user).update(cold_c=4.0, label_maker="Tern Quay")
        self.user.refresh_from_db()
        self.file = written(self.user)
        import_records(self.other, self.file)
        again = written(self.other)
        self.assertEqual(rows_in(again), rows_in(self.file))
        self.assertEqual(photos_in(again), photos_in(self.file))
        self.assertEqual((self.other.bench.cold_c, self.other.bench.label_maker), (4.0, "Tern Quay"))
        # What was weighed still names its reading, what was filled its own container.
        weighed = Movement.objects.of(self.other).get(kind="weighed", lot__material="beeswax_yellow")
        reading = WeighIn.objects.of(self.other).get(line__material="beeswax_yellow")
        self.assertEqual(weighed.withdrawal, reading.withdrawal)
        filling = Pour.objects.get(owner=self.other).fillings.get()
        self.assertEqual(filling.own_container, self.other.owncontainer_set.get())

    def test_twice_changes_nothing_here_or_where_it_came_from(self) -> None:
        import_records(self.other, self.file)
        before = rows_in(written(self.other)), len(self.pictures())
        for user, file in ((self.other, self.file), (self.user, written(self.other))):
            report = import_records(user, file)
            self.assertEqual((sum(report.added.values()), sum(report.differ.values())), (0, 0))
            self.assertIn("Everything in this file is already here.", report.words)
        self.assertEqual((rows_in(written(self.other)), len(self.pictures())), before)

    def test_what_went_on_elsewhere_comes_back_and_what_is_here_stays(self) -> None:
        open_pour = pour_of(self.user, draft(self.user.formulas.get()))
        import_records(self.other, written(self.user))
        theirs = Pour.objects.get(owner=self.other, code=open_pour.code)
        for line in theirs.lines.all():
            weigh(self.other, line, line.planned_g)
        Pour.objects.filter(pk=theirs.pk).update(poured_at="2026-06-01T10:00:00Z")
        record_check(self.other, theirs, temp_c=21.0, felt_rung=Decimal(5), verdict="tweak")
        Formula.objects.of(self.other).update(notes="changed there")
        report = import_records(self.user, written(self.other))
        open_pour.refresh_from_db()
        self.assertIsNotNone(open_pour.poured_at)
        self.assertEqual(open_pour.checks.get().verdict, "tweak")
        self.assertEqual(WeighIn.objects.filter(line__pour=open_pour).count(), 4)
        self.assertEqual(self.user.formulas.get().notes, "")
        self.assertEqual(report.differ["formulas"], 1)
        # With as many rows as a few years make, all of a maker's are read, and the same is found.
        with mock.patch("calmtin.exchange.records.rows.MANY", 0):
            again = import_records(self.user, written(self.other))
        self.assertEqual((again.differ, sum(again.added.values())), ({"formulas": 1}, 0))

    def test_a_pour_that_was_called_off_here_stays_so(self) -> None:
        open_pour = pour_of(self.user, draft(self.user.formulas.get()))
        import_records(self.other, written(self.user))
        Pour.objects.filter(owner=self.other, code=open_pour.code).update(poured_at="2026-06-01T10:00:00Z")
        cancel_pour(self.user, open_pour, reason="started by mistake")
        report = import_records(self.user, written(self.other))
        open_pour.refresh_from_db()
        self.assertIsNone(open_pour.poured_at)
        self.assertEqual(report.differ["pours"], 1)

    def test_a_version_that_is_another_one_there_is_not_closed_here(self) -> None:
        import_records(self.other, self.file)
        there = draft(self.other.formulas.get())
        pour_of(self.other, there)
        mine = draft(self.user.formulas.get())
        line = mine.lines.get(material="beeswax_yellow")
        set_percent(self.user, mine, key=line.key, percent=Decimal(30), seen=mine.revision)
        before = rows_in(written(self.user))
        with self.assertRaisesMessage(BadRecords, "was poured there and changed here since"):
            import_records(self.user, written(self.other))
        self.assertEqual(rows_in(written(self.user)), before)

    def test_a_bench_that_has_its_own_keeps_its_names(self) -> None:
        busy = a_bench("seven")
        wax = pantry.add_material(busy, name="Reed wax two", group="wax", behaves_like="candelilla_wax")
        line = [(wax.slug, Decimal(30)), ("olive_oil", Decimal(70))]
        before = rows_in(written(busy))
        mine = Pour.objects.get(owner=busy).code
        report = import_records(busy, self.file)
        self.assertIn((mine, f"{mine}_2"), report.renamed)
        after = rows_in(written(busy))
        for table, rows in before.items():
            self.assertEqual({key: after[table][key] for key in rows}, rows)
        self.assertEqual(busy.formulas.count(), 2)
        self.assertEqual(
            sorted(row.slug for row in busy.ownmaterial_set.all()),
            ["my_reed_wax", "my_reed_wax_2", "my_reed_wax_two"],
        )
        salve(busy, "Still works", line)

    def test_the_page_looks_it_over_first(self) -> None:
        self.client.force_login(self.user)
        sent = b"".join(self.client.get(reverse("exchange:records_file")).streaming_content)
        self.client.force_login(self.other)
        address = reverse("exchange:records")
        page = self.client.post(address, {"file": BytesIO(sent)})
        self.assertContains(page, "New: 1 lot, 1 formula, 2 versions, 1 pour, 1 check, 1 picture")
        self.assertFalse(Formula.objects.of(self.other).exists())
        self.assertEqual(len(self.pictures()), 1)
        page = self.client.post(address, {"take_in": "yes"}, follow=True)
        self.assertContains(page, "Imported: 1 lot")
        self.assertEqual(rows_in(written(self.other)), rows_in(BytesIO(sent)))
        page = self.client.post(address, {"take_in": "yes"})
        self.assertContains(page, "The file is no longer available. Choose it again.")

    def test_the_command(self) -> None:
        file = self.folder / "all.zip"
        call_command("records", "out", "stroke", str(file), stdout=StringIO())
        with self.assertRaisesMessage(CommandError, "is there already"):
            call_command("records", "out", "stroke", str(file))
        call_command("records", "in", "bow", str(file), stdout=StringIO())
        self.assertEqual(Pour.objects.of(self.other).count(), 1)


class Bits(SimpleTestCase):
    @given(sizes=st.lists(st.integers(1, 40), max_size=8), at_once=st.integers(1, 25))
    def test_all_rows_go_once_in_order_and_never_too_many_together(
        self, sizes: list[int], at_once: int
    ) -> None:
        coming = [Staged(f"place{n}", "", (), 100, 99 + size) for n, size in enumerate(sizes)]
        with mock.patch("calmtin.exchange.records.staging.AT_ONCE", at_once):
            bits = list(_bits(coming))
        told = [[(staged.place, row) for staged, rows in bit for row in rows] for bit in bits]
        self.assertEqual(
            [row for bit in told for row in bit],
            [(staged.place, row) for staged in coming for row in range(100, staged.last + 1)],
        )
        self.assertTrue(all(len(bit) == at_once for bit in told[:-1]))
        self.assertTrue(all(len(bit) <= at_once for bit in told[-1:]))


class Meanwhile(InAFolder, TestCase):
    def test_nobody_sees_what_is_on_its_way_until_all_of_it_is_in(self) -> None:
        user, other = a_bench("stroke"), maker("bow")
        file, take_over = written(user), RecordsImport.take_over
        names = [user.username for user in makers()]

        def look_and_take_over(coming: RecordsImport) -> None:
            self.assertEqual(Check.every().of(cast(User, coming.porter)).count(), 1)
            self.assertFalse(any(table.model.every().of(other).exists() for table in TABLES))
            self.assertEqual([user.username for user in makers()], names)
            self.assertFalse(User.objects.filter(username__startswith=PORTER).exists())
            take_over(coming)

        with mock.patch.object(RecordsImport, "take_over", look_and_take_over):
            import_records(other, file)
        self.assertEqual(rows_in(written(other)), rows_in(file))
        self.assertFalse(User._base_manager.filter(username__startswith=PORTER).exists())
        with self.assertRaises(IntegrityError), transaction.atomic():
            Pour.objects.of(other).update(owner=user)

    def test_what_a_dead_server_left_goes_after_an_hour(self) -> None:
        user, other = a_bench("stroke"), maker("bow")
        died = RecordsImport(other, open_records(written(user)))
        died.make()
        died.bring()
        held = self.counted()
        upkeep()
        self.assertEqual(self.counted(), held)
        User._base_manager.filter(username__startswith=PORTER).update(date_joined="2026-01-01T10:00Z")
        with mock.patch("calmtin.exchange.records.import_holder.AT_ONCE", 2):
            upkeep()
        self.assertFalse(User._base_manager.filter(username__startswith=PORTER).exists())
        self.assertEqual(self.counted(), {name: n // 2 for name, n in held.items()})
        self.assertEqual(len(self.pictures()), 1)
        connection.check_constraints()

    def counted(self) -> dict[str, int]:
        return {table.name: table.model._base_manager.count() for table in TABLES}

    def test_a_bench_that_was_changed_while_the_file_was_read_is_left_alone(self) -> None:
        user, other = a_bench("stroke"), maker("bow")
        before = self.counted()
        make = RecordsImport.make

        def make_and_buy(coming: RecordsImport) -> None:
            make(coming)
            pantry.buy_lot(other, material="olive_oil", amount_g=Decimal(5), bought_on=date(2026, 5, 1))

        with (
            mock.patch.object(RecordsImport, "make", make_and_buy),
            self.assertRaisesMessage(BadRecords, "Send the file again."),
        ):
            import_records(other, written(user))
        self.assertEqual(
            self.counted(), before | {"lots": before["lots"] + 1, "movements": before["movements"] + 1}
        )
        self.assertFalse(Carried.objects.of(other).exists())
        self.assertEqual(len(self.pictures()), 1)
        self.assertTrue(import_records(other, written(user)).added)

    def test_keys_without_rows_of_a_server_that_died_are_none(self) -> None:
        user, other = a_bench("stroke"), maker("bow")
        file = written(user)
        died = RecordsImport(other, open_records(file))
        died.make()
        died.say_keys()
        for staged in (*died.staged, *died.staged_later, died.staged_keys):
            cast(Staged, staged).drop()  # as they go with its connection
        self.assertTrue(Carried.objects.of(other).exists())
        self.assertGreater(import_records(other, file).added["lots"], 0)
        self.assertFalse(import_records(other, file).added)
        self.assertEqual(rows_in(written(other)).keys(), rows_in(file).keys())
        self.assertEqual(Carried.objects.of(other).count(), sum(map(len, rows_in(file).values())))

    def test_of_two_files_with_the_same_rows_at_once_one_is_taken_in(self) -> None:
        user, other = a_bench("stroke"), maker("bow")
        say = RecordsImport.say_keys

        def say_and_another_says(coming: RecordsImport) -> None:
            say(coming)
            mine = Carried.objects.of(other).filter(table="lots")[0]
            mine.delete()
            Carried.objects.create(owner=other, table=mine.table, key=mine.key, row=mine.row + 1_000)

        with (
            mock.patch.object(RecordsImport, "say_keys", say_and_another_says),
            self.assertRaisesMessage(BadRecords, "Send the file again."),
        ):
            import_records(other, written(user))
        self.assertFalse(Lot.objects.of(other).exists())
        self.assertEqual(Carried.objects.of(other).count(), 1)

    def test_what_is_made_next_has_a_number_of_its_own(self) -> None:
        user, other = a_bench("stroke"), maker("bow")
        import_records(other, written(user))
        newest = Lot.objects.latest("pk").pk
        lot = pantry.buy_lot(user, material="olive_oil", amount_g=Decimal(5), bought_on=date(2026, 5, 1))
        self.assertGreater(lot.pk, newest)


class Hostile(InAFolder, TestCase):
    """A file that is not sound changes nothing and says why."""

    def setUp(self) -> None:
        super().setUp()
        self.user = a_bench("stroke")
        self.other = maker("bow")
        self.file = written(self.user)

    def refused(self, file: BytesIO, words: str) -> None:
        before = rows_in(written(self.other)), self.pictures()
        with self.assertRaisesMessage(BadRecords, words) as caught:
            import_records(self.other, file)
        self.assertTrue(caught.exception.sentence.endswith("Nothing was changed."))
        self.assertEqual((rows_in(written(self.other)), self.pictures()), before)

    def with_entry(self, name: str, content: bytes = b"x") -> BytesIO:
        out = BytesIO(self.file.getvalue())
        with ZipFile(out, "a", ZIP_DEFLATED) as opened:
            opened.writestr(name, content)
        return out

    def test_names_that_do_not_belong(self) -> None:
        for name in ("../../settings.py", "/etc/cron", "photos/../x.jpg", "records/x.json.exe", "a\\b"):
            self.refused(self.with_entry(name), "doesn’t belong in a records file.")

    def test_a_bomb(self) -> None:
        self.refused(
            self.with_entry("records/zeros.json", b"0" * 120_000_001), "is larger than such a file can be."
        )

    def test_no_zip_and_broken_ones(self) -> None:
        self.refused(BytesIO(b"PK\x03\x04 no zip"), "zip file is broken or can’t be read")
        whole = bytearray(self.file.getvalue())
        rows = [info for info in ZipFile(self.file).infolist() if info.filename.startswith("records/")]
        inside = max(rows, key=lambda info: info.compress_size).header_offset + 60
        whole[inside : inside + 400] = bytes(400)
        with self.assertRaises(BadRecords):
            import_records(self.other, BytesIO(bytes(whole)))

    def test_a_wrong_format_version_or_schema(self) -> None:
        for key, value, words in (
            ("format", "calmtin.formula", "This isn’t a Calm Tin records file."),
            ("version", 9, "written by a newer Calm Tin"),
            ("bench", "../x", "not as its schema says"),
            ("settings", {"is_staff": True}, "not as its schema says"),
            ("settings", {"cold_c": "hot"}, "contradict each other"),
        ):
            self.refused(
                changed(self.file, "calm-tin.json", lambda told, k=key, v=value: told | {k: v}), words
            )

    def test_rows_that_are_not_as_they_must_be(self) -> None:
        def first(**values: Any) -> Callable[[Any], Any]:
            return lambda rows: [rows[0] | values, *rows[1:]]

        state = {"lines": [{"key": "a", "material": "olive_oil", "percent": "1", "version_id": 1}]}
        for table, change, words in (
            ("formulas", first(owner=self.user.pk), "not as its schema says"),
            ("formulas", first(kind="spell"), "not as its schema says"),
            ("lines", first(version=f"{'0' * 12}-77"), "which is not in it"),
            ("lines", first(material="unobtainium"), "an unknown material"),
            ("lines", first(percent="-40"), "contradict each other"),
            ("steps", first(state=state), "not as its schema says"),
            ("checks", first(signs={"grain": 9}), "not as its schema says"),
            ("checks", first(made_at="yesterday"), "contradict each other"),
            ("movements", lambda rows: rows[:-1], "are missing, or there are too many"),
            ("weigh_ins", lambda rows: [rows[0], *rows[:-1]], "have the same key"),
            ("photos", first(image=f"photos/{'0' * 12}-1.jpg"), "is missing"),
        ):
            with self.subTest(table=table, words=words):
                self.refused(changed(self.file, f"records/{table}.json", change), words)

    def test_a_picture_that_is_none(self) -> None:
        out = BytesIO()
        with ZipFile(self.file) as before, ZipFile(out, "w") as after:
            for name in before.namelist():
                after.writestr(name, b"<svg/>" if name.startswith("photos/") else before.read(name))
        self.refused(out, "not a picture that Calm Tin can read")

    def test_nobody_elses_rows_are_reached_by_their_number(self) -> None:
        mine = Origin.objects.get_or_create(owner=self.other)[0].code
        theirs = set(Version.objects.of(self.user).values_list("pk", flat=True))
        file, origin = self.file, Origin.objects.get(owner=self.user).code

        def renamed(rows: Any, fields: tuple[str, ...]) -> Any:
            for row in rows:
                told = {f: row[f].replace(origin, mine) for f in fields if row[f]}
                row.update(told)
            return rows

        for table, fields in (
            ("versions", ("_key", "parent")),
            ("lines", ("version",)),
            ("steps", ("version",)),
            ("pours", ("version",)),
        ):
            file = changed(file, f"records/{table}.json", partial(renamed, fields=fields))
        import_records(self.other, file)
        self.assertEqual(set(Version.objects.of(self.user).values_list("pk", flat=True)), theirs)
        self.assertEqual(Version.objects.of(self.other).count(), 2)
        self.assertFalse(theirs & set(Version.objects.of(self.other).values_list("pk", flat=True)))


MATERIALS = ("beeswax_yellow", "shea_refined", "cocoa_butter", "castor_oil", "peppermint")
BENCHES = st.lists(
    st.fixed_dictionaries(
        {
            "shares": st.dictionaries(
                st.sampled_from(MATERIALS), st.integers(1, 18), min_size=1, max_size=4
            ),
            "slips": st.lists(st.sampled_from(["-0.3", "0", "0.4"]), min_size=5, max_size=5),
            "felt": st.none() | st.integers(0, 20),
            "lot": st.none() | st.sampled_from(MATERIALS),
            "photo": st.booleans(),
            "goes_on": st.booleans(),
        }
    ),
    min_size=1,
    max_size=3,
)


class AnyBench(InAFolder, PropertyCase):
    @settings(max_examples=6, deadline=None, suppress_health_check=list(HealthCheck))
    @given(bench=BENCHES)
    def test_out_and_in_and_again(self, bench: list[dict[str, Any]]) -> None:
        user, other = maker("any"), User.objects.create_user("empty")
        for n, asked in enumerate(bench):
            if asked["lot"]:
                pantry.buy_lot(user, material=asked["lot"], amount_g=Decimal(300), bought_on=DAY)
            rest = 100 - sum(asked["shares"].values())
            lines = [(slug, Decimal(pct)) for slug, pct in asked["shares"].items()]
            formula = salve(user, f"Formula {n}", [*lines, ("olive_oil", Decimal(rest))])
            pour = pour_of(user, draft(formula), acknowledged=True)
            for line, slip in zip(pour.lines.all(), asked["slips"], strict=False):
                weigh(user, line, line.planned_g + Decimal(slip))
            if asked["felt"] is not None:
                Pour.objects.filter(pk=pour.pk).update(poured_at="2026-06-01T10:00:00Z")
                pour.refresh_from_db()
                felt = Decimal(asked["felt"]) / 2
                photo = a_picture(30 + n) if asked["photo"] else None
                record_check(user, pour, temp_c=20.0 + n, felt_rung=felt, verdict="", photo=photo)
            if asked["goes_on"]:
                version = start_next_version(user, draft(formula))
                line = version.lines.exclude(material="olive_oil")[0]
                set_percent(user, version, key=line.key, percent=Decimal(20), seen=version.revision)
        file = written(user)
        with mock.patch("calmtin.exchange.records.staging.AT_ONCE", 3):
            import_records(other, file)
        again = written(other)
        self.assertEqual(rows_in(again), rows_in(file))
        self.assertEqual(photos_in(again), photos_in(file))
        self.assertEqual(figures(other), figures(user))
        # A log that came in is learned from.
        self.assertNotEqual(User.objects.get(pk=other.pk).log_state, NOTHING_YET)
        self.assertFalse(import_records(other, file).added)
        self.assertFalse(import_records(user, again).added)


def figures(user: User) -> dict[str, Any]:
    """Return what a bench comes to: predictions, ledger sums, versions, checks, photos."""
    shelf = shelf_for(user)
    return {
        "rungs": [
            (
                v.formula.name,
                v.number,
                v.is_poured,
                rung_at(composition_of(v, shelf).masses, 21.0, overrun=v.overrun, prior=user.bench.prior),
            )
            for v in Version.objects.of(user).order_by("formula__name", "number")
        ],
        "left": [(lot.material, lot.left) for lot in with_left(user.lots.all())],
        "checks": list(Check.objects.of(user).values_list("pour__code", "felt_rung", "made_at")),
        "photos": CheckPhoto.objects.of(user).count(),
    }
