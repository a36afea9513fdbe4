"""A server of a test's own, on a book of its own, that can be killed."""

from __future__ import annotations

import contextlib
import http.client
import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from django.test.client import BOUNDARY, MULTIPART_CONTENT, encode_multipart

from bench.attack.served import environment_of, put_demo

# What a server imports takes it seconds; it is imported once, and each server is a child of that.
FORKER = """
import os, signal, sys
import django
django.setup()
import calmtin.config.urls
from calmtin.config.serve import main
signal.signal(signal.SIGCHLD, signal.SIG_IGN)
for line in sys.stdin:
    child = os.fork()
    if not child:
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        sys.argv = ["serve", "--port", line.strip()]
        main()
        os._exit(0)
    print(child, flush=True)
"""


class Bench:
    """A served demo, and one maker who asks for pages."""

    def __init__(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="calmtin-killed-"))
        put_demo(self.data)
        self.env = environment_of(self.data)
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.cookies: dict[str, str] = {}
        self.forker = subprocess.Popen(
            [sys.executable, "-c", FORKER],
            env=self.env,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        self.start()
        self.ask("/sign-in/")
        self.ask("/demo/", {})

    def book(self, question: str, told: Sequence[Any] = ()) -> list[Any]:
        """Ask the book beside the server, or change it."""
        with closing(sqlite3.connect(self.data / "calmtin.sqlite3", timeout=20)) as book, book:
            return book.execute(question, told).fetchall()

    def start(self) -> None:
        assert self.forker.stdin and self.forker.stdout
        self.forker.stdin.write(f"{self.port}\n")
        self.forker.stdin.flush()
        told = self.forker.stdout.readline()
        while not told.strip().isdigit():  # the server before this one said where it is
            told = self.forker.stdout.readline()
        self.process = int(told)
        for _ in range(1200):
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.05)
        raise AssertionError("The server did not come up.")

    def kill(self) -> None:
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.process, signal.SIGKILL)
            while True:
                os.kill(self.process, 0)
                time.sleep(0.002)

    def end(self) -> None:
        self.kill()
        self.forker.kill()
        self.forker.communicate()
        shutil.rmtree(self.data)

    def send(self, path: str, data: dict[str, Any] | None = None) -> http.client.HTTPConnection:
        """Send a request, with a form where there is `data`; the answer is still to be read."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items())}
        body = None
        if data is not None:
            body = encode_multipart(
                BOUNDARY, {"csrfmiddlewaretoken": self.cookies.get("csrftoken", ""), **data}
            )
            headers |= {"Content-Type": MULTIPART_CONTENT, "HX-Request": "true"}
        connection.request("GET" if data is None else "POST", path, body, headers)
        return connection

    def ask(self, path: str, data: dict[str, Any] | None = None) -> str:
        """Return the page that answers; raises `OSError` or `HTTPException` where none comes."""
        return self.fetch(path, data).decode()

    def fetch(self, path: str, data: dict[str, Any] | None = None) -> bytes:
        """Return what answers, a page or a file."""
        connection = self.send(path, data)
        answer = connection.getresponse()
        page = answer.read()
        for cookie in answer.headers.get_all("Set-Cookie") or []:
            name, value = cookie.split(";")[0].split("=", 1)
            self.cookies[name] = value
        assert answer.status < 400, page[-500:]
        connection.close()
        return page
