"""Pages ask the database as often for a bench that has grown as for a new one."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from typing import Any

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from calmtin.exchange.upkeep import study_book
from calmtin.formulas.models import Step
from calmtin.formulas.services import set_percent, undo
from calmtin.pantry.services.lots import buy_lot
from calmtin.pours.services import record_check
from tests.bench_data import draft, maker, pour_of, salve


class Counted(TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.formula = salve(self.user)

    def asked(self, address: str, **post: Any) -> int:
        with CaptureQueriesContext(
            connection,
        ) as caught:
            answer = self.client.post(address, post) if post else self.client.get(address)
        self.assertLess(answer.status_code, 400)
        return len(caught)

    def edit(self, times: int) -> None:
        version = draft(self.formula)
        key = version.lines.get(material="beeswax_yellow").key
        for n in range(times):
            version.refresh_from_db()
            set_percent(self.user, version, key=key, percent=Decimal(10 + n % 7), seen=version.revision)

    def test_after_three_and_three_hundred_edits(self) -> None:
        page = f"/formulas/{self.formula.pk}/"
        line = draft(self.formula).lines.get(material="beeswax_yellow")

        def counts() -> tuple[int, int]:
            revision = draft(self.formula).revision
            edit = self.asked(
                f"{page}v/1/lines/{line.key}/percent/", percent=str(20 + revision % 5), seen=revision
            )
            return self.asked(page), edit

        self.edit(3)
        few = counts()
        self.edit(300)
        self.assertEqual(counts(), few)
        self.assertLessEqual(few[0], 8)
        self.assertLessEqual(few[1], 42)

    def test_old_steps_are_folded_and_undo_still_reaches_the_first(self) -> None:
        first = [str(line.percent) for line in draft(self.formula).lines.all()]
        self.edit(300)
        version = draft(self.formula)
        self.assertLess(version.steps.count(), 140)
        for _ in range(version.steps.count()):
            if Step.objects.get(version=version, number=version.step).came_from is not None:
                version.refresh_from_db()
                undo(self.user, version, seen=version.revision)
        self.assertEqual([str(line.percent) for line in version.lines.all()], first)

    def test_with_three_and_sixty_formulas(self) -> None:
        buy_lot(self.user, material="olive_oil", amount_g=Decimal(10), bought_on=date(2026, 5, 1))
        addresses = ("/", "/formulas/", "/pours/", "/pantry/", "/pantry/materials/olive_oil/")

        def grow(formulas: int, lots: int) -> dict[str, int]:
            for n in range(formulas):
                pour_of(self.user, draft(salve(self.user, f"Salve {n}")), done=n % 2 == 0)
            for _ in range(lots):
                buy_lot(self.user, material="olive_oil", amount_g=Decimal(10), bought_on=date(2026, 5, 1))
            self.client.get("/")  # what is suspected is looked up once, by whoever asks first
            return {address: self.asked(address) for address in addresses}

        few = grow(3, 5)
        self.assertEqual(grow(25, 195), few)
        # A dozen, what is on the stove and what is being made.
        self.assertLessEqual(max(few.values()), 14, few)

    def test_a_plan_with_a_full_shelf_and_many_sheets(self) -> None:
        page = f"/formulas/{self.formula.pk}/v/1/fill/"
        buy_lot(self.user, material="olive_oil", amount_g=Decimal(10), bought_on=date(2026, 5, 1))
        pour_of(self.user, draft(self.formula))
        few = self.asked(page)
        for n in range(100):
            slug = ("olive_oil", "beeswax_yellow")[n % 2]
            buy_lot(self.user, material=slug, amount_g=Decimal(10), bought_on=date(2026, 5, 1))
        for _ in range(6):
            pour_of(self.user, draft(self.formula))
        self.assertEqual(self.asked(page), few)
        self.assertLessEqual(few, 16)

    def test_a_weigh_sheet_and_a_long_history(self) -> None:
        pour = pour_of(self.user, draft(self.formula))
        pour_of(self.user, draft(self.formula), done=True)
        few = self.asked(f"/pours/{pour.pk}/"), self.asked(f"/formulas/{self.formula.pk}/pours/")
        for _ in range(12):
            pour_of(self.user, draft(self.formula), done=True)
        many = self.asked(f"/pours/{pour.pk}/"), self.asked(f"/formulas/{self.formula.pk}/pours/")
        self.assertEqual(many, few)

    def test_main_pages_ask_a_dozen_questions_at_most(self) -> None:
        buy_lot(self.user, material="olive_oil", amount_g=Decimal(900), bought_on=date(2026, 5, 1))
        pour_of(self.user, draft(self.formula))
        done = pour_of(self.user, draft(self.formula), done=True)
        record_check(self.user, done, temp_c=21.0, felt_rung=Decimal(5), verdict="keep")
        of, here = f"/formulas/{self.formula.pk}/", f"/formulas/{self.formula.pk}/v/1/"
        pages = ["/", "/formulas/", "/pours/", "/pantry/", "/calibration/", "/deadlines/", "/settings/"]
        pages += [
            f"{here}fill/",
            of,
            f"{here}target/",
            f"{here}trio/",
            f"{of}versions/",
            f"{of}pours/",
            f"{of}next/",
        ]
        pages += [f"/pours/{done.pk}/{page}" for page in ("", "pieces/", "labels/", "card/")]
        pages.append("/pantry/materials/olive_oil/")
        self.asked("/calibration/")  # what a check teaches is worked out once, by whoever asks first
        asked = {page: self.asked(page) for page in pages}
        self.assertLessEqual(max(asked.values()), 14, asked)

    def test_a_pour_stands_beside_the_list(self) -> None:
        first, second = (pour_of(self.user, draft(self.formula), done=True) for _ in range(2))
        record_check(self.user, first, temp_c=21.0, felt_rung=Decimal(5), verdict="keep", notes="No grain.")
        beside = self.client.get("/pours/").context["beside"]
        self.assertEqual((beside.pour, beside.newest), (second, None))
        page = self.client.get("/pours/", {"show": first.pk})
        self.assertEqual(page.context["beside"].pour, first)
        self.assertContains(page, "No grain.")
        # One that is not on the page, or nobody's, is nobody's business.
        self.assertEqual(self.client.get("/pours/", {"show": 10**6}).context["beside"].pour, second)

    def test_upkeep_lets_the_database_count_its_rows(self) -> None:
        pour_of(self.user, draft(self.formula), done=True)
        with connection.cursor() as cursor:
            study_book()
            cursor.execute("SELECT COUNT(*) FROM sqlite_stat1 WHERE tbl = 'pours_pour'")
            self.assertGreater(cursor.fetchone()[0], 0)
