"""What went on and off the shelf, and what was corrected: written once, never changed."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Record, within
from calmtin.core import limits
from calmtin.pantry.models.containers import OwnContainer
from calmtin.pantry.models.lots import Lot
from calmtin.pantry.models.making import Infusion, Rendering
from calmtin.pantry.models.materials import OwnMaterial


class Withdrawal(Record):
    """What one weighing, addition or infusion took from the shelf, from one lot or several.

    Whatever takes from the shelf refers to its withdrawal, or is referred to by it. `words` are what
    an older ledger called a cause that could not be found any more.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    infusion = models.ForeignKey(
        Infusion, on_delete=models.PROTECT, null=True, blank=True, related_name="withdrawals"
    )
    rendering = models.ForeignKey(
        Rendering, on_delete=models.PROTECT, null=True, blank=True, related_name="withdrawals"
    )
    words = models.CharField(max_length=60, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.words or f"withdrawal {self.pk}"


class Movement(Record):
    """A line of a lot's ledger: written once, never changed; the balance is the sum."""

    class Kind(models.TextChoices):
        BOUGHT = "bought", gettext_lazy("bought")
        MADE = "made", gettext_lazy("made")
        WEIGHED = "weighed", gettext_lazy("weighed into a pour")
        PUT_BACK = "put_back", gettext_lazy("put back")
        CORRECTED = "corrected", gettext_lazy("re-weighed")
        USED = "used", gettext_lazy("used otherwise")
        VOIDED = "voided", gettext_lazy("removed from the shelf")

    OWNER_PATH = "lot__owner"

    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, related_name="movements")
    kind = models.CharField(max_length=10, choices=Kind)
    grams = models.DecimalField(max_digits=10, decimal_places=2)
    reason = models.CharField(max_length=200, blank=True)
    withdrawal = models.ForeignKey(
        "Withdrawal",
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="movements",
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["lot", "kind", "withdrawal"],
                condition=models.Q(withdrawal__isnull=False),
                name="one_movement_per_withdrawal",
            ),
            *within("movement", (-limits.LOT_G[1], limits.LOT_G[1]), "grams"),
        ]
        # A balance is summed from the index alone.
        indexes = [models.Index(fields=["lot", "grams"], name="balance_of_lot")]

    def __str__(self) -> str:
        return f"{self.kind} {self.grams} g"


def _of_one(*columns: str) -> models.Q:
    """Return the condition that exactly one of `columns` refers to a row, or the words say what it was."""
    found = ~models.Q(words="") & models.Q(**{f"{column}__isnull": True for column in columns})
    for mine in columns:
        others = {f"{column}__isnull": column != mine for column in columns}
        found |= models.Q(words="", **others)
    return found


class Correction(Record):
    """What an own material, a container, an infusion or a rendering was before it was corrected, and why.

    `words` are what an older book called a row that could not be found any more.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    own_material = models.ForeignKey(
        OwnMaterial, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    own_container = models.ForeignKey(
        OwnContainer, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    infusion = models.ForeignKey(
        Infusion, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    rendering = models.ForeignKey(
        Rendering, on_delete=models.PROTECT, null=True, blank=True, related_name="corrections"
    )
    words = models.CharField(max_length=80, blank=True)
    was = models.JSONField()
    reason = models.CharField(max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=_of_one("own_material", "own_container", "infusion", "rendering"),
                name="a_correction_is_of_one_row",
            )
        ]

    def __str__(self) -> str:
        row = self.own_material or self.own_container or self.infusion or self.rendering or self.words
        return f"{row}: {self.reason}"
