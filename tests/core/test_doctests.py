"""Every example in the docstrings of the core, and of what else has some, says the truth."""

from __future__ import annotations

import doctest
import importlib
import pkgutil

from django.test import SimpleTestCase

import calmtin.core

ELSEWHERE = ["calmtin.common.numbers", "calmtin.exchange.formats.spreadsheets"]


class Examples(SimpleTestCase):
    def test_all_of_them(self) -> None:
        walked = pkgutil.walk_packages(calmtin.core.__path__, "calmtin.core.")
        tried = 0
        for name in [*(module.name for module in walked), *ELSEWHERE]:
            with self.subTest(name):
                result = doctest.testmod(importlib.import_module(name))
                self.assertEqual(result.failed, 0)
                tried += result.attempted
        self.assertGreaterEqual(tried, 40)
