"""The labels of a pour before printing: their text, how it fits, and the sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext

from calmtin.accounts.models import Bench
from calmtin.core.errors import CalmTinError
from calmtin.core.limits import CONTAINERS
from calmtin.core.materials import Material, Shelf
from calmtin.core.messages import notation_in_force
from calmtin.core.packing.label import NAMINGS, USES, refuse_claims
from calmtin.core.packing.layout import Fitted, Sheet, fit
from calmtin.core.packing.packing_list import packing_list
from calmtin.core.units import read_number
from calmtin.packing.adapters import label_text, sheets_for, usual_sheet
from calmtin.packing.models import LabelPrint
from calmtin.packing.models import LabelText as KeptText
from calmtin.pictures.labels import Page, label_type, pages_of
from calmtin.pours.adapters.filled import Filled, filled_of
from calmtin.pours.models import Pour

WORDS = ("name", "what", "use", "note", "naming", "sheet", "count", "first", "for")


@dataclass(frozen=True)
class LabelsView:
    """The page of labels: boxes as typed, errors, and the label and its sheet if it fits."""

    pour: Pour
    kinds: list[Filled]
    filled: Filled
    boxes: Mapping[str, str]
    cut_lines: bool
    problems: Mapping[str, str]
    sheets: Mapping[str, Sheet]
    packing: list[tuple[str, int]]
    prints: list[LabelPrint]
    label: Fitted | None = None
    pages: tuple[Page, ...] = ()
    count: int = 0
    first: int = 1
    unclear: tuple[Material, ...] = ()
    is_own: bool = False

    @property
    def can_print(self) -> bool:
        """Whether it fits and all that is in it is known."""
        return self.label is not None and not self.unclear

    @property
    def unused(self) -> list[tuple[str, str]]:
        """The words that a label for oneself does not show, kept for the day that it goes to others."""
        return [(name, self.boxes[name]) for name in ("use", "note", "naming")]

    @property
    def namings(self) -> Mapping[Any, str]:
        """How the ingredients can be named."""
        return NAMINGS


def labels_view(pour: Pour, shelf: Shelf, bench: Bench, typed: Mapping[str, str]) -> LabelsView:
    """Return the labels of a pour as typed; at first as its formula's last labels were."""
    kinds = filled_of(pour)
    filled = next((f for f in kinds if str(f.position) == typed.get("position")), kinds[0])
    sheets = sheets_for(pour.owner)
    boxes = _boxes(pour, filled, bench, sheets, typed)
    problems: dict[str, str] = {}
    sheet = sheets.get(boxes["sheet"]) or sheets[usual_sheet(filled, bench)]
    count = _number(boxes, "count", gettext("The number of labels"), CONTAINERS[1], problems)
    first = _number(boxes, "first", gettext("The first place"), sheet.each, problems)
    if not boxes["name"].strip():
        problems["name"] = gettext("Enter a name; it goes at the top of the label.")
    is_own = boxes["for"] == "own"
    for field in ("name", "what", "use", "note"):
        try:
            refuse_claims(**{field: boxes[field]})
        except CalmTinError as refused:
            problems[field] = str(refused)
    text, unclear = label_text(
        pour,
        shelf,
        bench,
        filled,
        **{word: boxes[word] for word in ("name", "what", "use", "note", "naming")},
        is_own=is_own,
    )
    label = None
    if not problems:
        try:
            label = fit(text, sheet.shape, label_type())
        except CalmTinError as refused:
            problems["sheet"] = str(refused)
    return LabelsView(
        pour,
        kinds,
        filled,
        boxes,
        "cut_lines" in typed,
        problems,
        sheets,
        packing_list(
            [(f.name, f.kind, f.count) for f in kinds], slips=count if label and label.slip else 0
        ),
        list(pour.label_prints.all()),
        label,
        tuple(pages_of(sheet, label, count, first)) if label else (),
        count,
        first,
        unclear,
        is_own,
    )


def _boxes(
    pour: Pour, filled: Filled, bench: Bench, sheets: Mapping[str, Sheet], typed: Mapping[str, str]
) -> dict[str, str]:
    """Return what the boxes hold: as typed, else as the formula's labels were, else as is usual."""
    formula = pour.version.formula
    kept = KeptText.objects.filter(formula=formula, finish=filled.finish).first()
    finish = f", {filled.finish}" if filled.finish else ""
    usual = {
        "name": f"{formula.name_in_season}{finish}"[:60],
        "what": formula.kind_facts.short_name.split(" in a ")[0],
        # A bench that names its maker has labels for others; a label for oneself needs less.
        "for": "others" if bench.label_maker else "own",
        "use": USES.get(formula.kind, ""),
        "note": "",
        "naming": "inci",
        "sheet": usual_sheet(filled, bench),
        "count": str(filled.count - len(filled.light)),
        "first": "1",
    }
    if kept is not None:
        usual |= {"name": kept.name, "what": kept.what, "for": "own" if kept.is_own else "others"}
        usual |= {"use": kept.use, "note": kept.note, "naming": kept.naming}
        usual |= {"sheet": kept.sheet_slug} if kept.sheet_slug in sheets else {}
    # Other pieces have a number, and may have a name, of their own.
    is_same = typed.get("was", typed.get("position", "")) == typed.get("position", "")
    told = {word: typed.get(word, usual[word]) if is_same else usual[word] for word in WORDS}
    return told | ({} if told["naming"] in NAMINGS else {"naming": "inci"})


def _number(boxes: Mapping[str, str], field: str, name: str, high: float, problems: dict[str, str]) -> int:
    try:
        return int(
            read_number(boxes[field], name=name, low=1, high=high, places=0, notation=notation_in_force())
        )
    except CalmTinError as refused:
        problems[field] = str(refused)
        return 1
