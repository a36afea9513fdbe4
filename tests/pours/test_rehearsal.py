"""A rehearsal plays the whole pour day on a simulated stove; it takes nothing and teaches nothing."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from typing import Any
from unittest.mock import patch

from django.core.exceptions import PermissionDenied
from django.utils import timezone

from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.devices.adapters import SimulatedBench
from calmtin.devices.models import Stove, StoveAct
from calmtin.exchange.removing import holdings, remove_maker
from calmtin.formulas.services import add_line, delete_draft, set_percent
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Movement
from calmtin.pantry.services import add_material, buy_lot, delete_material
from calmtin.pours import services
from calmtin.pours.models import PotReading, Pour, StepDone, WeighIn
from calmtin.pours.queries.live import live_of, reading_due
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.queries.run import RunView, run_view
from tests.bench_data import maker, plan_for
from tests.formulas.test_formulas import WithSalve


class WithRehearsal(WithSalve):
    def setUp(self) -> None:
        super().setUp()
        add_line(self.user, self.version, slug="lavender", percent=Decimal("0.5"), seen=0)
        buy_lot(self.user, material="beeswax_yellow", amount_g=Decimal(500), bought_on=date(2026, 5, 1))
        self.other = maker("bow")
        self.version.refresh_from_db()
        self.pour: Pour = services.rehearse(
            self.user, self.version, plan_for(self.user, self.version), scale_step_g=Decimal("0.1"), seed=7
        )
        self.address = f"/pours/{self.pour.pk}/"

    def again(self) -> Pour:
        found: Pour = pour_with_lines(self.user, pk=self.pour.pk)
        return found

    def at(self, kind: str, value: float = 0.0) -> None:
        services.act_at_stove(self.user, self.again(), kind=kind, value=value)

    def weigh_all(self) -> None:
        for line in self.pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, self.again())

    def sheet(self) -> RunView:
        return run_view(self.again(), shelf_for(self.user), bench_of(self.user))

    def post(self, path: str, **data: object) -> Any:
        return self.client.post(f"{self.address}{path}", data)


class TakesNothing(WithRehearsal):
    def test_nothing_leaves_the_shelf_and_no_page_counts_it(self) -> None:
        before = Movement.objects.count()
        self.weigh_all()
        services.add_to_pot(
            self.user, self.again(), material="lavender", grams=Decimal("0.1"), by_feel=True
        )
        self.assertEqual(Movement.objects.count(), before)
        self.assertFalse(Pour.objects.exists())
        self.assertFalse(self.version.pours.exists())
        self.assertNotContains(self.client.get("/", HTTP_HX_REQUEST=""), self.pour.code)
        history = self.client.get(f"/formulas/{self.version.formula_id}/pours/", HTTP_HX_REQUEST="")
        self.assertNotContains(history, self.pour.code)
        listed = self.client.get("/pours/", HTTP_HX_REQUEST="")
        self.assertContains(listed, "not counted")

    def test_the_draft_stays_one(self) -> None:
        self.weigh_all()
        self.version.refresh_from_db()
        self.assertFalse(self.version.is_poured)
        self.assertIsNone(self.version.first_poured_at)
        key = self.version.lines.get(material="beeswax_yellow").key
        set_percent(self.user, self.version, key=key, percent=Decimal(20), seen=self.version.revision)
        real = services.start_pour(
            self.user, self.version, plan_for(self.user, self.version), scale_step_g=Decimal("0.1")
        )
        self.assertEqual((real.number, real.code[-2:]), (1, "01"))

    def test_it_is_not_judged_counted_or_learned_from(self) -> None:
        self.weigh_all()
        pour = self.again()
        for refused in (
            lambda: services.record_check(self.user, pour, temp_c=21.0, felt_rung=Decimal(5)),
            lambda: services.record_yield(self.user, pour, filled_g=Decimal(50), left_g=Decimal(1)),
            lambda: services.keep_leftovers(self.user, pour, left_g=Decimal(1), today=date(2026, 5, 2)),
            lambda: services.next_from_weights(self.user, pour),
        ):
            with self.assertRaisesMessage(CalmTinError, "This is a rehearsal"):
                refused()
        page = self.client.get(self.address, HTTP_HX_REQUEST="")
        self.assertContains(page, "Nothing is used up and nothing changes your calibration.")
        self.assertNotContains(page, "Check this pour")
        self.assertNotContains(page, "not on the shelf")
        services.record_check(self.user, pour, temp_c=6.0, felt_rung=Decimal(6), set_test="lid")

    def test_thrown_away_it_is_gone_with_all_of_it_and_a_pour_never_is(self) -> None:
        self.weigh_all()
        self.post("run/melt_wax/")
        self.post("delete/")
        for model in (Stove, StoveAct, WeighIn, StepDone, PotReading):
            self.assertFalse(model.objects.exists(), model)
        real = services.start_pour(
            self.user, self.version, plan_for(self.user, self.version), scale_step_g=Decimal("0.1")
        )
        with self.assertRaisesMessage(CalmTinError, "A pour stays on record."):
            services.delete_rehearsal(self.user, real)
        self.assertTrue(Pour.objects.filter(pk=real.pk).exists())

    def test_a_draft_takes_its_rehearsals_along_and_a_maker_too(self) -> None:
        self.assertIn(1, [n for name, n in holdings(self.user).items() if name == "pours"])
        delete_draft(self.user, self.version, seen=self.version.revision)
        self.assertFalse(Pour.every().exists())
        self.assertFalse(Stove.objects.exists())
        remove_maker(self.user)

    def test_what_it_uses_is_not_deleted_beneath_it(self) -> None:
        wax = add_material(
            self.user,
            name="Weir wax",
            group="wax",
            behaves_like="candelilla_wax",
            melt_low_c=64.0,
            melt_high_c=69.0,
            density=0.97,
        )
        self.weigh_all()
        services.add_to_pot(self.user, self.again(), material=wax.slug, grams=Decimal(1))
        with self.assertRaisesMessage(CalmTinError, self.pour.code):
            delete_material(self.user, wax)

    def test_nobody_elses_stove(self) -> None:
        with self.assertRaises(PermissionDenied):
            services.act_at_stove(self.other, self.pour, kind="bath", value=100.0)
        self.client.force_login(self.other, backend="django.contrib.auth.backends.ModelBackend")
        for path in ("live/scale/", "stove/scale/", "delete/"):
            self.assertEqual(self.post(path).status_code, 404)


class AtTheScale(WithRehearsal):
    def test_the_page_shows_what_stands_on_the_scale(self) -> None:
        self.post("stove/scale/", kind="put", value="10")
        with self.later(seconds=5):
            page = self.post("live/scale/")
        on = page.context["live"].on_scale
        self.assertLessEqual(abs(on.weight.grams - 10), Decimal("0.2"))
        self.assertTrue(on.may_take)
        self.assertContains(page, f'data-grams="{on.weight.grams.normalize():f}"')
        self.assertContains(page, f"of {self.pour.lines.first().planned_g:.1f} g")

    def test_a_taken_reading_tares_for_the_next_part(self) -> None:
        self.post("stove/scale/", kind="put", value="10")
        self.post("weigh/0/", grams="10", after="0", from_scale="yes")
        self.assertEqual(SimulatedBench(self.again().stove).scale.net_g, 0)
        self.post("weigh-into/", weighed_into="cups")
        self.post("stove/scale/", kind="put", value="20")
        self.post("weigh/1/", grams="20", after="0", from_scale="yes")
        self.assertEqual([act.kind for act in StoveAct.objects.all()][-2:], ["lift", "tare"])

    def test_an_unplugged_or_overloaded_scale_says_what_to_do(self) -> None:
        page = self.post("stove/scale/", kind="unplug_scale")
        self.assertContains(page, "Plug it in, or type the")
        self.assertContains(page, "disabled")
        self.post("stove/scale/", kind="plug_scale")
        page = self.post("stove/scale/", kind="put", value="20000")
        self.assertContains(page, "The scale is overloaded.")

    def test_what_no_stove_has_changes_nothing(self) -> None:
        for kind, value in (
            ("explode", "1"),
            ("put", "nan"),
            ("speed", "7"),
            ("skip", "1e9"),
            ("put", "1e9"),
        ):
            with self.subTest(kind=kind, value=value):
                page = self.post("stove/scale/", kind=kind, value=value)
                self.assertContains(page, 'class="wrong"')
        self.assertFalse(StoveAct.objects.exists())
        self.assertEqual(self.post("live/toaster/").status_code, 404)

    def later(self, *, seconds: float) -> Any:
        now = timezone.now() + timedelta(seconds=seconds)
        return patch("django.utils.timezone.now", return_value=now)


class AtTheStove(WithRehearsal):
    def setUp(self) -> None:
        super().setUp()
        self.weigh_all()
        for key in ("ready", "melt_wax", "melt_butter", "oils"):
            self.post(f"run/{key}/")
        self.at("bath", 120.0)
        self.at("skip", 3600.0)
        self.at("bench", 120.0)

    def test_a_reading_is_kept_as_the_pot_moves_and_not_twice(self) -> None:
        before = PotReading.objects.count()
        page = self.post("live/probe/")
        self.assertEqual(page.headers.get("HX-Trigger"), "pot-read")
        self.assertEqual(PotReading.objects.count(), before + 1)
        page = self.post("live/probe/")
        self.assertNotIn("HX-Trigger", page.headers)
        self.at("skip", 240.0)
        self.assertIsNotNone(reading_due(self.again()))
        with self.assertNumQueries(8):
            self.post("live/scale/")

    def test_a_scent_that_goes_in_too_hot_says_so_until_it_is_made_good(self) -> None:
        self.post("live/probe/")
        self.post("run/late/")
        page = self.post("run/scent/")
        self.assertContains(page, "Much of the scent evaporates at that temperature.")
        services.add_to_pot(
            self.user, self.again(), material="lavender", grams=Decimal("0.2"), by_feel=True
        )
        self.assertEqual(self.sheet().wrong, [])

    def test_forgotten_until_it_sets_it_says_so_and_the_bath_makes_it_good(self) -> None:
        self.post("run/late/")
        live = live_of(self.again(), shelf_for(self.user), "probe")
        forget = next(s for _, group in live.switches for s in group if s.label == "Leave it until it sets")
        self.at("skip", forget.value)
        self.post("live/probe/")
        view = self.sheet()
        self.assertTrue(view.is_setting)
        self.assertTrue(view.may_go_back)
        page = self.post("run/bath/", note="it was setting in the jug")
        self.assertEqual(SimulatedBench(self.again().stove).place, "bath")
        self.assertContains(page, "Back in the bath.")
        self.at("skip", 3600.0)
        self.post("live/probe/")
        self.assertFalse(self.sheet().is_setting)

    def test_its_clocks_run_on_its_own_time(self) -> None:
        self.post("timer/late/", minutes="30")
        self.at("skip", 1200.0)
        view = self.sheet()
        self.assertAlmostEqual((view.timers[0].rings_at - view.now) / timedelta(minutes=1), 10.0, delta=0.2)
        page = self.client.get(f"{self.address}run/")
        self.assertContains(page, 'data-speed="1"')
        done = StepDone.objects.order_by("pk").last()
        self.assertLess(done.at, view.now)

    def test_the_forecast_leaves_out_where_it_stands_and_sets(self) -> None:
        for _ in range(30):
            self.at("skip", 150.0)
            self.post("live/probe/")
        view = self.sheet()
        self.assertIsNotNone(view.clock)
        self.assertEqual(view.ahead, [])  # all of it has passed

    def test_an_unplugged_thermometer_says_what_to_do(self) -> None:
        page = self.post("stove/probe/", kind="unplug_probe")
        self.assertContains(page, "The thermometer is unplugged.")
        self.assertIsNone(reading_due(self.again()))
