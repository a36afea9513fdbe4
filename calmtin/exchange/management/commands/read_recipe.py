"""script/manage read_recipe FILE: a recipe as people write it in, weights in JSON out."""

from __future__ import annotations

import json
from typing import Any

from calmtin.core.data.loader import drops_per_ml, library, synonyms
from calmtin.core.recipe.reader import read_recipe
from calmtin.exchange.command import FileCommand


class Command(FileCommand):
    """Read a recipe by weight; needs no database."""

    help = "Read a recipe in grams, cups, spoons, drops or parts and print its lines by weight as JSON."
    file_help = "a text file, one material a line, or - for standard input"

    def answer(self, text: str, _: dict[str, Any], /) -> str:
        """Return the recipe's lines with their weights, and what is left to settle."""
        recipe = read_recipe(text, library(), synonyms=synonyms(), drops_per_ml=drops_per_ml())
        return json.dumps(
            {
                "lines": [
                    {
                        "text": line.text,
                        "material": line.material,
                        "grams": round(line.weight.grams, 2),
                        "grams_low": round(line.weight.low, 2),
                        "grams_high": round(line.weight.high, 2),
                    }
                    for line in recipe.lines
                ],
                "unresolved": [item.text for item in recipe.unresolved],
            },
            ensure_ascii=False,
        )
