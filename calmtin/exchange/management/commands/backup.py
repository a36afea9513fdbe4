"""script/manage backup [FILE]: the whole book as one file, while the server runs."""

from __future__ import annotations

import argparse
import sqlite3
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from calmtin.common.disk import disk_words
from calmtin.core.errors import CalmTinError
from calmtin.exchange.backups import write_backup


class Command(BaseCommand):
    """Write a verified copy of the book."""

    help = "Write the whole book, database and media, to one file and verify it."
    requires_system_checks = []

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file."""
        parser.add_argument("file", nargs="?", type=Path, help="where to; the copies folder unless told")

    def handle(self, *_: Any, **options: Any) -> None:
        """Print the file that was written."""
        try:
            self.stdout.write(str(write_backup(options["file"])))
        except (CalmTinError, OSError, sqlite3.Error) as error:
            raise CommandError(disk_words(error), returncode=2) from None
