"""What is too large, a disk that is full, and rows of others in optional places: refused in words."""

from __future__ import annotations

import errno
from decimal import Decimal
from io import BytesIO
from unittest import mock

from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import RequestFactory, TestCase
from django.urls import reverse

from calmtin.accounts import services as accounts
from calmtin.accounts.models import User
from calmtin.common.middleware import NotTooLarge
from calmtin.core.limits import BODY_BYTES, PART_BYTES, PICTURE_BYTES
from calmtin.devices.services import set_up
from calmtin.exchange.records import pending_upload
from calmtin.exchange.records.pending_upload import stash_part, stashed
from calmtin.formulas.models import Formula
from calmtin.formulas.services import add_finish, branch
from calmtin.pantry import services as pantry
from calmtin.pours.models import Pour, WeighIn
from calmtin.pours.services import weigh
from calmtin.pours.services.starting import start_pour
from tests.bench_data import Reads, draft, maker, plan_for, pour_of, salve
from tests.exchange.test_records import InAFolder, a_bench, written
from tests.whole_bench import DAY


class TooLarge(Reads, TestCase):
    def test_a_request_that_is_too_large_gets_its_sentence_unread(self) -> None:
        asked = RequestFactory().post(
            "/", data=b"", content_type="text/plain", CONTENT_LENGTH=str(40 * 10**6)
        )
        answer = NotTooLarge(lambda _: self.fail("it was let through"))(asked)
        self.assertContains(answer, "This is 40 MB, and up to 15 MB can be sent at once.", status_code=413)
        self.assertLess(PICTURE_BYTES, BODY_BYTES)
        self.assertLess(PART_BYTES, BODY_BYTES)


class Parts(InAFolder, Reads, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.file = written(a_bench("bow")).getvalue()
        self.user = maker("cox")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def send(self, part: bytes, at: int) -> int:
        told = {"part": SimpleUploadedFile("p", part), "at": at, "size": len(self.file)}
        return self.client.post(reverse("exchange:records_part"), told).status_code

    def test_a_file_in_parts_is_looked_over_and_taken_in(self) -> None:
        middle = len(self.file) // 2
        self.assertEqual(self.send(self.file[:middle], 0), 204)
        self.assertEqual(self.send(self.file[middle:], middle), 204)
        address = reverse("exchange:records")
        page = self.client.post(address, {"sent_in_parts": "yes"})
        self.assertContains(page, "New:")
        self.client.post(address, {"take_in": "yes"})
        self.assertEqual(Formula.objects.of(self.user).count(), 1)

    def test_a_part_out_of_its_order_is_refused_and_begins_anew(self) -> None:
        self.assertEqual(self.send(self.file[100:], 100), 400)
        self.assertEqual(self.send(self.file[:100], 0), 204)
        self.assertEqual(self.send(self.file[200:], 200), 400)
        self.assertEqual(self.send(self.file[:100], 0), 204)
        self.assertEqual(self.send(self.file[100:], 100), 204)
        with stashed(self.user) as kept:
            self.assertEqual(kept.read(), self.file)

    def test_more_than_a_file_may_have_is_refused(self) -> None:
        for at, size in ((0, 10**12), (-1, 10), (0, 1)):
            with self.subTest(at=at, size=size), self.assertRaises(ValueError):
                stash_part(self.user, b"two", at=at, size=size)

    def test_a_full_disk_says_so(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch.object(pending_upload.Path, "mkdir", side_effect=full):
            page = self.client.post(reverse("exchange:records"), {"file": BytesIO(self.file)})
        self.assertContains(page, "The disk is full, so nothing was saved.", status_code=503)


class OptionalRows(TestCase):
    """A row in an optional place is checked like a required one, and nothing is changed."""

    def setUp(self) -> None:
        self.user, self.other = maker("cox"), maker("bow")
        self.version = draft(salve(self.user))

    def test_a_lot_of_another_maker(self) -> None:
        lot = pantry.buy_lot(self.other, material="olive_oil", amount_g=Decimal(500), bought_on=DAY)
        pour = pour_of(self.user, self.version)
        with self.assertRaises(PermissionDenied):
            weigh(self.user, pour.lines.get(material="olive_oil"), Decimal(10), lot=lot)
        self.assertFalse(WeighIn.objects.exists())

    def test_a_stove_a_finish_and_an_infusion_of_another_maker(self) -> None:
        bench = {"step_g": Decimal("0.1"), "capacity_g": Decimal(2000), "room_c": 21.0, "set_c": 45.0}
        stove = set_up(self.other, **bench)
        plan = plan_for(self.user, self.version)
        with self.assertRaises(PermissionDenied):
            start_pour(self.user, self.version, plan, scale_step_g=Decimal("0.1"), stove=stove)
        self.assertFalse(Pour.every().exists())
        theirs = add_finish(self.other, salve(self.other), name="minty", parts=[("peppermint", Decimal(1))])
        with self.assertRaises(PermissionDenied):
            branch(self.user, self.version, name="Mint", finish=theirs)
        infusion = pantry.start_infusion(
            self.other, herb="yarrow", herb_g=Decimal(9), oil="olive_oil", oil_g=Decimal(90), method="cold",
            started_on=DAY,
        )  # fmt: skip
        with self.assertRaises(PermissionDenied):
            pantry.take_from_stock(self.user, "olive_oil", Decimal(5), infusion=infusion)

    def test_the_household_is_its_keepers(self) -> None:
        good = "ship-your-oars"
        for act in (
            lambda: accounts.add_maker(self.user, "new", good),
            lambda: accounts.give_password(self.user, self.other, good),
            lambda: accounts.set_active(self.user, self.other, active=False),
        ):
            with self.assertRaises(PermissionDenied):
                act()
        self.other.refresh_from_db()
        self.assertTrue(self.other.is_active and not self.other.check_password(good))
        User.objects.filter(pk=self.user.pk).update(is_staff=True)
        self.assertEqual(accounts.add_maker(self.user, "new", good).username, "new")
