"""A simulated bench and the actions on it. Nothing here is a record of a real pour."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from calmtin.common.owned import Owned
from calmtin.devices.simulated import KINDS


class Stove(Owned):
    """A simulated bench: stove, pot, scale and thermometer, begun at `started_at`."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="stoves")
    seed = models.PositiveIntegerField()
    step_g = models.DecimalField(max_digits=13, decimal_places=11)
    capacity_g = models.DecimalField(max_digits=9, decimal_places=2)
    room_c = models.FloatField()
    set_c = models.FloatField(null=True, help_text="where its pot sets")
    solids = models.JSONField(help_text="the solid share of its pot along core.process.heat.GRID_C")
    started_at = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"stove {self.pk}"


class StoveAct(Owned):
    """Something that was done at a simulated bench; `at_s` is in its own seconds."""

    OWNER_PATH = "stove__owner"

    stove = models.ForeignKey(Stove, on_delete=models.CASCADE, related_name="acts")
    kind = models.CharField(max_length=12, choices=[(kind, kind) for kind in KINDS])
    value = models.FloatField(default=0.0)
    at_s = models.FloatField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["at_s", "pk"]

    def __str__(self) -> str:
        return f"{self.kind} {self.value:g} at {self.at_s:.1f} s"
