"""From a pour to what its labels say, and from a print on record back to the very labels."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from datetime import date
from typing import Any, cast

from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.containers import container_kind
from calmtin.core.data.loader import scent_facts
from calmtin.core.errors import CalmTinError
from calmtin.core.materials import Material, Shelf, percents_of, pure
from calmtin.core.packing.ingredients import Ingredients, ingredients_of
from calmtin.core.packing.label import (
    LabelText,
    Naming,
    cautions_of,
    contains_of,
    ingredients_in,
)
from calmtin.core.packing.layout import Fitted, Shape, Sheet, fit, plain_sheets
from calmtin.packing.models import LabelPrint, LabelSheet, PieceGone
from calmtin.pictures.labels import Page, label_type, pages_of
from calmtin.pours.adapters.filled import Filled, parts_by_finish
from calmtin.pours.adapters.pot import keeping_of
from calmtin.pours.models import Pour

_DAYS = ("best_before", "made_on")


def standing(pour: Pour) -> list[PieceGone]:
    """Return the entries of where a pour's pieces went that were not taken back, oldest first."""
    gone = list(pour.pieces_gone.all())
    undone = {entry.undoes_id for entry in gone if entry.undoes_id is not None}
    return [entry for entry in gone if entry.undoes_id is None and entry.pk not in undone]


def ingredients_by_finish(pour: Pour, shelf: Shelf) -> dict[str, Ingredients]:
    """Return the ingredients of the products of a pour, by finish."""
    facts = scent_facts()
    return {name: ingredients_of(parts, facts) for name, parts in parts_by_finish(pour, shelf).items()}


def label_text(
    pour: Pour,
    shelf: Shelf,
    bench: Bench,
    filled: Filled,
    *,
    name: str,
    what: str = "",
    use: str,
    note: str,
    naming: str,
    is_own: bool = False,
) -> tuple[LabelText, tuple[Material, ...]]:
    """Return all that the labels of some pieces of a pour say; the words are the maker's own.

    Beside it stand the materials of which only the bottle says what is in them.
    """
    parts = parts_by_finish(pour, shelf)[filled.finish]
    inside = percents_of(pure(parts))
    told = ingredients_of(parts, scent_facts())
    keeping = keeping_of(pour, shelf)
    text = LabelText(
        name=name,
        maker=bench.label_maker,
        place=bench.label_place,
        net_g=filled.net_g,
        ingredients=ingredients_in(told, cast(Naming, naming)),
        allergens=told.allergens,
        contains=contains_of(inside),
        cautions=cautions_of(inside, pour.version.formula.audience, scent_facts()),
        use=use,
        note=note,
        code=pour.code,
        best_before=keeping.best_before if keeping else None,
        opened_months=keeping.opened_months if keeping else None,
        what=what,
        made_on=timezone.localdate(pour.poured_at) if pour.poured_at else None,
        address=scan_address(bench, pour),
        is_own=is_own,
    )
    return text, () if is_own else told.unclear


def scan_address(bench: Bench, pour: Pour) -> str:
    """Return what the code on a label leads to; empty until the bench's own address is known."""
    if not bench.label_address:
        return ""
    return bench.label_address.rstrip("/") + reverse("packing:scan", args=[pour.pk])


def sheets_for(user: Any) -> dict[str, Sheet]:
    """Return the sheets that a maker can print on, their own first, by slug."""
    own = {row.slug: row.sheet for row in LabelSheet.objects.of(user)}
    return own | plain_sheets()


def sheet_named(user: Any, slug: str) -> Sheet:
    """Return one sheet by its slug, or refuse with `CalmTinError`."""
    try:
        return sheets_for(user)[slug]
    except KeyError:
        raise CalmTinError(gettext("Choose a sheet from the list."), field="sheet") from None


def usual_sheet(filled: Filled, bench: Bench) -> str:
    """Return the slug of the plain sheet that suits a container; Letter where degrees are Fahrenheit."""
    page = "letter" if bench.temperature_unit == Bench.TemperatureUnit.FAHRENHEIT else "a4"
    volume = filled.container.volume_ml if filled.container else 30.0
    label = container_kind(filled.kind).label
    if label == "wrap":
        return f"{page}-wrap-56x45" if volume <= 10.0 else f"{page}-wrap-90x45"
    if label == "rectangle":
        return f"{page}-rectangle-64x34"
    width = next((w for most, w in ((8.0, 25), (20.0, 40), (60.0, 50)) if volume <= most), 60)
    return f"{page}-round-{width}x{width}"


def text_json(text: LabelText) -> dict[str, Any]:
    """Return what a label says as it is kept on record."""
    days = {name: getattr(text, name) for name in _DAYS}
    return asdict(text) | {name: day.isoformat() if day else None for name, day in days.items()}


def sheet_json(sheet: Sheet) -> dict[str, Any]:
    """Return a sheet as it is kept on record."""
    return asdict(sheet)


def printed(row: LabelPrint) -> tuple[Sheet, Fitted, list[Page]]:
    """Return the sheet, the label and the pages of a print on record, as they were printed."""
    text, sheet = _text_from(row.text), _sheet_from(row.sheet)
    label = fit(text, sheet.shape, label_type())
    return sheet, label, pages_of(sheet, label, row.count, row.first)


def _text_from(kept: Mapping[str, Any]) -> LabelText:
    days = {name: date.fromisoformat(kept[name]) if kept.get(name) else None for name in _DAYS}
    lists = {name: tuple(kept[name]) for name in ("allergens", "contains", "cautions")}
    return LabelText(**{**kept, **lists, **days})


def _sheet_from(kept: Mapping[str, Any]) -> Sheet:
    return Sheet(**{**kept, "shape": Shape(**kept["shape"])})
