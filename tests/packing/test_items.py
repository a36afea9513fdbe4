"""Packing items: stock that goes down as pieces are packed, and a cost of each piece."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.test import TestCase

from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.packing import services
from calmtin.packing.models import PackedWith, PackingItem
from calmtin.packing.queries.pieces import pieces_view
from tests.bench_data import Reads, draft, maker, pour_of, salve

BACKEND = "django.contrib.auth.backends.ModelBackend"


class Packing(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker("bow")
        self.client.force_login(self.user, backend=BACKEND)
        self.pour = pour_of(self.user, draft(salve(self.user)), done=True)
        self.client.post("/packing/items/", {"name": "Paper wrap", "on_hand": "10", "price": "0.30"})
        self.wrap = PackingItem.objects.get()
        self.page = f"/pours/{self.pour.pk}/pieces/"

    def pack(self, packed: str, item: int | None = None) -> Any:
        data = {"position": "0", "item": str(item or self.wrap.pk), "packed": packed}
        return self.client.post(f"/pours/{self.pour.pk}/pack/", data, follow=True)

    def each(self) -> dict[str, Decimal]:
        return dict(pieces_view(self.pour, bench_of(self.user)).rows[0].price.parts)

    def on_hand(self) -> int | None:
        self.wrap.refresh_from_db()
        return self.wrap.on_hand

    def test_what_is_packed_is_used_up_and_costs(self) -> None:
        self.assertNotIn("packing items", self.each())
        page = self.pack("4")  # two around each of two tins
        self.assertContains(page, "4 Paper wrap")
        self.assertEqual((self.on_hand(), self.each()["packing items"]), (6, Decimal("0.60")))
        # A new price is for what is packed from then on.
        self.client.post("/packing/items/", {"row": self.wrap.pk, "bought": "20", "price": "0.50"})
        self.assertEqual((self.on_hand(), self.each()["packing items"]), (26, Decimal("0.60")))
        self.pack("2")
        self.assertEqual(self.each()["packing items"], Decimal("1.10"))
        for entry in PackedWith.objects.all():
            self.client.post(f"/packing/{entry.pk}/undo/")
        self.assertEqual((self.on_hand(), "packing items" in self.each()), (30, False))
        self.assertContains(self.client.post(f"/packing/{entry.pk}/undo/", follow=True), "already undone")

    def test_what_cannot_be_is_refused(self) -> None:
        self.assertContains(self.pack("none"), "is not a number")
        self.assertContains(self.pack("2", item=999), "Select a valid choice")
        answer = self.client.post("/packing/items/", {"name": "paper WRAP"})
        self.assertContains(answer, "There is already one called paper WRAP.")
        self.assertContains(self.client.post("/packing/items/", {"name": ""}), "Give it a name.")
        wrong = self.client.post("/packing/items/", {"row": self.wrap.pk, "bought": "some"})
        self.assertContains(wrong, "is not a number")
        self.assertEqual((self.on_hand(), PackedWith.objects.count()), (10, 0))
        with self.assertRaises(CalmTinError):
            services.pack_with(self.user, self.pour, position=7, item=self.wrap, count=1)

    def test_a_removed_item_stays_on_record(self) -> None:
        self.pack("2")
        self.client.post("/packing/items/", {"row": self.wrap.pk, "remove": "yes"})
        self.assertContains(self.client.get(self.page), "2 Paper wrap")
        self.assertContains(self.client.get(self.page), "add them once")
        # Its name is free again.
        self.client.post("/packing/items/", {"name": "Paper wrap"})
        self.assertEqual(PackingItem.objects.count(), 1)
