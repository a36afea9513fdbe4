"""Who gets in, whose records they see, and what the browser is told."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import date
from decimal import Decimal

from django.apps import apps
from django.test import Client, TestCase, override_settings
from django.urls import URLPattern, URLResolver, get_resolver, resolve, reverse

from calmtin.accounts.models import Bench, User
from calmtin.checks.services import trace_reaction
from calmtin.common.owned import Owned
from calmtin.config.moved import moved
from calmtin.core.packing.layout import plain_sheets
from calmtin.core.quantities import fahrenheit_to_celsius
from calmtin.formulas.services import add_finish
from calmtin.packing.services import (
    add_deadline,
    add_packing_item,
    keep_label_sheet,
    pack_with,
    print_labels,
    send_pieces,
)
from calmtin.pantry import services as pantry
from calmtin.pours.services.checking import record_check
from tests.bench_data import Reads, a_picture, draft, maker, pour_of, salve
from tests.pages import PAGES


def all_patterns(resolver: URLResolver | None = None, prefix: str = "") -> list[tuple[str, URLPattern]]:
    """Return every URL pattern with its full route."""
    found = []
    for pattern in (resolver or get_resolver()).url_patterns:
        route = prefix + str(pattern.pattern)
        if isinstance(pattern, URLResolver):
            found += all_patterns(pattern, route)
        elif pattern.callback is not moved:  # an old address asks for nobody's things itself
            found.append((route, pattern))
    return found


class TwoMakers(Reads, TestCase):
    def setUp(self) -> None:
        self.owner, self.other = maker("stroke"), maker("bow")
        self.formula = salve(self.owner)
        self.version = draft(self.formula)
        self.line = self.version.lines.first()
        self.poured = pour_of(self.owner, self.version, done=True)
        seen = record_check(
            self.owner, self.poured, temp_c=21.0, felt_rung=None, verdict="keep", photo=a_picture()
        )
        self.photo = seen.photos.get()
        self.pour = pour_of(self.owner, self.version)
        self.part = self.pour.finish_parts.create(
            finish="minty", material="peppermint", percent=1, planned_g=1
        )
        self.wax = pantry.add_material(self.owner, name="Reed wax", group="wax", behaves_like="soy_wax")
        day = date(2026, 5, 1)
        self.lot = pantry.buy_lot(self.owner, material=self.wax.slug, amount_g=Decimal(100), bought_on=day)
        self.rendering = pantry.start_rendering(self.owner, kind="comb", raw_g=Decimal(90), started_on=day)
        self.infusion = pantry.start_infusion(
            self.owner,
            herb="calendula",
            herb_g=Decimal(20),
            oil="olive_oil",
            oil_g=Decimal(200),
            method="cold",
            started_on=day,
        )
        self.container = pantry.add_container(self.owner, name="Bailer tin", brim_ml=70.0)
        self.finish = add_finish(self.owner, self.formula, name="clear", parts=[])
        place = self.poured.fillings.get().position
        pantry.set_own_figures(
            self.owner, "tocopherols_50", inci="Tocopherol (and) Olea Europaea Fruit Oil"
        )
        self.labels = print_labels(
            self.owner, self.poured, position=place, name="Pin", sheet="a4-round-60x60", count=1
        )
        self.gone = send_pieces(self.owner, self.poured, position=place, went="kept", count=1, on=day)
        grid = plain_sheets()["a4-round-60x60"]
        self.sheet = keep_label_sheet(self.owner, sheet=replace(grid, name="mine"))
        flared = record_check(self.owner, self.poured, temp_c=21.0, felt_rung=None, signs={"flare_up": "1"})
        self.reaction = trace_reaction(self.owner, flared, suspects=["olive_oil"])
        item = add_packing_item(self.owner, name="Paper wrap")
        self.packed = pack_with(self.owner, self.poured, position=place, item=item, count=2)
        self.need = add_deadline(
            self.owner, self.formula, what_for="a gift", needed_on=date(2090, 1, 1), count=2, today=day
        )
        # The other has things of their own under the first numbers, so that no number tells anything.
        pantry.buy_lot(self.other, material="olive_oil", amount_g=Decimal(5), bought_on=day)

    def addresses(self) -> list[str]:
        """Fill every pattern that takes an argument with the owner's own objects."""
        found = []
        for route, _ in all_patterns():
            # Nobody's own, and a link that is its own key (tests/config/test_phone.py).
            if "<" not in route or route.startswith(("household/", "help/", "pair/")):
                continue
            owned = {"pours/": self.pour, "pantry/lots/": self.lot, "pantry/making/": self.infusion}
            owned |= {"pantry/rendering/": self.rendering, "reactions/": self.reaction}
            owned |= {"checks/": self.reaction.of, "packing/": self.packed}
            owned |= {"pantry/containers/": self.container, "photos/": self.photo}
            owned |= {"labels/sheets/": self.sheet, "labels/": self.labels, "pieces/": self.gone}
            owned |= {"deadlines/": self.need}
            found_at = next((row for start, row in owned.items() if route.startswith(start)), self.formula)
            values = {
                "pk": found_at.pk,
                "slug": self.wax.slug,
                "number": self.version.number,
                "key": self.line.key,
                "finish": self.finish.pk,
                "position": 0,
                "part": self.part.pk,
                "of": "scale",
            }
            plain = re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", route)
            found.append("/" + plain.format(**values))
        return found

    def test_every_address_of_one_maker_is_404_to_the_other(self) -> None:
        addresses = self.addresses()
        self.assertGreaterEqual(len(addresses), 15)
        before = self.state()
        theirs, mine = Client(), Client()
        theirs.force_login(self.other, backend="django.contrib.auth.backends.ModelBackend")
        mine.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        for address in addresses:
            with self.subTest(address):
                self.assertEqual(theirs.get(address).status_code in (404, 405), True)
                self.assertEqual(theirs.post(address, {"seen": 0}).status_code in (404, 405), True)
                statuses = {theirs.get(address).status_code, theirs.post(address).status_code}
                self.assertIn(404, statuses)
        self.assertEqual(self.state(), before)
        for address in addresses:
            with self.subTest(address):
                self.assertNotEqual(mine.get(address).status_code, 404)

    def state(self) -> list[list[dict]]:
        return [list(m.objects.order_by("pk").values()) for m in apps.get_models() if issubclass(m, Owned)]

    @override_settings(DEMO=False)
    def test_every_page_is_among_those_that_are_walked(self) -> None:
        User.objects.filter(pk=self.owner.pk).update(is_staff=True)
        mine = Client()
        mine.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        addresses = [f"/{route}" for route, _ in all_patterns() if "<" not in route]
        addresses += [*self.addresses(), "/help/firm/", f"/household/{self.other.pk}/password/"]
        addresses += [told.replace(f"/{self.pour.pk}/", f"/{self.poured.pk}/") for told in addresses]
        found = set()
        for address in addresses:
            answer = mine.get(address)
            if answer.status_code == 200 and b"<html" in b"".join(answer)[:2000]:
                found.add(resolve(address).view_name)
        self.assertEqual(found, PAGES)

    def test_every_model_of_ours_is_owned(self) -> None:
        for model in apps.get_models():
            if model.__module__.startswith("calmtin") and model is not User:
                with self.subTest(model.__name__):
                    self.assertTrue(issubclass(model, Owned))
                    self.assertIsInstance(model.objects.of(self.owner).count(), int)

    def test_everything_needs_a_sign_in(self) -> None:
        allowed = {"/sign-in/", "/welcome/", "/demo/"}
        for address in [*self.addresses(), "/", "/formulas/", "/pours/", "/settings/", "/formulas/new/"]:
            if address in allowed:
                continue
            answer = self.client.get(address)
            self.assertTrue(
                answer.status_code == 405 or answer.url.startswith("/sign-in/"), f"{address} is open"
            )


