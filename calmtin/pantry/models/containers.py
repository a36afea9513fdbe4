"""Containers, and vessels to melt and whip in."""

from __future__ import annotations

from decimal import Decimal

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy

from calmtin.common.owned import Deletable, Owned, within
from calmtin.core import limits


def own_slug(key: int) -> str:
    """Return what an own container or sheet is called among those that come along."""
    return f"my_{key}"


def own_key(slug: str) -> int | None:
    """Return the key of an own container or sheet that is called so; None for what comes along.

    >>> own_key(own_slug(12)), own_key("tin_2oz")
    (12, None)
    """
    number = slug.removeprefix("my_")
    return int(number) if slug != number and number.isascii() and number.isdecimal() else None


class OwnContainer(Deletable):
    """A container or mould of the maker's own, and how many there are."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=80)
    brim_ml = models.FloatField()
    usual_level_pct = models.FloatField(default=95.0)
    cavities = models.PositiveSmallIntegerField(default=1)
    tare_g = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    on_hand = models.PositiveIntegerField(null=True, blank=True)
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    uses = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="how many times it is filled before it is worn out"
    )

    class Meta:
        ordering = ["name"]
        constraints = [
            *within("container", limits.BRIM_ML, "brim_ml"),
            *within("container", limits.FILL_PCT, "usual_level_pct"),
            *within("container", limits.CAVITIES, "cavities"),
            *within("container", limits.ON_HAND, "on_hand"),
            *within("container", limits.PRICE, "price"),
            *within("container", limits.USES, "uses"),
            *within("container", limits.WEIGHT_G, "tare_g"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def slug(self) -> str:
        """Its name among the containers of the core."""
        return own_slug(self.pk)

    @property
    def is_reused(self) -> bool:
        """Whether it is used again: a mould, or a container with a number of uses."""
        return self.cavities > 1 or self.uses is not None

    @property
    def price_each(self) -> Decimal | None:
        """What it adds to the price of a piece; nothing where it is reused and its uses are not known."""
        if self.price is None or not self.is_reused:
            return self.price
        return None if self.uses is None else round(self.price / (self.uses * self.cavities), 4)


class Vessel(Owned):
    """A pot to melt in, a bowl to whip in or a jug to pour from, with its volume to the brim."""

    class Use(models.TextChoices):
        POT = "pot", gettext_lazy("pot to melt in")
        BOWL = "bowl", gettext_lazy("bowl to whip in")
        JUG = "jug", gettext_lazy("jug to pour from")
        BATH = "bath", gettext_lazy("water bath, for pots of up to")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=60)
    use = models.CharField(max_length=4, choices=Use, default=Use.POT)
    brim_ml = models.FloatField()

    class Meta:
        ordering = ["use", "brim_ml"]
        constraints = [
            models.UniqueConstraint(fields=["owner", "name"], name="one_vessel_per_name"),
            *within("vessel", limits.BRIM_ML, "brim_ml"),
        ]

    def __str__(self) -> str:
        return self.name
