"""Pours side by side, one thing changed, the next pour, and the story."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any
from uuid import uuid4

from django.test import TestCase
from django.utils import timezone

from calmtin.accounts.models import User
from calmtin.accounts.queries import bench_of
from calmtin.checks import services as checks_services
from calmtin.checks.queries.compare import compare_view, newest_of, pours_to_compare
from calmtin.checks.queries.next_pour import next_pour
from calmtin.formulas.models import Version
from calmtin.formulas.services import set_percent, start_formula
from calmtin.pantry.adapters import shelf_for
from calmtin.pours import services
from calmtin.pours.models import Pour, Series
from tests.bench_data import Reads, draft, maker, pour_of, salve


class WithTwo(Reads, TestCase):
    """A salve, and a second version of it with more wax, both poured."""

    def setUp(self) -> None:
        self.user = maker("stroke")
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.formula = salve(self.user)
        self.first = pour_of(self.user, draft(self.formula), done=True)
        self.second = pour_of(self.user, self.changed("beeswax_yellow", "23"), done=True)

    def changed(self, slug: str, percent: str) -> Version:
        newest = self.formula.versions.order_by("-number")[0]
        line = newest.lines.get(material=slug)
        return set_percent(self.user, newest, key=line.key, percent=Decimal(percent), seen=newest.revision)

    def felt(self, pour: Pour, rung: str, **more: Any) -> None:
        services.record_check(self.user, pour, temp_c=21.0, felt_rung=Decimal(rung), **more)

    def again(self) -> User:
        return User.objects.get(pk=self.user.pk)


class SideBySide(WithTwo):
    def test_only_what_differs_and_what_it_does(self) -> None:
        self.felt(self.first, "4.5", verdict="tweak")
        page = self.client.get(f"/compare/?p={self.first.pk}&p={self.second.pk}")
        view = page.context["view"]
        self.assertEqual([i.letter for i in view.items], ["A", "B"])
        self.assertEqual([row.name for row in view.lines], ["Beeswax, yellow", "Olive oil"])
        self.assertContains(page, "one difference.")
        self.assertContains(page, "23.0 %, was 18.0")
        self.assertContains(page, "in firmness, calculated")
        self.assertNotContains(page, "Change one thing at a time")
        self.assertIn("felt 4.5", view.ladder.summary)

    def test_more_than_one_thing_is_said(self) -> None:
        third = pour_of(self.user, self.changed("coconut_rbd", "4"), done=True)
        page = self.client.get(f"/compare/?p={self.first.pk}&p={third.pk}")
        self.assertContains(page, "2 differences")
        self.assertContains(page, "Change one thing at a time")

    def test_a_version_that_was_not_poured_lies_beside_them(self) -> None:
        version = self.changed("beeswax_yellow", "21")
        page = self.client.get(f"/compare/?p={self.first.pk}&v={version.pk}")
        self.assertContains(page, "not poured")

    def test_nobody_elses_pour_is_shown(self) -> None:
        other = maker("bow")
        theirs = pour_of(other, draft(salve(other, "Bow balm")), done=True)
        page = self.client.get(f"/compare/?p={theirs.pk}&p={self.first.pk}&p=nonsense")
        self.assertEqual([i.pour for i in page.context["view"].items], [self.first])

    def test_the_story_tells_what_was_changed_felt_and_dropped(self) -> None:
        self.felt(self.first, "3", verdict="drop", notes="Runs off the blade.", signs={"sweating": 1})
        self.felt(self.second, "5", verdict="keep")
        checks_services.keep(self.user, self.second, why="dry and firm")
        page = self.client.get(f"/formulas/{self.formula.pk}/story/")
        for words in (
            f"Final as made in {self.second.code}", "dry and firm", "beeswax, yellow",
            "from 18.0 to 23.0 %",
            "sweating: beads of oil", "Dropped", "Runs off the blade.",
        ):  # fmt: skip
            self.assertContains(page, words)


class OneThing(WithTwo):
    def start(self, **typed: Any) -> list[Pour]:
        before = set(Pour.objects.values_list("pk", flat=True))
        data = {"sample": "20", "container": "jar_30ml", "request_key": str(uuid4()), **typed}
        for _ in range(2):  # sent twice, started once
            answer = self.client.post(f"/formulas/{self.formula.pk}/v/1/vary/", data)
        self.assertEqual(
            answer.status_code, 302, answer.content[:2000] if answer.status_code == 200 else ""
        )
        return list(Pour.objects.exclude(pk__in=before).order_by("pk"))

    def test_every_way_starts_two_pours_that_differ_in_one_thing(self) -> None:
        keys = {line.material: line.key for line in self.first.version.lines.all()}
        wax, oil = keys["beeswax_yellow"], keys["olive_oil"]
        for typed in (
            {"way": "wax", "line": wax, "by": "+3"},
            {"way": "wax", "line": wax, "by": "-2.5"},
            {"way": "wax_kind", "line": wax, "other": "candelilla_wax"},
            {"way": "butter", "line": keys["coconut_rbd"], "other": "babassu_oil"},
            {"way": "cooling", "other": "slow_bench"},
            {"way": "starch", "by": "4"},
            {"way": "without", "line": keys["tocopherols_50"]},
        ):
            with self.subTest(typed):
                pours = self.start(**typed)
                self.assertEqual(len(pours), 2)
                self.assertEqual(pours[0].version, self.first.version)
                ready = pours_to_compare(self.user, [p.pk for p in pours])
                view = compare_view(ready, [], shelf_for(self.user), bench_of(self.user))
                self.assertEqual(view.pairs[0].count, 1, view.pairs[0].found)
        self.assertEqual(Series.objects.count(), 7)
        self.assertNotIn(
            oil, [line.key for line in pours[1].version.lines.filter(material="tocopherols_50")]
        )

    def test_both_pages_start_as_they_open(self) -> None:
        for page in ("vary", "series"):
            with self.subTest(page):
                address = f"/formulas/{self.formula.pk}/v/1/{page}/"
                view = self.client.get(address).context["view"]
                self.assertEqual(view.problems, {})
                sent = {**view.boxes, "request_key": str(uuid4())}
                self.assertEqual(self.client.post(address, sent).status_code, 302)

    def test_what_cannot_be_read_is_told_and_nothing_starts(self) -> None:
        for typed, words in (
            ({"by": "lots"}, "is not a number"),
            (
                {"by": "+3", "sample": "20", "container": "jar_15ml"},
                "15 ml jar holds 15 ml, and a sample takes",
            ),
            ({"by": "0"}, "Type a change in percentage points"),
            ({"by": "-40"}, "Type a change in percentage points"),
            ({"sample": "much"}, "is not a number"),
        ):
            with self.subTest(typed):
                page = self.client.get(f"/formulas/{self.formula.pk}/v/1/vary/", {"way": "wax", **typed})
                self.assertContains(page, words)
                self.assertNotContains(page, "Start both pours")
        self.assertFalse(Series.objects.exists())


class NextPour(WithTwo):
    def view(self) -> Any:
        user = self.again()
        return next_pour(user, self.formula, shelf_for(user), bench_of(user))

    def test_too_soft_is_answered_by_one_change_that_is_likelier(self) -> None:
        draft_ = self.changed("beeswax_yellow", "13")
        soft = pour_of(self.user, draft_, done=True)
        Pour.objects.filter(pk=soft.pk).update(poured_at=timezone.now() - timedelta(days=2))
        for _ in range(3):
            self.felt(soft, "3", verdict="tweak")
        view = self.view()
        self.assertIn(f"{soft.code} felt 3.0, too soft; your verdict: tweak.", view.because)
        self.assertTrue(view.is_change_better)
        self.assertGreater(view.chance_change, view.chance_same + 0.2)
        changed = {line.shown.slug: line.change for line in view.proposal.changed}
        self.assertEqual(set(changed), {"beeswax_yellow", "olive_oil"})
        self.assertGreater(changed["beeswax_yellow"], 0)
        page = self.client.get(f"/formulas/{self.formula.pk}/next/")
        self.assertContains(page, "Recommended: make the change")
        answer = self.client.post(
            f"/formulas/{self.formula.pk}/v/{view.version.number}/apply/",
            {"proposal": view.proposal.token, "seen": view.version.revision},
        )
        self.assertEqual(answer.status_code, 302)
        self.assertAlmostEqual(self.view().reads[0], sum(view.wanted) / 2, delta=0.1)

    def test_what_is_likely_right_is_poured_once_more(self) -> None:
        for _ in range(6):
            self.felt(self.second, "5", verdict="keep")
        view = self.view()
        self.assertEqual(view.wanted, (4.3, 5.7))
        self.assertIn(f"{self.second.code} was one to keep and felt 5.0: aim for 4.3–5.7.", view.because)
        self.assertLess(view.width, 2.2)

    def test_the_tests_that_would_tell_are_ranked_and_narrow_the_band(self) -> None:
        view = self.view()
        widths = [t.width for t in view.tellings]
        self.assertEqual(widths, sorted(widths))
        self.assertTrue(all(0 < t.gain < view.width for t in view.tellings))

    def test_nothing_to_propose_for_an_empty_formula(self) -> None:
        empty = start_formula(self.user, name="Empty", kind="gloss")
        self.assertContains(self.client.get(f"/formulas/{empty.pk}/next/"), "Add a wax, a butter or an oil")
        self.assertEqual(newest_of(self.user, empty.pk), [])
