"""script/manage restore FILE: replace the book by a verified copy."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError
from django.utils.translation import gettext

from calmtin.common.disk import disk_words
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.restoring import Restoring


class Command(BaseCommand):
    """Restore a backup; the book that it replaces is kept."""

    help = "Check a copy in full and put it in the book's place; what was there is kept beside it."
    requires_system_checks = []

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file."""
        parser.add_argument("file", type=Path, help="a file that script/manage backup wrote")
        parser.add_argument("--yes", action="store_true", help="do not ask")

    def handle(self, *_: Any, **options: Any) -> None:
        """Print the contents of the backup, ask, and replace the book."""
        try:
            copy = Restoring(options["file"])
        except (CalmTinError, OSError) as error:
            raise CommandError(disk_words(error), returncode=2) from None
        holds = ", ".join(f"{number} {name}" for name, number in copy.holds.items())
        self.stdout.write(
            said("A whole copy of {manifest}: {holds}.", manifest=copy.manifest["written"], holds=holds)
        )
        try:
            if not options["yes"] and input("Put it in the place of the book? [y/N] ").lower() != "y":
                self.stdout.write(gettext("Nothing was changed."))
                return
            kept = copy.replace_book()
        except EOFError:
            raise CommandError(
                gettext("Nothing was changed: answer y, or give --yes."), returncode=2
            ) from None
        except (CalmTinError, OSError) as error:
            raise CommandError(disk_words(error), returncode=2) from None
        finally:
            copy.drop()
        self.stdout.write(f"Restored. {f'What was there is kept in {kept}.' if kept else ''}".strip())
