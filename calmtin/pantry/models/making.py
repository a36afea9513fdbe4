"""What a maker makes before the pot: infused oils, rendered wax, clarified butter."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Deletable, Record, days_within, within
from calmtin.core import limits
from calmtin.pantry.models.lots import Lot


class Infusion(Deletable):
    """A dried herb in oil, from start to straining; the strained oil is a lot of its own."""

    class Method(models.TextChoices):
        COLD = "cold", gettext_lazy("cold, for weeks")
        WARM = "warm", gettext_lazy("warm, for hours")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    herb = models.CharField(max_length=80)
    herb_g = models.DecimalField(max_digits=9, decimal_places=2)
    oil = models.SlugField(max_length=60)
    oil_g = models.DecimalField(max_digits=9, decimal_places=2)
    method = models.CharField(max_length=4, choices=Method, default=Method.COLD)
    started_on = models.DateField()
    due_on = models.DateField()
    strained_on = models.DateField(null=True, blank=True)
    recovered_g = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, null=True, blank=True)

    class Meta:
        ordering = ["-started_on", "-pk"]
        constraints = [
            *within("infusion", limits.HERB_G, "herb_g"),
            *within("infusion", limits.OIL_G, "oil_g"),
            *within("infusion", limits.WEIGHT_G, "recovered_g"),
            *days_within("infusion", "started_on", "due_on", "strained_on"),
        ]

    def __str__(self) -> str:
        return f"{self.herb} in {self.oil}"

    def get_absolute_url(self) -> str:
        """Return the address of its page."""
        return reverse("pantry:infusion", args=[self.pk])

    @property
    def ratio(self) -> Decimal:
        """Grams of oil for each gram of dried herb."""
        return self.oil_g / self.herb_g

    @property
    def loss_pct(self) -> Decimal | None:
        """The share of the oil that left in the herb, %."""
        return None if self.recovered_g is None else 100 - 100 * self.recovered_g / self.oil_g


class Rendering(Deletable):
    """Raw comb rendered to wax, or a raw butter clarified, from start to the weighed lot.

    `material` is what comes of it. A butter is taken from the shelf as it starts.
    """

    class Kind(models.TextChoices):
        COMB = "comb", gettext_lazy("comb to wax")
        BUTTER = "butter", gettext_lazy("a raw butter, clarified")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    kind = models.CharField(max_length=6, choices=Kind, default=Kind.COMB)
    material = models.SlugField(max_length=60, default="beeswax_yellow")
    started_on = models.DateField(null=True, blank=True)
    done_on = models.DateField(null=True, blank=True)
    raw_g = models.DecimalField(max_digits=9, decimal_places=2)
    clean_g = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, null=True, blank=True)

    class Meta:
        ordering = [models.F("done_on").desc(nulls_first=True), "-pk"]
        constraints = [
            *within("rendering", limits.COMB_G, "raw_g", "clean_g"),
            *days_within("rendering", "done_on", "started_on"),
        ]

    def __str__(self) -> str:
        return f"{self.raw_g} g of {self.kind}"

    def get_absolute_url(self) -> str:
        """Return the address of its page."""
        return reverse("pantry:rendering", args=[self.pk])

    @property
    def yield_pct(self) -> Decimal | None:
        """What came of it as a share of what went in, %."""
        return None if self.clean_g is None else 100 * self.clean_g / self.raw_g


class MakingMark(Record):
    """A step of an infusion or a rendering that was done, or taken back; the newest of a step counts."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    infusion = models.ForeignKey(
        Infusion, on_delete=models.PROTECT, null=True, blank=True, related_name="marks"
    )
    rendering = models.ForeignKey(
        Rendering, on_delete=models.PROTECT, null=True, blank=True, related_name="marks"
    )
    key = models.CharField(max_length=12)
    is_done = models.BooleanField(default=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(infusion__isnull=False, rendering=None)
                | models.Q(infusion=None, rendering__isnull=False),
                name="a_mark_is_of_one_job",
            )
        ]

    def __str__(self) -> str:
        return f"{self.infusion or self.rendering}, {self.key}"


USUAL_DAYS: dict[Any, timedelta] = {"cold": timedelta(weeks=4), "warm": timedelta(days=1)}


def due_date(method: str, started_on: date) -> date:
    """Return when an infusion started on a day is usually strained."""
    return started_on + USUAL_DAYS[method]
