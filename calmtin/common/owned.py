"""Whose record is it: the one place where queries are narrowed to their owner."""

from __future__ import annotations

from typing import Any, NoReturn, cast

from django.core.exceptions import PermissionDenied
from django.db import models
from django.http import Http404
from django.utils import timezone
from django.utils.translation import gettext_noop

from calmtin.core.limits import FIRST_DAY, LAST_DAY, Span
from calmtin.core.messages import said

NEVER_CHANGED = gettext_noop("A record is never changed or removed; add a new one.")


def within(model: str, span: Span, *fields: str) -> list[models.CheckConstraint]:
    """Return a constraint for each of `fields` of a table: from the lowest to the highest of `span`."""
    low, high = span
    return [
        models.CheckConstraint(
            condition=models.Q(**{f"{field}__gte": low, f"{field}__lte": high})
            | models.Q(**{f"{field}__isnull": True}),
            name=f"{model}_{field}_within",
        )
        for field in fields
    ]


def days_within(model: str, *fields: str) -> list[models.CheckConstraint]:
    """Return a constraint for each day in `fields`: within the years that a bench can see."""
    return within(model, (FIRST_DAY, LAST_DAY), *fields)  # type: ignore[arg-type]


class OwnedQuerySet(models.QuerySet[Any]):
    """A queryset that can be narrowed to what one person owns."""

    def of(self, user: Any) -> OwnedQuerySet:
        """Return only what `user` owns."""
        return self.filter(**{self.model.OWNER_PATH: user})

    def own_or_404(self, user: Any, **lookup: Any) -> Any:
        """Return the one record of `user` that matches, or answer 404."""
        try:
            return whose(user, self.of(user).get(**lookup))
        except self.model.DoesNotExist:
            raise Http404 from None


class Owned(models.Model):
    """A record that belongs to one person, directly or through OWNER_PATH."""

    OWNER_PATH = "owner"

    objects = OwnedQuerySet.as_manager()

    class Meta:
        abstract = True

    @classmethod
    def every(cls) -> OwnedQuerySet:
        """Return all rows, those too that `objects` leaves out of every list."""
        return OwnedQuerySet(cls)


class NotDeleted(models.Manager.from_queryset(OwnedQuerySet)):  # type: ignore[misc]
    """Rows that their maker has not deleted."""

    def get_queryset(self) -> OwnedQuerySet:
        """Leave deleted rows out."""
        return cast(OwnedQuerySet, super().get_queryset().filter(deleted_at=None))


class Deletable(Owned):
    """A row that its maker can delete. It stays as a tombstone, since records refer to it."""

    deleted_at = models.DateTimeField(null=True, blank=True)

    objects = NotDeleted()  # type: ignore[misc]  # narrower than its parent's

    class Meta:
        abstract = True

    def mark_deleted(self) -> None:
        """Delete it for its maker: no list shows it any more."""
        self.deleted_at = timezone.now()
        self.save(update_fields=["deleted_at"])


def whose(user: Any, row: Any) -> Any:
    """Mark `row`, found among `user`'s own rows, as theirs, so that its owner is not queried again."""
    *path, last = row.OWNER_PATH.split("__")
    at = row
    for step in path:
        if not at._meta.get_field(step).is_cached(at):
            return row
        at = getattr(at, step)
    setattr(at, last, user)
    return row


def read_again(user: Any, *rows: Owned | None) -> None:
    """Read `rows` again inside the transaction, each narrowed to its owner; an optional one may be None.

    A service begins with it: what it then checks is what it acts on, and nobody
    else's record is touched. Raises `PermissionDenied` for a row that is not
    `user`'s or is gone.
    """
    for row in filter(None, rows):
        try:
            row.refresh_from_db(from_queryset=type(row).every().of(user))
        except type(row).DoesNotExist:
            raise PermissionDenied(
                said(
                    "This {verbose_name} was not found. It may belong to someone else or have been "
                    "deleted.",
                    verbose_name=row._meta.verbose_name,
                )
            ) from None


class RecordQuerySet(OwnedQuerySet):
    """Records that are added and never changed or removed one by one."""

    def update(self, **_: Any) -> NoReturn:
        """Refuse: a record is added to, never changed."""
        raise PermissionDenied(NEVER_CHANGED)

    def delete(self) -> NoReturn:
        """Refuse: a record stays."""
        raise PermissionDenied(NEVER_CHANGED)

    def bulk_update(self, *_: Any, **__: Any) -> NoReturn:
        """Refuse: a record is added to, never changed."""
        raise PermissionDenied(NEVER_CHANGED)


class Record(Owned):
    """A row that is written once. Triggers hold it in the database too (common.triggers)."""

    objects = RecordQuerySet.as_manager()  # type: ignore[misc]  # narrower than its parent's

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Write once."""
        if self.pk is not None and not self._state.adding:
            raise PermissionDenied(NEVER_CHANGED)
        super().save(*args, **kwargs)

    def delete(self, *_: Any, **__: Any) -> NoReturn:
        """Refuse: a record stays."""
        raise PermissionDenied(NEVER_CHANGED)
