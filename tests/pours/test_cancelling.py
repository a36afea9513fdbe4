"""A pour that was started by mistake: kept as cancelled, its stock put back, the version a draft again."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from django.db import IntegrityError, connection, transaction

from calmtin.core.errors import CalmTinError
from calmtin.formulas.services import set_percent
from calmtin.pantry.services import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.models import Pour, WeighIn
from tests.bench_data import pour_of
from tests.pours.test_pours import WithPour


class CallingOff(WithPour):
    def setUp(self) -> None:
        super().setUp()
        day = date(2026, 5, 1)
        self.lot = buy_lot(self.user, material="beeswax_yellow", amount_g=Decimal(100), bought_on=day)
        self.pour = pour_of(self.user, self.version)
        services.weigh(self.user, self.pour.lines.first(), Decimal(20))

    def cancel_pour(self, reason: str = "the wrong formula") -> object:
        return self.client.post(f"/pours/{self.pour.pk}/cancel/", {"reason": reason})

    def test_stock_and_version_are_as_before_and_the_pour_stays(self) -> None:
        self.assertEqual(balance(self.lot), 80)
        self.assertContains(self.cancel_pour(" "), "Give a reason")
        self.assertRedirects(self.cancel_pour(), f"/pours/{self.pour.pk}/")
        self.pour.refresh_from_db()
        self.version.refresh_from_db()
        self.assertEqual((balance(self.lot), self.version.is_poured), (100, False))
        self.assertEqual(WeighIn.objects.count(), 2)
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), "cancelled: the wrong formula")
        self.assertContains(self.client.get("/pours/"), "cancelled")
        self.assertNotContains(self.client.get("/"), "of 4 weighed")
        wax = self.version.lines.get(material="beeswax_yellow")
        draft = set_percent(
            self.user, self.version, key=wax.key, percent=Decimal(20), seen=self.version.revision
        )
        self.assertEqual(draft.pk, self.version.pk)

    def test_what_was_poured_from_elsewhere_stays_frozen(self) -> None:
        pour_of(self.user, self.version, done=True)
        self.cancel_pour()
        self.version.refresh_from_db()
        self.assertTrue(self.version.is_poured)
        with self.assertRaises(IntegrityError), transaction.atomic():
            connection.cursor().execute("UPDATE formulas_version SET poured_at = NULL")

    def test_nothing_more_happens_to_it(self) -> None:
        self.cancel_pour()
        line = self.pour.lines.first()
        for attempt in (
            lambda: services.weigh(self.user, line, Decimal(5)),
            lambda: services.undo_weight(self.user, self.pour),
            lambda: services.finish_weighing(self.user, self.pour),
            lambda: services.record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(5)),
            lambda: services.cancel_pour(self.user, self.pour, reason="again"),
        ):
            with self.assertRaises(CalmTinError):
                attempt()
        with self.assertRaises(IntegrityError), transaction.atomic():
            connection.cursor().execute("UPDATE pours_pour SET called_off_at = NULL")

    def test_a_closed_pour_is_not_called_off(self) -> None:
        done = pour_of(self.user, self.version, done=True)
        with self.assertRaisesRegex(CalmTinError, "still being weighed"):
            services.cancel_pour(self.user, done, reason="regret")
        self.assertEqual(Pour.objects.filter(called_off_at=None).count(), 2)
