"""script/manage predict FILE: a formula file in, a prediction in JSON out."""

from __future__ import annotations

import argparse
import json
import math
import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand

from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.exchange.formula_file import read_formula_file
from calmtin.exchange.predict import USUAL_TEMPS, prediction


def temperature(text: str) -> float:
    """Return a temperature option in C, from -20 to 110."""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not -20.0 <= value <= 110.0:
        raise argparse.ArgumentTypeError(f"{text!r} is not a temperature from -20 to 110 C")
    return value


class Command(BaseCommand):
    """Predict the firmness of a formula file; needs no database."""

    help = "Predict the firmness of a calmtin.formula file and print it as JSON."
    requires_system_checks = []

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file and temperatures."""
        parser.add_argument("file", help="a calmtin.formula JSON file, or - for standard input")
        parser.add_argument("--at", type=temperature, action="append", metavar="C", help="a temperature")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the prediction, or one line on standard error and exit 2."""
        try:
            raw = sys.stdin.buffer.read() if options["file"] == "-" else Path(options["file"]).read_bytes()
            formula = read_formula_file(raw.decode("utf-8-sig"), library())
            answer = prediction(formula, options["at"] or USUAL_TEMPS)
        except OSError as error:
            self._refuse(f"{options['file']} cannot be read: {error.strerror or error}.")
        except UnicodeDecodeError:
            self._refuse("The file is not text in UTF-8.")
        except CalmTinError as refused:
            self._refuse(refused.sentence)
        self.stdout.write(json.dumps(answer, ensure_ascii=False))

    def _refuse(self, sentence: str) -> None:
        self.stderr.write(" ".join(sentence.split()))
        sys.exit(2)
