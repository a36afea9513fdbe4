"""The pot on the stove and what came of it: steps, timers, temperatures, additions and the count."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Owned, Record, within
from calmtin.core import limits
from calmtin.pantry.models import Lot, Withdrawal
from calmtin.pours.models.pour import Pour


class Leftover(Record):
    """Leftovers of a pot, kept as a lot."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.PROTECT, related_name="leftovers")
    lot = models.OneToOneField(Lot, on_delete=models.PROTECT)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"left over from {self.pour}"


class PotAddition(Record):
    """An addition to a pot after its sheet was closed: by feel, or after melting it again."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="additions")
    material = models.SlugField(max_length=60)
    grams = models.DecimalField(max_digits=9, decimal_places=2)
    why = models.CharField(max_length=200)
    by_feel = models.BooleanField(default=False, help_text="`why` then says it as it was typed")
    withdrawal = models.OneToOneField(
        Withdrawal, on_delete=models.PROTECT, null=True, blank=True, help_text="what it took from the shelf"
    )
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("pot_addition", limits.WEIGHT_G, "grams")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.grams} g of {self.material}"


class Route(Owned):
    """How a maker makes a kind: the steps of its run sheet in their order, renamed, added and left out."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="routes")
    kind = models.SlugField(max_length=40)
    way = models.SlugField(max_length=20, help_text="pour, whip or cold_whip")
    steps = models.JSONField(default=list, help_text="key, title and whether it is left out")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["owner", "kind", "way"], name="one_route_per_kind_and_way")
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.way}"


class StepDone(Record):
    """A step of a pour's run sheet that was done, or taken back; the newest of a step counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="steps_done")
    key = models.CharField(max_length=20)
    is_done = models.BooleanField(default=True)
    note = models.CharField(max_length=200, blank=True)
    title = models.CharField(max_length=120, blank=True, help_text="as the sheet called it then")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour}, {self.key}"


class StepTimer(Record):
    """A clock that was started on a step, or was stopped; the newest of a step counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="timers")
    key = models.CharField(max_length=20)
    rings_at = models.DateTimeField(null=True, help_text="none where it was stopped")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour}, {self.key}: {self.rings_at}"


class PotReading(Record):
    """What the thermometer said: in the pot, or of the room that the pot cools in."""

    class Place(models.TextChoices):
        POT = "pot", gettext_lazy("in the pot")
        ROOM = "room", gettext_lazy("in the room")

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="readings")
    place = models.CharField(max_length=4, choices=Place, default=Place.POT)
    temp_c = models.FloatField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [*within("pot_reading", limits.CHECK_C, "temp_c")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.temp_c} C"


class PotWeight(Record):
    """What oil and tincture weigh in the pot once water was driven off; the newest counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="pot_weights")
    before_g = models.DecimalField(
        max_digits=9, decimal_places=2, help_text="of oil and tincture that went in"
    )
    grams = models.DecimalField(max_digits=9, decimal_places=2)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("pot_weight", limits.WEIGHT_G, "before_g", "grams")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.grams} g in the pot"


class Yield(Record):
    """What a pour really gave: grams that were filled and grams that were left; the newest counts."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="yields")
    filled_g = models.DecimalField(max_digits=9, decimal_places=2)
    left_g = models.DecimalField(max_digits=9, decimal_places=2)
    pieces = models.JSONField(
        default=list, help_text="what single ones weighed: position of the filling and grams"
    )
    counts = models.JSONField(default=list, help_text="how many were filled: position and count")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [*within("yield", limits.WEIGHT_G, "filled_g", "left_g")]

    def __str__(self) -> str:
        return f"{self.pour}: {self.filled_g} g filled, {self.left_g} g left"
