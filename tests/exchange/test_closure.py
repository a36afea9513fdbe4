"""Whatever was deleted or corrected, a bench goes out and comes in as it was."""

from __future__ import annotations

from typing import Any

from django.apps import apps
from django.db.models import ForeignKey
from django.test import TestCase

from calmtin.common.owned import Deletable
from calmtin.exchange.records.reading import import_records
from calmtin.exchange.records.tables import TABLES
from calmtin.pantry.models import Correction
from tests.bench_data import maker
from tests.exchange.test_records import InAFolder, photos_in, rows_in, written
from tests.whole_bench import whole_bench


class Closure(InAFolder, TestCase):
    def test_a_bench_with_every_kind_of_row_goes_out_and_in_twice(self) -> None:
        user = whole_bench("stroke")
        first = written(user)
        rows = rows_in(first)
        self.assertEqual([table.name for table in TABLES if not rows[table.name]], [])
        for name in ("bow", "seven"):
            other = maker(name)
            report = import_records(other, first)
            self.assertEqual((report.known, report.left, report.renamed), (0, 0, []))
            again = written(other)
            self.assertEqual(rows_in(again), rows)
            self.assertEqual(photos_in(again), photos_in(first))
            first = again

    def test_what_was_deleted_is_still_referred_to(self) -> None:
        user = whole_bench("stroke")
        deleted: dict[str, list[Any]] = {
            model._meta.model_name: list(model.every().of(user).exclude(deleted_at=None))
            for model in apps.get_models()
            if issubclass(model, Deletable)
        }
        self.assertEqual(
            {name: [str(row) for row in rows] for name, rows in deleted.items()},
            {
                "ownmaterial": ["Rush seed wax"],
                "owncontainer": ["Cup"],
                "infusion": ["yarrow in olive_oil", "comfrey in olive_oil"],
                "rendering": ["70.00 g of butter"],
                "packingitem": ["Old box"],
            },
        )
        for rows in deleted.values():
            for row in rows:
                self.assertFalse(type(row).objects.filter(pk=row.pk).exists())
        reasons = Correction.objects.of(user).values_list("words", flat=True)
        self.assertEqual(set(reasons), {""})

    def test_no_column_names_a_row_in_words(self) -> None:
        """Text with "my_" and a number, or with a number after a word, would be a reference."""
        user = whole_bench("stroke")
        spoken = r"^(my_\d+|[a-z -]+ \d+)$"
        allowed = {("Pour", "code")}  # "rehearsal 1" is its own name
        for model in (table.model for table in TABLES):
            for field in model._meta.concrete_fields:
                is_text = field.get_internal_type() in ("CharField", "SlugField", "TextField")
                if not is_text or isinstance(field, ForeignKey) or (model.__name__, field.name) in allowed:
                    continue
                found = model.every().of(user).filter(**{f"{field.name}__regex": spoken})
                self.assertEqual(list(found.values_list(field.name, flat=True)), [], (model, field.name))
