"""script/manage records out|in MAKER FILE: everything of a maker as one file."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from calmtin.accounts.models import User
from calmtin.common.disk import disk_words
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.records.reading import import_records
from calmtin.exchange.records.writing import one_state, write_records


class Command(BaseCommand):
    """Write the records of a maker, or take such a file in."""

    help = "Write everything of a maker to one file, or take such a file in for a maker."

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take which way, whose records, and the file."""
        parser.add_argument("way", choices=["out", "in"])
        parser.add_argument("maker")
        parser.add_argument("file", type=Path)
        parser.add_argument("--look", action="store_true", help="in: only say what it would do")

    def handle(self, *_: Any, **options: Any) -> None:
        """Print what was exported or imported."""
        user = User.objects.filter(username=options["maker"]).first()
        if user is None:
            raise CommandError(
                said("There is no maker called {options}.", options=options["maker"]), returncode=2
            )
        try:
            if options["way"] == "out":
                with options["file"].open("xb") as target, one_state(user):
                    counts = write_records(user, target)
                self.stdout.write(
                    said("{count} rows in {file}", count=sum(counts.values()), file=options["file"])
                )
            else:
                with options["file"].open("rb") as source:
                    report = import_records(user, source, only_look=options["look"])
                self.stdout.write(report.words)
        except FileExistsError:
            raise CommandError(
                said("{options} is there already.", options=options["file"]), returncode=2
            ) from None
        except (CalmTinError, OSError) as error:
            raise CommandError(disk_words(error), returncode=2) from None
