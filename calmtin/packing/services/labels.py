"""Print labels, and keep the sheets they go on."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils.translation import gettext

from calmtin.accounts.queries import bench_of
from calmtin.common.idempotency import sent_once
from calmtin.common.owned import read_again
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CONTAINERS, LABEL_MM, PAPER_MM, check, check_text
from calmtin.core.messages import said
from calmtin.core.packing.label import NAMINGS, refuse_claims
from calmtin.core.packing.layout import Sheet, fit
from calmtin.formulas.queries.stops import refuse_open_stops
from calmtin.packing.adapters import label_text, sheet_json, sheet_named, text_json
from calmtin.packing.models import LabelPrint, LabelSheet, LabelText
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import own_key
from calmtin.pictures.labels import label_type
from calmtin.pours.adapters.filled import filled_at, parts_by_finish
from calmtin.pours.models import Pour
from calmtin.pours.services.rehearsing import refuse_rehearsal

# The most letters of each of the maker's own words.
MOST = {"name": 60, "what": 40, "use": 200, "note": 200}


@sent_once
@transaction.atomic
def print_labels(
    user: Any,
    pour: Pour,
    *,
    position: int,
    name: str,
    what: str = "",
    use: str = "",
    note: str = "",
    naming: str = "inci",
    sheet: str,
    count: int,
    first: int = 1,
    cut_lines: bool = False,
    is_own: bool = False,
) -> LabelPrint:
    """Record and print labels for some pieces, starting at a place on the sheet.

    A label for oneself (`is_own`) says what it is and from when. The maker's words stay with the formula
    for its next pour. Raises `CalmTinError` for words that claim what oils cannot do, for a material
    whose bottle has to be read first, for a place that the sheet lacks, and where nothing readable fits.
    """
    read_again(user, pour)
    refuse_rehearsal(pour)
    filled = filled_at(pour, position)
    if not name.strip():
        raise CalmTinError(gettext("Enter a name; it goes at the top of the label."), field="name")
    texts = {"name": name.strip(), "what": what.strip(), "use": use.strip(), "note": note.strip()}
    for field, most in MOST.items():
        check_text(texts[field], most, name="This", field=field)
    refuse_claims(**texts)
    if naming not in NAMINGS:
        raise CalmTinError(gettext("Choose how the ingredients are named."), field="naming")
    check(count, CONTAINERS, name=gettext("The number of labels"), field="count")
    shelf, bench = shelf_for(user), bench_of(user)
    inside = parts_by_finish(pour, shelf)[filled.finish]
    refuse_open_stops(pour.version, inside, bench, batch_g=pour.batch_g)
    on = sheet_named(user, sheet)
    if not 1 <= first <= on.each:
        raise CalmTinError(said("The sheet has labels 1 to {each}.", each=on.each), field="first")
    text, unclear = label_text(pour, shelf, bench, filled, **texts, naming=naming, is_own=is_own)
    if unclear:
        names = ", ".join(material.label for material in unclear)
        raise CalmTinError(
            said(
                "Check the bottle: Calm Tin doesn’t know everything in {names}. Enter its "
                "ingredients on its page in the pantry.",
                names=names,
            ),
            field="ingredients",
        )
    fit(text, on.shape, label_type())
    LabelText.objects.update_or_create(
        formula=pour.version.formula,
        finish=filled.finish,
        defaults={**texts, "naming": naming, "is_own": is_own, **_sheet_columns(sheet)},
    )
    return LabelPrint.objects.create(
        pour=pour,
        finish=filled.finish,
        count=count,
        first=first,
        cut_lines=cut_lines,
        text=text_json(text),
        sheet=sheet_json(on),
    )


def _sheet_columns(slug: str) -> dict[str, Any]:
    """Return how a label's text refers to its sheet: an own one by its key, any other by its name."""
    own = own_key(slug)
    return {"sheet": slug if own is None else "", "own_sheet_id": own}


@sent_once
@transaction.atomic
def keep_label_sheet(user: Any, *, sheet: Sheet) -> LabelSheet:
    """Keep a sheet of labels as it was measured.

    Raises `CalmTinError` for a name that is taken and for sizes that no paper has.
    """
    name = sheet.name.strip()
    check_text(name, 60, name=gettext("The name"), field="name")
    if LabelSheet.objects.of(user).filter(name__iexact=name).exists():
        raise CalmTinError(
            said("There is already a sheet called {name}. Choose another name.", name=name), field="name"
        )
    for field in ("page_w", "page_h"):
        check(getattr(sheet, field), PAPER_MM, name=gettext("A side of the page"), field=field, unit="mm")
    for field in ("width_mm", "height_mm"):
        check(
            getattr(sheet.shape, field),
            LABEL_MM,
            name=gettext("A side of the label"),
            field=field,
            unit="mm",
        )
    grid = sheet_json(sheet)
    shape = grid.pop("shape")
    return LabelSheet.objects.create(owner=user, **(grid | shape | {"name": name}))


@transaction.atomic
def drop_label_sheet(user: Any, row: LabelSheet) -> None:
    """Remove a sheet from the list; its prints stay on record."""
    read_again(user, row)
    row.delete()
