"""Records stand, forms count once, and nobody's service touches another's row."""

from __future__ import annotations

import inspect
from datetime import date
from decimal import Decimal
from threading import Barrier, Thread
from typing import Any
from uuid import uuid4

from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, connection, transaction
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from calmtin.accounts.models import User
from calmtin.common.idempotency import SentAlready
from calmtin.common.models import Sent
from calmtin.core.errors import CalmTinError
from calmtin.exchange.demo import load_demo
from calmtin.exchange.removing import holdings, remove_maker
from calmtin.formulas import services as formulas
from calmtin.formulas.models import Formula, Line, Version
from calmtin.pantry import services as pantry
from calmtin.pantry.models import Infusion, Lot, Movement
from calmtin.pours import services as pours
from calmtin.pours.models import Check, Pour, WeighIn
from tests.bench_data import FlushesRecords, Reads, draft, maker, pour_of, salve

DAY = date(2026, 5, 1)


class Standing(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.version = draft(salve(self.user))
        pantry.buy_lot(self.user, material="beeswax_yellow", amount_g=Decimal(100), bought_on=DAY)
        self.pour = pour_of(self.user, self.version, done=True)
        self.check = pours.record_check(self.user, self.pour, temp_c=21.0, felt_rung=Decimal(5))
        self.version.refresh_from_db()

    def test_the_models_refuse(self) -> None:
        self.version.poured_at = None
        line = Line(version=self.version, position=9, material="argan_oil", percent=1)
        for attempt in (
            self.check.delete,
            WeighIn.objects.all().delete,
            Movement.objects.filter(pk=1).delete,
            self.version.save,
            lambda: Version.objects.update(poured_at=None),
            lambda: Line.objects.bulk_create([line]),
        ):
            with self.assertRaises(PermissionDenied):
                attempt()

    def test_the_database_refuses_what_goes_round_the_models(self) -> None:
        before = self.state()
        for sql in (
            "DELETE FROM pours_weighin",
            "UPDATE pours_weighin SET grams = 1",
            "DELETE FROM pours_check",
            "UPDATE pours_check SET notes = 'better'",
            "DELETE FROM pantry_movement",
            "UPDATE pantry_movement SET grams = 0",
            "DELETE FROM pantry_lot",
            "UPDATE formulas_version SET poured_at = NULL",
            "UPDATE formulas_version SET batch_g = 7",
            "DELETE FROM formulas_version",
            "UPDATE formulas_line SET percent = 1",
            "DELETE FROM formulas_line",
            "INSERT INTO formulas_line (version_id, key, position, material, percent, is_balancing,"
            f" is_locked, typed) VALUES ({self.version.pk}, 'new', 9, 'argan_oil', 1, 0, 0, '')",
            "UPDATE pours_pour SET poured_at = NULL",
            "DELETE FROM pours_pour",
            "UPDATE pours_weighline SET planned_g = 1",
            "INSERT INTO pours_weighin (line_id, grams, at)"
            f" VALUES ({self.pour.lines.first().pk}, 1, '2026-05-01')",
        ):
            with self.subTest(sql), self.assertRaises(IntegrityError), transaction.atomic():
                connection.cursor().execute(sql)
        self.assertEqual(self.state(), before)

    def state(self) -> list[Any]:
        models = (Version, Line, Pour, WeighIn, Check, Movement, Lot)
        return [list(model.objects.order_by("pk").values()) for model in models]

    def test_a_maker_goes_with_everything_and_nobody_else_does(self) -> None:
        other = maker("bow")
        theirs = pour_of(other, draft(salve(other)), done=True)
        held = holdings(self.user)
        self.assertEqual((held["pours"], held["weigh ins"], held["checks"]), (1, 4, 1))
        remove_maker(self.user)
        self.assertFalse(User.objects.filter(pk=self.user.pk).exists())
        self.assertEqual(list(Pour.objects.all()), [theirs])
        self.assertEqual(WeighIn.objects.count(), 4)
        connection.check_constraints()
        with self.assertRaises(IntegrityError), transaction.atomic():
            connection.cursor().execute("DELETE FROM pours_pour")


class WhoseItIs(Reads, TestCase):
    """Every service that takes somebody's row refuses another maker's, and changes nothing."""

    def setUp(self) -> None:
        load_demo(with_season=False)
        self.owner = User.objects.get(username="tern_quay")
        self.other = User.objects.create_user("bow")
        pour = Pour.objects.filter(poured_at=None).get()
        version = Version.objects.filter(poured_at=None).first()
        self.rows = {
            "version": version,
            "formula": version.formula,
            "pour": pour,
            "line": pour.lines.first(),
            "lot": Lot.objects.first(),
            "infusion": Infusion.objects.first(),
            "finish": Formula.objects.get(name="Bow-light gloss").finishes.first(),
        }
        self.values = {
            "seen": version.revision, "key": version.lines.first().key, "other": version.lines.last().key,
            "percent": Decimal(5), "grams": Decimal(5), "is_locked": True, "batch_g": Decimal(50),
            "amounts": {}, "unit": "g", "percents": [("+", "olive_oil", Decimal(100))], "slug": "argan_oil",
            "cooling": "slow_bench", "overrun_pct": 0, "alcohol_pct": 40.0, "name": "Mine now",
            "kind": "gloss", "material": "", "level": "stop", "reason": "mine", "parts": [], "plan": None,
            "scale_step_g": Decimal("0.1"), "temp_c": 21.0, "felt_rung": Decimal(5),
            "actual_g": Decimal(1), "recovered_g": Decimal(1), "strained_on": DAY,
        }  # fmt: skip

    def test_all_of_them(self) -> None:
        tried = 0
        before = Standing.state(self)  # type: ignore[arg-type]
        for module in (formulas, pantry, pours):
            for name, service in inspect.getmembers(module, inspect.isfunction):
                if name.startswith("_"):
                    continue
                asked = inspect.signature(service).parameters
                of_others = [
                    p for p in asked if p in self.rows and asked[p].default is inspect.Parameter.empty
                ]
                # "material" is a lot's slug in the pantry, "kind" a movement's: those take no row.
                if (
                    "user" not in asked
                    or not of_others
                    or not service.__module__.startswith(module.__name__)
                ):
                    continue
                needed = {
                    p: a for p, a in asked.items() if a.default is inspect.Parameter.empty and p != "user"
                }
                given = {p: self.rows.get(p, self.values.get(p)) for p in needed}
                with self.subTest(name), self.assertRaises(PermissionDenied):
                    service(self.other, **given)
                tried += 1
        self.assertGreaterEqual(tried, 30)
        self.assertEqual(Standing.state(self), before)  # type: ignore[arg-type]


class SentTwice(Reads, TestCase):
    """Every form that creates something carries a key, and the key counts once."""

    def setUp(self) -> None:
        self.user, self.other = maker(), maker("bow")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.formula = salve(self.user)
        self.pour = pour_of(self.user, draft(self.formula), done=True)
        self.weighing = pour_of(self.user, draft(self.formula))
        pours.weigh(self.user, self.weighing.lines.first(), Decimal(20))
        self.lot = pantry.buy_lot(self.user, material="olive_oil", amount_g=Decimal(300), bought_on=DAY)
        self.infusion = pantry.start_infusion(
            self.user, herb="calendula", herb_g=Decimal(20), oil="olive_oil", oil_g=Decimal(200),
            method="cold", started_on=DAY,
        )  # fmt: skip

    def forms(self) -> dict[str, dict[str, str]]:
        day = "2026-05-02"
        base = f"/formulas/{self.formula.pk}/v/1"
        file = (
            '{"format": "calmtin.formula", "version": 1, "kind": "gloss", '
            '"lines": [{"material": "olive_oil", "percent": 100}]}'
        )
        csv = f"what,material,amount_g,bought_on\nlot,olive_oil,50,{day}"
        return {
            "/formulas/new/": {"name": "Rigger balm", "kind": "firm_salve"},
            "/formulas/paste/": {"text": "50 g olive oil\n50 g castor oil", "name": "P", "make": "yes"},
            "/formulas/import/": {"text": file},
            f"{base}/next/": {},
            f"{base}/copy/": {"name": "A copy"},
            f"{base}/finishes/": {"name": "clear"},
            f"{base}/acknowledge/": {"key": "summer", "reason": "It stays cool."},
            f"{base}/fill/": {"container": "tin_2oz", "count": "2", "level": "95", "loss": "5"},
            f"/pours/{self.pour.pk}/check/": {"temp": "21", "felt_rung": "5"},
            f"/pours/{self.weighing.pk}/undo/": {},
            "/pantry/materials/olive_oil/": {"amount": "500 g", "bought_on": day},
            "/pantry/materials/new/": {"name": "Reed wax", "group": "wax", "behaves_like": "soy_wax"},
            "/pantry/containers/": {"name": "T", "brim_ml": "50", "usual_level_pct": "95", "cavities": "1"},
            "/pantry/making/": {
                "herb": "rose", "herb_g": "10", "oil": "olive_oil", "oil_g": "90", "method": "cold",
                "started_on": day, "is_dried": "on",
            },
            f"/pantry/making/{self.infusion.pk}/": {"recovered_g": "150", "strained_on": day},
            f"/pantry/lots/{self.lot.pk}/": {"actual": "90", "reason": "spilled"},
            "/pantry/import/": {"text": csv, "import": "yes"},
        }  # fmt: skip

    def count(self) -> list[int]:
        models = (Formula, Version, Pour, Check, WeighIn, Movement, Lot, Infusion)
        return [model.objects.count() for model in models]

    def test_each_form_counts_once(self) -> None:
        for address, data in self.forms().items():
            with self.subTest(address):
                key = str(uuid4())
                first = self.client.post(address, {**data, "request_key": key})
                self.assertLess(first.status_code, 400)
                self.assertEqual(Sent.objects.filter(key=key).count(), 1)
                after = self.count()
                again = self.client.post(address, {**data, "request_key": key})
                self.assertLess(again.status_code, 400)
                self.assertEqual(self.count(), after)

    def test_another_makers_key_is_refused(self) -> None:
        for address, data in self.forms().items():
            key = uuid4()
            Sent.objects.create(owner=self.other, key=key, what="elsewhere")
            before = self.count()
            answer = self.client.post(address, {**data, "request_key": str(key)}, follow=True)
            with self.subTest(address):
                self.assertEqual(answer.status_code, 200)
                self.assertContains(answer, "This form was already sent")
                self.assertEqual(self.count(), before)

    def test_one_key_for_two_things_is_refused(self) -> None:
        key = uuid4()
        formulas.start_formula(self.user, name="One", kind="gloss", request_key=key)
        with self.assertRaises(SentAlready):
            pantry.add_container(self.user, name="T", brim_ml=10.0, request_key=key)


class AtOnce(FlushesRecords, TransactionTestCase):
    """What is checked is what is acted on, however many come at the same time."""

    def race(self, *acts: Any) -> list[Exception | None]:
        barrier, results = Barrier(len(acts)), [None] * len(acts)

        def run(place: int, act: Any) -> None:
            try:
                barrier.wait()
                act()
            except Exception as error:
                results[place] = error
            finally:
                connection.close()

        threads = [Thread(target=run, args=pair) for pair in enumerate(acts)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return results

    def test_two_strainings_make_one_lot(self) -> None:
        user = maker()
        row = pantry.start_infusion(
            user, herb="rose", herb_g=Decimal(20), oil="olive_oil", oil_g=Decimal(200), method="cold",
            started_on=DAY,
        )  # fmt: skip
        mine = [Infusion.objects.get(pk=row.pk) for _ in range(4)]
        results = self.race(
            *(lambda i=i: pantry.strain(user, i, recovered_g=Decimal(150), strained_on=DAY) for i in mine)
        )
        self.assertEqual(sum(error is None for error in results), 1)
        self.assertTrue(all(error is None or isinstance(error, CalmTinError) for error in results))
        self.assertEqual(Lot.objects.count(), 1)

    def test_weighing_never_slips_onto_a_closed_sheet(self) -> None:
        user = maker()
        version = draft(salve(user))
        for _ in range(5):
            pour = pour_of(user, version)
            for line in pour.lines.all():
                pours.weigh(user, line, line.planned_g)
            seen = Pour.objects.get(pk=pour.pk)
            line = seen.lines.first()
            _, late = self.race(
                lambda seen=seen: pours.finish_weighing(user, seen),
                lambda line=line: pours.weigh(user, line, line.planned_g + 1),
            )
            pour.refresh_from_db()
            newest = line.weigh_ins.last()
            self.assertEqual(late is None, newest.grams == line.planned_g + 1)
            self.assertLess(newest.at, pour.poured_at + timezone.timedelta(seconds=1))
            if late is not None:
                self.assertIn("closed", str(late))
