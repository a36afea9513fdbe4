"""Pantry (CSV): out as one file, in as a whole or not at all (docs/formats.md)."""

from __future__ import annotations

import csv
import io
from collections import Counter
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils.translation import gettext

from calmtin.common.idempotency import sent_once
from calmtin.common.numbers import plain
from calmtin.core.custom_material import own_material
from calmtin.core.data.loader import drops_per_ml, library
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import check_text
from calmtin.core.materials import GROUPS, Material, Shelf
from calmtin.core.messages import Message, Words, notation_in_force, said
from calmtin.core.quantities import Mass
from calmtin.core.recipe.boxes import read_grams
from calmtin.core.units import read_number
from calmtin.exchange.formats.days import Order, order_of, read_day
from calmtin.exchange.formats.spreadsheets import as_typed, gather, no_formula, table_rows
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, Movement, OwnMaterial
from calmtin.pantry.queries.lots import lots_of
from calmtin.pantry.services.materials import add_material

COLUMNS = (
    "what", "material", "name", "group", "behaves_like", "melt_low_c", "melt_high_c", "density",
    "strength_pct", "limit_pct", "allergens", "vegan", "amount_g", "left_g", "bought_on", "price",
    "best_before", "opened_on", "note",
)  # fmt: skip
MOST_ROWS = 20_000
# A row that agrees with a lot in these is that lot; balance, note and opening change as it is used.
SAME_LOT = ("material", "amount_g", "bought_on", "price")
REQUIRED = ("material",)
# What makers call these columns in sheets of their own.
KNOWN_AS = {
    "item": "material", "ingredient": "material", "amount": "amount_g", "weight": "amount_g",
    "grams": "amount_g", "quantity": "amount_g", "left": "left_g", "bought": "bought_on",
    "date": "bought_on", "purchased": "bought_on", "cost": "price", "paid": "price",
    "expires": "best_before", "expiry": "best_before", "use_by": "best_before", "opened": "opened_on",
    "notes": "note", "comment": "note", "comments": "note",
}  # fmt: skip
DAYS = ("bought_on", "best_before", "opened_on")
SAMPLE = (
    "what,material,amount_g,bought_on,price,best_before,note\r\n"
    "lot,beeswax_yellow,500 g,2026-05-31,12.50,2029-05-31,pellets\r\n"
    "lot,olive_oil,1 kg,2026-06-07,9.80,2027-12-31,\r\n"
)
MOST_CHARS = {"note": 2000, "name": 80, "material": 80, "allergens": 120}
PLACES = {"density": 3, "limit_pct": 3, "melt_low_c": 3, "melt_high_c": 3, "strength_pct": 3}


@dataclass(frozen=True)
class Outcome:
    """The effect of a row, or its error; rows count from 2, after the header."""

    row: int
    words: Words
    is_wrong: bool = False
    facts: dict[str, Any] | None = None
    what: str = ""


