"""A second maker: added, let in and blocked by who manages the household, and tries are counted."""

from __future__ import annotations

from io import StringIO
from unittest import mock

from django.core.management import CommandError, call_command
from django.test import TestCase, override_settings

from calmtin.accounts.models import Bench, User
from tests.bench_data import Reads, maker, salve

BACKEND = "django.contrib.auth.backends.ModelBackend"


@override_settings(DEMO=False)
class Household(Reads, TestCase):
    def setUp(self) -> None:
        self.keeper = maker()
        self.keeper.is_staff = True
        self.keeper.save()
        self.client.force_login(self.keeper, backend=BACKEND)

    def add(self, name: str = "bow", password: str = "feather-the-blade", again: str = "") -> object:
        data = {"username": name, "password1": password, "password2": again or password}
        return self.client.post("/household/", data)

    def test_add_reset_and_keep_out(self) -> None:
        self.assertContains(self.add(password="bow"), "too short")
        self.assertContains(self.add(again="another-word-9"), "don’t match")
        self.assertRedirects(self.add(), "/household/")
        self.assertContains(self.add("BOW"), "That name is taken")
        bow = User.objects.get(username="bow")
        self.assertFalse(bow.is_staff)
        self.assertTrue(Bench.objects.filter(user=bow).exists())
        self.client.post(
            f"/household/{bow.pk}/password/", {"password1": "ship-your-oars", "password2": "ship-your-oars"}
        )
        bow.refresh_from_db()
        self.assertTrue(bow.check_password("ship-your-oars"))
        self.client.post(f"/household/{bow.pk}/active/", {"out": "yes"})
        bow.refresh_from_db()
        self.assertFalse(bow.is_active)
        own = self.client.post(f"/household/{self.keeper.pk}/active/", {"out": "yes"}, follow=True)
        self.assertContains(own, "manage the household")

    def test_nobody_else_sees_it(self) -> None:
        bow = maker("bow")
        self.client.force_login(bow, backend=BACKEND)
        for address in ("/household/", f"/household/{self.keeper.pk}/password/"):
            self.assertEqual(self.client.get(address).status_code, 404)
        answer = self.client.post(f"/household/{self.keeper.pk}/active/", {"out": "yes"})
        self.assertEqual(answer.status_code, 404)

    @override_settings(AXES_ENABLED=True)
    def test_tries_at_the_old_password_are_counted(self) -> None:
        data = {"new_password1": "ship-your-oars", "new_password2": "ship-your-oars"}
        for _ in range(7):
            page = self.client.post("/settings/password/", {"old_password": "guess", **data})
            self.assertContains(page, "not your current password")
        eighth = self.client.post("/settings/password/", {"old_password": "guess", **data})
        self.assertContains(eighth, "wrong eight times", status_code=429)
        right = self.client.post("/settings/password/", {"old_password": "oar-and-tallow-7", **data})
        self.assertContains(right, "15 minutes")
        self.keeper.refresh_from_db()
        self.assertTrue(self.keeper.check_password("oar-and-tallow-7"))

    @override_settings(AXES_ENABLED=True)
    def test_a_stranger_does_not_lock_the_owner_out(self) -> None:
        self.client.logout()
        for _ in range(9):
            self.client.post(
                "/sign-in/", {"username": "cox", "password": "guess"}, REMOTE_ADDR="203.0.113.66"
            )
        good = {"username": "cox", "password": "oar-and-tallow-7"}
        self.assertRedirects(self.client.post("/sign-in/", good, REMOTE_ADDR="198.51.100.7"), "/")


class ByCommand(Reads, TestCase):
    """The same by script/manage makers, for whoever runs the machine."""

    def makers(self, *args: str, typed: str = "") -> str:
        out = StringIO()
        with mock.patch("sys.stdin", StringIO(typed)):
            call_command("makers", *args, stdout=out)
        return out.getvalue()

    def test_from_the_first_maker_to_the_last(self) -> None:
        self.makers("add", "cox", typed="oar-and-tallow-7\n")
        with self.assertRaisesRegex(CommandError, "too short"):
            self.makers("add", "bow", typed="12345\n")
        self.makers("add", "bow", typed="feather-the-blade\n")
        salve(User.objects.get(username="bow"))
        self.makers("out", "bow")
        self.assertEqual(self.makers(), "bow (blocked)\ncox (keeper)\n")
        with self.assertRaisesRegex(CommandError, "manage the household"):
            self.makers("out", "cox")
        self.assertIn("Nothing was changed", self.makers("remove", "bow", typed="stroke\n"))
        self.assertTrue(User.objects.filter(username="bow").exists())
        said = self.makers("remove", "bow", typed="bow\n")
        self.assertRegex(said, "With bow, these are removed: .*4 lines.*1 formulas")
        self.assertEqual(self.makers(), "cox (keeper)\n")
        with self.assertRaisesRegex(CommandError, "maker's own bench"):
            call_command("load_demo")
