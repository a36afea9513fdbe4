"""Read a recipe as people write it down: one thing a line, in any measure.

Every line of the input comes back, as a line with a weight or as an unresolved
item with the reason; nothing is dropped. What is not sure says so.
"""

from __future__ import annotations

from collections.abc import Mapping

from calmtin.core.errors import CalmTinError
from calmtin.core.limits import RECIPE_CHARS, RECIPE_LINE_CHARS
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import said
from calmtin.core.notation import USUAL, Notation
from calmtin.core.recipe.grammar import read_phrase, unbulleted
from calmtin.core.recipe.items import Measured, Recipe, Remark, Unresolved, stated_of
from calmtin.core.recipe.lines import LineReader
from calmtin.core.recipe.matching import names_of
from calmtin.core.recipe.measures import Weight
from calmtin.core.recipe.spoken import put_plainly
from calmtin.core.recipe.weights import weigh_all, weight_of

MOST_LINES = 200
TOO_LONG = f"This line is longer than {RECIPE_LINE_CHARS} characters. Put one material on each line."


def read_recipe(
    text: str,
    shelf: Shelf,
    *,
    synonyms: Mapping[str, str],
    drops_per_ml: Mapping[str, tuple[float, float, float]],
    notation: Notation = USUAL,
    batch_g: float | None = None,
    part_g: float | None = None,
) -> Recipe:
    """Return the recipe in `text`, its materials matched to `shelf`.

    `synonyms` maps other common names to slugs; `drops_per_ml` gives a scent's
    drops. Parts share 100 g, or are of `part_g` each beside other measures; percent
    share the batch, which a line states ("batch 200 g") or `batch_g` gives, and what
    stands in measures beside them goes on top.
    Raises `CalmTinError` when the text is longer than 200 lines.
    """
    if len(text) > RECIPE_CHARS:
        raise CalmTinError(
            said("Paste up to {recipe_chars:,} characters at once.", recipe_chars=RECIPE_CHARS),
            field="text",
        )
    # White space is folded once, so that no pattern has to look for where it ends.
    rows = [folded for row in text.splitlines() if (folded := " ".join(row.split()))]
    if len(rows) > MOST_LINES:
        raise CalmTinError(
            said(
                "That is {rows} lines. Paste up to {most_lines} at once.",
                rows=len(rows),
                most_lines=MOST_LINES,
            ),
            field="text",
            limit=MOST_LINES,
        )
    read = LineReader(shelf, names_of(shelf, synonyms), notation)
    items: list[Measured | Unresolved | Remark] = []
    for row in rows:
        if len(row) > RECIPE_LINE_CHARS:
            items.append(Unresolved(row[:RECIPE_LINE_CHARS] + "…", TOO_LONG))
        else:
            items += [read.line(piece) for piece in read.pieces(row)]
    return Recipe(tuple(weigh_all(items, shelf, drops_per_ml, batch_g, part_g)))


def weigh_as(
    text: str,
    material: Material,
    *,
    drops_per_ml: tuple[float, float, float] | None = None,
    notation: Notation = USUAL,
) -> Weight | None:
    """Return the weight of a recipe line once a person has said which material it means.

    None when its own words give no amount with a unit that stands by itself.
    """
    if len(text) > RECIPE_LINE_CHARS:
        return None
    phrase = read_phrase(unbulleted(put_plainly(" ".join(text.split()))[0]), notation)
    if phrase.is_minus or not phrase.amounts:
        return None
    stated = stated_of(phrase.amounts)
    if stated.unit in (None, "part", "percent"):
        return None
    return weight_of(stated, material, phrase.form, drops_per_ml)