class Doors(Reads, TestCase):
    def test_policy_forbids_inline_code_everywhere(self) -> None:
        user = maker()
        formula = salve(user)
        pour = pour_of(user, draft(formula))
        self.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        for address in ["/", f"/formulas/{formula.pk}/", f"/pours/{pour.pk}/", "/settings/", "/nowhere/"]:
            answer = self.client.get(address)
            policy = answer.headers["Content-Security-Policy"]
            self.assertNotIn("unsafe", policy)
            self.assertIn("default-src 'none'", policy)
            text = answer.content.decode()
            self.assertNotRegex(text, r"<script>|<style|\sstyle=|\son\w+=|javascript:")
            self.assertEqual(answer.headers["X-Frame-Options"], "DENY")

    def test_first_visit_makes_the_first_account_and_no_second(self) -> None:
        with override_settings(DEMO=False):
            self.assertRedirects(self.client.get("/sign-in/"), "/welcome/")
        answer = self.client.post("/welcome/", {"username": "sculler", "password1": "x", "password2": "x"})
        self.assertContains(answer, "too short")
        self.assertFalse(User.objects.exists())
        good = {"username": "sculler", "password1": "feather-the-blade", "password2": "feather-the-blade"}
        self.assertRedirects(self.client.post("/welcome/", good), "/first/")
        self.assertRedirects(self.client.get("/"), "/first/")  # asked until it is answered
        page = self.client.get("/first/", HTTP_ACCEPT_LANGUAGE="en-US,en;q=0.5")
        self.assertContains(page, 'value="F" class="form-check-input" id="id_temperature_unit_1" checked')
        asked = {"scale_step": "0.1", "temperature_unit": "F", "room_c": "21.0", "cups": "us"}
        self.assertRedirects(self.client.post("/first/", asked), "/")
        bench = Bench.objects.get()
        self.assertEqual(
            (bench.temperature_unit, bench.room_c, bench.is_set_up), ("F", fahrenheit_to_celsius(70), True)
        )
        self.client.post(
            "/first/", asked, HTTP_ACCEPT_LANGUAGE="en-GB"
        )  # answered once, it is not guessed again
        self.assertEqual(Bench.objects.get().currency, bench.currency)
        door = self.client.get("/")
        for way in ("Paste a recipe", "Answer five questions", "Start a rehearsal"):
            self.assertContains(door, way)
        self.client.logout()
        self.assertRedirects(self.client.post("/welcome/", {**good, "username": "cox"}), "/sign-in/")
        self.assertEqual(User.objects.count(), 1)

    def test_demo_button_only_in_the_demo(self) -> None:
        maker("tern_quay")
        self.assertContains(self.client.get("/sign-in/"), "Open the demo bench")
        with override_settings(DEMO=False):
            self.assertEqual(self.client.post("/demo/").status_code, 404)
        self.assertRedirects(self.client.post("/demo/"), "/")

    def test_bench_temperatures_in_either_unit(self) -> None:
        user = maker()
        self.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        good = {
            "cold_name": "boathouse",
            "cold_c": "6,5",
            "room_c": "20",
            "hot_name": "hot car",
            "hot_c": "48",
            "temperature_unit": "F",
            "scale_step": "0.1",
            "cups": "us",
            "margin_pct": "40",
            "buying_days": "7",
            "theme": "light",
        }
        self.assertRedirects(self.client.post("/settings/", good), "/settings/")
        self.assertEqual(Bench.objects.get(user=user).cold_c, 6.5)
        page = self.client.get("/settings/")
        self.assertContains(page, 'value="43.7"')
        bad = self.client.post("/settings/", {**good, "cold_c": "warm", "room_c": "68", "hot_c": "118"})
        self.assertContains(bad, "“warm” is not a temperature. Type the cold room as digits, from")
        self.assertContains(bad, 'value="118"')
        self.assertEqual(Bench.objects.get(user=user).hot_c, 48.0)
        self.client.post("/settings/", {**good, "cold_c": "41", "room_c": "68", "hot_c": "118.4"})
        self.assertEqual(Bench.objects.get(user=user).hot_c, 48.0)
        crossed = self.client.post("/settings/", {**good, "cold_c": "70", "room_c": "68", "hot_c": "118"})
        self.assertContains(crossed, "must lie between")


class Names(Reads, TestCase):
    def test_urls_reverse_to_what_is_documented(self) -> None:
        self.assertEqual(reverse("overview:today"), "/")
