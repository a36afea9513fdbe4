"""The weigh sheet of a pour and its readings; each is only ever added, and the newest one counts."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from calmtin.common.owned import Owned, Record, within
from calmtin.core import limits
from calmtin.pantry.models import Lot, Withdrawal
from calmtin.pours.models.pour import Pour


class PourFinishPart(Owned):
    """An addition to a finish's share of the pot, g."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="finish_parts")
    finish = models.CharField(max_length=40)
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3, help_text="of the base beneath it")
    planned_g = models.DecimalField(max_digits=9, decimal_places=2)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.finish}: {self.material} {self.planned_g} g"


class FinishWeighIn(Record):
    """What the scale said for a part of a finish; no grams means it was taken back."""

    OWNER_PATH = "part__pour__owner"

    part = models.ForeignKey(PourFinishPart, on_delete=models.CASCADE, related_name="weigh_ins")
    grams = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    withdrawal = models.OneToOneField(
        Withdrawal, on_delete=models.PROTECT, null=True, blank=True, help_text="what it took from the shelf"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("finish_weigh_in", limits.WEIGHT_G, "grams")]

    def __str__(self) -> str:
        return f"{self.part}: {self.grams}"


class Replan(Record):
    """A sheet scaled up after an over-pour: what each line comes to from then on; the newest counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="replans")
    factor = models.DecimalField(max_digits=9, decimal_places=5)
    targets = models.JSONField(help_text="grams by the position of a line")
    why = models.CharField(max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour} × {self.factor}"


class WeighLine(Owned):
    """A line of the weigh sheet: what to weigh, already in steps of the scale."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    key = models.CharField(max_length=12)
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3)
    planned_g = models.DecimalField(max_digits=9, decimal_places=2)
    is_from_pot = models.BooleanField(
        default=False, help_text="it was in the pot already, so nothing is taken from the shelf"
    )
    lot = models.ForeignKey(
        Lot, on_delete=models.PROTECT, null=True, blank=True, help_text="the lot chosen to be used first"
    )

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["pour", "position"], name="one_weigh_line_per_position"),
            *within("weigh_line", limits.PERCENT, "percent"),
            *within("weigh_line", limits.WEIGHT_G, "planned_g"),
        ]

    def __str__(self) -> str:
        return f"{self.material} {self.planned_g} g"


class WeighIn(Record):
    """What a line came to by a reading of the scale; the newest one counts, no grams means nothing is in.

    One with a reason corrects the sheet after it was closed; the reading before it stays. One that
    `undoes` another says again what the line came to before that.
    """

    OWNER_PATH = "line__pour__owner"

    line = models.ForeignKey(WeighLine, on_delete=models.CASCADE, related_name="weigh_ins")
    grams = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    reason = models.CharField(max_length=200, blank=True, help_text="why a closed sheet was corrected")
    lot = models.ForeignKey(
        Lot,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        help_text="chosen at the scale, before the sheet's",
    )
    withdrawal = models.OneToOneField(
        Withdrawal, on_delete=models.PROTECT, null=True, blank=True, help_text="what it took from the shelf"
    )
    undoes = models.ForeignKey(
        "self", on_delete=models.CASCADE, null=True, blank=True, related_name="undone_by"
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            *within("weigh_in", limits.WEIGHT_G, "grams"),
        ]

    def __str__(self) -> str:
        return f"{self.line}: {self.grams}"
