"""A summer and a winter version under one name: which is in season, and who knows it."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.utils import timezone

from calmtin.accounts.models import Bench, User
from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.formulas import services
from calmtin.formulas.models import Formula, SeasonPair
from calmtin.packing.queries.deadlines import needs_of
from calmtin.packing.services import add_deadline
from calmtin.pantry.adapters import shelf_for
from tests.bench_data import draft, pour_of
from tests.formulas.test_formulas import WithSalve


class Seasons(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        self.client.defaults["HTTP_HX_REQUEST"] = ""
        self.page = f"/formulas/{self.formula.pk}/v/1/seasons/"
        self.client.post(self.page, {"season": "winter", "summer_from": "24"})
        self.formula.refresh_from_db()
        self.summer = Formula.objects.get(season="summer")

    def room(self, room_c: float) -> None:
        Bench.objects.filter(user=self.user).update(room_c=room_c)

    def test_the_other_one_is_a_copy_under_the_same_name(self) -> None:
        self.assertEqual((self.formula.season, self.summer.name), ("winter", self.formula.name))
        mine, theirs = (
            [(line.material, line.percent) for line in draft(formula).lines.all()]
            for formula in (self.formula, self.summer)
        )
        self.assertEqual(mine, theirs)
        self.assertEqual(self.summer.name_in_season, "Thole pin salve, summer")
        services.rename(self.user, self.summer, name="Oar salve", kind="firm_salve")
        self.formula.refresh_from_db()
        self.assertEqual(self.formula.name, "Oar salve")
        listed = self.client.get("/formulas/")
        for season in ("summer", "winter"):
            self.assertContains(listed, f"Oar salve, {season}")
        with self.assertRaises(CalmTinError):
            services.pair_seasons(self.user, self.version, season="summer", summer_from_c=20.0)

    def test_the_rooms_temperature_says_which_is_in_season(self) -> None:
        fill = f"/formulas/{self.formula.pk}/v/1/fill/"
        for room_c, now, is_warned in ((18.0, "winter", False), (24.0, "summer", True)):
            self.room(room_c)
            self.assertContains(self.client.get(self.page), f"In season now: <strong>{now}</strong>")
            warned = "Open the summer version" in self.client.get(fill).content.decode()
            self.assertEqual(warned, is_warned)
        self.client.post(self.page, {"summer_from": "26"})
        self.assertContains(self.client.get(self.page), "In season now: <strong>winter</strong>")
        self.assertContains(self.client.post(self.page, {"summer_from": "90"}), "must be")

    def needs(self) -> Any:
        user = User.objects.get(pk=self.user.pk)
        return needs_of(user, shelf_for(user), bench_of(user), timezone.localdate())

    def test_a_deadline_plans_the_one_in_season_and_counts_either(self) -> None:
        add_deadline(
            self.user, self.formula, what_for="the regatta", needed_on=date(2090, 1, 1), count=6,
            today=timezone.localdate(),
        )  # fmt: skip
        for room_c, formula in ((18.0, self.formula), (28.0, self.summer)):
            self.room(room_c)
            [need] = self.needs()
            self.assertEqual(need.formula, formula)
            self.assertContains(self.client.get("/deadlines/"), formula.name_in_season)
        pour = pour_of(self.user, draft(self.formula), done=True)
        self.assertEqual(self.needs()[0].pour, pour)

    def test_labels_say_which_it_is(self) -> None:
        pour = pour_of(self.user, draft(self.summer), done=True)
        self.assertContains(self.client.get(f"/pours/{pour.pk}/labels/"), "Thole pin salve, summer")

    def test_a_pair_is_parted_and_nothing_is_lost(self) -> None:
        self.client.post(self.page, {"part": "yes"})
        self.assertFalse(SeasonPair.objects.exists())
        self.assertEqual({f.name_in_season for f in Formula.objects.all()}, {"Thole pin salve"})
        self.assertEqual(Formula.objects.count(), 2)
