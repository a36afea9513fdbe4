"""script/manage migrate: Django's own, with a backup first and no migration backwards."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import CommandError, CommandParser
from django.core.management.commands.migrate import Command as Migrate
from django.db import connections
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.recorder import MigrationRecorder
from django.utils import timezone

from calmtin.common.schema import lay_schema
from calmtin.core.errors import CalmTinError
from calmtin.core.messages import said
from calmtin.exchange.backups import copies_folder, database_file, refuse_newer, write_backup
from calmtin.exchange.restoring import has_book, refuse_lost_book
from calmtin.pours.services.closing import keep_missing_closings


class Command(Migrate):
    """Migrate, after a copy of a book that has something in it."""

    def add_arguments(self, parser: CommandParser) -> None:
        """Take `--from-first` beside Django's own."""
        super().add_arguments(parser)
        parser.add_argument(
            "--from-first", action="store_true", help="run every migration, even for an empty database"
        )

    def handle(self, *args: Any, **options: Any) -> Any:
        """Refuse a book of a newer Calm Tin; copy this one where something would change."""
        connection = connections[options["database"]]
        is_ours = Path(connection.settings_dict["NAME"]) == database_file()
        if is_ours and not settings.DEMO:
            try:
                refuse_lost_book()
            except CalmTinError as refused:
                raise CommandError(str(refused), returncode=2) from None
        if is_ours and has_book():
            try:
                refuse_newer(set(MigrationRecorder(connection).applied_migrations()))
            except CalmTinError as refused:
                raise CommandError(str(refused), returncode=2) from None
            executor = MigrationExecutor(connection)
            if executor.loader.applied_migrations and executor.migration_plan(
                executor.loader.graph.leaf_nodes()
            ):
                stamp = f"{timezone.localtime():%Y-%m-%d-%H%M%S}"
                write_backup(copies_folder() / f"before-migration-{stamp}.zip")
        wants_all = options.get("app_label") is None
        if wants_all and not options.get("from_first") and lay_schema(connection):
            return None
        done = super().handle(*args, **options)
        if is_ours and options.get("app_label") is None and (kept := keep_missing_closings()):
            self.stdout.write(said("{kept} pours that were closed keep what they say today.", kept=kept))
        return done
