"""Own materials, containers and infusions are put right, keep what they were, and go only while unused."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from django.core.exceptions import PermissionDenied
from django.test import TestCase

from calmtin.accounts.models import Bench
from calmtin.core.errors import CalmTinError
from calmtin.formulas.services import add_line
from calmtin.pantry import services
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.models import Correction, Infusion, OwnContainer, OwnMaterial
from tests.bench_data import Reads, draft, maker, salve

DAY = date(2026, 5, 1)


class Correcting(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.wax = services.add_material(self.user, name="Reed wax", group="wax", behaves_like="soy_wax")

    def test_a_material_typed_in_fahrenheit(self) -> None:
        Bench.objects.filter(user=self.user).update(temperature_unit="F")
        address = f"/pantry/materials/{self.wax.slug}/correct/"
        self.assertContains(self.client.get(address), "Melts from, °F")
        sent = {
            "name": "Reed-bed wax", "group": "wax", "behaves_like": "soy_wax", "melt_low": "104",
            "melt_high": "122", "strength_pct": "100", "vegan": "on", "reason": "weighed and melted anew",
        }  # fmt: skip
        self.assertContains(self.client.post(address, {**sent, "reason": ""}), "Give a reason")
        far = self.client.post(address, {**sent, "melt_low": "230", "melt_high": "240"})
        self.assertContains(far, "°F away from soy wax")
        self.assertRedirects(self.client.post(address, sent), f"/pantry/materials/{self.wax.slug}/")
        self.wax.refresh_from_db()
        self.assertEqual(
            (self.wax.name, self.wax.melt_low_c, self.wax.melt_high_c), ("Reed-bed wax", 40.0, 50.0)
        )
        kept = Correction.objects.get()
        self.assertEqual(kept.was, {"name": "Reed wax", "melt_low_c": None, "melt_high_c": None})
        page = self.client.get(address)
        self.assertContains(page, "weighed and melted anew")
        self.assertContains(page, 'value="104"')
        with self.assertRaises(PermissionDenied):
            kept.save()

    def test_a_material_goes_only_while_nothing_stands_on_it(self) -> None:
        version = draft(salve(self.user))
        add_line(self.user, version, slug=self.wax.slug, percent=Decimal(2), seen=0)
        address = f"/pantry/materials/{self.wax.slug}/correct/"
        kept = self.client.post(address, {"delete": "yes"})
        self.assertContains(
            kept, "Reed wax is in use in Thole pin salve. You can correct it but not delete it."
        )
        other = services.add_material(self.user, name="Sedge wax", group="wax", behaves_like="soy_wax")
        lot = services.buy_lot(self.user, material=other.slug, amount_g=Decimal(5), bought_on=DAY)
        services.void_lot(self.user, lot, reason="spilt")
        with self.assertRaisesRegex(CalmTinError, "has lots on record"):
            services.delete_material(self.user, other)
        third = services.add_material(self.user, name="Rush wax", group="wax", behaves_like="soy_wax")
        self.client.post(f"/pantry/materials/{third.slug}/correct/", {"delete": "yes"})
        self.assertEqual({m.name for m in OwnMaterial.objects.all()}, {"Reed wax", "Sedge wax"})

    def test_a_container(self) -> None:
        row = services.add_container(self.user, name="Bailer tin", brim_ml=70.0)
        address = f"/pantry/containers/{row.pk}/"
        sent = {"name": "Bailer tin", "brim_ml": "75", "usual_level_pct": "95", "cavities": "1"}
        self.client.post(address, {**sent, "reason": "measured with water"})
        row.refresh_from_db()
        self.assertEqual((row.brim_ml, Correction.objects.get().was), (75.0, {"brim_ml": 70.0}))
        self.assertContains(self.client.get(address), "Before: volume to the brim 70 ml.")
        self.client.post(address, {"delete": "yes"})
        self.assertFalse(OwnContainer.objects.exists())

    def test_an_infusion_and_its_stock(self) -> None:
        oil = services.buy_lot(self.user, material="olive_oil", amount_g=Decimal(500), bought_on=DAY)
        facts = {"herb": "calendula", "herb_g": Decimal(30), "oil": "olive_oil", "oil_g": Decimal(300)}
        row = services.start_infusion(self.user, **facts, method="cold", started_on=DAY)
        sent = {
            "act": "fix", "fix-herb": "calendula", "fix-herb_g": "30", "fix-oil": "olive_oil",
            "fix-oil_g": "200", "fix-method": "warm", "fix-started_on": "2026-05-01", "fix-is_dried": "on",
        }  # fmt: skip
        address = f"/pantry/making/{row.pk}/"
        self.client.post(address, {**sent, "reason": "200 g, not 300"})
        row.refresh_from_db()
        self.assertEqual((row.oil_g, row.method, row.due_on), (200, "warm", date(2026, 5, 2)))
        self.assertEqual(services.balance(oil), 300)
        self.client.post(address, {**sent, "fix-oil_g": "250", "reason": "weighed once more"})
        self.assertEqual(services.balance(oil), 250)
        self.client.post(address, {"act": "delete"})
        self.assertEqual((Infusion.objects.count(), services.balance(oil)), (0, 500))
        strained = services.start_infusion(self.user, **facts, method="cold", started_on=DAY)
        services.strain(self.user, strained, recovered_g=Decimal(250), strained_on=DAY)
        with self.assertRaisesRegex(CalmTinError, "stays on record"):
            services.delete_infusion(self.user, strained)
        with self.assertRaisesRegex(CalmTinError, "correct its lot instead"):
            services.correct_infusion(
                self.user, strained, **facts, method="warm", started_on=DAY, reason="slip"
            )

    def test_notes_are_in_a_makers_words(self) -> None:
        """No table talk: no slugs, no file names, no abbreviations of sources."""
        for material in shelf_for(self.user).values():
            for text in (material.notes, material.behaviour_source):
                for raw in ("docs/", "_", "T&Y", ".csv", "density", "recalled", "FLAG", "bulk "):
                    self.assertNotIn(raw, text, material.slug)
        Bench.objects.filter(user=self.user).update(temperature_unit="F")
        page = self.client.get("/pantry/materials/carnauba_wax/")
        self.assertContains(page, "Needs 185–194 °F to dissolve")
        self.assertContains(self.client.get("/pantry/materials/beeswax_yellow/"), "heat to 185–194 °F")
