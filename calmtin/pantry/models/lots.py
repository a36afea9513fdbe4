"""Lots: what was bought or made of a material."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.conf import settings
from django.db import models

from calmtin.common.numbers import SumGrams
from calmtin.common.owned import Owned, days_within, within
from calmtin.core import limits

# Lots in the order of use.
FIRST_TO_EXPIRE: list[Any] = [models.F("best_before").asc(nulls_last=True), "bought_on", "pk"]


class Lot(Owned):
    """One purchase of a material. Its balance is the sum of its movements."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="lots")
    material = models.SlugField(max_length=60)
    bought_on = models.DateField()
    amount_g = models.DecimalField(max_digits=10, decimal_places=2)
    typed = models.CharField(max_length=120, blank=True, help_text="the amount as it was typed")
    price = models.DecimalField(max_digits=9, decimal_places=2, null=True, blank=True)
    best_before = models.DateField(null=True, blank=True)
    opened_on = models.DateField(null=True, blank=True)
    note = models.CharField(max_length=200, blank=True)
    added_at = models.DateTimeField(auto_now_add=True)
    voided_at = models.DateTimeField(null=True, blank=True, help_text="when it was taken off the shelf")

    class Meta:
        ordering = FIRST_TO_EXPIRE
        constraints = [
            *within("lot", limits.LOT_G, "amount_g"),
            *within("lot", limits.PRICE, "price"),
            *days_within("lot", "bought_on", "best_before", "opened_on"),
        ]

    def __str__(self) -> str:
        return f"{self.material}, bought {self.bought_on}"

    @property
    def cost_per_g(self) -> Decimal | None:
        """What a gram of it cost."""
        return None if self.price is None else self.price / self.amount_g


def with_left(lots: models.QuerySet[Lot]) -> models.QuerySet[Any]:
    """Return `lots`, first to expire first, each with `left`, g: the sum of its ledger."""
    # Grouping drops the model's own ordering, so it is said again.
    return lots.annotate(left=SumGrams("movements__grams")).order_by(*FIRST_TO_EXPIRE)
