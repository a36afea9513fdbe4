"""Write docs/amounts.md, how amounts are read, from the table that the tests hold."""

from __future__ import annotations

import csv
from pathlib import Path

from calmtin.core.data.loader import drops_per_ml, library, synonyms
from calmtin.core.recipe.items import RecipeLine
from calmtin.core.recipe.reader import read_recipe

ROOT = Path(__file__).resolve().parent.parent
TABLE = ROOT / "tests" / "published" / "amounts.csv"


def report() -> list[str]:
    """Return the lines of docs/amounts.md."""
    with TABLE.open(encoding="utf-8", newline="") as handle:
        rows = list(csv.DictReader(handle, delimiter="|"))
    lines = [
        "# How amounts are read",
        "",
        "One reader serves the pasted recipe, every box that takes an amount, files and the command line.",
        "A stated weight counts before a measure, grams before ounces; what is not sure is asked.",
        f"Written by `script/docs` from `tests/published/amounts.csv`: {len(rows)} phrasings, all",
        "invented, each with the reading that a person would give.",
        "",
        "| written | read as | g | g, from–to | asked |",
        "|---|---|---|---|---|",
    ]
    for row in rows:
        (item,) = read_recipe(
            row["written"], library(), synonyms=synonyms(), drops_per_ml=drops_per_ml()
        ).items
        if isinstance(item, RecipeLine):
            weight = item.weight
            span = "" if weight.low == weight.high else f"{weight.low:.4g}–{weight.high:.4g}"
            read = f"{library()[item.material].in_words}, {row['reading'].replace('_', ' ')}"
            lines.append(f"| {row['written']} | {read} | {weight.grams:.4g} | {span} | {item.question} |")
        else:
            lines.append(f"| {row['written']} | – | | | {getattr(item, 'reason', '')} |")
    return lines


def main() -> None:
    """Write the page."""
    (ROOT / "docs" / "amounts.md").write_text("\n".join(report()) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
