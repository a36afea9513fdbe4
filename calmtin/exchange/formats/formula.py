"""The open formula file: `calmtin.formula`, version 1 (docs/formats.md)."""

from __future__ import annotations

import csv
import io
import json
import math
from dataclasses import dataclass
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Any

from django.db import transaction
from django.utils.translation import gettext
from jsonschema_rs import Draft202012Validator, ValidationError

from calmtin.common.idempotency import sent_once
from calmtin.core.cautions.case import Case
from calmtin.core.cautions.rules import all_cautions
from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.data.loader import ceilings, kinds, scent_facts
from calmtin.core.errors import BadFormulaFile, EmptyFormula, UnknownMaterial
from calmtin.core.limits import FILE_BYTES, FORMULA_BYTES
from calmtin.core.materials import Material, Shelf, pure
from calmtin.core.measured import Measured
from calmtin.core.messages import said
from calmtin.core.process.weighing import share_out
from calmtin.exchange.formats.spreadsheets import no_formula
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.services import settle, start_formula
from calmtin.pantry.adapters import shelf_for

FORMAT = "calmtin.formula"
VERSION = 1
SCHEMA_FILE = Path(__file__).parent / "formula.schema.json"
MOST_LINES = 500  # of a file, far above what a formula holds


@dataclass(frozen=True)
class LineNotes:
    """What a bench keeps about a line beside its percentage; all of it optional in a file."""

    locks: bool = False
    balances: bool = False
    on_top_pct: Decimal | None = None
    typed: str = ""
    typed_g: tuple[float, float, float] | None = None
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
    if len(text) > FORMULA_BYTES:
        raise BadFormulaFile(
            said(
                "A formula’s file has up to {formula_bytes} kB. This is another file.",
                formula_bytes=FORMULA_BYTES // 1000,
            )
        )
    return parse_formula(read_json(text), shelf)


