"""After a pour: its labels, its pieces and deadlines."""

from __future__ import annotations

from decimal import Decimal

from django.conf import settings
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Deletable, Owned, Record, days_within, within
from calmtin.common.triggers import guard_record
from calmtin.core import limits
from calmtin.core.packing.label import NAMINGS
from calmtin.core.packing.layout import KINDS, Shape, Sheet
from calmtin.formulas.models import Formula
from calmtin.pantry.models import own_slug
from calmtin.pours.models import Pour


class LabelSheet(Owned):
    """A sheet of labels as a maker measured it, mm."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="label_sheets"
    )
    name = models.CharField(max_length=60)
    page_w = models.FloatField()
    page_h = models.FloatField()
    kind = models.CharField(max_length=10, choices=list(KINDS.items()))
    width_mm = models.FloatField()
    height_mm = models.FloatField()
    columns = models.PositiveSmallIntegerField()
    rows = models.PositiveSmallIntegerField()
    left_mm = models.FloatField()
    top_mm = models.FloatField()
    across_mm = models.FloatField()
    down_mm = models.FloatField()

    class Meta:
        db_table = "pours_labelsheet"
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "name"], name="one_label_sheet_per_name"),
            *within("label_sheet", limits.PAPER_MM, "page_w", "page_h"),
            *within("label_sheet", limits.LABEL_MM, "width_mm", "height_mm"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def slug(self) -> str:
        """Its name among the sheets that come along."""
        return own_slug(self.pk)

    @property
    def sheet(self) -> Sheet:
        """The sheet as the core knows it."""
        return Sheet(
            name=self.name,
            page_w=self.page_w,
            page_h=self.page_h,
            shape=Shape(self.kind, self.width_mm, self.height_mm),  # type: ignore[arg-type]
            columns=self.columns,
            rows=self.rows,
            left_mm=self.left_mm,
            top_mm=self.top_mm,
            across_mm=self.across_mm,
            down_mm=self.down_mm,
        )


class LabelText(Owned):
    """A maker's own words for the labels of a formula, or of one of its finishes."""

    OWNER_PATH = "formula__owner"

    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="label_texts")
    finish = models.CharField(max_length=40, blank=True)
    name = models.CharField(max_length=60)
    what = models.CharField(max_length=40, blank=True, help_text="what it is: lip balm")
    is_own = models.BooleanField(default=False, help_text="for oneself: a name and a date")
    use = models.CharField(max_length=200, blank=True)
    note = models.CharField(max_length=200, blank=True)
    naming = models.CharField(max_length=6, choices=list(NAMINGS.items()), default="inci")
    sheet = models.SlugField(max_length=60, blank=True, help_text="one that comes along; else empty")
    own_sheet = models.ForeignKey(LabelSheet, on_delete=models.SET_NULL, null=True, blank=True)

    class Meta:
        db_table = "pours_labeltext"
        constraints = [
            models.UniqueConstraint(fields=["formula", "finish"], name="one_label_text_per_finish")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def sheet_slug(self) -> str:
        """The name of its sheet among all sheets; empty where it was removed."""
        return own_slug(self.own_sheet_id) if self.own_sheet_id else self.sheet


class LabelPrint(Record):
    """Labels that were printed: their text, sheet and count."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="label_prints")
    finish = models.CharField(max_length=40, blank=True)
    count = models.PositiveSmallIntegerField()
    first = models.PositiveSmallIntegerField(help_text="the place of the sheet that it began at")
    cut_lines = models.BooleanField(default=False)
    text = models.JSONField(help_text="what the labels said")
    sheet = models.JSONField(help_text="the grid, mm")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        db_table = "pours_labelprint"
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.count} labels of {self.pour}"


class PieceGone(Record):
    """Pieces of a pour that went somewhere; one that `undoes` another takes that back."""

    class Went(models.TextChoices):
        KEPT = "kept", gettext_lazy("kept")
        GIVEN = "given", gettext_lazy("given away")
        SOLD = "sold", gettext_lazy("sold")
        REFILL = "refill", gettext_lazy("refilled into a jar that came back")
        ASIDE = "aside", gettext_lazy("set aside (too light)")
        GONE = "gone", gettext_lazy("broken or thrown away")

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="pieces_gone")
    position = models.PositiveSmallIntegerField(help_text="of the filling")
    went = models.CharField(max_length=6, choices=Went)
    count = models.PositiveSmallIntegerField()
    who = models.CharField(max_length=60, blank=True)
    price = models.DecimalField(
        max_digits=9, decimal_places=2, null=True, blank=True, help_text="of each, where it was sold"
    )
    on = models.DateField()
    note = models.CharField(max_length=200, blank=True)
    undoes = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="undone_by"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        db_table = "pours_piecegone"
        ordering = ["pk"]
        constraints = [
            *within("piece_gone", limits.CONTAINERS, "count"),
            *within("piece_gone", limits.PRICE, "price"),
            *days_within("piece_gone", "on"),
        ]

    def __str__(self) -> str:
        return f"{self.count} of {self.pour} {self.get_went_display()}"

    @property
    def paid(self) -> Decimal | None:
        """The total price of these pieces."""
        return None if self.price is None else self.price * self.count


class PackingItem(Deletable):
    """What a piece is packed in beside its container: a wrap, a paper cup, a box, a ribbon."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=60)
    on_hand = models.PositiveIntegerField(null=True, blank=True)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True, help_text="of one")

    class Meta:
        ordering = ["name", "pk"]
        constraints = [
            *within("packing_item", limits.ON_HAND, "on_hand"),
            *within("packing_item", limits.PRICE, "price"),
        ]

    def __str__(self) -> str:
        return self.name


class PackedWith(Record):
    """Packing items that went around pieces of a pour; one that `undoes` another takes that back."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="packed_with")
    position = models.PositiveSmallIntegerField(help_text="of the filling")
    item = models.ForeignKey(PackingItem, on_delete=models.PROTECT, related_name="uses")
    count = models.PositiveIntegerField(help_text="items in all")
    price = models.DecimalField(
        max_digits=9, decimal_places=2, null=True, blank=True, help_text="of one, as it was then"
    )
    undoes = models.OneToOneField(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="undone_by"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [
            *within("packed_with", limits.BOUGHT, "count"),
            *within("packed_with", limits.PRICE, "price"),
        ]

    def __str__(self) -> str:
        return f"{self.count} {self.item} around {self.pour}"

    @property
    def costs(self) -> Decimal:
        """What they cost in all, by the price of then."""
        return (self.price or Decimal(0)) * self.count


class Need(Owned):
    """Pieces of a formula that have to be ready by a day."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="needs")
    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="needs")
    what_for = models.CharField(max_length=80)
    needed_on = models.DateField()
    count = models.PositiveSmallIntegerField()
    asked_at = models.DateTimeField(default=timezone.now)
    called_off_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        db_table = "pours_need"
        ordering = ["needed_on", "pk"]
        constraints = [
            *within("need", limits.CONTAINERS, "count"),
            *days_within("need", "needed_on"),
        ]

    def __str__(self) -> str:
        return f"{self.formula} for {self.what_for}"


guard_record("pours_labelprint")
guard_record("pours_piecegone")
guard_record("packing_packedwith")
