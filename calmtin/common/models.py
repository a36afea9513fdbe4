"""Keys of forms that were sent, and what each of them made."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from calmtin.common.owned import Owned


class Sent(Owned):
    """A form that was acted on, so that sending it again makes nothing new."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    key = models.UUIDField(unique=True)
    what = models.CharField(max_length=60, help_text="the service that it was sent to")
    made = models.CharField(max_length=60, blank=True, help_text="the model that it made a row of")
    made_pk = models.BigIntegerField(null=True, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.what} {self.key}"
