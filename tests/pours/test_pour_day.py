"""Pour day on two pages at once, clocks, additions by feel, single pieces, the next version."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any
from uuid import uuid4

from django.utils import timezone

from calmtin.accounts.queries import bench_of
from calmtin.formulas.services import add_line
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import buy_lot
from calmtin.pours import services
from calmtin.pours.models import PotAddition, Pour, Route, StepTimer, WeighIn, Yield
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.queries.routes import route_view
from calmtin.pours.queries.run import RunView, run_view
from tests.bench_data import past_stops, pour_of
from tests.formulas.test_formulas import WithSalve


class WithSheet(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        add_line(self.user, self.version, slug="lavender", percent=Decimal("0.5"), seen=0)
        self.pour = pour_of(self.user, self.version)
        self.address = f"/pours/{self.pour.pk}/"

    def post(self, path: str, **data: object) -> Any:
        return self.client.post(f"{self.address}{path}", data)

    def close(self) -> None:
        for line in self.pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, self.pour)

    def run_sheet(self) -> RunView:
        pour = pour_with_lines(self.user, pk=self.pour.pk)
        return run_view(pour, shelf_for(self.user), bench_of(self.user))


class TwoPages(WithSheet):
    def readings(self) -> list[Decimal | None]:
        return [reading.grams for reading in WeighIn.objects.order_by("pk")]

    def test_more_on_top_that_is_sent_again_counts_once(self) -> None:
        self.post("weigh/0/", grams="10", after="0")
        shown = WeighIn.objects.get().pk
        for _ in range(2):  # the first answer never came
            self.post("weigh/0/", grams="+2", after=str(shown))
        self.assertEqual(self.readings(), [Decimal(10), Decimal(12)])

    def test_a_stale_page_overwrites_nothing_until_it_has_seen_it(self) -> None:
        self.post("weigh/0/", grams="10", after="0")
        page = self.post("weigh/0/", grams="11", after="0")
        self.assertContains(page, "Another page saved 10 g here meanwhile")
        self.assertContains(page, 'value="11"')
        self.assertEqual(self.readings(), [Decimal(10)])
        newest = WeighIn.objects.get().pk
        self.assertContains(page, f'name="after" value="{newest}"')
        self.post("weigh/0/", grams="11", after=str(newest))
        self.assertEqual(self.readings(), [Decimal(10), Decimal(11)])

    def test_a_stale_page_takes_back_nothing_that_it_did_not_show(self) -> None:
        self.post("weigh/0/", grams="10")
        shown = WeighIn.objects.get().pk
        self.post("weigh/1/", grams="20")
        page = self.post("undo/", after=str(shown))
        self.assertContains(page, "Another page saved a weight meanwhile")
        self.assertEqual(self.readings(), [Decimal(10), Decimal(20)])
        self.post("undo/", after=str(WeighIn.objects.last().pk))
        self.assertEqual(self.readings(), [Decimal(10), Decimal(20), None])


class Clocks(WithSheet):
    def test_a_clock_is_kept_on_the_bench_and_several_run(self) -> None:
        before = timezone.now()
        self.post("timer/melt_wax/", minutes="25")
        page = self.post("timer/cool/", minutes="90")
        self.assertContains(page, "rings at", count=2)
        first, second = self.run_sheet().timers
        self.assertEqual([first.key, second.key], ["melt_wax", "cool"])
        self.assertAlmostEqual((first.rings_at - before) / timedelta(minutes=1), 25, delta=0.1)

    def test_it_stops_when_told_and_when_its_step_is_done(self) -> None:
        self.post("timer/melt_wax/", minutes="25")
        self.post("timer/cool/", minutes="90")
        self.post("run/melt_wax/")
        self.assertEqual([timer.key for timer in self.run_sheet().timers], ["cool"])
        self.post("timer/cool/", stop="yes")
        self.assertEqual(self.run_sheet().timers, [])
        self.assertEqual(StepTimer.objects.count(), 3)

    def test_what_cannot_be_read_starts_nothing(self) -> None:
        self.post("run/ready/")
        self.close()
        self.assertContains(self.post("timer/melt_wax/", minutes="0"), "0.1")
        self.assertContains(self.post("timer/melt_wax/", minutes="soon"), "is not a number")
        self.assertFalse(StepTimer.objects.exists())


class ByFeel(WithSheet):
    def test_each_addition_is_logged_as_typed_and_held_against_its_ceiling(self) -> None:
        self.assertEqual(self.run_sheet().may_add, [])  # on the scale it is a line of the sheet
        self.close()
        key = str(uuid4())
        for _ in range(2):
            page = self.post("feel/", material="lavender", amount="3 drops", request_key=key)
        self.assertEqual(PotAddition.objects.get().why, "3 drops")
        self.assertContains(page, "3 drops at")
        self.assertEqual(page.context["view"].cautions, [])
        page = self.post("feel/", material="lavender", amount="2 tsp")
        self.assertContains(page, "Your reason to go on")
        self.assertEqual(PotAddition.objects.count(), 1)
        past_stops(
            self.user,
            self.formula,
            lambda: services.add_to_pot(
                self.user, self.pour, material="lavender", grams=Decimal(9), why="2 tsp", by_feel=True
            ),
        )
        page = self.client.get(f"{self.address}run/")
        self.assertTrue(page.context["view"].cautions)
        self.assertContains(page, "cent")
        self.assertContains(self.client.get(self.address, HTTP_HX_REQUEST=""), "added by feel on")

    def test_any_material_and_what_is_in_stock_before_the_rest(self) -> None:
        self.close()
        page = self.post("feel/", material="nothing_of_the_kind", amount="1/2 tsp")
        self.assertContains(page, "not one of the available choices")
        self.assertEqual(
            [words for words, _ in self.run_sheet().may_add], ["in this pot", "other materials"]
        )
        buy_lot(
            self.user,
            material="arrowroot",
            amount_g=Decimal(100),
            bought_on=timezone.localdate(),
            price=None,
        )
        self.assertIn(("in stock", [("arrowroot", "Arrowroot powder")]), self.run_sheet().may_add)
        self.post("feel/", material="arrowroot", amount="1/2 tsp")
        self.assertContains(self.client.get(self.address, HTTP_HX_REQUEST=""), "Arrowroot powder")
        self.assertAlmostEqual(float(PotAddition.objects.get().grams), 1.35, delta=0.4)
        page = self.post("feel/", material="arrowroot", amount="plenty")
        self.assertEqual(PotAddition.objects.count(), 1)
        self.assertContains(page, 'value="plenty"')

    def test_the_next_version_has_what_really_went_in(self) -> None:
        self.close()
        self.post("feel/", material="lavender", amount="1 g")
        before = self.pour.version.formula.versions.count()
        page = self.post("next-version/")
        draft = self.pour.version.formula.versions.last()
        self.assertEqual(self.pour.version.formula.versions.count(), before + 1)
        self.assertRedirects(
            page, f"/formulas/{draft.formula_id}/v/{draft.number}/", fetch_redirect_response=False
        )
        lines = {line.material: line.percent for line in draft.lines.all()}
        self.assertEqual(sum(lines.values()), Decimal(100))
        lavender = sum(li.planned_g for li in self.pour.lines.all() if li.material == "lavender") + 1
        whole = sum(li.planned_g for li in self.pour.lines.all()) + 1
        self.assertAlmostEqual(float(lines["lavender"]), float(100 * lavender / whole), delta=0.002)


class OwnSteps(WithSheet):
    def arrange(self, act: str, **data: str) -> Any:
        keys = [step.own.key for step in route_view(self.pour_again(), shelf_for(self.user)).steps]
        return self.post("route/", act=act, key=keys, **data)

    def pour_again(self) -> Pour:
        return pour_with_lines(self.user, pk=self.pour.pk)

    def titles(self) -> list[str]:
        return [view.step.title for view in self.run_sheet().steps]

    def test_a_route_is_kept_for_the_kind_and_taken_back(self) -> None:
        usual = self.titles()
        self.arrange("add", title="Switch the fan off")
        self.assertEqual(self.titles(), [*usual, "Switch the fan off"])
        self.arrange("up:own-1")
        self.arrange("keep", skip_test="yes", skip_fill="yes", title_ready="Lay it all out")
        titles = self.titles()
        self.assertEqual(titles[0], "Lay it all out")
        self.assertEqual(titles[-2:], ["Switch the fan off", usual[-1]])
        self.assertNotIn("Set test", titles)
        self.assertIn("Pour", titles)  # without it there is no pour
        other = pour_of(self.user, self.version)
        self.assertContains(self.client.get(f"/pours/{other.pk}/run/"), "Lay it all out")
        page = self.client.get(f"{self.address}route/")
        self.assertContains(page, 'name="skip_test" value="yes" checked')
        self.arrange("reset")
        self.assertEqual(self.titles(), usual)

    def test_what_was_done_keeps_the_name_it_had_then(self) -> None:
        self.post("run/ready/")
        self.close()
        self.arrange("keep", title_ready="Lay it all out")
        record = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(record, "Get ready")
        self.assertNotContains(record, "Lay it all out")

    def test_an_added_step_without_words_is_refused(self) -> None:
        page = self.arrange("add", title=" ")
        self.assertContains(page, "Name the step")
        self.assertFalse(Route.objects.exists())


class SinglePieces(WithSheet):
    def test_mean_spread_and_those_set_aside(self) -> None:
        self.close()
        filling = self.pour.fillings.get()
        nominal = float(filling.each_g)
        light = round(nominal * 0.7, 1)
        told = f"{nominal:.1f} {nominal + 0.4:.1f} {light}"
        page = self.post(
            "count/",
            **{f"count_{filling.position}": "2", f"each_{filling.position}": f"{nominal}", "left_g": "0"},
            **{f"pieces_{filling.position}": told},
        )
        mean = (round(nominal, 1) + round(nominal + 0.4, 1) + light) / 3
        self.assertEqual(page.status_code, 302)
        self.assertAlmostEqual(float(Yield.objects.get().filled_g), 2 * mean, delta=0.01)
        page = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(page, "Too light for")
        [(_, pieces)] = page.context["view"].given.pieces
        self.assertEqual(pieces.light, (light,))
        told = {f"{name}_{filling.position}": "9" for name in ("count", "each")}
        told |= {f"pieces_{filling.position}": "14.2 many", "left_g": "0"}
        page = self.client.post(f"{self.address}count/", told, HTTP_HX_REQUEST="")
        self.assertContains(page, "14.2 many")
        self.assertEqual(Yield.objects.count(), 1)
