"""The worked cases in the core's docstrings are part of the tests."""

import doctest
import importlib
import pkgutil
from typing import Any

import calmtin.core
import calmtin.pictures


def load_tests(loader: Any, tests: Any, pattern: Any) -> Any:
    for package in (calmtin.core, calmtin.pictures):
        for module in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
            if "templatetags" not in module.name:
                tests.addTests(doctest.DocTestSuite(importlib.import_module(module.name)))
    return tests
