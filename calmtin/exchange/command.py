"""What the commands for the core share: a file or standard input in, one line of JSON out."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from calmtin.core.errors import CalmTinError


class FileCommand(BaseCommand):
    """A command that reads one text and prints one answer, or refuses with status 2."""

    requires_system_checks = []
    file_help = ""

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file."""
        parser.add_argument("file", help=self.file_help)

    def answer(self, text: str, options: dict[str, Any], /) -> str:
        """Return what to print for `text`."""
        raise NotImplementedError

    def handle(self, *_: Any, **options: Any) -> None:
        """Print the answer, or one line on standard error and exit 2."""
        try:
            raw = sys.stdin.buffer.read() if options["file"] == "-" else Path(options["file"]).read_bytes()
            self.stdout.write(self.answer(raw.decode("utf-8-sig"), options))
        except OSError as error:
            self._refuse(f"{options['file']} cannot be read: {error.strerror or error}.")
        except UnicodeDecodeError:
            self._refuse("The file is not text in UTF-8.")
        except CalmTinError as refused:
            self._refuse(str(refused))

    def _refuse(self, sentence: str) -> None:
        self.stderr.write(" ".join(sentence.split()))
        sys.exit(2)
