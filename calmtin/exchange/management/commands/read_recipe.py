"""script/manage read_recipe FILE: a recipe as people write it in, weights in JSON out."""

from __future__ import annotations

import argparse
from typing import Any

from django.utils.translation import gettext

from calmtin.core.data.loader import drops_per_ml, library, synonyms
from calmtin.core.limits import BATCH_G
from calmtin.core.messages import notation_in_force
from calmtin.core.recipe.boxes import read_grams
from calmtin.core.recipe.grammar import Amount
from calmtin.core.recipe.items import Remark
from calmtin.core.recipe.reader import read_recipe
from calmtin.exchange.command import FileCommand


class Command(FileCommand):
    """Read a recipe by weight; needs no database."""

    help = "Read a recipe in grams, cups, spoons, drops or parts and print its lines by weight as JSON."
    file_help = "a text file, one material a line, or - for standard input"

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        """Take a file, and a batch."""
        super().add_arguments(parser)
        parser.add_argument("--batch", default="", help="what percentages are of, such as 200 g")

    def answer(self, text: str, options: dict[str, Any], /) -> dict[str, Any]:
        """Return the recipe's lines with their weights, and the unresolved ones."""
        notation = notation_in_force()
        batch_g = None
        if options["batch"]:
            low, high = BATCH_G
            batch_g = float(
                read_grams(
                    options["batch"], name=gettext("The batch"), low=low, high=high, notation=notation
                )
            )
        recipe = read_recipe(
            text,
            library(),
            synonyms=synonyms(),
            drops_per_ml=drops_per_ml(),
            notation=notation,
            batch_g=batch_g,
        )
        return {
            "lines": [
                {
                    "text": line.text,
                    "material": line.material,
                    "grams": round(line.weight.grams, 2),
                    "low_g": round(line.weight.low, 2),
                    "high_g": round(line.weight.high, 2),
                    "stated": _stated(line.stated),
                    "question": line.question,
                }
                for line in recipe.lines
            ],
            "unresolved": [{"text": item.text, "reason": item.reason} for item in recipe.unresolved],
            "about_the_batch": [
                {"text": item.text, "batch_g": round(item.batch_g, 2)}
                for item in recipe.items
                if isinstance(item, Remark)
            ],
        }


def _stated(amount: Amount) -> dict[str, Any]:
    """Return the stated number, its range if given, and its unit."""
    told: dict[str, Any] = {"number": round(amount.value, 6), "unit": amount.unit}
    if amount.low != amount.high:
        told |= {"low": round(amount.low, 6), "high": round(amount.high, 6)}
    return told
