"""A throw-away demo, served on this machine only, and who visits it."""

from __future__ import annotations

import atexit
import os
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from functools import cache
from http.cookiejar import CookieJar
from pathlib import Path
from socket import create_server
from typing import Any
from urllib.error import HTTPError
from urllib.parse import urlencode
from urllib.request import HTTPCookieProcessor, HTTPRedirectHandler, Request, build_opener
from uuid import uuid4

ROOT = Path(__file__).parents[2]


OPENS = """
import django
django.setup()
from calmtin.config.serve import _open_book
_open_book(fresh=False)
"""


def environment_of(data: Path) -> dict[str, str]:
    """Return what a demo in a folder is started with."""
    kept = {k: v for k, v in os.environ.items() if not k.startswith(("CALMTIN", "DJANGO"))}
    ours = {"DJANGO_SETTINGS_MODULE": "calmtin.config.settings", "PYTHONPATH": str(ROOT)}
    return {**kept, **ours, "CALMTIN_DATA": str(data), "CALMTIN_DEMO": "1"}


@cache
def first_start() -> Path:
    """Return a folder as a demo's first start leaves it, which takes it a quarter of a minute."""
    data = Path(tempfile.mkdtemp(prefix="calmtin-demo-"))
    atexit.register(shutil.rmtree, data, ignore_errors=True)
    subprocess.run([sys.executable, "-c", OPENS], env=environment_of(data), cwd=ROOT, check=True)
    return data


def put_demo(into: Path) -> None:
    """Fill an empty folder with a demo."""
    shutil.copytree(first_start(), into, dirs_exist_ok=True)


class Bench:
    """A demo bench served in a folder of its own."""

    def __init__(self, **environment: str) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="calmtin-attack-"))
        with closing(create_server(("127.0.0.1", 0))) as free:
            self.port = free.getsockname()[1]
        put_demo(self.data)
        self.environment = {**environment_of(self.data), **environment}
        self.server: subprocess.Popen[bytes] | None = None

    def start(self, **process: Any) -> None:
        """Serve, and wait for the address."""
        command = [sys.executable, "-m", "calmtin.config.serve", "--port", str(self.port)]
        self.server = subprocess.Popen(
            command,
            env=self.environment,
            cwd=ROOT,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            **process,
        )
        assert self.server.stdout
        line = self.server.stdout.readline().decode()
        assert "http://" in line, line

    def stop(self, how: signal.Signals = signal.SIGTERM) -> None:
        """End the server."""
        assert self.server
        self.server.send_signal(how)
        self.server.communicate()

    def end(self) -> None:
        """End the server and let go of its folder."""
        self.stop(signal.SIGKILL)
        shutil.rmtree(self.data, ignore_errors=True)

    def database(self) -> sqlite3.Connection:
        """Open the bench's database beside the server."""
        return sqlite3.connect(self.data / "calmtin.sqlite3", timeout=30)

    def ask(self, question: str, *told: Any) -> list[Any]:
        """Ask the book beside the server."""
        with closing(self.database()) as book:
            return book.execute(question, told).fetchall()

    def manage(self, *arguments: str) -> subprocess.Popen[bytes]:
        """Run a command of Calm Tin on this folder."""
        command = [sys.executable, "manage.py", *arguments]
        silent = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
        settings = {"DJANGO_SETTINGS_MODULE": "calmtin.config.settings"}
        return subprocess.Popen(command, env={**self.environment, **settings}, cwd=ROOT, **silent)

    def most_memory_mb(self) -> float:
        """Return the most memory that the server has held, MB."""
        assert self.server
        told = Path(f"/proc/{self.server.pid}/status").read_text()
        return int(re.search(r"VmHWM:\s+(\d+)", told)[1]) / 1000  # type: ignore[index]

    def cpu_s(self) -> float:
        """Return the seconds of the processor that the server has used."""
        assert self.server
        told = Path(f"/proc/{self.server.pid}/stat").read_text().rsplit(")")[-1].split()
        return (int(told[11]) + int(told[12])) / os.sysconf("SC_CLK_TCK")


class _Stay(HTTPRedirectHandler):
    """Return a redirect as the answer instead of following it."""

    def redirect_request(self, *_: Any) -> None:
        return None


class Visitor:
    """A signed-in browser without a screen; `longest` is its slowest answer, s."""

    def __init__(self, bench: Bench, *, signs_in: bool = True) -> None:
        self.address = f"http://127.0.0.1:{bench.port}"
        cookies = HTTPCookieProcessor(CookieJar())
        self.opener, self.stays = build_opener(cookies), build_opener(cookies, _Stay())
        self.longest = 0.0
        self.token = self._token(self.get("/sign-in/")[1])
        if signs_in:
            self.post("/demo/", {})
            status, page = self.get("/settings/")
            assert "/sign-out/" in page, (status, page[:500])
            self.token = self._token(page)

    def _token(self, page: str) -> str:
        found = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page)
        assert found, page[:500]
        return found[1]

    def _send(self, request: Request, *, follows: bool = True) -> tuple[int, str]:
        start = time.monotonic()
        try:
            with (self.opener if follows else self.stays).open(request, timeout=120) as answer:
                return answer.status, answer.read().decode(errors="replace")
        except HTTPError as error:
            return error.code, error.read().decode(errors="replace")
        finally:
            self.longest = max(self.longest, time.monotonic() - start)

    def get(self, path: str) -> tuple[int, str]:
        """Ask for a page."""
        return self._send(Request(self.address + path))

    def fetch(self, path: str) -> bytes:
        """Return a file."""
        with self.opener.open(self.address + path, timeout=120) as answer:
            return bytes(answer.read())

    def post(
        self, path: str, data: dict[str, Any], *, follows: bool = True, **headers: str
    ) -> tuple[int, str]:
        """Send a form, and open the page that its answer leads to."""
        told = {"csrfmiddlewaretoken": self.token, **data}
        body = urlencode(told, doseq=True, errors="replace").encode()
        request = Request(self.address + path, body, {"Origin": self.address, **headers})
        return self._send(request, follows=follows)

    def send_file(self, path: str, field: str, content: bytes, **data: str) -> tuple[int, str]:
        """Send a form with a file."""
        boundary = uuid4().hex
        told = {"csrfmiddlewaretoken": self.token, **data}
        parts = [
            f'--{boundary}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode()
            for name, value in told.items()
        ]
        head = f'--{boundary}\r\nContent-Disposition: form-data; name="{field}"; filename="f"\r\n\r\n'
        body = b"".join([*parts, head.encode(), content, f"\r\n--{boundary}--\r\n".encode()])
        headers = {"Origin": self.address, "Content-Type": f"multipart/form-data; boundary={boundary}"}
        return self._send(Request(self.address + path, body, headers))


def open_pour(bench: Bench) -> int:
    """Return a pour of the demo that is on the scale."""
    found: int = bench.ask("SELECT id FROM pours_pour WHERE poured_at IS NULL AND called_off_at IS NULL")[
        0
    ][0]
    return found


def weigh_in(visitor: Visitor, pour: int, position: int, grams: str) -> bool:
    """Send one weight; return whether the server acknowledged it."""
    try:
        status, page = visitor.post(
            f"/pours/{pour}/weigh/{position}/", {"grams": grams}, **{"HX-Request": "true"}
        )
    except OSError:
        return False
    return status == 200 and f'value="{grams}"' in page
