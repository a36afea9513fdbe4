"""Where the book of this installation is kept."""

from __future__ import annotations

import os
from pathlib import Path

from platformdirs import user_data_path

PACKAGE = Path(__file__).resolve().parent.parent


def data_folder() -> Path:
    """Return the folder of `CALMTIN_DATA`; else `var` of a checkout, or the user's own data folder."""
    if given := os.environ.get("CALMTIN_DATA"):
        return Path(given)
    if (PACKAGE.parent / "pyproject.toml").exists():
        return PACKAGE.parent / "var"
    return user_data_path("calmtin", appauthor=False)
