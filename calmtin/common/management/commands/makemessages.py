"""Collect every sentence of the interface in the English catalogue: `script/manage makemessages`."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.commands import makemessages

WIDTH = "--width=108"


class Command(makemessages.Command):
    """Django's own, with the functions by which the core words its sentences."""

    xgettext_options = [
        *makemessages.Command.xgettext_options,
        "--keyword=Message",
        "--keyword=said",
        "--keyword=counted:2,3",
        WIDTH,
    ]
    msgmerge_options = [*makemessages.Command.msgmerge_options, "--no-fuzzy-matching", WIDTH]
    msguniq_options = [*makemessages.Command.msguniq_options, WIDTH]
    msgattrib_options = [*makemessages.Command.msgattrib_options, WIDTH]

    def handle(self, *args: Any, **options: Any) -> None:
        """Write calmtin/locale/en, without unused entries and without line numbers."""
        options["locale"] = options["locale"] or ["en"]
        options["no_obsolete"], options["add_location"] = True, "file"
        here = Path.cwd()
        os.chdir(settings.BASE_DIR)
        try:
            super().handle(*args, **options)
        finally:
            os.chdir(here)