def read_json(text: str) -> Any:
    """Return what a JSON text says; refuse what no file of ours holds: NaN, cut or lone characters."""
    if len(text) > FILE_BYTES:
        raise BadFormulaFile(
            said("The file is larger than {file_bytes} MB.", file_bytes=FILE_BYTES // 1000000)
        )
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
        json.dumps(data, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        raise BadFormulaFile(gettext("The text contains a broken character.")) from None
    except (ValueError, RecursionError) as error:
        raise BadFormulaFile(said("This is not JSON: {error}.", error=str(error)[:120])) from None
    return data


def _refuse_constant(name: str) -> Any:
    raise ValueError(said("{name} is not a number", name=name))


def parse_formula(data: Any, shelf: Shelf) -> FormulaFile:
    """Check a formula that has been read from JSON already."""
    kind, name, rows = _parts_of_file(data)
    lines = [_line(row, place, shelf) for place, row in enumerate(rows, start=1)]
    _check_schema(data)
    total = sum(percent for _, percent in lines)
    if total <= 0.0:
        raise EmptyFormula(
            gettext("The formula is empty: no line has a percentage above 0."), field="lines"
        )
    if not math.isfinite(total):
        raise BadFormulaFile(gettext("The percentages are too large to add up."), field="lines")
    warnings = []
    if abs(total - 100.0) > 0.0005:
        warnings.append(
            said("The percentages add up to {total:g}, not 100; they were scaled to 100.", total=total)
        )
    whole = [(material, percent / total * 100.0) for material, percent in lines]
    return FormulaFile(
        name=name,
        kind=kind,
        lines=whole,
        total_percent=total,
        warnings=[*warnings, *_stops(name, kind, whole, data)],
        extras=_extras(data),
        notes=[_notes(row) for row in rows],
    )


def _stops(name: str, kind: str, lines: list[tuple[Material, float]], data: dict[str, Any]) -> list[str]:
    """Return the stop cautions of a formula file for its own audience, in words."""
    case = Case(
        lines=pure(lines),
        name=name,
        kind=kinds()[kind],
        ceiling=ceilings()[data.get("audience") or "adult_body_leave_on"],
        scents=scent_facts(),
        sees_sun=data.get("sees_sun", True),
        batch_g=Decimal(100),
        scale_step_g=Decimal("0.01"),
        set_c=None,
        grain=None,
        notes=data.get("notes", ""),
    )
    return [
        said("Stop: {title}. {words}", title=c.title, words=c.words)
        for c in all_cautions(case)
        if c.level == "stop"
    ]


def _parts_of_file(data: Any) -> tuple[str, str, list[Any]]:
    """Return kind, name and lines of a file, or raise an error that says what is missing."""
    if not isinstance(data, dict):
        raise BadFormulaFile(gettext('A formula file is one JSON object with "format": "calmtin.formula".'))
    if data.get("format") != FORMAT:
        raise BadFormulaFile(
            said(
                '"format" must be "{format}", not {shown}.', format=FORMAT, shown=_shown(data.get("format"))
            ),
            field="format",
        )
    if data.get("version") != VERSION or isinstance(data.get("version"), bool):
        raise BadFormulaFile(
            said(
                '"version" must be {version}, not {shown}.',
                version=VERSION,
                shown=_shown(data.get("version")),
            ),
            field="version",
        )
    kind = data.get("kind")
    if not isinstance(kind, str) or kind not in kinds():
        raise BadFormulaFile(
            said(
                '"kind" must be one of {kinds}, not {shown}.', kinds=", ".join(kinds()), shown=_shown(kind)
            ),
            field="kind",
        )
    name = data.get("name", "")
    if not isinstance(name, str):
        raise BadFormulaFile(gettext('"name" must be text.'), field="name")
    rows = data.get("lines")
    if not isinstance(rows, list):
        raise BadFormulaFile(
            gettext('"lines" must be a list of materials with percentages.'), field="lines"
        )
    if len(rows) > MOST_LINES:
        raise BadFormulaFile(
            said('"lines" holds more than {most_lines} lines.', most_lines=MOST_LINES),
            field="lines",
            limit=MOST_LINES,
        )
    return kind, name, rows


def _check_schema(data: dict[str, Any]) -> None:
    """Refuse what the published schema does not allow, with its place in the file."""
    error = min(_validator().iter_errors(data), key=lambda e: len(e.instance_path), default=None)
    if error is not None:
        place = "".join(
            f"[{step}]" if isinstance(step, int) else f".{step}" for step in error.instance_path
        )
        raise BadFormulaFile(
            said(
                "{where}: {shown} does not fit; it must {wanted}.",
                where=place.removeprefix("."),
                shown=_shown(error.instance),
                wanted=_wanted(error),
            ),
            field=str(error.instance_path[0]) if error.instance_path else "",
        )


@cache
def _schema() -> dict[str, Any]:
    schema: dict[str, Any] = json.loads(SCHEMA_FILE.read_text(encoding="utf-8"))
    return schema


@cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(_schema())


def _wanted(error: ValidationError) -> str:
    """Say in words what a rule of the schema wants."""
    asks: Any = _schema()
    for step in error.schema_path:
        asks = asks[step]
    return {
        "type": said("be {asks}", asks=asks if isinstance(asks, str) else gettext("of another kind")),
        "minimum": said("be {asks} or more", asks=asks),
        "maximum": said("be {asks} or less", asks=asks),
        "maxLength": said("be up to {asks} characters long", asks=asks),
        "maxItems": said("hold up to {asks}", asks=asks),
        "minItems": said("hold at least {asks}", asks=asks),
        "enum": said(
            "be one of {names}", names=", ".join(map(str, asks)) if isinstance(asks, list) else asks
        ),
    }.get(str(error.schema_path[-1]), gettext("be as the schema says"))


def _notes(row: dict[str, Any]) -> LineNotes:
    """Return what a line says beside its percentage; the schema has seen that it makes sense."""
    on_top, alcohol = row.get("on_top_percent"), row.get("alcohol_percent")
    return LineNotes(
        locks=row.get("locked", False),
        balances=row.get("balances", False),
        on_top_pct=None if on_top is None else Decimal(repr(on_top)).quantize(THOUSANDTH),
        typed=row.get("typed", ""),
        typed_g=_typed_g(row),
        alcohol_pct=None if alcohol is None else float(alcohol),
    )


def _typed_g(row: dict[str, Any]) -> tuple[float, float, float] | None:
    """Return what a measure weighed: usual, least, most; it lies between its ends."""
    if "typed_g" not in row:
        return None
    usual = float(row["typed_g"])
    return usual, min(float(row.get("low_g", usual)), usual), max(float(row.get("high_g", usual)), usual)


def _extras(data: dict[str, Any]) -> dict[str, Any]:
    """Return what only a formula of a bench has: batch, cooling and whipping, for whom, notes."""
    names = ("overrun_pct", "cooling", "audience", "sees_sun", "notes")
    found = {name: data[name] for name in names if name in data}
    if "overrun" in data:
        found.setdefault("overrun_pct", round(100 * data["overrun"]))
    if "age_days" in data:
        found["age_days"] = float(data["age_days"])
    if "batch_g" in data:
        found["batch_g"] = Decimal(repr(data["batch_g"])).quantize(Decimal("0.01"))
    return found


def write_formula(version: Version) -> str:
    """Return a version as a formula file, always in the same bytes for the same version."""
    formula = version.formula
    lines = []
    for line in version.lines.all():
        measured = line.measured_in_batch
        row: dict[str, Any] = {"material": line.material, "percent": _plain(line.percent)}
        if line.is_locked:
            row["locked"] = True
        if line.is_balancing:
            row["balances"] = True
        if line.on_top_pct is not None:
            row["on_top_percent"] = _plain(line.on_top_pct)
        if measured:
            row |= {
                "typed": measured.words,
                "typed_g": _plain(measured.grams),
                "low_g": _plain(measured.low),
                "high_g": _plain(measured.high),
            }
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


@sent_once
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
        measured=[
            _measured(notes[slug], percent, read.extras.get("batch_g"))
            for slug, percent in zip(percents, shared, strict=True)
        ],
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
    settle(version, shelf_for(user))
    return formula


def _measured(note: LineNotes, percent: Decimal, batch_g: Decimal | None) -> Measured | None:
    """Return how a line of a file was measured; a file without its grams means those of the line."""
    if note.typed_g is not None:
        return Measured.of(note.typed, *note.typed_g)
    if not note.typed or batch_g is None:
        return None
    grams = float(batch_g * percent / WHOLE)
    return Measured.of(note.typed, grams, grams, grams)


def lines_csv(version: Version, shelf: Shelf) -> str:
    """Return a version's lines as CSV: material, name, percent and grams in the batch."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["material", "name", "percent", "grams"])
    for line in version.lines.all():
        grams = version.batch_g * line.percent / WHOLE
        name = no_formula(shelf[line.material].name)
        writer.writerow([no_formula(line.material), name, f"{line.percent:f}", f"{grams:.2f}"])
    return out.getvalue()


def _line(row: Any, place: int, shelf: Shelf) -> tuple[Material, float]:
    if not isinstance(row, dict):
        raise BadFormulaFile(
            said('Line {place} must be an object with "material" and "percent".', place=place),
            field="lines",
        )
    slug, percent = row.get("material"), row.get("percent")
    if not isinstance(slug, str) or slug not in shelf:
        raise UnknownMaterial(
            said("Line {place}: there is no material called {shown}.", place=place, shown=_shown(slug)),
            field="material",
            material=str(slug),
        )
    if isinstance(percent, bool) or not isinstance(percent, int | float):
        raise BadFormulaFile(
            said(
                "Line {place} ({slug}): the percent must be a number, not {shown}.",
                place=place,
                slug=slug,
                shown=_shown(percent),
            ),
            field="percent",
        )
    try:
        value = float(percent)
    except OverflowError:
        value = math.inf
    if not math.isfinite(value) or value < 0.0:
        raise BadFormulaFile(
            said(
                "Line {place} ({slug}): the percent must be 0 or more, not {shown}.",
                place=place,
                slug=slug,
                shown=_shown(percent),
            ),
            field="percent",
        )
    return shelf[slug], value


def _shown(value: Any) -> str:
    """Return a value of the file as one short line."""
    text = json.dumps(value, ensure_ascii=True)
    return text if len(text) <= 60 else f"{text[:57]}..."
