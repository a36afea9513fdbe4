"""Parse the input about labels, pieces and deadlines."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from calmtin.common.fields import MoneyField, NumberField, Styled, date_field, offer
from calmtin.core.limits import BOUGHT, CONTAINERS, HOURS, LABEL_MM, ON_HAND, PAPER_MM, PRICE
from calmtin.core.messages import said
from calmtin.core.packing.layout import KINDS, PAGES, Shape, Sheet
from calmtin.formulas.models import Formula
from calmtin.packing.models import PackingItem, PieceGone
from calmtin.packing.queries.pieces import PiecesView


class PackingItemForm(Styled, forms.Form):
    """A wrap, a paper cup, a box, a ribbon: its name, how many there are, and what one costs."""

    name = forms.CharField(
        label=gettext_lazy("Wrap, cup, box or ribbon"),
        max_length=60,
        error_messages={"required": gettext_lazy("Give it a name.")},
    )
    on_hand = NumberField(
        label=gettext_lazy("On hand"), low=ON_HAND[0], high=ON_HAND[1], places=0, required=False
    )
    price = MoneyField(label=gettext_lazy("Price of one"), high=PRICE[1], required=False)


class BuyPackingForm(Styled, forms.Form):
    """How many more of a packing item were bought, and what one costs by now."""

    bought = NumberField(label=gettext_lazy("Number bought"), low=BOUGHT[0], high=BOUGHT[1], places=0)
    price = MoneyField(label=gettext_lazy("Price of one"), high=PRICE[1], required=False)


class PackForm(Styled, forms.Form):
    """What the pieces of a filling are packed with."""

    position = forms.TypedChoiceField(coerce=int, label=gettext_lazy("Pieces"))
    item = forms.TypedChoiceField(coerce=int, label=gettext_lazy("Packed with"))
    packed = NumberField(label=gettext_lazy("How many"), low=BOUGHT[0], high=BOUGHT[1], places=0)

    def __init__(self, *args: Any, view: PiecesView, items: list[PackingItem], **kwargs: Any) -> None:
        first = view.rows[0].filled.count if view.rows else 1
        super().__init__(*args, initial={"packed": first}, **kwargs)
        offer(self, "position", [(row.filled.position, row.filled.name) for row in view.rows])
        offer(self, "item", [(item.pk, _item_words(item)) for item in items])


def _item_words(item: PackingItem) -> str:
    if item.on_hand is None:
        return str(item.name)
    return said("{name} ({on_hand} on hand)", name=item.name, on_hand=item.on_hand)


class SheetForm(Styled, forms.Form):
    """A sheet of labels as it is measured with a ruler, mm."""

    name = forms.CharField(
        max_length=60, error_messages={"required": gettext_lazy("Give the sheet a name.")}
    )
    page = forms.ChoiceField(choices=[*((slug, page[0]) for slug, page in PAGES.items()), ("", "other")])
    page_w = NumberField(
        label=gettext_lazy("page, mm wide"), low=PAPER_MM[0], high=PAPER_MM[1], required=False
    )
    page_h = NumberField(
        label=gettext_lazy("page, mm high"), low=PAPER_MM[0], high=PAPER_MM[1], required=False
    )
    kind = forms.ChoiceField(label=gettext_lazy("Labels are"), choices=list(KINDS.items()))
    width_mm = NumberField(label=gettext_lazy("label, mm wide"), low=LABEL_MM[0], high=LABEL_MM[1])
    height_mm = NumberField(
        label=gettext_lazy("label, mm high"),
        low=LABEL_MM[0],
        high=LABEL_MM[1],
        required=False,
        help_text=gettext_lazy("round: as wide"),
    )
    columns = NumberField(label=gettext_lazy("across"), low=1, high=40, places=0)
    rows = NumberField(label=gettext_lazy("down"), low=1, high=60, places=0)
    left_mm = NumberField(label=gettext_lazy("left edge to the first, mm"), high=PAPER_MM[1])
    top_mm = NumberField(label=gettext_lazy("top edge to the first, mm"), high=PAPER_MM[1])
    across_mm = NumberField(
        label=gettext_lazy("from one to the next across, mm"),
        high=PAPER_MM[1],
        help_text=gettext_lazy("left edge to left edge"),
    )
    down_mm = NumberField(
        label=gettext_lazy("from one to the next down, mm"),
        high=PAPER_MM[1],
        help_text=gettext_lazy("top edge to top edge"),
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["page"].required = False

    def clean(self) -> dict[str, Any]:
        """Take the page size and the height of a round label from the choices."""
        data = super().clean() or {}
        if data.get("page"):
            _, data["page_w"], data["page_h"] = PAGES[data["page"]]
        elif not self.errors and (data.get("page_w") is None or data.get("page_h") is None):
            self.add_error("page_w", gettext("Enter the size of the page."))
        if data.get("kind") == "round":
            data["height_mm"] = data.get("width_mm")
        elif "height_mm" in data and data["height_mm"] is None:
            self.add_error("height_mm", gettext("Enter the height of a label."))
        return data

    @property
    def sheet(self) -> Sheet:
        """The sheet; raises `CalmTinError` where its labels do not fit the page."""
        data = self.cleaned_data
        lengths = ("page_w", "page_h", "left_mm", "top_mm", "across_mm", "down_mm")
        return Sheet(
            name=data["name"],
            shape=Shape(data["kind"], float(data["width_mm"]), float(data["height_mm"])),
            columns=int(data["columns"]),
            rows=int(data["rows"]),
            **{name: float(data[name]) for name in lengths},
        )


class GoneForm(Styled, forms.Form):
    """Pieces that went somewhere."""

    position = forms.TypedChoiceField(label=gettext_lazy("Which"), coerce=int)
    count = NumberField(label=gettext_lazy("How many"), low=1, high=CONTAINERS[1], places=0, initial=1)
    went = forms.ChoiceField(label=gettext_lazy("Outcome"), choices=PieceGone.Went.choices)
    who = forms.CharField(label=gettext_lazy("Recipient"), max_length=60, required=False)
    price = MoneyField(label=gettext_lazy("Price of each, if sold"), high=PRICE[1], required=False)
    on = date_field(gettext_lazy("On"), required=True)
    note = forms.CharField(label=gettext_lazy("Note"), max_length=200, required=False)

    def __init__(self, *args: Any, view: PiecesView, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        choices = [
            (row.filled.position, f"{row.filled.name} {row.filled.finish}".strip()) for row in view.rows
        ]
        offer(self, "position", choices)
        if len(choices) == 1:
            self.fields["position"].widget = forms.HiddenInput()
            self.initial["position"] = choices[0][0]


class HoursForm(Styled, forms.Form):
    """How many hours of work were in a pour."""

    hours = NumberField(label=gettext_lazy("Hours of work"), high=HOURS[1], places=2, required=False)


class NeedForm(Styled, forms.Form):
    """Pieces that have to be ready by a day."""

    formula = forms.ModelChoiceField(
        Formula.objects.none(),
        empty_label=None,
        error_messages={
            "required": gettext_lazy("Choose a formula."),
            "invalid_choice": gettext_lazy("Choose a formula from the list."),
        },
    )
    count = NumberField(
        label=gettext_lazy("How many pieces"), low=1, high=CONTAINERS[1], places=0, initial=12
    )
    what_for = forms.CharField(
        label=gettext_lazy("Needed for"),
        max_length=80,
        error_messages={"required": gettext_lazy("Say what they are needed for.")},
    )
    needed_on = date_field(gettext_lazy("Ready by"), required=True)

    def __init__(self, *args: Any, user: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        field = self.fields["formula"]
        assert isinstance(field, forms.ModelChoiceField)
        field.queryset = Formula.objects.of(user).filter(put_away_at=None).order_by("name")
