"""script/manage predict FILE: a formula file in, a prediction in JSON out."""

from __future__ import annotations

import argparse
from functools import partial
from typing import Any

from calmtin.core.data.loader import library
from calmtin.core.messages import notation_in_force
from calmtin.core.units import read_temperature
from calmtin.exchange.command import FileCommand
from calmtin.exchange.formats.formula import read_formula_file
from calmtin.exchange.formats.prediction import USUAL_TEMPS, prediction


class Command(FileCommand):
    """Predict the firmness of a formula file; needs no database."""

    help = "Predict the firmness of a calmtin.formula file and print it as JSON."
    file_help = "a calmtin.formula JSON file, or - for standard input"

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file and temperatures."""
        super().add_arguments(parser)
        parser.add_argument("--at", action="append", metavar="DEGREES", help="a temperature: 21, 70F")

    def answer(self, text: str, options: dict[str, Any], /) -> dict[str, Any]:
        """Return the prediction as JSON."""
        formula = read_formula_file(text, library())
        notation = notation_in_force()
        read = partial(read_temperature, name="--at", low_c=-20.0, high_c=110.0, notation=notation)
        return prediction(formula, [read(text) for text in options["at"] or ()] or USUAL_TEMPS)
