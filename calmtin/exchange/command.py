"""What the commands for the core share: a file or standard input in, one line of JSON out."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from calmtin.core.errors import CalmTinError
from calmtin.core.messages import notation_of
from calmtin.core.notation import Notation


class FileCommand(BaseCommand):
    """A command that reads one text and prints one answer as JSON, or refuses with status 2.

    Figures are in the unit that their key names. `--units`, `--degrees`, `--comma` and `--cups` say what a
    bare number or a cup in the text means, and in what sentences are worded.
    """

    requires_system_checks = []
    file_help = ""

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Add a file and the notation of a bench as arguments."""
        parser.add_argument("file", help=self.file_help)
        parser.add_argument("--units", choices=["g", "oz"], default="g", help="what the scale shows")
        parser.add_argument("--degrees", choices=["C", "F"], default="C", help="what the thermometer shows")
        parser.add_argument("--comma", action="store_true", help="1,000 is one: decimals have a comma")
        parser.add_argument("--cups", choices=["us", "imperial", "metric"], default="us", help="whose cups")

    def answer(self, text: str, options: dict[str, Any], /) -> Any:
        """Return what to print for `text`, as `json` takes it; messages may stand in it."""
        raise NotImplementedError

    def handle(self, *_: Any, **options: Any) -> None:
        """Print the answer, or one line on standard error and exit 2."""
        notation = Notation(options["comma"], options["cups"], options["units"], options["degrees"])
        with notation_of(lambda: notation):
            self._answer(options)

    def _answer(self, options: dict[str, Any]) -> None:
        try:
            raw = sys.stdin.buffer.read() if options["file"] == "-" else Path(options["file"]).read_bytes()
            found = self.answer(raw.decode("utf-8-sig"), options)
            self.stdout.write(json.dumps(found, ensure_ascii=False, default=str))
        except OSError as error:
            self._refuse(f"{options['file']} cannot be read: {error.strerror or error}.")
        except UnicodeDecodeError:
            self._refuse("The file is not text in UTF-8.")
        except CalmTinError as refused:
            self._refuse(str(refused))

    def _refuse(self, sentence: str) -> None:
        self.stderr.write(" ".join(sentence.split()))
        sys.exit(2)
