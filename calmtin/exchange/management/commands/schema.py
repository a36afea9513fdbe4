"""manage.py schema: the shipped tables against all migrations, or the file written from them."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from calmtin.common.schema import SCHEMA, schema_of


class Command(BaseCommand):
    """Check the file of tables against every migration, or write it."""

    help = "Check the shipped tables of an empty database against the migrations, or write them."
    requires_system_checks: tuple[str, ...] = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """Take `--write`."""
        parser.add_argument("--write", action="store_true", help="write the file instead of checking it")

    def handle(self, *_: Any, **options: Any) -> None:
        """Run every migration in a folder of its own and compare."""
        with tempfile.TemporaryDirectory(prefix="calmtin-schema-") as folder:
            kept = {k: v for k, v in os.environ.items() if not k.startswith(("CALMTIN", "DJANGO"))}
            command = [sys.executable, "-m", "django", "migrate", "--from-first", "-v0"]
            ours = {"CALMTIN_DATA": folder, "DJANGO_SETTINGS_MODULE": "calmtin.config.settings"}
            subprocess.run(command, env=kept | ours, check=True)
            made = schema_of(Path(folder) / "calmtin.sqlite3")
        if options["write"]:
            SCHEMA.write_text(made)
        elif made != SCHEMA.read_text():
            words = "The shipped tables are not those of the migrations. Run: manage.py schema --write"
            raise CommandError(words)
