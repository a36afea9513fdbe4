"""script/manage predict FILE: a formula file in, a prediction in JSON out."""

from __future__ import annotations

import argparse
import json
import math
from typing import Any

from calmtin.core.data.loader import library
from calmtin.exchange.command import FileCommand
from calmtin.exchange.formats.formula import read_formula_file
from calmtin.exchange.formats.prediction import USUAL_TEMPS, prediction


def temperature(text: str) -> float:
    """Return a temperature option in C, from -20 to 110."""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not -20.0 <= value <= 110.0:
        raise argparse.ArgumentTypeError(f"{text!r} is not a temperature from -20 to 110 C")
    return value


class Command(FileCommand):
    """Predict the firmness of a formula file; needs no database."""

    help = "Predict the firmness of a calmtin.formula file and print it as JSON."
    file_help = "a calmtin.formula JSON file, or - for standard input"

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file and temperatures."""
        super().add_arguments(parser)
        parser.add_argument("--at", type=temperature, action="append", metavar="C", help="a temperature")

    def answer(self, text: str, options: dict[str, Any], /) -> str:
        """Return the prediction as JSON."""
        formula = read_formula_file(text, library())
        return json.dumps(prediction(formula, options["at"] or USUAL_TEMPS), ensure_ascii=False)
