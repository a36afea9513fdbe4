"""A base that was kept: some of it is melted again, finished and filled, without a new formula."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from calmtin.formulas.models import Version
from calmtin.formulas.services import add_finish, set_percent, start_formula, start_next_version
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Lot, OwnBlend
from calmtin.pantry.services.lots import balance, buy_lot
from calmtin.pours import services
from calmtin.pours.adapters import dry_parts
from calmtin.pours.models import Pour
from tests.bench_data import SALVE, draft
from tests.plans.test_fill_plan import DAY, WithPlan


class Kept(WithPlan):
    def setUp(self) -> None:
        super().setUp()
        self.wax = buy_lot(
            self.user, material="beeswax_yellow", amount_g=Decimal(500), bought_on=DAY, price=Decimal(10)
        )
        self.lot = self.kept()

    def kept(self) -> Lot:
        """Pour a batch and keep most of it as it is."""
        pour = self.started(pot="250", **self.rows(("tin_1oz", "1", "")))
        self.weighed(pour)
        self.client.post(f"/pours/{pour.pk}/count/", {"count_0": "0", "left_g": "200", "to_pantry": "on"})
        return Lot.objects.filter(note=f"left over from {pour.code}").get()

    def started(self, **typed: object) -> Pour:
        self.client.post(self.address, typed)
        return Pour.objects.latest("pk")

    def weighed(self, pour: Pour) -> Pour:
        for line in pour.lines.all():
            services.weigh(self.user, line, line.planned_g)
        return services.finish_weighing(self.user, pour)

    def bases(self, version: Version | None = None) -> Any:
        address = f"/formulas/{version.formula_id}/v/{version.number}/fill/" if version else self.address
        return [base.lot for base in self.client.get(address).context["view"].bases]

    def test_the_plan_offers_it_with_its_firmness_and_starts_with_all_of_it(self) -> None:
        page = self.plan()
        self.assertContains(page, "200.0 g of Thole pin salve, left over")
        [base] = page.context["view"].bases
        self.assertAlmostEqual(
            base.rung,
            self.client.get(f"/formulas/{self.formula.pk}/").context["view"].firmness.room.rung,
            1,
        )
        page = self.plan(base=self.lot.pk)
        view = page.context["view"]
        self.assertEqual([line.part.material.slug for line in view.lines], [self.lot.material])
        self.assertEqual(view.plan.batch_g, 200)
        self.assertEqual(page.context["supply"].shopping, [])
        self.assertEqual(self.plan(base=self.lot.pk, pot="300").context["supply"].shopping[0].short, 100)
        self.assertEqual(self.plan(base="77").context["view"].base, None)

    def test_a_pour_takes_from_it_and_gets_a_scent_of_its_own(self) -> None:
        add_finish(self.user, self.formula, name="Mint", parts=[("peppermint", Decimal("0.5"))])
        before = balance(self.wax)
        typed = self.rows(("tin_1oz", "3", ""), base=self.lot.pk, way="containers", finish_0="Mint")
        pour = self.weighed(self.started(**typed))
        [line] = pour.lines.all()
        self.assertEqual((line.key, line.material), ("base", self.lot.material))
        self.assertEqual(balance(self.lot), 200 - line.planned_g)
        self.assertEqual(balance(self.wax), before)
        self.assertEqual([part.material for part in pour.finish_parts.all()], ["peppermint"])
        inside = {material.slug for material, _ in dry_parts(pour, shelf_for(self.user))}
        self.assertEqual(inside, {slug for slug, _ in SALVE})
        self.assertEqual(pour.version, self.version)
        for page in ("", "run/", "card/", "labels/", "check/"):
            self.assertEqual(self.client.get(f"/pours/{pour.pk}/{page}").status_code, 200, page)
        self.assertContains(self.client.get(f"/pours/{pour.pk}/card/"), "Cera Alba")

    def test_it_is_known_by_what_is_in_it_and_not_by_its_name(self) -> None:
        again = self.kept()
        self.assertEqual(again.material, self.lot.material)
        self.assertEqual(OwnBlend.objects.count(), 1)
        self.assertEqual(self.bases(), [self.lot, again])
        # The lot that was chosen is the one that goes down.
        pour = self.weighed(self.started(base=again.pk, pot="150"))
        self.assertEqual(balance(again), 200 - pour.lines.get().planned_g)
        self.assertEqual(balance(self.lot), 200)
        twin = start_formula(self.user, name="Thwart balm", kind="poured_butter", lines=SALVE)
        self.assertEqual(self.bases(draft(twin)), [self.lot, again])
        softer = [(slug, percent - 4 if slug == "beeswax_yellow" else percent) for slug, percent in SALVE]
        other = start_formula(self.user, name="Gunwale balm", kind="poured_butter", lines=softer)
        self.assertEqual(self.bases(draft(other)), [])

    def test_a_softer_version_of_it_is_another_base_under_the_same_name(self) -> None:
        version = start_next_version(self.user, self.version)
        wax = version.lines.get(material="beeswax_yellow")
        set_percent(self.user, version, key=wax.key, percent=Decimal(12), seen=version.revision)
        self.address = f"/formulas/{self.formula.pk}/v/{version.number}/fill/"
        softer = self.kept()
        self.assertNotEqual(softer.material, self.lot.material)
        self.assertEqual(len(set(OwnBlend.objects.values_list("name", flat=True))), 1)
        self.assertEqual(self.bases(), [softer])

    def test_its_lot_leads_to_the_plan(self) -> None:
        page = self.client.get(f"/pantry/lots/{self.lot.pk}/")
        self.assertContains(page, f"{self.address}?base={self.lot.pk}")
        self.assertContains(page, "Melt some and fill it")
        self.assertNotContains(self.client.get(f"/pantry/lots/{self.wax.pk}/"), "Melt some")
