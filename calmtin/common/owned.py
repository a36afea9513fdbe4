"""Whose record is it: the one place where queries are narrowed to their owner."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import PermissionDenied
from django.db import models
from django.http import Http404


class OwnedQuerySet(models.QuerySet):
    """A queryset that can be narrowed to what one person owns."""

    def of(self, user: Any) -> OwnedQuerySet:
        """Return only what `user` owns."""
        return self.filter(**{self.model.OWNER_PATH: user})

    def own_or_404(self, user: Any, **lookup: Any) -> Any:
        """Return the one record of `user` that matches, or answer 404."""
        try:
            return self.of(user).get(**lookup)
        except self.model.DoesNotExist:
            raise Http404 from None


class Owned(models.Model):
    """A record that belongs to one person, directly or through OWNER_PATH."""

    OWNER_PATH = "owner"

    objects = OwnedQuerySet.as_manager()

    class Meta:
        abstract = True


class RecordQuerySet(OwnedQuerySet):
    """Records that are added and never changed or removed one by one."""

    def update(self, **values: Any) -> int:
        """Refuse: a record is added to, never changed."""
        raise PermissionDenied("A record is never changed; add a new one.")


class Record(Owned):
    """A row that is written once."""

    objects = RecordQuerySet.as_manager()

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Write once."""
        if self.pk is not None:
            raise PermissionDenied("A record is never changed; add a new one.")
        super().save(*args, **kwargs)
