"""How a maker melts and weighs is asked once, and a tincture is dry when the scale says so."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal

from django.test import TestCase
from django.utils import timezone

from calmtin.accounts.models import Bench
from calmtin.accounts.queries import bench_of
from calmtin.core.errors import CalmTinError
from calmtin.core.process.tincture import tincture
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services.materials import set_own_figures
from calmtin.pours import services
from calmtin.pours.models import PotWeight, Pour
from calmtin.pours.queries.record import pour_with_lines
from calmtin.pours.queries.run import run_view
from tests.bench_data import draft, maker, pour_of, salve


class OnceAsked(TestCase):
    def setUp(self) -> None:
        self.user = maker("cox")
        self.client.force_login(self.user)
        self.version = draft(salve(self.user))
        self.pour = pour_of(self.user, self.version)
        self.address = f"/pours/{self.pour.pk}/"

    def test_the_first_sheet_asks_and_the_next_one_knows(self) -> None:
        self.assertContains(self.client.get(self.address), "How do you work?")
        self.client.post(f"{self.address}weigh-into/", {"weighed_into": "cups", "melting": "together"})
        page = self.client.get(self.address)
        self.assertNotContains(page, "How do you work?")
        self.user.refresh_from_db()  # with the bench as it is now
        following = pour_of(self.user, self.version)
        self.assertEqual((following.weighed_into, following.melting), ("cups", "together"))
        keys = [view.step.key for view in self.run_page(following).context["view"].steps]
        self.assertIn("melt_all", keys)
        self.assertNotIn("oils", keys)

    def run_page(self, pour: Pour):
        return self.client.get(f"/pours/{pour.pk}/run/")

    def test_at_the_stove_it_can_be_chosen_until_something_is_melted(self) -> None:
        page = self.run_page(self.pour)
        self.assertContains(page, "Melt everything together instead")
        page = self.client.post(f"{self.address}melting/", {"melting": "together"}, HTTP_HX_REQUEST="true")
        self.assertContains(page, "Melt one after the other instead")
        self.assertEqual(Bench.objects.get(user=self.user).melting, "together")
        for line in self.pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        services.finish_weighing(self.user, self.pour)
        self.assertContains(self.run_page(self.pour), "<h1>Melt everything together</h1>")
        services.mark_step(self.user, self.pour, key="melt_all")
        self.assertNotContains(self.run_page(self.pour), "instead")
        page = self.client.post(f"{self.address}melting/", {"melting": "staged"}, HTTP_HX_REQUEST="true")
        self.assertContains(page, "Something is melted already.")
        self.assertEqual(Pour.objects.get().melting, "together")
        page = self.client.post(f"{self.address}melting/", {"melting": "raw"}, HTTP_HX_REQUEST="true")
        self.assertContains(page, "Choose how you melt from the list.")

    def test_a_block_takes_longer_than_pellets(self) -> None:
        def wax() -> tuple[float, float]:
            steps = self.run_page(self.pour).context["view"].steps
            return next(view.step.minutes for view in steps if view.step.key == "melt_wax")

        pellets = wax()
        page = self.client.post(
            "/pantry/materials/beeswax_yellow/", {"own_figures": "yes", "form": "block"}
        )
        self.assertEqual(page.status_code, 302)
        self.assertGreater(wax()[0], pellets[1] * 0.9)
        set_own_figures(self.user, "beeswax_yellow", form="")
        self.assertEqual(wax(), pellets)


class ATincture(TestCase):
    """60 g of oil and 12 g of tincture of 50 %: 11.64 g have to leave, 60.36 g stay."""

    def setUp(self) -> None:
        self.user = maker("cox")
        self.client.force_login(self.user)
        formula = salve(
            self.user,
            "Rudder balm",
            [
                ("beeswax_yellow", Decimal(20)),
                ("olive_oil", Decimal(68)),
                ("alcohol_tincture", Decimal(12)),
            ],
        )
        self.pour = pour_of(self.user, draft(formula), acknowledged=True)
        for line, grams in zip(self.pour.lines.all(), ("12", "60", "18"), strict=True):
            services.weigh(self.user, line, Decimal(grams))
        services.finish_weighing(self.user, self.pour)
        self.address = f"/pours/{self.pour.pk}/"
        self.to_lose = Decimal(f"{tincture(12.0, 50.0).to_lose_g:.2f}")

    def weighs(self, grams: str):
        return self.client.post(f"{self.address}pot-weight/", {"pot_g": grams}, HTTP_HX_REQUEST="true")

    def pour_now(self) -> Pour:
        return pour_with_lines(self.user, pk=self.pour.pk)

    def view(self):
        return run_view(self.pour_now(), shelf_for(self.user), bench_of(self.user))

    def test_the_oil_is_weighed_with_it_before_the_wax(self) -> None:
        materials = [line.material for line in self.pour.lines.all()]
        self.assertEqual(materials, ["alcohol_tincture", "olive_oil", "beeswax_yellow"])
        self.assertContains(self.client.get(f"{self.address}run/"), "Contents of the pot weigh")

    def test_while_water_is_left_the_sheet_says_how_much_and_the_month_stays(self) -> None:
        page = self.weighs("65")  # 7 g are gone
        left = self.to_lose - 7
        self.assertContains(page, f"{left:.1f} g of water and alcohol are still in the pot.")
        today = timezone.localdate()
        self.assertLess(self.pour_now().use_by, today + timedelta(days=40))
        self.assertEqual(self.pour_now().driven_off_g, 7)

    def test_once_it_is_dry_the_caution_and_the_month_go(self) -> None:
        before = [c.key for c in self.view().cautions]
        self.weighs("65")
        page = self.weighs("1.5 oz")
        self.assertContains(page, "and 17.8 g more with them")  # 42.5 g: that is less than the oil alone
        page = self.weighs("60.4")
        self.assertContains(page, "The water and alcohol are gone. Add the wax now.")
        pour = self.pour_now()
        self.assertGreater(pour.use_by, timezone.localdate() + timedelta(days=150))
        self.assertEqual(pour.driven_off_g, Decimal("11.6"))
        self.assertNotIn("wet", [c.key for c in self.view().cautions])
        self.assertNotIn("wet", before)  # what was acknowledged is not said again
        self.assertEqual(PotWeight.objects.count(), 3)  # every weight stays on record

    def test_what_cannot_be_is_refused_with_what_to_do(self) -> None:
        page = self.weighs("80")
        self.assertContains(page, "80 g is more than the 72 g of oil and tincture that went in.")
        self.assertContains(page, 'value="80"')
        self.assertEqual(PotWeight.objects.count(), 0)
        other = pour_of(self.user, draft(salve(self.user)))
        with self.assertRaisesRegex(CalmTinError, "no tincture"):
            services.weigh_pot(self.user, other, grams=Decimal(10))
