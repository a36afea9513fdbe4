"""The documented commands on folders of their own: serve, demo, migrate, makers."""

from __future__ import annotations

import json
import logging
import os
import re
import shutil
import signal
import sqlite3
import ssl
import stat
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from socket import create_server

from django.test import SimpleTestCase

from bench.attack.served import put_demo
from calmtin.common.logs import Lines

ROOT = Path(__file__).parents[2]


class Commands(SimpleTestCase):
    def setUp(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="calmtin-serve-"))
        self.addCleanup(shutil.rmtree, self.data, ignore_errors=True)

    def environment(self, **more: str) -> dict[str, str]:
        kept = {k: v for k, v in os.environ.items() if not k.startswith(("CALMTIN", "DJANGO"))}
        return {**kept, "CALMTIN_DATA": str(self.data), **more}

    def run_it(self, *args: str, text: str = "", **more: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, *args], env=self.environment(**more), cwd=ROOT, input=text, text=True,
            capture_output=True, timeout=60, check=False,
        )  # fmt: skip

    @contextmanager
    def serving(self, *args: str, **more: str) -> Iterator[str]:
        with closing(create_server(("127.0.0.1", 0))) as free:
            port = free.getsockname()[1]
        command = [sys.executable, "-m", "calmtin.config.serve", "--port", str(port), *args]
        server = subprocess.Popen(
            command, env=self.environment(**more), cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.PIPE
        )
        try:
            line = server.stdout.readline().decode()
            self.assertIn(f"http://127.0.0.1:{port}/", line, server.stderr.read() if not line else "")
            self.told = server.stdout
            yield f"http://127.0.0.1:{port}"
        finally:
            server.send_signal(signal.SIGTERM)
            server.communicate(timeout=20)

    def ask(self, address: str, *, host: str = "", **headers: str) -> tuple[int, dict[str, str], str]:
        class Stay(urllib.request.HTTPRedirectHandler):
            def redirect_request(self, *_: object) -> None:
                return None

        request = urllib.request.Request(
            address, headers={k.replace("_", "-"): v for k, v in headers.items()}
        )
        if host:
            request.add_header("Host", host)
        try:
            answer = urllib.request.build_opener(Stay).open(request, timeout=20)
        except urllib.error.HTTPError as error:
            answer = error
        return answer.status, {k.lower(): v for k, v in answer.headers.items()}, answer.read().decode()

    def modes(self) -> set[tuple[bool, int]]:
        found = [self.data, *self.data.rglob("*")]
        return {(path.is_dir(), stat.S_IMODE(path.stat().st_mode)) for path in found}

    def test_a_second_server_on_one_folder_and_fresh_are_refused(self) -> None:
        put_demo(self.data)
        with self.serving(CALMTIN_DEMO="1"):
            for more in ((), ("--fresh",)):
                second = self.run_it("-m", "calmtin.config.serve", "--port", "0", *more, CALMTIN_DEMO="1")
                self.assertEqual(second.returncode, 1)
                self.assertIn("Calm Tin is already running on", second.stderr)
            self.assertTrue((self.data / "calmtin.sqlite3").exists())

    def test_serve_from_an_empty_folder_and_stop_it(self) -> None:
        with self.serving("--phone", "--phone-address", "127.0.0.1", "--phone-port", "0") as address:
            phone = self.told.readline().decode().strip().removeprefix("On your phone: ")
            trust = ssl.create_default_context(cafile=self.data / "phone" / "bench.crt")
            with self.assertRaises(urllib.error.HTTPError) as refused:
                urllib.request.urlopen(f"{phone}sign-in/", context=trust, timeout=20)
            self.assertIn("Create the first account on the computer", refused.exception.read().decode())
            status, headers, _ = self.ask(address + "/")
            self.assertEqual((status, headers["location"]), (302, "/sign-in/?next=/"))
            self.assertEqual(self.ask(address + "/sign-in/")[1]["location"], "/welcome/")
            self.assertIn("Welcome to your bench", self.ask(address + "/welcome/")[2])
            page = self.ask(address + "/welcome/")[2]
            (module,) = re.findall(r'src="(/static/js/calm\.\w+\.js)"', page)
            status, headers, script = self.ask(address + module)
            self.assertEqual(status, 200)
            self.assertIn("default-src 'none'", headers["content-security-policy"])
            self.assertIn("immutable", headers["cache-control"])
            # A module asks for its neighbours by their hashed names too.
            (keys,) = re.findall(r'"\./(keys\.\w+\.js)"', script)
            self.assertEqual(self.ask(f"{address}/static/js/{keys}")[0], 200)
            deadline = time.monotonic() + 20
            while not list(self.data.glob("copies/daily-*.zip")) and time.monotonic() < deadline:
                time.sleep(0.1)
            self.assertEqual(len(list(self.data.glob("copies/daily-*.zip"))), 1)
        self.assertEqual(self.modes(), {(True, 0o700), (False, 0o600)})
        # Everything is in the one file after SIGTERM.
        alone = self.data / "alone.sqlite3"
        shutil.copy(self.data / "calmtin.sqlite3", alone)
        with closing(sqlite3.connect(alone)) as book:
            self.assertGreater(book.execute("SELECT count(*) FROM django_migrations").fetchone()[0], 20)

    def test_behind_a_proxy(self) -> None:
        more = {"CALMTIN_HTTPS": "1", "CALMTIN_HOSTS": "tin.example:8443"}
        with self.serving(**more) as address:
            forwarded = {
                "X_Forwarded_Proto": "https", "X_Forwarded_Host": "tin.example:8443",
                "X_Forwarded_For": "203.0.113.9",
            }  # fmt: skip
            status, headers, _ = self.ask(address + "/", **forwarded)
            self.assertEqual((status, headers["location"]), (302, "/sign-in/?next=/"))
            self.assertIn("max-age=31536000", headers["strict-transport-security"])
            plain = self.ask(address + "/", host="tin.example:8443")
            self.assertEqual((plain[0], plain[1]["location"]), (301, "https://tin.example:8443/"))
            page = self.ask(address + "/welcome/", **forwarded)
            self.assertIn("Secure", page[1]["set-cookie"])

    def test_deploy_checks_are_clean(self) -> None:
        more = {"CALMTIN_HTTPS": "1", "CALMTIN_HOSTS": "tin.example"}
        checked = self.run_it("manage.py", "check", "--deploy", "--fail-level", "WARNING", **more)
        self.assertEqual(checked.returncode, 0, checked.stderr)

    def test_an_empty_key_is_refused_with_what_to_do(self) -> None:
        (self.data / "secret_key").touch()
        refused = self.run_it("-m", "calmtin.config.serve", "--port", "0")
        self.assertNotEqual(refused.returncode, 0)
        self.assertIn("delete that file and start again", refused.stderr)

    def test_the_demo_never_opens_a_makers_book(self) -> None:
        self.run_it("manage.py", "migrate", "-v0")
        with closing(sqlite3.connect(self.data / "calmtin.sqlite3")) as book:
            book.execute(
                "INSERT INTO accounts_user (username, password, is_superuser, first_name, last_name,"
                " email, is_staff, is_active, date_joined)"
                " VALUES ('cox', '', 0, '', '', '', 0, 1, '2026-01-01')"
            )
            book.commit()
        before = (self.data / "calmtin.sqlite3").read_bytes()
        refused = self.run_it("-m", "calmtin.config.serve", "--port", "0", "--fresh", CALMTIN_DEMO="1")
        self.assertIn("maker's own database", refused.stderr)
        self.assertEqual((self.data / "calmtin.sqlite3").read_bytes(), before)
        script = (ROOT / "script/demo").read_text()
        self.assertNotIn("{CALMTIN_DATA", script)

    def test_a_marked_a_newer_and_a_damaged_book_are_refused(self) -> None:
        with self.serving():
            pass
        refused = self.run_it("-m", "calmtin.config.serve", "--port", "0", CALMTIN_DEMO="1")
        self.assertIn("maker's own database", refused.stderr)
        with closing(sqlite3.connect(self.data / "calmtin.sqlite3")) as book:
            book.execute("INSERT INTO django_migrations VALUES (NULL, 'pantry', '0999_x', '2027-01-01')")
            book.commit()
        newer = self.run_it("-m", "calmtin.config.serve", "--port", "0")
        self.assertIn("written by a newer Calm Tin", newer.stderr)
        damaged = self.data / "calmtin.sqlite3"
        damaged.write_bytes(damaged.read_bytes()[:9000] + b"\xff" * 50_000)
        stopped = self.run_it("-m", "calmtin.config.serve", "--port", "0")
        self.assertIn("is damaged. Restore a backup", stopped.stderr)


class Logs(SimpleTestCase):
    def test_an_event_is_a_line_without_what_a_maker_wrote(self) -> None:
        record = logging.LogRecord(
            "django.request", logging.ERROR, "", 1, "%s: %s", ("Failed", "/formulas/"), None
        )
        record.request = "<WSGIRequest: GET '/formulas/?q=grandmothers+balm'>"
        words = "no number: grandmother's balm"
        try:
            raise ValueError(words)
        except ValueError:
            record.exc_info = sys.exc_info()
        line = Lines().format(record)
        said = json.loads(line)
        self.assertNotIn("\n", line)
        self.assertNotIn("balm", line)
        self.assertEqual(
            (said["level"], said["from"], said["message"]),
            ("ERROR", "django.request", "Failed: /formulas/"),
        )
        self.assertIn("ValueError", said["exc_info"])
        self.assertIn("test_serve.py", said["exc_info"])
