"""A row as it travels: its values as JSON holds them, other rows by their keys."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from django.db import models
from django.utils.translation import gettext

from calmtin.core.limits import check_day
from calmtin.exchange.models import Carried, Origin
from calmtin.exchange.records.tables import TABLE_OF, Table

MANY = 500  # rows, from which all of a maker are read: so long a list of numbers slows the database down


class Keys:
    """The keys of a maker's rows: those that came from elsewhere keep the ones that they came with."""

    def __init__(self, user: Any) -> None:
        self.origin = Origin.objects.get_or_create(owner=user)[0].code
        self._key: dict[tuple[str, int], str] = {}
        self._row: dict[tuple[str, str], int] = {}
        for table, key, row in Carried.objects.of(user).values_list("table", "key", "row"):
            self.learn(table, key, row)

    def learn(self, table: str, key: str, row: int) -> None:
        """Remember which row here has a key."""
        self._key[table, row] = key
        self._row[table, key] = row

    def key_of(self, table: str, row: int) -> str:
        """Return the key of a row that is here."""
        return self._key.get((table, row)) or f"{self.origin}-{row}"

    def row_of(self, table: str, key: str) -> int | None:
        """Return the row here that has a key, if it may be here at all."""
        found = self._row.get((table, key))
        if found is not None:
            return found
        origin, _, number = key.partition("-")
        return int(number) if origin == self.origin else None


def rows_of(
    user: Any, table: Table, keys: Keys, numbers: set[int] | None = None
) -> Iterator[dict[str, Any]]:
    """Yield the rows of a maker as they travel, or those of them in `numbers`, oldest first."""
    rows = table.model.every().of(user).order_by("pk")
    if numbers is not None and len(numbers) < MANY:
        rows = rows.filter(pk__in=numbers)
    columns = [(field, _writer(table, field, keys)) for field in table.fields]
    for row in rows.iterator(chunk_size=2000):
        if numbers is not None and row.pk not in numbers:
            continue
        told = {field.name: write(getattr(row, field.attname), row) for field, write in columns}
        yield {"_key": keys.key_of(table.name, row.pk), **told}


def _writer(table: Table, field: Any, keys: Keys) -> Callable[[Any, models.Model], Any]:
    """Return what writes a column: (value, row) to JSON."""
    if field.is_relation:
        target = TABLE_OF[field.related_model].name
        return lambda value, _: None if value is None else keys.key_of(target, value)
    if isinstance(field, models.FileField):
        return lambda _, row: f"photos/{keys.key_of(table.name, row.pk)}.jpg"
    return lambda value, _: _plain(value)


def _plain(value: Any) -> Any:
    """Return a value as JSON holds it: decimals and days as text, so that nothing of them is lost."""
    if isinstance(value, Decimal):
        return f"{value:f}"
    if isinstance(value, datetime | date):
        return value.isoformat()
    return value


def read_value(field: Any, value: Any, find: Callable[[str, str], int]) -> Any:
    """Return what a column holds, from what travelled; `find` says which row here has a key.

    Raises `ValueError`, `ArithmeticError` or `CalmTinError` for what cannot be read or be, and what
    `find` raises.
    """
    if value is None:
        return None
    if field.is_relation:
        return find(TABLE_OF[field.related_model].name, value)
    if isinstance(field, models.DecimalField):
        return Decimal(value).quantize(Decimal(1).scaleb(-field.decimal_places))
    if isinstance(field, models.DateTimeField):
        told = datetime.fromisoformat(value)
        if told.tzinfo is None:
            raise ValueError(gettext("a time without its zone"))
        check_day(told.date(), name=gettext("A time in it"))
        return told
    if isinstance(field, models.DateField):
        day = date.fromisoformat(value)
        check_day(day, name=gettext("A day in it"))
        return day
    return value
