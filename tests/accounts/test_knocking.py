"""Strangers who knock: how often they may try, how many wait, and where a maker is signed in."""

from __future__ import annotations

from threading import Thread
from unittest import mock

from axes.models import AccessAttempt
from axes.utils import reset
from django.contrib.auth.hashers import check_password, make_password
from django.test import Client, SimpleTestCase, TestCase, override_settings
from django.urls import reverse

from calmtin.accounts import hashers, login_throttling
from calmtin.accounts.hashers import TooManySigningIn, hashing_slot
from calmtin.accounts.sessions import device_of
from tests.bench_data import Reads, maker

SLOW = ["calmtin.accounts.hashers.OneAtATimePBKDF2"]
FIREFOX = "Mozilla/5.0 (Android 14; Mobile; rv:140.0) Gecko/140.0 Firefox/140.0"
SAFARI = (
    "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1.15 Version/18.0 Safari/604.1"
)
GOOD = {"username": "cox", "password": "oar-and-tallow-7"}


class OneAtATime(Reads, TestCase):
    def setUp(self) -> None:
        maker("cox")

    def test_one_hashes_one_waits_and_the_rest_are_told_at_once(self) -> None:
        done: list[str] = []

        def wait() -> None:
            with hashing_slot():
                done.append("waited")

        with hashing_slot():
            waiting = Thread(target=wait)
            waiting.start()
            while hashers._places._value:
                pass
            with self.assertRaises(TooManySigningIn), hashing_slot():
                done.append("never")
            self.assertEqual(done, [])
        waiting.join()
        self.assertEqual(done, ["waited"])

    def test_who_waits_too_long_is_told(self) -> None:
        with mock.patch.object(hashers, "WAIT_S", 0.01), hashing_slot():
            waiting: list[Exception] = []

            def wait() -> None:
                try:
                    with hashing_slot():
                        pass
                except TooManySigningIn as refused:
                    waiting.append(refused)

            thread = Thread(target=wait)
            thread.start()
            thread.join()
            self.assertEqual(len(waiting), 1)

    @override_settings(PASSWORD_HASHERS=SLOW)
    def test_the_page_says_so_and_hashes_stay_as_they_were(self) -> None:
        kept = make_password("oar-and-tallow-7")
        self.assertTrue(kept.startswith("pbkdf2_sha256$"))
        self.assertTrue(check_password("oar-and-tallow-7", kept))
        with mock.patch.object(hashers._places, "acquire", return_value=False):
            page = self.client.post(reverse("accounts:sign_in"), GOOD)
        self.assertContains(page, "Others are signing in at the moment.", status_code=503)


@override_settings(AXES_ENABLED=True)
class Limits(Reads, TestCase):
    def setUp(self) -> None:
        reset()
        maker("cox")

    def knock(self, name: str, address: str, password: str = "wrong") -> int:
        return self.client.post(
            reverse("accounts:sign_in"), {"username": name, "password": password}, REMOTE_ADDR=address
        ).status_code

    def test_many_names_from_one_address(self) -> None:
        for n in range(login_throttling.MOST_BY_ADDRESS):
            self.assertEqual(self.knock(f"name{n}", "10.0.0.9"), 200)
        with mock.patch("django.contrib.auth.backends.ModelBackend.authenticate") as hashed:
            self.assertEqual(self.knock("another", "10.0.0.9"), 429)
            hashed.assert_not_called()
        # Its maker is not locked out by it from elsewhere.
        self.assertEqual(self.knock("cox", "10.0.0.1", GOOD["password"]), 302)

    def test_one_name_from_many_addresses(self) -> None:
        for n in range(login_throttling.MOST_BY_NAME):
            self.assertEqual(self.knock("cox", f"10.0.1.{n}"), 200)
        self.assertEqual(self.knock("cox", "10.0.2.1", GOOD["password"]), 429)
        AccessAttempt.objects.all().delete()
        self.assertEqual(self.knock("cox", "10.0.2.1", GOOD["password"]), 302)


class Sessions(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker("cox")
        self.here = self.signed_in(FIREFOX)

    def signed_in(self, agent: str) -> Client:
        client = Client(headers={"User-Agent": agent})
        client.post(reverse("accounts:sign_in"), GOOD)
        return client

    def works(self, client: Client) -> bool:
        return client.get(reverse("accounts:settings")).status_code == 200

    def test_they_are_listed_and_ended(self) -> None:
        phone, tablet = self.signed_in(SAFARI), self.signed_in(SAFARI)
        stranger = maker("bow")
        other = Client()
        other.force_login(stranger, backend="django.contrib.auth.backends.ModelBackend")
        page = self.here.get(reverse("accounts:settings"))
        self.assertContains(page, "Firefox on Android", count=1)
        self.assertContains(page, "Safari on iPhone", count=2)
        rows = page.context["signed_in"]
        self.assertEqual([row.is_here for row in rows], [True, False, False])
        self.assertNotContains(page, phone.session.session_key)
        # Nobody ends another maker's.
        other.post(reverse("accounts:session_end"), {"name": rows[1].name})
        self.assertTrue(self.works(phone) and self.works(tablet))
        page = self.here.post(reverse("accounts:session_end"), {"name": rows[1].name}, follow=True)
        self.assertContains(page, "The device is signed out.")
        self.assertEqual(self.works(phone) + self.works(tablet), 1)
        self.here.post(reverse("accounts:session_end"))
        self.assertFalse(self.works(phone) or self.works(tablet))
        self.assertTrue(self.works(self.here) and self.works(other))


class Devices(SimpleTestCase):
    def test_what_a_browser_says_it_is(self) -> None:
        self.assertEqual(device_of(SAFARI), "Safari on iPhone")
        self.assertEqual(device_of(""), "a browser")
        self.assertEqual(
            device_of("Mozilla/5.0 (X11; Linux) Chrome/140.0 Safari/537 Edg/140.0"), "Edge on Linux"
        )
