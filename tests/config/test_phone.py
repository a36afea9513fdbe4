"""A phone reaches the bench by its own certificate and a link that works once, and by nothing else."""

from __future__ import annotations

import io
import re
import ssl
import tempfile
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from cryptography import x509
from cryptography.hazmat.primitives.asymmetric import ec
from django.test import SimpleTestCase, TestCase, override_settings

from calmtin.accounts.pairing import tokens
from calmtin.common.phone import ON_THE_PHONE
from calmtin.config import phone
from tests.bench_data import maker

ADDRESS = "https://192.168.0.7:8443/"


class Certificates(SimpleTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "phone"

    def test_it_stays_while_it_is_good_and_is_made_again_for_another_address(self) -> None:
        now = datetime(2026, 6, 1, tzinfo=UTC)
        file, key = phone.certificate(self.folder, "192.168.0.7", now=now)
        first, vouching = file.read_bytes(), (self.folder / "bench.crt").read_bytes()
        self.assertEqual(phone.certificate(self.folder, "192.168.0.7", now=now)[0].read_bytes(), first)
        self.assertEqual(key.stat().st_mode & 0o777, 0o600)
        phone.certificate(self.folder, "192.168.0.8", now=now)
        other = file.read_bytes()
        self.assertNotEqual(other, first)
        phone.certificate(self.folder, "192.168.0.8", now=now + timedelta(days=370))
        self.assertNotEqual(file.read_bytes(), other)
        # A phone that took the bench's own in once goes on trusting it.
        self.assertEqual((self.folder / "bench.crt").read_bytes(), vouching)

    def test_the_bench_vouches_for_it_and_for_no_authority(self) -> None:
        file, _ = phone.certificate(self.folder, "bench.example")
        made, vouching = x509.load_pem_x509_certificates(file.read_bytes())
        key = vouching.public_key()
        self.assertIsInstance(key, ec.EllipticCurvePublicKey)
        key.verify(made.signature, made.tbs_certificate_bytes, ec.ECDSA(made.signature_hash_algorithm))
        limits = [
            c.extensions.get_extension_for_class(x509.BasicConstraints).value for c in (made, vouching)
        ]
        self.assertEqual([(limit.ca, limit.path_length) for limit in limits], [(False, None), (True, 0)])
        self.assertLess(made.not_valid_after_utc - made.not_valid_before_utc, timedelta(days=398))


class Serving(SimpleTestCase):
    def application(self, environ: dict, start_response) -> list[bytes]:
        self.seen.append(environ)
        start_response("200 OK", [("Set-Cookie", "sessionid=1; HttpOnly"), ("Content-Length", "2")])
        return [b"ok"]

    def serve(self, tls: tuple[Path, Path] | None) -> int:
        self.seen: list[dict] = []
        server = phone.PhoneServer(self.application, "127.0.0.1", 0, tls=tls)
        port = server.start(most_bytes=1_000)
        self.addCleanup(server.stop)
        return port

    def test_over_https_its_cookies_are_secure_and_the_request_is_known_as_a_phones(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            tls = phone.certificate(Path(folder), "127.0.0.1")
            port = self.serve(tls)
            trust = ssl.create_default_context(cafile=Path(folder) / "bench.crt")
            with urllib.request.urlopen(f"https://127.0.0.1:{port}/", context=trust, timeout=20) as answer:
                self.assertEqual(answer.headers["Set-Cookie"], "sessionid=1; HttpOnly; Secure")
        self.assertTrue(self.seen[0][ON_THE_PHONE])
        self.assertEqual(self.seen[0]["wsgi.url_scheme"], "https")

    def test_without_https_cookies_stay_as_they_are(self) -> None:
        port = self.serve(None)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=20) as answer:
            self.assertEqual(answer.headers["Set-Cookie"], "sessionid=1; HttpOnly")

    def test_the_terminal_shows_the_address(self) -> None:
        out = io.StringIO()
        phone.show(ADDRESS, out)
        self.assertIn(f"On your phone: {ADDRESS}", out.getvalue())
        self.assertGreater(out.getvalue().count("█"), 100)


class Pairing(TestCase):
    def setUp(self) -> None:
        self.user = maker("cox")
        self.desk, self.phone = self.client, self.client_class()
        self.desk.force_login(self.user)

    def link(self) -> str:
        with override_settings(PHONE_ADDRESS=ADDRESS):
            page = self.desk.post("/pair/")
        found = re.search(r'aria-label="QR code of ([^"]+)"', page.content.decode())
        self.assertTrue(found[1].startswith(ADDRESS))
        return found[1].removeprefix(ADDRESS.rstrip("/"))

    def test_settings_say_what_to_run_until_phones_are_served(self) -> None:
        page = self.desk.get("/settings/")
        self.assertRegex(page.content.decode(), "script/(serve|demo) --phone")
        self.assertContains(page, "Until then nothing listens beyond this computer.")
        self.assertNotContains(self.desk.post("/pair/"), "QR code")
        with override_settings(PHONE_ADDRESS=ADDRESS):
            self.assertContains(self.desk.get("/settings/"), "Sign a phone in")
        with override_settings(PHONE_ADDRESS="http://192.168.0.7:8080/"):
            self.assertContains(
                self.desk.get("/settings/"), "Without https anyone on this network can read"
            )

    def test_a_link_signs_a_phone_in_once_by_a_press(self) -> None:
        link = self.link()
        page = self.phone.get(link)
        self.assertContains(page, "You will be signed in as cox")
        self.assertEqual(self.phone.get("/settings/").status_code, 302)  # looking is not signing in
        self.assertRedirects(self.phone.post(link), "/", fetch_redirect_response=False)
        self.assertEqual(self.phone.get("/settings/").status_code, 200)
        third = self.client_class()
        for answer in (third.get(link), third.post(link)):
            self.assertContains(answer, "This link no longer works", status_code=410)
            self.assertNotContains(answer, "cox", status_code=410)
        self.assertEqual(third.get("/settings/").status_code, 302)
        # The desk puts it out.
        self.desk.post("/settings/sessions/end/")
        self.assertEqual(self.phone.get("/settings/").status_code, 302)

    def test_a_link_is_too_old_after_five_minutes_and_of_no_use_to_who_was_shut_out(self) -> None:
        link = self.link()
        with mock.patch.object(tokens, "_now", lambda: datetime.now() + timedelta(minutes=5, seconds=1)):
            self.assertEqual(self.phone.get(link).status_code, 410)
        self.user.is_active = False
        self.user.save()
        self.assertEqual(self.phone.get(link).status_code, 410)

    def test_another_makers_link_cannot_be_made_of_it(self) -> None:
        other = maker("bow")
        link = self.link().replace(f"/pair/{self.user.pk}/", f"/pair/{other.pk}/")
        self.assertEqual(self.phone.post(link).status_code, 410)

    def test_the_certificate_is_there_for_the_phone_and_nothing_else_of_its_folder(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            phone.certificate(Path(folder), "192.168.0.7")
            with override_settings(PHONE_FOLDER=Path(folder)):
                answer = self.phone.get("/bench.crt")
                self.assertEqual(self.phone.get("/bench.key").status_code, 404)
        self.assertIn(b"BEGIN CERTIFICATE", answer.content)
        self.assertNotIn(b"PRIVATE", answer.content)
        with override_settings(PHONE_FOLDER=Path("/nowhere")):
            self.assertEqual(self.phone.get("/bench.crt").status_code, 404)


class Strangers(TestCase):
    def test_nobody_on_the_network_becomes_the_keeper_of_the_house(self) -> None:
        typed = {"username": "stranger", "password1": "oar-and-tallow-7", "password2": "oar-and-tallow-7"}
        for answer in (
            self.client.get("/welcome/", **{ON_THE_PHONE: True}),
            self.client.post("/welcome/", typed, **{ON_THE_PHONE: True}),
        ):
            self.assertContains(answer, "Create the first account on the computer", status_code=403)
        self.assertContains(self.client.get("/welcome/"), "Choose a name and a password")
