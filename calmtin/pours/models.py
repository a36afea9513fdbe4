"""Test pours: what was planned, what the scale said, what came of it.

Weigh-ins and checks are only ever added; the newest one counts and the earlier
ones stay as they were.
"""

from __future__ import annotations

import uuid
from decimal import Decimal

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from calmtin.common.owned import Owned, Record
from calmtin.formulas.models import Version


class Pour(Owned):
    """One pour of one version into containers."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="pours")
    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="pours")
    number = models.PositiveIntegerField(help_text="counts the formula's pours")
    container = models.SlugField(max_length=60)
    container_name = models.CharField(max_length=80)
    container_ml = models.FloatField()
    count = models.PositiveIntegerField()
    level = models.FloatField(help_text="fill level, 0 to 1")
    loss = models.FloatField(help_text="share that stays in the pot, 0 to 1")
    batch_g = models.DecimalField(max_digits=9, decimal_places=2)
    scale_step_g = models.DecimalField(max_digits=4, decimal_places=2)
    pour_c = models.FloatField()
    started_at = models.DateTimeField(auto_now_add=True)
    poured_at = models.DateTimeField(null=True, blank=True)
    request_key = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)

    class Meta:
        ordering = ["-started_at", "-pk"]

    def __str__(self) -> str:
        return self.code

    @property
    def code(self) -> str:
        """A short name for labels: the formula's initials and the pour's number."""
        words = [word for word in self.version.formula.name.replace("-", " ").split() if word[0].isalnum()]
        initials = "".join(word[0] for word in words[:2]).upper() or "P"
        return f"{initials}-{self.number:02d}"

    @property
    def is_weighing(self) -> bool:
        """Whether it is still on the scale."""
        return self.poured_at is None


class WeighLine(Owned):
    """A line of the weigh sheet: what to weigh, already in steps of the scale."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    key = models.CharField(max_length=12)
    material = models.SlugField(max_length=60)
    percent = models.DecimalField(max_digits=6, decimal_places=3)
    planned_g = models.DecimalField(max_digits=9, decimal_places=2)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["pour", "position"], name="one_weigh_line_per_position"),
        ]

    def __str__(self) -> str:
        return f"{self.material} {self.planned_g} g"


class WeighIn(Record):
    """One reading of the scale for a line; no grams means the last one was taken back."""

    OWNER_PATH = "line__pour__owner"

    line = models.ForeignKey(WeighLine, on_delete=models.CASCADE, related_name="weigh_ins")
    grams = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(grams__gte=0) | models.Q(grams__isnull=True),
                name="weigh_in_not_negative",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.line}: {self.grams}"

    @property
    def ledger_source(self) -> str:
        """What this reading is called in the pantry's ledger."""
        return f"weigh-in {self.pk}"


class Check(Record):
    """What was found on looking again: felt firmness at a temperature, a verdict, notes."""

    class Verdict(models.TextChoices):
        KEEP = "keep", "Keep"
        TWEAK = "tweak", "Tweak"
        DROP = "drop", "Drop"

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="checks")
    made_at = models.DateTimeField(auto_now_add=True)
    temp_c = models.FloatField()
    felt_rung = models.DecimalField(
        max_digits=3,
        decimal_places=1,
        null=True,
        validators=[MinValueValidator(Decimal(0)), MaxValueValidator(Decimal(10))],
    )
    verdict = models.CharField(max_length=5, choices=Verdict, blank=True)
    notes = models.TextField(blank=True)
    request_key = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour} at {self.temp_c} C"
