"""The words that a page explains where they are first met, as docs/glossary.md has them."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

from django.conf import settings

# Beside this module in an installed package; in a checkout among the documents.
GLOSSARY = (
    Path(__file__).with_name("glossary.md"),
    settings.BASE_DIR.parent / "docs" / "glossary.md",
)
_ROW = re.compile(r"^\| (?P<term>[^|]+?) \| (?P<meaning>[^|]+?) \|$", re.MULTILINE)


@cache
def meanings() -> dict[str, str]:
    """Return what each word means, from the first table of the glossary."""
    text = next(file for file in GLOSSARY if file.exists()).read_text(encoding="utf-8")
    table = text.partition("\n## Words in pages\n")[2].partition("\n## ")[0]
    rows = {row["term"]: row["meaning"] for row in _ROW.finditer(table)}
    return {word: meaning for word, meaning in rows.items() if word not in ("word", "---")}
