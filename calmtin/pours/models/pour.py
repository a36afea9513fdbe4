"""Pours: the plan, the actual weights, and the results.

Weigh-ins and checks are only ever added; the newest one counts and the earlier
ones stay as they were.
"""

from __future__ import annotations

from typing import cast

from django.conf import settings
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Owned, OwnedQuerySet, days_within, within
from calmtin.core import limits
from calmtin.core.packing.keeping import STORAGE_NAMES
from calmtin.core.process.steps import MELTING_NAMES
from calmtin.core.process.weighing import WEIGHING_NAMES
from calmtin.devices.models import Stove
from calmtin.formulas.models import Version
from calmtin.pantry.models import Lot, OwnContainer, own_slug


class RealPours(models.Manager.from_queryset(OwnedQuerySet)):  # type: ignore[misc]
    """Pours that were poured: a rehearsal is in no list, no plan and no prediction."""

    def get_queryset(self) -> OwnedQuerySet:
        """Leave rehearsals out."""
        return cast(OwnedQuerySet, super().get_queryset().filter(stove=None))


class Series(Owned):
    """Pours that differ in one thing, made for comparison."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="series")
    varies = models.CharField(max_length=200, help_text="what differs, in words")
    one_pot = models.JSONField(
        null=True,
        blank=True,
        help_text="key of the line that rises, its shares, g of a sample and lost with each",
    )
    started_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.varies


class Pour(Owned):
    """One pour of one version into containers; with a simulated stove it is a rehearsal."""

    class Weighing(models.TextChoices):
        POT = "pot", gettext_lazy(WEIGHING_NAMES["pot"])
        RUN = "run", gettext_lazy(WEIGHING_NAMES["run"])
        CUPS = "cups", gettext_lazy(WEIGHING_NAMES["cups"])

    class Melting(models.TextChoices):
        STAGED = "staged", gettext_lazy(MELTING_NAMES["staged"])
        TOGETHER = "together", gettext_lazy(MELTING_NAMES["together"])

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="pours")
    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="pours")
    number = models.PositiveIntegerField(help_text="counts the formula's pours")
    code = models.CharField(max_length=14, help_text="a short name for labels, once on a bench")
    container = models.SlugField(max_length=60, blank=True, help_text="of the library; else empty")
    own_container = models.ForeignKey(
        OwnContainer, on_delete=models.PROTECT, null=True, blank=True, related_name="pours"
    )
    container_name = models.CharField(max_length=80)
    container_ml = models.FloatField()
    count = models.PositiveIntegerField()
    level = models.FloatField(help_text="fill level, 0 to 1")
    loss = models.FloatField(help_text="share that stays in the pot, 0 to 1")
    batch_g = models.DecimalField(max_digits=9, decimal_places=2)
    scale_step_g = models.DecimalField(max_digits=13, decimal_places=11)
    pour_c = models.FloatField(null=True, help_text="none where nothing in it sets")
    clung_g = models.DecimalField(max_digits=9, decimal_places=2, default=0, help_text="planned to cling")
    test_g = models.DecimalField(max_digits=9, decimal_places=2, default=0)
    driven_off_g = models.DecimalField(
        max_digits=9, decimal_places=2, default=0, help_text="spirit and water that leave before the wax"
    )
    powder_g = models.DecimalField(max_digits=9, decimal_places=2, default=0, help_text="lost as dust")
    started_at = models.DateTimeField(default=timezone.now)
    poured_at = models.DateTimeField(null=True, blank=True)
    called_off_at = models.DateTimeField(null=True, blank=True)
    called_off_why = models.CharField(max_length=200, blank=True)
    weighed_into = models.CharField(max_length=4, choices=Weighing, default=Weighing.POT)
    melting = models.CharField(max_length=8, choices=Melting, default=Melting.STAGED)
    storage = models.CharField(
        max_length=8, default="room", choices=list(STORAGE_NAMES.items()), help_text="where it is kept"
    )
    use_by = models.DateField(
        null=True, blank=True, help_text="when the first of what is in it is past its life"
    )
    hours = models.FloatField(null=True, blank=True, help_text="of work in it, for its price")
    series = models.ForeignKey(
        Series, on_delete=models.PROTECT, null=True, blank=True, related_name="pours"
    )
    rest_of = models.ForeignKey(
        "self",
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="poured_on",
        help_text="the pour whose pot went on as this one",
    )
    stove = models.OneToOneField(
        Stove,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="pour",
        help_text="of a rehearsal",
    )

    objects = RealPours()  # type: ignore[misc]  # narrower than its parent's

    class Meta:
        ordering = ["-started_at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "code"], name="one_pour_per_code"),
            *within("pour", limits.CONTAINERS, "count"),
            *within("pour", (0.0, 1.0), "level", "loss"),
            *within("pour", limits.BATCH_OF_POUR_G, "batch_g"),
            *within("pour", limits.BRIM_ML, "container_ml"),
            *within("pour", limits.HOURS, "hours"),
        ]

    def __str__(self) -> str:
        return self.code

    @property
    def container_slug(self) -> str:
        """The name of its container among those of the core."""
        return own_slug(self.own_container_id) if self.own_container_id else self.container

    @property
    def is_weighing(self) -> bool:
        """Whether it is still on the scale."""
        return self.poured_at is None and self.called_off_at is None

    @property
    def is_rehearsal(self) -> bool:
        """Whether it is on the simulated stove: it uses no stock and is not learned from."""
        return self.stove_id is not None

    @property
    def into(self) -> str:
        """The containers it was planned for, in words; old pours name only one."""
        told = [str(filling) for filling in self.fillings.all()]
        return ", ".join(told) or f"{self.count} × {self.container_name}"


class Closing(Owned):
    """What a pour says once it is closed, whatever is corrected or renamed afterwards.

    `materials` holds what the shelf said of all that is in it (`pantry.adapters.facts_of`); `planned`
    and `made` the firmness by the plan and by the weights; `cautions` what had to be said, with the
    maker's reason to go on. `containers` are those of its fillings, by position.
    """

    OWNER_PATH = "pour__owner"

    pour = models.OneToOneField(Pour, on_delete=models.PROTECT, related_name="closing")
    formula_name = models.CharField(max_length=80)
    kind = models.CharField(max_length=20)
    audience = models.CharField(max_length=30)
    sees_sun = models.BooleanField()
    currency = models.CharField(max_length=4, blank=True)
    materials = models.JSONField()
    planned = models.JSONField()
    made = models.JSONField()
    cautions = models.JSONField(default=list)
    containers = models.JSONField(default=list)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pour} as it was closed"


class ClosingLot(Owned):
    """A lot that a closed pour took from, as it was then: what a gram cost, and its days."""

    OWNER_PATH = "closing__pour__owner"

    closing = models.ForeignKey(Closing, on_delete=models.CASCADE, related_name="lots")
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT)
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True)
    amount_g = models.DecimalField(max_digits=10, decimal_places=2)
    bought_on = models.DateField()
    best_before = models.DateField(null=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["closing", "lot"], name="one_closing_lot_per_lot"),
            *within("closing_lot", limits.LOT_G, "amount_g"),
            *within("closing_lot", limits.PRICE, "price"),
            *days_within("closing_lot", "bought_on", "best_before"),
        ]

    def __str__(self) -> str:
        return f"{self.lot} in {self.closing}"


class PourFilling(Owned):
    """Containers of one kind that a pour was planned for; `finish` is what their share is finished with."""

    OWNER_PATH = "pour__owner"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="fillings")
    position = models.PositiveSmallIntegerField()
    container = models.SlugField(max_length=60, blank=True, help_text="of the library; else empty")
    own_container = models.ForeignKey(
        OwnContainer, on_delete=models.PROTECT, null=True, blank=True, related_name="fillings"
    )
    container_name = models.CharField(max_length=80)
    container_ml = models.FloatField()
    count = models.PositiveIntegerField()
    each_ml = models.FloatField()
    each_g = models.DecimalField(max_digits=9, decimal_places=2)
    finish = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["pour", "position"], name="one_filling_per_position"),
            *within("pour_filling", limits.CONTAINERS, "count"),
        ]

    def __str__(self) -> str:
        return f"{self.count} × {self.container_name}"

    @property
    def label(self) -> str:
        """Its containers, and the finish that went into them."""
        return f"{self.container_name}, {self.finish}" if self.finish else self.container_name

    @property
    def container_slug(self) -> str:
        """The name of its container among those of the core."""
        return own_slug(self.own_container_id) if self.own_container_id else self.container
