"""What keeps rows that travel from bench to bench from being doubled."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from calmtin.common.owned import Owned


def new_origin() -> str:
    """Return the name of a bench among all others that its rows may ever meet."""
    return uuid.uuid4().hex[:12]


class Origin(Owned):
    """The name under which a bench's own rows travel."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    code = models.CharField(max_length=12, default=new_origin)

    def __str__(self) -> str:
        return self.code


class Carried(Owned):
    """A row that was imported: its key on the other bench, and the row here."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    table = models.CharField(max_length=30)
    key = models.CharField(max_length=40)
    row = models.BigIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["owner", "table", "key"], name="one_row_per_key_from_elsewhere")
        ]

    def __str__(self) -> str:
        return f"{self.table} {self.key}"
