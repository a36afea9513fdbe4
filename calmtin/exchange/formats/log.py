"""The log of pours and checks as CSV: export everything, import past notes.

One row is one look at a pour; a pour that nobody looked at has one row of its own. docs/formats.md
tells every column. Coming in, rows that agree in formula, day and materials are one pour.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from functools import partial
from time import sleep
from typing import Any

from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext

from calmtin.core.composition import THOUSANDTH, WHOLE
from calmtin.core.data.loader import kinds, synonyms
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CHECK_C, RUNG, check, check_text
from calmtin.core.materials import Shelf, percents_of
from calmtin.core.messages import Message, Words, said
from calmtin.core.process.checks import LOOKS, SIGNS
from calmtin.core.process.complaints import Complaint, Feels
from calmtin.core.process.fill import Filling, for_containers, melt_of
from calmtin.core.process.grain import COOLINGS
from calmtin.core.process.losses import Losses
from calmtin.core.process.weighing import share_out
from calmtin.core.quantities import Temperature
from calmtin.core.recipe.matching import name_material
from calmtin.core.units import read_number, read_temperature
from calmtin.exchange.formats.days import Order, order_of, read_day
from calmtin.exchange.formats.spreadsheets import as_typed, gather, no_formula, table_rows
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula, Version
from calmtin.formulas.services import set_process, start_formula
from calmtin.formulas.services.lifecycle import copy_version
from calmtin.pantry.adapters import container_for, shelf_for
from calmtin.pours.adapters import IN_THE_POT, actual_parts, age_days, overrun_of
from calmtin.pours.adapters.closed import as_closed
from calmtin.pours.models import Check, Pour, WeighIn
from calmtin.pours.services import finish_weighing, record_check, start_pour

SIGN_COLUMNS = tuple(SIGNS)
COLUMNS = (
    "formula", "kind", "version", "pour", "poured", "called_off", "batch_g", "into", "cooling",
    "whipped_pct", "materials", "kept", "checked", "look", "at_c", "age_days", "felt_rung", "press_g",
    "rod_mm", "verdict", "feels", "complaints", "who", *SIGN_COLUMNS, "left_out", "notes",
)  # fmt: skip
REQUIRED = ("formula", "poured", "materials")
# What makers call these columns in sheets of their own.
KNOWN_AS = {
    "name": "formula", "recipe": "formula", "product": "formula", "date": "poured", "day": "poured",
    "made": "poured", "made_on": "poured", "poured_on": "poured", "ingredients": "materials",
    "material": "materials", "what_went_in": "materials", "type": "kind", "temperature": "at_c",
    "temp": "at_c", "at": "at_c", "firmness": "felt_rung", "felt": "felt_rung", "note": "notes",
    "comment": "notes", "comments": "notes", "checked_on": "checked", "tester": "who",
}  # fmt: skip
SAMPLE = (
    "formula,kind,poured,materials,checked,at_c,felt_rung,verdict,complaints,notes\r\n"
    "Oarlock hand salve,firm salve,2026-05-31,20 g beeswax; 80 g olive oil,2026-06-02,"
    "21,5,keep,,Good grip.\r\n"
    "Headwind lip stick,lip balm,2026-06-07,22 g beeswax; 30 g shea butter; 48 g almond oil,2026-06-08,"
    "21,6.5,tweak,drags; sticky,\r\n"
)
MOST_ROWS = 5_000
BREATH_S = 0.03  # between two pours: who waits for the book asks for it every 25 ms at first
NOON = time(12)
OLD_CONTAINER = "tin_2oz"  # what an old pour is put into where nobody wrote it down
OLD_BATCH_G = Decimal(100)
OLD_STEP_G = Decimal("0.01")


def export_log(user: Any, shelf: Shelf) -> Iterator[str]:
    """Yield the whole log as CSV, line by line; text that a spreadsheet would run is quoted."""
    pours = (
        Pour.objects.of(user)
        .select_related("version__formula", "closing")
        .prefetch_related(*IN_THE_POT, "checks__left_out", "fillings", "kept")
        .order_by("started_at", "pk")
    )
    yield _line(COLUMNS)
    for pour in pours.iterator(chunk_size=200):
        as_closed(pour)
        of_pour = _pour_cells(pour, shelf)
        for check_ in pour.checks.all() or [None]:
            cells = of_pour | (_check_cells(pour, check_) if check_ else {})
            yield _line([no_formula(str(cells.get(name, ""))) for name in COLUMNS])


def _line(cells: Any) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerow(cells)
    return out.getvalue()


def _pour_cells(pour: Pour, shelf: Shelf) -> dict[str, Any]:
    parts = actual_parts(pour, shelf)
    kept = max(pour.kept.all(), key=lambda kept: kept.pk, default=None)
    return {
        "formula": pour.version.formula.name,
        "kind": pour.version.formula.kind,
        "version": pour.version.number,
        "pour": pour.code,
        "poured": timezone.localdate(pour.poured_at).isoformat() if pour.poured_at else "",
        "called_off": pour.called_off_why or ("yes" if pour.called_off_at else ""),
        "batch_g": _plain(pour.batch_g),
        "into": pour.into,
        "cooling": pour.version.cooling,
        "whipped_pct": round(100 * overrun_of(pour)) or "",
        "materials": "; ".join(f"{_plain(Decimal(repr(g)))} g {m.slug}" for m, g in parts if g > 0),
        "kept": "yes" if kept and kept.is_kept else "",
    }


def _check_cells(pour: Pour, made: Check) -> dict[str, Any]:
    return {
        "checked": timezone.localtime(made.made_at).strftime("%Y-%m-%d %H:%M"),
        "look": made.set_test or made.look,
        "at_c": f"{made.temp_c:g}",
        "age_days": f"{age_days(pour, made):.2f}",
        "felt_rung": "" if made.felt_rung is None else f"{made.felt_rung.normalize():f}",
        "press_g": " ".join(f"{grams:g}" for grams in made.press_g),
        "rod_mm": "" if made.rod_mm is None else f"{made.rod_mm:g}",
        "verdict": made.verdict,
        "feels": made.feels,
        "complaints": "; ".join(made.complaints),
        "who": made.who,
        **{slug: SIGNS[slug].words[place] for slug, place in made.signs.items() if slug in SIGNS},
        "left_out": made.why_left_out,
        "notes": made.notes,
    }


def _plain(value: Decimal) -> str:
    return f"{value.normalize():f}"


@dataclass
class OldPour:
    """A pour from past notes: its materials and what was found."""

    formula: str
    kind: str
    poured: date
    cooling: str
    whipped_pct: int
    parts: list[tuple[str, Decimal]]
    row: int
    batch_g: Decimal | None = None
    looks: list[dict[str, Any]] = field(default_factory=list)
    is_here: bool = False


@dataclass(frozen=True)
class RowOutcome:
    """The effect of a row, or its error; rows count from 2, after the header."""

    row: int
    words: Words
    is_wrong: bool = False


def look_over(user: Any, text: str, dates: str = "") -> tuple[list[RowOutcome], list[OldPour]]:
    """Return what each row of old notes would do, and the pours they come to. Changes nothing.

    `dates` is "day" or "month" where the maker was asked which comes first. Raises `CalmTinError` when it
    is no such file at all, or has to ask.
    """
    rows = table_rows(text, required=REQUIRED, most=MOST_ROWS, known_as=KNOWN_AS)
    days = [str(row.get(column) or "") for row in rows for column in ("poured", "checked")]
    order = order_of(days, chosen=dates)
    shelf, known = shelf_for(user), synonyms()
    named: dict[str, str] = {}  # materials by what they are called, each looked up once
    found: dict[tuple[Any, ...], OldPour] = {}
    outcomes = []
    nothing: dict[str, Any] = {}
    for number, row in enumerate(rows, start=2):
        problems: list[str] = []
        try:
            cells = {key: as_typed((value or "").strip()) for key, value in row.items() if key}
            pour = _old_pour(number, cells, shelf, known, named, order, problems)
            look = gather(problems, partial(_old_look, cells, order), nothing)
            if problems:
                raise CalmTinError(" ".join(problems))
            key = (pour.formula.lower(), pour.poured, tuple(pour.parts), pour.cooling)
            first = key not in found
            pour = found.setdefault(key, pour)
            if look:
                pour.looks.append(look)
            outcomes.append(RowOutcome(number, _told(pour, look, first)))
        except CalmTinError as refused:
            outcomes.append(RowOutcome(number, str(refused), is_wrong=True))
    _mark_known(user, found.values(), shelf)
    here = {pour.row for pour in found.values() if pour.is_here}
    outcomes = [
        RowOutcome(o.row, gettext("already recorded; nothing is added"))
        if o.row in here and not o.is_wrong
        else o
        for o in outcomes
    ]
    return outcomes, list(found.values())


def preview_log(user: Any, text: str, dates: str = "") -> list[RowOutcome]:
    """Return what each row of old notes would do. Changes nothing; raises what `look_over` raises."""
    return look_over(user, text, dates)[0]


def _told(pour: OldPour, look: dict[str, Any], is_first: bool) -> Words:
    what = said(
        "a pour of {formula} on {poured}, {parts} materials",
        formula=pour.formula,
        poured=date_format(pour.poured, "j M Y"),
        parts=len(pour.parts),
    )
    told = said("adds {what}", what=what) if is_first else said("adds to {what}", what=what)
    if look.get("felt_rung") is not None:
        at = Temperature(look["temp_c"], 1)
        return Message("{told}, felt {rung} at {at}", told=told, rung=look["felt_rung"], at=at)
    return told


def _old_pour(
    number: int,
    cells: Mapping[str, str],
    shelf: Shelf,
    known: Mapping[str, str],
    named: dict[str, str],
    order: Order,
    problems: list[str],
) -> OldPour:
    """Return the pour of a row; each of its faults goes into `problems`."""
    name = cells["formula"]
    if not name:
        problems.append(gettext("“formula” is empty. Give the formula’s name."))
    gather(problems, lambda: check_text(name, 80, name="“formula”"), None)
    kind = _kind_named(cells.get("kind") or "firm_salve")
    if kind not in kinds():
        problems.append(said("“kind” must be one of {kinds}.", kinds=", ".join(kinds())))
    cooling = (cells.get("cooling") or "rest_then_chill").lower().replace(" ", "_")
    if cooling not in COOLINGS:
        problems.append(said("“cooling” must be one of {coolings}.", coolings=", ".join(COOLINGS)))
    whipped = gather(problems, lambda: _number(cells, "whipped_pct", high=300.0), None)
    none: list[tuple[str, Decimal]] = []
    parts = gather(problems, lambda: _materials(cells["materials"], shelf, known, named), none)
    day = gather(problems, lambda: _day(cells["poured"], "poured", order), date.min)
    whole = sum((amount for _, amount in parts), Decimal(0))
    in_grams = " g " in cells["materials"] and "%" not in cells["materials"]
    return OldPour(name, kind, day, cooling, int(whipped or 0), parts, number, whole if in_grams else None)


def _materials(
    text: str, shelf: Shelf, known: Mapping[str, str], named: dict[str, str]
) -> list[tuple[str, Decimal]]:
    """Read "20 g beeswax; 80 g olive oil", or the same in percent or parts."""
    found: dict[str, Decimal] = {}
    for piece in text.replace("\n", ";").split(";"):
        words = piece.replace("%", " % ").split()
        if not words:
            continue
        amount = read_number(
            words[0], name=said("The amount in “{piece}”", piece=piece.strip()[:40]), low=0.001, high=50_000
        )
        rest = [w for w in words[1:] if w not in ("g", "%")]
        name = " ".join(rest)
        if name not in named:
            named[name] = name if name in shelf else name_material(name, shelf, known).slug
        slug = named[name]
        found[slug] = found.get(slug, Decimal(0)) + amount
    if not found:
        raise CalmTinError(
            gettext("“materials” must say what was in it, such as 20 g beeswax; 80 g olive oil.")
        )
    return list(found.items())


def _kind_named(text: str) -> str:
    """Return the slug of a kind by that or by its name: "Firm salve", "lip balm"."""
    plain = text.strip().lower().replace("_", " ")
    for slug, kind in kinds().items():
        names = (slug.replace("_", " "), kind.name, kind.short_name, kind.short_name.split(" in ")[0])
        if plain in (name.lower() for name in names):
            return slug
    return text


def _old_signs(cells: Mapping[str, str]) -> dict[str, int]:
    signs: dict[str, int] = {}
    for slug in SIGN_COLUMNS:
        told = cells.get(slug, "").lower()
        if told:
            words = [word.lower() for word in SIGNS[slug].words]
            if told not in words:
                raise CalmTinError(
                    said("“{slug}” must be one of {words}.", slug=slug, words=", ".join(SIGNS[slug].words))
                )
            signs[slug] = words.index(told)
    return signs


def _old_look(cells: Mapping[str, str], order: Order) -> dict[str, Any]:
    """Return the check of a row; empty where it tells of none."""
    felt = _number(cells, "felt_rung", high=10.0)
    signs = _old_signs(cells)
    verdict = cells.get("verdict", "").lower()
    if verdict and verdict not in Check.Verdict.values:
        raise CalmTinError(gettext("“verdict” must be keep, tweak or drop."))
    feels = cells.get("feels", "").lower().replace(" ", "_")
    if feels and feels not in set(Feels):
        raise CalmTinError(said("“feels” must be one of {words}.", words=", ".join(Feels)))
    bothers = [word.strip() for word in cells.get("complaints", "").lower().split(";") if word.strip()]
    if not set(bothers) <= set(Complaint):
        raise CalmTinError(said("“complaints” must be some of {words}.", words=", ".join(Complaint)))
    notes = cells.get("notes", "")
    check_text(notes, 4000, name="“notes”")
    if felt is None and not any((signs, verdict, feels, bothers, notes)):
        return {}
    at_c = None
    if cells.get("at_c"):
        at_c = read_temperature(cells["at_c"], name="“at_c”", low_c=CHECK_C[0], high_c=CHECK_C[1])
    if felt is not None and at_c is None:
        raise CalmTinError(gettext("“at_c” is empty: give the temperature of the test."))
    if felt is not None:
        check(felt, RUNG, name="“felt_rung”")
    look = cells.get("look", "")
    return {
        "checked": _day(cells["checked"], "checked", order) if cells.get("checked") else None,
        "temp_c": 21.0 if at_c is None else at_c,
        "felt_rung": felt,
        "verdict": verdict,
        "feels": feels,
        "complaints": bothers,
        "notes": notes,
        "signs": signs,
        "who": cells.get("who", "")[:40],
        "look": look if look in LOOKS else "",
    }


def _number(cells: Mapping[str, str], column: str, *, high: float) -> Decimal | None:
    text = cells.get(column, "")
    return read_number(text, name=f"“{column}”", high=high) if text else None


def _day(text: str, column: str, order: Order) -> date:
    day = read_day(text, column, order)
    if day > timezone.localdate():
        raise CalmTinError(said("“{column}” is in the future. Check the year.", column=column))
    return day


def _mark_known(user: Any, pours: Any, shelf: Shelf) -> None:
    """Mark the pours that are in the log already: the same formula, day and shares."""
    names = {pour.formula for pour in pours}
    here = (
        Pour.objects.of(user)
        .filter(Q(version__formula__name__in=names) | Q(closing__formula_name__in=names))
        .exclude(poured_at=None)
        .select_related("version__formula", "closing")
        .prefetch_related(*IN_THE_POT)
    )
    known = {
        (name, timezone.localdate(p.poured_at), _shares_of(p, shelf))
        for p in here
        for name in (as_closed(p), p.version.formula.name)
    }
    for pour in pours:
        whole = sum(amount for _, amount in pour.parts)
        shares = frozenset((slug, round(float(100 * amount / whole), 1)) for slug, amount in pour.parts)
        pour.is_here = (pour.formula, pour.poured, shares) in known


def _shares_of(pour: Pour, shelf: Shelf) -> frozenset[tuple[str, float]]:
    return frozenset((m.slug, round(pct, 1)) for m, pct in percents_of(actual_parts(pour, shelf)).items())


def import_log(user: Any, text: str, dates: str = "") -> list[RowOutcome]:
    """Bring in old notes or, when any row is wrong, nothing; return the outcomes.

    They take nothing from today's pantry: what they used is long gone. Each pour comes in by itself, so
    that other makers wait for one at most; one that is in the log is left as it is, so what was broken
    off may be sent again.
    """
    outcomes, pours = look_over(user, text, dates)
    if any(outcome.is_wrong for outcome in outcomes):
        return outcomes
    for old in sorted(pours, key=lambda pour: pour.poured):
        if not old.is_here:
            _bring_in(user, old)
            sleep(BREATH_S)
    return outcomes


@transaction.atomic
def _bring_in(user: Any, old: OldPour) -> None:
    _mark_known(user, [old], shelf_for(user))
    if old.is_here:  # sent twice
        return
    version = _version_for(user, old)
    at = timezone.make_aware(datetime.combine(old.poured, NOON))
    composition = composition_of(version, shelf_for(user))
    # In parts or percent nobody knows how much there was: then it is told for 100 g.
    batch = old.batch_g or OLD_BATCH_G
    masses = composition.masses
    melt = melt_of(masses, set_point_c=set_point_c(blend(masses)), overrun=version.overrun)
    container = container_for(user, OLD_CONTAINER)
    volume = float(batch) / melt.density_pour
    count = max(1, math.ceil(volume / container.volume_ml))
    filling = Filling(container, count, volume / count)
    plan = for_containers(melt, [filling], Losses(), resolution=OLD_STEP_G)
    weights = list(zip(composition, composition.in_batch(batch), strict=True))
    pour = start_pour(
        user,
        version,
        plan,
        scale_step_g=OLD_STEP_G,
        started_at=at,
        weights=weights,
        is_history=True,
    )
    # Straight into the log: nothing is taken from the lots that lie on the shelf today.
    for line in pour.lines.all():
        WeighIn.objects.create(line=line, grams=line.planned_g)
    Version.objects.filter(pk=version.pk).update(poured_at=at)
    finish_weighing(user, pour, poured_at=at + timedelta(minutes=30))
    for look in old.looks:
        told = dict(look)
        day = told.pop("checked") or old.poured + timedelta(days=1)
        made_at = max(timezone.make_aware(datetime.combine(day, NOON)), at + timedelta(hours=1))
        record_check(user, pour, made_at=made_at, **told)


def _version_for(user: Any, old: OldPour) -> Version:
    whole = sum((amount for _, amount in old.parts), Decimal(0))
    shares = share_out([WHOLE * amount / whole for _, amount in old.parts], THOUSANDTH)
    lines = [(slug, percent) for (slug, _), percent in zip(old.parts, shares, strict=True)]
    formula = Formula.objects.of(user).filter(name=old.formula).first()
    if formula is None:
        made = start_formula(user, name=old.formula, kind=old.kind, lines=lines)
        version = made.versions.get()
    else:
        newest = formula.versions.order_by("-number")[0]
        version = copy_version(newest, [], number=newest.number + 1, parent=newest)
        for position, (slug, percent) in enumerate(lines):
            version.lines.create(position=position, material=slug, percent=percent)
    return set_process(
        user, version, cooling=old.cooling, overrun_pct=old.whipped_pct, seen=version.revision
    )
