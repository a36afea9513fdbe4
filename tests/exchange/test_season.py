"""The demo's season: the same for a seed, on a hidden true bench that learning finds."""

from __future__ import annotations

from decimal import Decimal

from django.test import TestCase

from calmtin.accounts.models import User
from calmtin.checks.queries.calibration import lesson_of
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import read
from calmtin.exchange.demo import load_demo
from calmtin.exchange.season import TRUE_BENCH
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Formula
from calmtin.pantry.adapters import shelf_for
from calmtin.pours.models import Check, Pour


class Season(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load_demo()
        cls.user = User.objects.get(username="tern_quay")

    def test_forty_pours_of_nine_formulas_with_checks_of_every_kind(self) -> None:
        self.assertEqual(Pour.objects.count(), 40)
        self.assertEqual(Formula.objects.count(), 9)
        checks = Check.objects.all()
        for slug in ("day", "skin", "week", "month"):
            self.assertGreater(checks.filter(look=slug).count(), 8, slug)
        self.assertGreater(checks.filter(rod_mm__isnull=False).count(), 5)
        self.assertGreater(checks.filter(signs__grain__gte=1).count(), 0)

    def test_the_same_seed_felt_the_same(self) -> None:
        felt = [c.felt_rung for c in Check.objects.filter(look="day").order_by("pk")]
        # As this seed felt them when it was written: another engine may move them, another run may not.
        self.assertEqual(len(felt), 34)
        self.assertEqual(sum(felt, Decimal(0)), SUM_OF_DAYS)

    def test_learning_comes_nearer_to_the_hidden_bench(self) -> None:
        prior = lesson_of(self.user).prior
        shelf = shelf_for(self.user)
        book, learned = [], []
        for formula in Formula.objects.all():
            version = formula.versions.order_by("-number")[0]
            parts = composition_of(version, shelf).masses
            true, now, before = (
                float(read(blend(parts, p), [21.0], overrun=version.overrun).rung[0])
                for p in (TRUE_BENCH, prior, None)
            )
            book.append(abs(before - true))
            learned.append(abs(now - true))
        self.assertLess(sum(learned), 0.6 * sum(book), (book, learned))


SUM_OF_DAYS = Decimal("156.0")