def export_pantry(user: Any, today: date) -> str:
    """Return own materials and lots as CSV; text that a spreadsheet would run is quoted."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    for own in OwnMaterial.objects.of(user):
        writer.writerow(
            {
                "what": "material",
                "material": no_formula(own.slug),
                "name": no_formula(own.name),
                "group": own.group,
                "behaves_like": own.behaves_like,
                "melt_low_c": plain(own.melt_low_c),
                "melt_high_c": plain(own.melt_high_c),
                "density": plain(own.density),
                "strength_pct": plain(own.strength_pct),
                "limit_pct": plain(own.limit_pct),
                "allergens": no_formula(own.allergens),
                "vegan": "yes" if own.vegan else "no",
                "note": no_formula(own.notes),
            }
        )
    for view in lots_of(user, today):
        lot = view.lot
        writer.writerow(
            {
                "what": "lot",
                "material": no_formula(lot.material),
                "amount_g": plain(lot.amount_g),
                "left_g": plain(view.left_g),
                "bought_on": lot.bought_on.isoformat(),
                "price": plain(lot.price),
                "best_before": lot.best_before.isoformat() if lot.best_before else "",
                "opened_on": lot.opened_on.isoformat() if lot.opened_on else "",
                "note": no_formula(lot.note),
            }
        )
    return out.getvalue()


def preview(user: Any, text: str, dates: str = "") -> list[Outcome]:
    """Return what each row of `text` would do. Changes nothing.

    `dates` is "day" or "month" where the maker was asked which comes first. Raises `CalmTinError` when it
    is no such file at all, or has to ask.
    """
    rows = table_rows(text, required=REQUIRED, most=MOST_ROWS, known_as=KNOWN_AS)
    order = order_of([str(row.get(column) or "") for row in rows for column in DAYS], chosen=dates)
    shelf = shelf_for(user)
    names = {m.name.lower(): slug for slug, m in shelf.items()}
    here = Counter(Lot.objects.of(user).filter(voided_at=None).values_list(*SAME_LOT))
    outcomes: list[Outcome] = []
    for number, row in enumerate(rows, start=2):
        try:
            outcomes.append(_unless_here(_outcome(number, row, shelf, names, order), here))
        except CalmTinError as refused:
            outcomes.append(Outcome(number, str(refused), is_wrong=True))
    return outcomes


def _outcome(
    number: int, row: dict[str, Any], shelf: Shelf, names: dict[str, str], order: Order
) -> Outcome:
    if None in row or None in row.values():
        raise CalmTinError(gettext("It has more or fewer cells than the header."))
    cells = {key: as_typed((value or "").strip(" ")) for key, value in row.items()}
    for column, cell in cells.items():
        check_text(cell, MOST_CHARS.get(column, 200), name=f"“{column}”")
    what = (cells.get("what") or "lot").lower()
    if what == "material":
        return _material_outcome(number, cells, shelf, names)
    if what != "lot":
        raise CalmTinError(said("“what” must be lot or material, not “{cells}”.", cells=what[:20]))
    problems: list[str] = []
    slug = names.get(cells["material"].lower(), cells["material"])
    if slug not in shelf and slug not in names.values():
        problems.append(said("There is no material called “{cells}”.", cells=cells["material"][:40]))
    gather(problems, lambda: check_text(cells.get("note", ""), 200, name=gettext("“note” of a lot")), None)
    # A material that an earlier row of this file brings is not on the shelf yet: its lots are weighed.
    material = shelf.get(slug)
    amount = cells.get("amount_g", "")
    amount_g = gather(problems, lambda: _weight(amount, "amount_g", material, low=0.01), Decimal(0))
    left = cells.get("left_g", "")
    facts = {
        "material": slug,
        "amount_g": amount_g,
        "left_g": gather(problems, lambda: _weight(left, "left_g", material) if left else None, None),
        "price": gather(problems, lambda: _number(cells, "price", high=100_000, required=False), None),
        "bought_on": gather(problems, lambda: _day(cells, "bought_on", order, required=True), None),
        "best_before": gather(problems, lambda: _day(cells, "best_before", order), None),
        "opened_on": gather(problems, lambda: _day(cells, "opened_on", order), None),
        "note": cells.get("note", ""),
    }
    if problems:
        raise CalmTinError(" ".join(problems))
    label = shelf[slug].label if slug in shelf else cells["material"]
    adds = Message("adds a lot of {label}, {amount}", label=label, amount=Mass(amount_g))
    return Outcome(number, adds, facts=facts, what="lot")


def _unless_here(outcome: Outcome, here: Counter[tuple[Any, ...]]) -> Outcome:
    """Keep a lot that is on the shelf already as it is; each one there answers for one row."""
    if outcome.what != "lot" or outcome.facts is None:
        return outcome
    same = tuple(outcome.facts[name] for name in SAME_LOT)
    if not here[same]:
        return outcome
    here[same] -= 1
    words = str(outcome.words).removeprefix("adds ").capitalize()
    return Outcome(outcome.row, said("{words}: already on the shelf, unchanged", words=words), what="known")


def _material_outcome(number: int, cells: dict[str, str], shelf: Shelf, names: dict[str, str]) -> Outcome:
    name = cells.get("name") or cells["material"]
    if cells["material"] in shelf or name.lower() in names:
        # A lot further down may mean it by the slug that the file gives it.
        names.setdefault(cells["material"].lower(), names.get(name.lower(), cells["material"]))
        return Outcome(number, said("{name}: already on the shelf, unchanged", name=name), what="known")
    if cells.get("group") not in GROUPS:
        raise CalmTinError(said("“group” must be one of {groups}.", groups=", ".join(GROUPS)))
    if cells.get("behaves_like") not in library():
        raise CalmTinError(gettext("“behaves_like” must be a material of the library."))
    numbers = {
        "melt_low_c": _number(cells, "melt_low_c", low=-40, high=120, required=False),
        "melt_high_c": _number(cells, "melt_high_c", low=-40, high=120, required=False),
        "density": _number(cells, "density", low=0.5, high=8, required=False),
        "strength_pct": _number(cells, "strength_pct", low=10, high=400, required=False),
        "limit_pct": _number(cells, "limit_pct", high=100, required=False),
    }
    facts: dict[str, Any] = {key: None if v is None else float(v) for key, v in numbers.items()}
    facts["strength_pct"] = facts["strength_pct"] or 100.0
    if (facts["melt_low_c"] is None) != (facts["melt_high_c"] is None):
        raise CalmTinError(gettext("Give both ends of the melting range, or neither."))
    facts |= {"name": name, "group": cells["group"], "behaves_like": cells["behaves_like"]}
    core = {k: v for k, v in facts.items() if k != "behaves_like"}
    own_material(library()[facts["behaves_like"]], slug="my_new", **core)
    facts |= {
        "allergens": cells.get("allergens", ""),
        "vegan": cells.get("vegan", "yes") != "no",
        "notes": cells.get("note", ""),
    }
    key = f"new:{number}"
    names[name.lower()] = names[cells["material"].lower()] = key
    return Outcome(
        number, said("adds the material {name}", name=name), facts={**facts, "key": key}, what="material"
    )


def _number(
    cells: dict[str, str], column: str, *, high: float, low: float = 0.0, required: bool = True
) -> Decimal | None:
    text = cells.get(column, "")
    if not text and not required:
        return None
    places = PLACES.get(column, 2)
    return read_number(
        text, name=f"“{column}”", low=low, high=high, places=places, notation=notation_in_force()
    )


def _weight(text: str, column: str, material: Material | None, *, low: float = 0.0) -> Decimal:
    """Return the grams in a cell, which may be typed as anywhere on the bench; a bare number is grams."""
    drops = drops_per_ml().get(material.slug) if material else None
    notation = replace(notation_in_force(), scale_unit="g")
    name = f"“{column}”"
    return read_grams(
        text, name=name, low=low, high=1_000_000, material=material, drops_per_ml=drops, notation=notation
    )


def _day(cells: dict[str, str], column: str, order: Order, *, required: bool = False) -> date | None:
    text = cells.get(column, "")
    return read_day(text, column, order) if text or required else None


def import_pantry(
    user: Any, text: str, dates: str = "", *, request_key: UUID | None = None
) -> list[Outcome] | None:
    """Import the whole file or, when any row is wrong, nothing; return the outcomes.

    The file is read before the book is locked. None where it was sent before with `request_key`.
    """
    outcomes = preview(user, text, dates)
    if any(outcome.is_wrong for outcome in outcomes):
        return outcomes
    return _bring_in(user, outcomes, request_key=request_key)


@sent_once
@transaction.atomic
def _bring_in(user: Any, outcomes: list[Outcome]) -> list[Outcome]:
    made: dict[str, str] = {}
    lots: list[tuple[Lot, Decimal | None]] = []
    for outcome in outcomes:
        facts = dict(outcome.facts or {})
        if outcome.what == "material":
            key = facts.pop("key")
            made[key] = add_material(user, **facts).slug
        elif outcome.what == "lot":
            left = facts.pop("left_g")
            slug = made.get(facts["material"], facts["material"])
            lots.append((Lot(owner=user, **{**facts, "material": slug}), left))
    Lot.objects.bulk_create([lot for lot, _ in lots], batch_size=500)
    bought = [Movement(lot=lot, kind=Movement.Kind.BOUGHT, grams=lot.amount_g) for lot, _ in lots]
    used = [
        Movement(
            lot=lot,
            kind=Movement.Kind.CORRECTED,
            grams=left - lot.amount_g,
            reason=gettext("imported balance"),
        )
        for lot, left in lots
        if left is not None and left != lot.amount_g
    ]
    Movement.objects.bulk_create(bought + used, batch_size=500)
    return outcomes
