"""Read a file of records of version 3, in which a simulated pot set at one temperature."""

from __future__ import annotations

from typing import Any

from calmtin.core.process.heat import GRID_C

SHARE, OVER_C = 0.15, 10.0  # taken for a stove that knew only where its pot sets

ADDED = (
    ("pours", "melting", "staged"),
    ("own_figures", "form", ""),
    ("containers", "uses", None),
    ("renderings", "kind", "comb"),
    ("renderings", "material", "beeswax_yellow"),
    ("renderings", "started_on", None),
    ("renderings", "deleted_at", None),
    ("withdrawals", "rendering", None),
    ("corrections", "rendering", None),
    ("formulas", "pair", None),
    ("formulas", "season", ""),
    ("series", "one_pot", None),
    ("pours", "rest_of", None),
    ("weigh_lines", "is_from_pot", False),
    ("checks", "feels", ""),
    ("checks", "moment", ""),
    ("label_texts", "what", ""),
    ("label_texts", "is_own", False),
)


def upgrade(rows: dict[str, list[Any]]) -> None:
    """Give the rows of a file of version 3 the columns of version 4."""
    for table, column, value in ADDED:
        for row in rows.get(table, ()):
            if isinstance(row, dict):
                row.setdefault(column, value)
    for check in rows.get("checks", ()):
        if isinstance(check, dict):
            check.setdefault("complaints", [])
    for stove in rows.get("stoves", ()):
        if isinstance(stove, dict):
            stove.pop("latent_k", None)
            stove.setdefault("solids", solids_below(stove.get("set_c")))


def solids_below(set_c: Any) -> list[float]:
    """Return a solid share that grows over some degrees below `set_c`, C; none where that is no number."""
    if not isinstance(set_c, int | float):
        return [0.0] * len(GRID_C)
    return [round(SHARE * min(max((set_c - float(c)) / OVER_C, 0.0), 1.0), 5) for c in GRID_C]
