"""The open formula file: `calmtin.formula`, version 1 (docs/formats.md)."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from typing import Any

from calmtin.core.data.loader import kinds
from calmtin.core.errors import BadFormulaFile, EmptyFormula, UnknownMaterial
from calmtin.core.materials import Material, Shelf

FORMAT = "calmtin.formula"
VERSION = 1
MOST_LINES = 500  # of a file, far above what a formula holds


@dataclass(frozen=True)
class FormulaFile:
    """A formula as it was read: materials with percentages that sum to 100."""

    name: str
    kind: str
    lines: list[tuple[Material, float]]
    total_percent: float
    warnings: list[str]


def read_formula_file(text: str, shelf: Shelf) -> FormulaFile:
    """Parse and check a formula file; percentages are normalised, with a warning.

    Raises `BadFormulaFile`, `UnknownMaterial` or `EmptyFormula` with one clear line.
    """
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadFormulaFile(f"This is not JSON: {error}.") from None
    return parse_formula(data, shelf)


def parse_formula(data: Any, shelf: Shelf) -> FormulaFile:
    """Check a formula that has been read from JSON already."""
    if not isinstance(data, dict):
        raise BadFormulaFile('A formula file is one JSON object with "format": "calmtin.formula".')
    if data.get("format") != FORMAT:
        raise BadFormulaFile(
            f'"format" must be "{FORMAT}", not {_shown(data.get("format"))}.', field="format"
        )
    if data.get("version") != VERSION or isinstance(data.get("version"), bool):
        raise BadFormulaFile(
            f'"version" must be {VERSION}, not {_shown(data.get("version"))}.', field="version"
        )
    kind = data.get("kind")
    if not isinstance(kind, str) or kind not in kinds():
        raise BadFormulaFile(
            f'"kind" must be one of {", ".join(kinds())}, not {_shown(kind)}.', field="kind"
        )
    name = data.get("name", "")
    if not isinstance(name, str):
        raise BadFormulaFile('"name" must be text.', field="name")
    rows = data.get("lines")
    if not isinstance(rows, list):
        raise BadFormulaFile('"lines" must be a list of materials with percentages.', field="lines")
    if len(rows) > MOST_LINES:
        raise BadFormulaFile(
            f'"lines" holds more than {MOST_LINES} lines.', field="lines", limit=MOST_LINES
        )
    lines = [_line(row, place, shelf) for place, row in enumerate(rows, start=1)]
    total = math.fsum(percent for _, percent in lines)
    if total <= 0.0:
        raise EmptyFormula("The formula is empty: no line has a percentage above 0.", field="lines")
    if not math.isfinite(total):
        raise BadFormulaFile("The percentages are too large to add up.", field="lines")
    warnings = []
    if abs(total - 100.0) > 0.0005:
        warnings.append(f"The percentages sum to {total:g}, not 100; they were scaled to 100.")
    return FormulaFile(
        name=name,
        kind=kind,
        lines=[(material, percent * 100.0 / total) for material, percent in lines],
        total_percent=total,
        warnings=warnings,
    )


def _line(row: Any, place: int, shelf: Shelf) -> tuple[Material, float]:
    if not isinstance(row, dict):
        raise BadFormulaFile(
            f'Line {place} must be an object with "material" and "percent".', field="lines"
        )
    slug, percent = row.get("material"), row.get("percent")
    if not isinstance(slug, str) or slug not in shelf:
        raise UnknownMaterial(
            f"Line {place}: there is no material called {_shown(slug)}.",
            field="material",
            material=str(slug),
        )
    if isinstance(percent, bool) or not isinstance(percent, int | float):
        raise BadFormulaFile(
            f"Line {place} ({slug}): the percent must be a number, not {_shown(percent)}.", field="percent"
        )
    try:
        value = float(percent)
    except OverflowError:
        value = math.inf
    if not math.isfinite(value) or value < 0.0:
        raise BadFormulaFile(
            f"Line {place} ({slug}): the percent must be 0 or more, not {_shown(percent)}.", field="percent"
        )
    return shelf[slug], value


def _shown(value: Any) -> str:
    """Return a value as it stands in the file, cut to one short line."""
    text = json.dumps(value, ensure_ascii=True)
    return text if len(text) <= 60 else f"{text[:57]}..."
