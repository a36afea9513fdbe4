"""The open formula file: `calmtin.formula`, version 1 (docs/formats.md)."""

from __future__ import annotations

import csv
import io
import json
import math
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db import transaction

from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.data.loader import kinds
from calmtin.core.errors import BadFormulaFile, EmptyFormula, UnknownMaterial
from calmtin.core.grain import COOLINGS
from calmtin.core.materials import Material, Shelf
from calmtin.core.weighing import share_out
from calmtin.formulas.models import Audience, Formula, Version
from calmtin.formulas.services import settle_on_top, start_formula
from calmtin.pantry.adapters import shelf_for

FORMAT = "calmtin.formula"
VERSION = 1
MOST_LINES = 500  # of a file, far above what a formula holds


@dataclass(frozen=True)
class LineNotes:
    """What a bench keeps about a line beside its percentage; all of it optional in a file."""

    locks: bool = False
    balances: bool = False
    on_top_pct: Decimal | None = None
    typed: str = ""
    alcohol_pct: float | None = None


@dataclass(frozen=True)
class FormulaFile:
    """A formula as it was read: materials with percentages that sum to 100."""

    name: str
    kind: str
    lines: list[tuple[Material, float]]
    total_percent: float
    warnings: list[str]
    extras: dict[str, Any]
    notes: list[LineNotes]


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
        extras=_extras(data),
        notes=[_notes(row) for row in rows],
    )


def _notes(row: dict[str, Any]) -> LineNotes:
    """Return what a line says beside its percentage, where it makes sense."""
    on_top, alcohol, typed = row.get("on_top_percent"), row.get("alcohol_percent"), row.get("typed")
    return LineNotes(
        locks=row.get("locked") is True,
        balances=row.get("balances") is True,
        on_top_pct=Decimal(repr(on_top)).quantize(THOUSANDTH) if _is_number(on_top, 0, 100) else None,
        typed=typed[:200] if isinstance(typed, str) else "",
        alcohol_pct=float(alcohol) if _is_number(alcohol, 0, 100) else None,
    )


def _is_number(value: Any, low: float, high: float) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and low <= value <= high


def _extras(data: dict[str, Any]) -> dict[str, Any]:
    """Return what only a formula of a bench has: batch, cooling and whipping, where they make sense."""
    found: dict[str, Any] = {}
    batch, overrun, cooling = data.get("batch_g"), data.get("overrun_pct"), data.get("cooling")
    if _is_number(batch, 1, 50_000):
        found["batch_g"] = Decimal(repr(batch)).quantize(Decimal("0.01"))
    if isinstance(overrun, int) and not isinstance(overrun, bool) and 0 <= overrun <= 300:
        found["overrun_pct"] = overrun
    if cooling in COOLINGS:
        found["cooling"] = cooling
    if data.get("audience") in Audience.values:
        found["audience"] = data["audience"]
    if isinstance(data.get("sees_sun"), bool):
        found["sees_sun"] = data["sees_sun"]
    if isinstance(data.get("notes"), str):
        found["notes"] = data["notes"][:2000]
    return found


def write_formula(version: Version) -> str:
    """Return a version as a formula file, always in the same bytes for the same version."""
    formula = version.formula
    lines = []
    for line in version.lines.all():
        row: dict[str, Any] = {"material": line.material, "percent": _plain(line.percent)}
        if line.is_locked:
            row["locked"] = True
        if line.is_balancing:
            row["balances"] = True
        if line.on_top_pct is not None:
            row["on_top_percent"] = _plain(line.on_top_pct)
        if line.typed:
            row["typed"] = line.typed
        if line.alcohol_pct is not None:
            row["alcohol_percent"] = line.alcohol_pct
        lines.append(row)
    data = {
        "format": FORMAT,
        "version": VERSION,
        "name": formula.name,
        "kind": formula.kind,
        "audience": formula.audience,
        "sees_sun": formula.sees_sun,
        "notes": formula.notes,
        "batch_g": _plain(version.batch_g),
        "cooling": version.cooling,
        "overrun_pct": version.overrun_pct,
        "lines": lines,
    }
    return json.dumps(data, ensure_ascii=False, indent=2) + "\n"


def _plain(value: Decimal) -> float | int:
    """Return a stored number as the shortest JSON number that says the same."""
    return int(value) if value == value.to_integral_value() else float(value)


@transaction.atomic
def import_formula(user: Any, text: str) -> Formula:
    """Start a formula from a file; the same material in two lines is put together.

    Raises what `read_formula_file` raises, and changes nothing then.
    """
    read = read_formula_file(text, shelf_for(user))
    percents: dict[str, Decimal] = {}
    notes: dict[str, LineNotes] = {}
    for (material, percent), note in zip(read.lines, read.notes, strict=True):
        exact = Decimal(repr(round(percent, 6)))
        percents[material.slug] = percents.get(material.slug, Decimal(0)) + exact
        notes.setdefault(material.slug, note)
    values = list(percents.values())
    values[-1] += WHOLE - sum(values, Decimal(0))
    shared = share_out(values, Decimal("0.001"))
    formula = start_formula(
        user,
        name=read.name.strip()[:80] or "Imported formula",
        kind=read.kind,
        audience=read.extras.get("audience", ""),
        sees_sun=read.extras.get("sees_sun", True),
        typed=[notes[slug].typed for slug in percents],
        lines=list(zip(percents, shared, strict=True)),
        batch_g=read.extras.get("batch_g"),
    )
    formula.notes = read.extras.get("notes", "")
    formula.save(update_fields=["notes"])
    version = formula.versions.get()
    for field in ("cooling", "overrun_pct"):
        setattr(version, field, read.extras.get(field, getattr(version, field)))
    version.save(update_fields=["cooling", "overrun_pct"])
    balancing = [slug for slug, note in notes.items() if note.balances]
    if len(balancing) == 1:
        version.lines.update(is_balancing=False)
        version.lines.filter(material=balancing[0]).update(is_balancing=True)
    for line in version.lines.all():
        note = notes[line.material]
        line.alcohol_pct = note.alcohol_pct
        if not line.is_balancing:
            line.is_locked, line.on_top_pct = note.locks, note.on_top_pct
        line.save()
    settle_on_top(version)
    return formula


def lines_csv(version: Version, shelf: Shelf) -> str:
    """Return a version's lines as CSV: material, name, percent and grams in the batch."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["material", "name", "percent", "grams"])
    for line in version.lines.all():
        grams = version.batch_g * line.percent / WHOLE
        writer.writerow([line.material, shelf[line.material].name, line.percent, f"{grams:.2f}"])
    return out.getvalue()


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
