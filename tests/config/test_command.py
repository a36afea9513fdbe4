"""The `calmtin` command, and where an installation keeps its book."""

from __future__ import annotations

import os
import re
from contextlib import redirect_stdout
from io import StringIO
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from django.core.management import get_commands
from django.test import SimpleTestCase

from calmtin.config import folder
from calmtin.config.command import USAGE, main


class CommandTests(SimpleTestCase):
    def test_without_a_command_it_lists_them_and_says_where_the_book_is(self):
        for argv in ([], ["--help"]):
            with redirect_stdout(StringIO()) as printed, mock.patch.dict(os.environ, CALMTIN_DATA="/tern"):
                main(argv)
            self.assertIn("calmtin backup", printed.getvalue())
            self.assertIn("kept in /tern", printed.getvalue())

    def test_every_command_that_it_lists_exists(self):
        lines = re.findall(r"^calmtin ([a-z_ |]+?)(?:\s{2,}|\s*\[|\s[A-Z])", USAGE, re.M)
        listed = {name for line in lines for name in line.replace("|", " ").split()}
        self.assertGreaterEqual(listed, {"serve", "demo", "backup", "restore", "predict", "read_recipe"})
        self.assertEqual(listed - {"serve", "demo", "out", "in"} - set(get_commands()), set())

    def test_a_dash_is_an_underscore(self):
        with mock.patch("django.core.management.execute_from_command_line") as run:
            main(["read-recipe", "-"])
        run.assert_called_once_with(["calmtin", "read_recipe", "-"])


class FolderTests(SimpleTestCase):
    def test_the_folder_is_the_given_one_the_checkouts_or_the_makers(self):
        with TemporaryDirectory() as place, mock.patch.dict(os.environ, CALMTIN_DATA=f"{place}/given"):
            self.assertEqual(folder.data_folder(), Path(place) / "given")
            del os.environ["CALMTIN_DATA"]
            with mock.patch.object(folder, "PACKAGE", Path(place) / "calmtin"):
                os.environ["XDG_DATA_HOME"] = f"{place}/data"
                self.assertEqual(folder.data_folder(), Path(place) / "data" / "calmtin")
                (Path(place) / "pyproject.toml").touch()
                self.assertEqual(folder.data_folder(), Path(place) / "var")
