"""The words that a page explains where they are first met, as docs/glossary.md has them."""

from __future__ import annotations

import re
from functools import cache

from django.conf import settings

_ROW = re.compile(r"^\| (?P<term>[^|]+?) \| (?P<meaning>[^|]+?) \|$", re.MULTILINE)


@cache
def meanings() -> dict[str, str]:
    """Return what each word means, from the first table of the glossary."""
    text = (settings.BASE_DIR.parent / "docs" / "glossary.md").read_text(encoding="utf-8")
    table = text.partition("\n## Words in pages\n")[2].partition("\n## ")[0]
    rows = {row["term"]: row["meaning"] for row in _ROW.finditer(table)}
    return {word: meaning for word, meaning in rows.items() if word not in ("word", "---")}
