"""Small files that claim to be large, and large ones that are nothing: refused before they are read."""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
from io import BytesIO
from typing import Any
from zipfile import ZIP_DEFLATED, ZipFile

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from PIL import Image

from calmtin.common.photos import LONGEST, made_again
from calmtin.common.subprocess_work import run_apart
from calmtin.core.errors import CalmTinError
from calmtin.exchange.formats.log import preview_log
from calmtin.exchange.formats.pantry import preview
from calmtin.exchange.records.archive import BadRecords, open_records, unpacked_size
from calmtin.exchange.records.reading import import_records
from calmtin.formulas.models import Formula
from tests.bench_data import maker
from tests.exchange.test_records import InAFolder, a_bench, changed, written

MOST_MEMORY = 600_000  # kB


def zipped(tables: dict[str, str], declared: dict[str, int]) -> BytesIO:
    """Return a file of records with these tables as they stand, and what its manifest says of them."""
    manifest = {"format": "calmtin.records", "version": 2, "bench": "0123456789ab", "settings": {}}
    file = BytesIO()
    with ZipFile(file, "w", ZIP_DEFLATED) as out:
        out.writestr("calm-tin.json", json.dumps(manifest | {"tables": declared}))
        for name, text in tables.items():
            out.writestr(f"records/{name}.json", text)
    file.seek(0)
    return file


class Records(InAFolder, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.user = maker("stroke")

    def refused(self, file: BytesIO, sentence: str) -> None:
        with self.assertRaisesMessage(BadRecords, sentence):
            import_records(self.user, file)
        self.assertFalse(Formula.objects.exists())

    def test_a_million_empty_rows_in_a_few_kilobytes(self) -> None:
        rows = f"[{','.join(['{}'] * 3_000_000)}]"
        file = zipped({"lots": rows}, {"lots": 3_000_000})
        self.assertLess(len(file.getvalue()), 30_000)
        self.refused(file, "more than 300,000 rows")
        self.refused(zipped({"lots": rows}, {"lots": 1}), "holds more than such a file can")
        self.refused(zipped({"lots": f"[{','.join('1' * 5_000_000)}]"}, {"lots": 1}), "holds more than")
        self.refused(zipped({"lots": "[" * 50_000}, {"lots": 1}), "not JSON that can be read")
        self.refused(zipped({"lots": '"' + "a" * 50_000_000 + '"'}, {"lots": 1}), "larger than such a file")

    def test_beside_the_server_it_takes_little_memory(self) -> None:
        file = zipped({"lots": f"[{','.join(['{}'] * 90_000)}]"}, {"lots": 90_000})
        with self.assertRaisesMessage(BadRecords, "records/lots.json is not as its schema says (0)"):
            run_apart(open_records, file, size=unpacked_size(file))
        self.assertLess(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss, MOST_MEMORY)

    def test_days_that_no_bench_sees(self) -> None:
        file = written(a_bench("bow"))

        def late(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
            return [{**row, "started_at": "9999-12-31T23:00:00+00:00"} for row in rows]

        with self.assertRaisesMessage(BadRecords, "A time in it must be between 1990 and 2100"):
            import_records(self.user, changed(file, "records/pours.json", late))
        for column in ("bought_on", "best_before"):
            wrong = changed(
                file, "records/lots.json", lambda rows, c=column: [{**r, c: "9999-12-31"} for r in rows]
            )
            with self.assertRaisesMessage(BadRecords, "A day in it must be between 1990 and 2100"):
                import_records(self.user, wrong)


class Tables(TestCase):
    def test_a_header_of_a_million_columns(self) -> None:
        text = ",".join(f"c{n}" for n in range(100_000)) + "\n" + "x\n" * 1000
        for look in (preview, preview_log):
            with self.assertRaisesMessage(CalmTinError, "more than 60 columns"):
                look(maker(look.__name__), text)

    def test_a_formula_file_is_small(self) -> None:
        user = maker()
        self.client.force_login(user)
        sent = SimpleUploadedFile("f.json", b"[" + b"{}," * 100_000 + b"{}]")
        page = self.client.post(reverse("exchange:formula_import"), {"file": sent})
        self.assertContains(page, "A formula’s file has up to 200 kB.")


class Apart(SimpleTestCase):
    """What takes too much is ended, and says so; `size` says that it is not small."""

    def test_memory(self) -> None:
        with self.assertRaisesMessage(CalmTinError, "too much time or memory"):
            run_apart(bytes, 3_000_000_000, size=10**9, memory=1_000_000_000)

    def test_time(self) -> None:
        with self.assertRaisesMessage(CalmTinError, "too much time or memory"):
            run_apart(sum, range(10**12), size=10**9, seconds=4)

    def test_what_it_refuses_is_refused_here(self) -> None:
        self.assertEqual(run_apart(len, "oar", size=10**9), 3)
        with self.assertRaises(ZeroDivisionError):
            run_apart(divmod, 1, 0, size=10**9)

    def test_it_ends_with_a_server_that_is_killed(self) -> None:
        at_work = "import time; print('at work', flush=True); time.sleep(600)"
        server = subprocess.Popen(
            [sys.executable, "-c", f"from calmtin.common.subprocess_work import run_apart\n"
             f"run_apart(exec, {at_work!r}, size=10**9)"],
            env={**os.environ, "DJANGO_SETTINGS_MODULE": "calmtin.config.test_settings"},
            stdout=subprocess.PIPE,
        )  # fmt: skip
        assert server.stdout
        self.assertEqual(server.stdout.readline(), b"at work\n")
        server.kill()
        server.communicate(timeout=60)  # both hold its end: it is closed when the last of them has gone


class Pictures(SimpleTestCase):
    def picture(self, size: tuple[int, int], kind: str) -> bytes:
        made = BytesIO()
        Image.new("L", size).save(made, kind)
        return made.getvalue()

    def test_a_large_jpeg_is_read_at_a_fraction_of_its_size(self) -> None:
        small = made_again(self.picture((9000, 6600), "JPEG"))
        with Image.open(BytesIO(small)) as opened:
            self.assertEqual(max(opened.size), LONGEST)

    def test_what_unpacks_to_too_many_points_is_refused(self) -> None:
        for size, kind in (((6000, 5200), "PNG"), ((16000, 8000), "JPEG")):
            with self.subTest(kind), self.assertRaisesMessage(CalmTinError, "million pixels"):
                made_again(self.picture(size, kind))
