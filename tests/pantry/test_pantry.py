"""Own materials, lots and their ledger, infusions, the CSV, and what stock does on pour day."""

from __future__ import annotations

import csv
import io
import time
from datetime import date, timedelta
from decimal import Decimal
from threading import Barrier, Thread
from uuid import uuid4

from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from calmtin.accounts.models import User
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import read
from calmtin.core.errors import CalmTinError
from calmtin.exchange.formats.pantry import COLUMNS, export_pantry, import_pantry, preview
from calmtin.pantry import services
from calmtin.pantry.adapters import containers_for, shelf_for
from calmtin.pantry.models import Infusion, Lot, Movement, OwnContainer, OwnMaterial
from calmtin.pantry.queries.lots import costs_of, lots_of
from calmtin.pantry.queries.today import pantry_today
from calmtin.pours.models import WeighLine
from calmtin.pours.services.weighing import undo_weight, weigh
from tests.bench_data import FlushesRecords, Reads, draft, maker, pour_of, salve

DAY = date(2026, 5, 1)
BACKEND = "django.contrib.auth.backends.ModelBackend"


def lot_of(
    user: User, material: str, grams: int, *, best_before: date | None = None, price: int | None = None
) -> Lot:
    return services.buy_lot(
        user,
        material=material,
        amount_g=Decimal(grams),
        bought_on=DAY,
        best_before=best_before,
        price=price,
    )


class Shelf(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend=BACKEND)

    def test_own_material_is_usable_at_once(self) -> None:
        row = services.add_material(
            self.user,
            name="Reed wax",
            group="wax",
            behaves_like="soy_wax",
            melt_low_c=60.0,
            melt_high_c=66.0,
        )
        own, soy = shelf_for(self.user)[row.slug], shelf_for(self.user)["soy_wax"]
        oil = shelf_for(self.user)["olive_oil"]
        mine, theirs = (read(blend([(w, 25), (oil, 75)]), [33.0]) for w in (own, soy))
        self.assertGreater(mine.rung[0], theirs.rung[0])
        self.assertNotIn(row.slug, shelf_for(maker("bow")))
        again = services.add_material(self.user, name="Reed wax", group="wax", behaves_like="soy_wax")
        self.assertEqual(again.slug, "my_reed_wax_2")

    def test_own_figures_replace_ours_for_this_maker_only(self) -> None:
        services.set_own_figures(self.user, "olive_oil", density=0.92, strength_pct=None)
        services.set_own_figures(self.user, "beeswax_yellow", strength_pct=80.0)
        self.assertEqual(shelf_for(self.user)["olive_oil"].density_solid, 0.92)
        wax = [(shelf_for(u)["beeswax_yellow"], 20) for u in (self.user, maker("bow"))]
        oil = (shelf_for(self.user)["castor_oil"], 80)
        softer, usual = (read(blend([w, oil]), [21.0]).rung[0] for w in wax)
        # Less what castor oil itself resists, which the strength of the wax does not change.
        self.assertAlmostEqual(usual - softer, 4.343 * 0.223, delta=0.06)

    def test_search(self) -> None:
        def found(query: str) -> set[str]:
            page = self.client.get(f"/pantry/?{query}", headers={"HX-Request": "true"})
            return {row.material.slug for group in page.context["groups"] for row in group.rows}

        self.assertIn("shea_refined", found("q=karite"))
        self.assertIn("candelilla_wax", found("q=euphorbia"))
        self.assertNotIn("beeswax_yellow", found("free=bee"))
        self.assertNotIn("tallow", found("free=vegan"))
        self.assertEqual(
            found("free=coconut&group=soft_fat") & {"coconut_rbd", "babassu_oil"}, {"babassu_oil"}
        )
        self.assertEqual(found("mine=on"), set())
        lot_of(self.user, "lanolin", 50)
        self.assertEqual(found("mine=on"), {"lanolin"})
        self.assertEqual(self.client.get("/pantry/?q=%00&group=nonsense").status_code, 200)

    def test_material_page_shows_what_it_does(self) -> None:
        salve(self.user)
        page = self.client.get("/pantry/materials/beeswax_yellow/")
        self.assertContains(page, "Thole pin salve")
        self.assertContains(page, "Candelilla wax")
        self.assertContains(page, "flows at")
        self.assertEqual(self.client.get("/pantry/materials/moon_dust/").status_code, 404)

    def test_material_page_of_a_grown_bench_says_first_what_is_there(self) -> None:
        for n in range(14):
            salve(self.user, f"Salve {n}")
        empty = lot_of(self.user, "beeswax_yellow", 40, best_before=date(2025, 5, 1))
        there = lot_of(self.user, "beeswax_yellow", 50)
        services.reweigh(self.user, empty, actual_g=Decimal(0), reason="used up")
        page = self.client.get("/pantry/materials/beeswax_yellow/")
        view = page.context["view"]
        self.assertEqual([v.lot for v in view.lots], [there])
        self.assertEqual([v.lot for v in view.gone], [empty])
        self.assertContains(page, "1 lot used up or removed")
        self.assertNotContains(page, ">past<")  # nobody minds the date of an empty tin
        # Twelve of the formulas, and the way to all of them.
        self.assertContains(page, "2 more formulas with it")
        (uses,) = view.used_in
        self.assertEqual((len(uses.shown), uses.more), (12, 2))
        self.assertContains(self.client.get(uses.all_at), "Salve 0")

    def test_lot_typed_in_cups_keeps_what_was_typed(self) -> None:
        data = {"amount": "2 cups", "form": "pellets", "bought_on": "2026-05-01", "price": "12,50"}
        self.client.post("/pantry/materials/beeswax_yellow/", data)
        lot = Lot.objects.get()
        self.assertAlmostEqual(float(lot.amount_g), 274.4, delta=0.2)
        self.assertIn("2 cups pellets", lot.typed)
        self.assertAlmostEqual(float(lot.cost_per_g), 12.5 / 274.44, places=4)
        asked = self.client.post("/pantry/materials/olive_oil/", {**data, "amount": "16 oz", "form": ""})
        self.assertContains(asked, "16 oz wt")
        self.assertContains(asked, 'value="16 oz"')
        self.assertContains(asked, 'value="12,50"')
        self.assertEqual(Lot.objects.count(), 1)

    def test_bad_lots_and_materials_keep_what_was_typed(self) -> None:
        wrong = {"amount": "lots", "bought_on": "someday", "best_before": "2020-01-01"}
        page = self.client.post("/pantry/materials/olive_oil/", wrong)
        self.assertContains(page, "Type a day such as")
        page = self.client.post("/pantry/materials/new/", {"name": "", "group": "wax", "melt_low": "50"})
        self.assertContains(page, "Give the material a name")
        self.assertContains(page, 'value="50"')
        crossed = {
            "name": "X",
            "group": "wax",
            "behaves_like": "soy_wax",
            "melt_low": "70",
            "melt_high": "60",
        }
        self.assertContains(
            self.client.post("/pantry/materials/new/", crossed), "lower melting temperature must come first"
        )
        self.assertFalse(Lot.objects.exists() or OwnMaterial.objects.exists())


class Ledger(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.version = draft(salve(self.user))

    def test_weighing_takes_first_what_expires_first(self) -> None:
        late = lot_of(self.user, "beeswax_yellow", 100, best_before=date(2028, 1, 1))
        soon = lot_of(self.user, "beeswax_yellow", 10, best_before=date(2026, 8, 1))
        never = lot_of(self.user, "beeswax_yellow", 100)
        line = pour_of(self.user, self.version).lines.get(material="beeswax_yellow")
        weigh(self.user, line, Decimal(18))
        self.assertEqual([services.balance(lot) for lot in (soon, late, never)], [0, 92, 100])
        weigh(self.user, line, Decimal(18))
        weigh(self.user, line, Decimal("19.5"))
        self.assertEqual([services.balance(lot) for lot in (soon, late, never)], [0, Decimal("90.5"), 100])
        undo_weight(self.user, line.pour)
        self.assertEqual([services.balance(lot) for lot in (soon, late, never)], [0, 92, 100])
        undo_weight(self.user, line.pour)
        self.assertEqual([services.balance(lot) for lot in (soon, late, never)], [10, 100, 100])

    def test_a_lot_off_the_shelf_is_not_used(self) -> None:
        gone = lot_of(self.user, "beeswax_yellow", 100, best_before=date(2026, 8, 1))
        kept = lot_of(self.user, "beeswax_yellow", 100)
        services.reweigh(self.user, gone, actual_g=Decimal(70), reason="used for candles")
        services.void_lot(self.user, gone, reason="spilt")
        services.restore_lot(self.user, gone)
        self.assertEqual(services.balance(gone), 70)
        services.void_lot(self.user, gone, reason="spilt after all")
        line = pour_of(self.user, self.version).lines.get(material="beeswax_yellow")
        weigh(self.user, line, Decimal(18))
        self.assertEqual((services.balance(gone), services.balance(kept)), (0, 82))

    def test_cost_follows_the_lot_used(self) -> None:
        lot_of(self.user, "beeswax_yellow", 100, price=5)
        lot_of(self.user, "olive_oil", 1000)
        pour = pour_of(self.user, self.version, done=True)
        wax = pour.lines.get(material="beeswax_yellow").planned_g
        page = self.client.login(username="cox", password="oar-and-tallow-7") and self.client.get(
            f"/pours/{pour.pk}/"
        )
        self.assertEqual(page.context["view"].cost.total, wax * 5 / 100)
        oil = pour.lines.get(material="olive_oil").planned_g
        self.assertContains(page, "The ingredients with a price cost")
        self.assertContains(page, f"Olive oil {oil.normalize():f} g")
        self.assertNotContains(page, " each.")

    def test_a_plan_says_what_the_shelf_lacks(self) -> None:
        lot_of(self.user, "beeswax_yellow", 5)
        lot_of(self.user, "olive_oil", 5000)
        self.client.login(username="cox", password="oar-and-tallow-7")
        page = self.client.get(f"/formulas/{self.version.formula_id}/v/1/fill/")
        self.assertContains(page, "g short</span>", 1)
        self.assertContains(page, "13.0 g short")

    def test_the_cost_shown_is_that_of_the_lot_used_next(self) -> None:
        late = lot_of(self.user, "beeswax_yellow", 100, price=9, best_before=date(2028, 1, 1))
        soon = lot_of(self.user, "beeswax_yellow", 50, price=2, best_before=date(2026, 8, 1))
        today = date(2026, 5, 1)
        self.assertEqual([view.lot for view in lots_of(self.user, today)], [soon, late])
        self.assertEqual(costs_of(self.user, today)["beeswax_yellow"], Decimal(2) / 50)

    def test_what_was_never_recorded_cannot_run_out(self) -> None:
        lot = lot_of(self.user, "olive_oil", 5)
        line = pour_of(self.user, self.version).lines.get(material="olive_oil")
        weigh(self.user, line, line.planned_g)
        self.assertEqual(services.balance(lot), 0)
        undo_weight(self.user, line.pour)
        self.assertEqual(services.balance(lot), 5)

    def test_reweighing_keeps_the_reason_and_the_past(self) -> None:
        lot = lot_of(self.user, "olive_oil", 500)
        services.reweigh(self.user, lot, actual_g=Decimal(430), reason="spilled some")
        self.assertIsNone(services.reweigh(self.user, lot, actual_g=Decimal(430), reason="again"))
        with self.assertRaises(CalmTinError):
            services.reweigh(self.user, lot, actual_g=Decimal(1), reason="  ")
        self.assertEqual([m.grams for m in lot.movements.all()], [500, -70])
        with self.assertRaises(PermissionDenied):
            Movement.objects.update(grams=0)

    def test_what_was_taken_is_put_back_once(self) -> None:
        lot = lot_of(self.user, "olive_oil", 500)
        self.assertIsNone(services.take_from_stock(self.user, "castor_oil", Decimal(50)))
        taken = services.take_from_stock(self.user, "olive_oil", Decimal(50))
        assert taken is not None
        self.assertEqual(services.balance(lot), 450)
        for _ in range(3):
            services.put_back(self.user, taken)
        self.assertEqual((services.balance(lot), lot.movements.count()), (500, 3))

    def test_today_names_what_is_late_and_low(self) -> None:
        today = timezone.localdate()
        lot_of(self.user, "olive_oil", 100, best_before=today - timedelta(days=1))
        low = lot_of(self.user, "castor_oil", 100)
        services.reweigh(self.user, low, actual_g=Decimal(5), reason="used")
        seen = pantry_today(self.user, shelf_for(self.user), timezone.now(), [])
        self.assertEqual([m.slug for _, m in seen.expiring], ["olive_oil"])
        self.assertEqual([m.slug for _, m in seen.low], ["castor_oil"])


class TwoTabs(FlushesRecords, TransactionTestCase):
    def test_weighing_at_once_never_loses_or_doubles(self) -> None:
        user = maker()
        lot = lot_of(user, "beeswax_yellow", 1000)
        line = pour_of(user, draft(salve(user))).lines.get(material="beeswax_yellow")
        start, errors = Barrier(4), []

        def tab(grams: list[str]) -> None:
            try:
                mine = WeighLine.objects.get(pk=line.pk)
                start.wait()
                for value in grams:
                    weigh(user, mine, Decimal(value))
            except Exception as error:
                errors.append(error)
            finally:
                connection.close()

        tabs = [Thread(target=tab, args=([str(20 + n), str(30 + n), "18"],)) for n in range(4)]
        for thread in tabs:
            thread.start()
        for thread in tabs:
            thread.join()
        self.assertEqual(errors, [])
        counts = line.weigh_ins.last().grams
        self.assertEqual(services.balance(lot), 1000 - counts)
        for weigh_in in line.weigh_ins.all():
            booked = Movement.objects.filter(withdrawal=weigh_in.withdrawal, kind="weighed")
            self.assertEqual(sum(m.grams for m in booked), -weigh_in.grams)


class Making(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend=BACKEND)

    def test_infusion_from_start_to_lot(self) -> None:
        oil = lot_of(self.user, "olive_oil", 500)
        good = {"herb": "calendula", "herb_g": "30", "oil": "olive_oil", "oil_g": "300", "method": "cold"}
        good |= {"started_on": "2026-05-01"}
        fresh = self.client.post("/pantry/making/", good)
        self.assertContains(fresh, "Use only dried herbs")
        self.assertContains(fresh, 'value="calendula"')
        self.client.post("/pantry/making/", {**good, "is_dried": "on"})
        row = Infusion.objects.get()
        self.assertEqual((row.ratio, row.due_on, services.balance(oil)), (10, date(2026, 5, 29), 200))
        self.assertContains(self.client.get("/"), "Strain it")
        too_much = self.client.post(
            f"/pantry/making/{row.pk}/", {"recovered_g": "400", "strained_on": "2026-06-01"}
        )
        self.assertContains(too_much, "300 g of oil went in")
        self.client.post(f"/pantry/making/{row.pk}/", {"recovered_g": "255", "strained_on": "2026-06-01"})
        row.refresh_from_db()
        self.assertEqual((row.loss_pct, services.balance(row.lot)), (15, 255))
        infused = shelf_for(self.user)[row.lot.material]
        self.assertEqual(infused.fractions, shelf_for(self.user)["olive_oil"].fractions)
        with self.assertRaises(CalmTinError):
            services.strain(self.user, row, recovered_g=Decimal(1), strained_on=DAY)

    def test_an_infused_oil_keeps_what_its_base_warns_of(self) -> None:
        row = services.start_infusion(
            self.user, herb="plantain", herb_g=Decimal(20), oil="sweet_almond_oil", oil_g=Decimal(200),
            method="cold", started_on=DAY,
        )  # fmt: skip
        lot = services.strain(self.user, row, recovered_g=Decimal(180), strained_on=DAY)
        infused, base = (shelf_for(self.user)[slug] for slug in (lot.material, "sweet_almond_oil"))
        self.assertEqual((infused.allergens, infused.vegan), (base.allergens, base.vegan))
        self.assertIn("tree_nut", infused.allergens)

    def test_rendering(self) -> None:
        row = services.render_at_once(
            self.user, kind="comb", raw_g=Decimal(400), clean_g=Decimal(180), started_on=DAY
        )
        self.assertEqual((row.yield_pct, row.lot.material), (45, "beeswax_yellow"))
        page = self.client.post(
            "/pantry/making/", {"kind": "comb", "raw_g": "10", "clean_g": "20", "started_on": "2026-05-01"}
        )
        self.assertContains(page, "no more than the comb")

    def test_container_measured_with_water(self) -> None:
        tin = {
            "name": "Shell tin",
            "empty_g": "14.2",
            "full_g": "64.1",
            "usual_level_pct": "90",
            "cavities": "1",
        }
        self.client.post("/pantry/containers/", tin)
        row = OwnContainer.objects.get()
        self.assertAlmostEqual(row.brim_ml, 50.0, places=2)
        self.assertEqual(containers_for(self.user)[row.slug].usual_level, 0.9)
        self.client.post("/pantry/containers/", {**tin, "name": "Six shells", "cavities": "6"})
        self.assertAlmostEqual(OwnContainer.objects.get(name="Six shells").brim_ml, 50 / 6, places=2)
        bad = self.client.post("/pantry/containers/", {**tin, "full_g": "10"})
        self.assertContains(bad, "must weigh more full of water than empty")
        self.assertContains(bad, 'value="Shell tin"')

    def test_containers_that_were_bought_are_on_hand(self) -> None:
        row = services.add_container(self.user, name="Shell tin", brim_ml=60.0, on_hand=3)
        sent = {"row": row.pk, "bought": "12", "request_key": str(uuid4())}
        for _ in range(2):  # a second press adds nothing
            self.client.post("/pantry/containers/", sent)
        row.refresh_from_db()
        self.assertEqual(row.on_hand, 15)
        for typed in ("0", "a dozen", "100000"):
            bad = self.client.post("/pantry/containers/", {"row": row.pk, "bought": typed})
            self.assertContains(bad, 'id="bought-wrong')
            self.assertContains(bad, f'value="{typed}"')
        row.refresh_from_db()
        self.assertEqual(row.on_hand, 15)


class Csv(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend=BACKEND)

    def row(self, **cells: str) -> str:
        return ",".join(cells.get(column, "") for column in COLUMNS)

    def file(self, *rows: str) -> str:
        return "\r\n".join([",".join(COLUMNS), *rows])

    def lot(self, material: str = "olive_oil", amount: str = "100") -> str:
        return self.row(what="lot", material=material, amount_g=amount, bought_on="2026-05-01")

    def test_round_trip(self) -> None:
        services.add_material(self.user, name="Reed wax", group="wax", behaves_like="soy_wax", density=0.95)
        lot = lot_of(self.user, "my_reed_wax", 200, price=7)
        services.reweigh(self.user, lot, actual_g=Decimal(150), reason="used")
        out = export_pantry(self.user, DAY)
        other = maker("bow")
        import_pantry(other, out)
        self.assertEqual(export_pantry(other, DAY), out)
        again = import_pantry(other, out)
        self.assertTrue(all("unchanged" in outcome.words for outcome in again))
        self.assertEqual(export_pantry(other, DAY), out)
        # A second purchase just like the first is one more row than the shelf has.
        import_pantry(other, out + out.splitlines()[-1])
        self.assertEqual(Lot.objects.of(other).count(), 2)

    def test_one_bad_row_changes_nothing_and_is_named(self) -> None:
        text = self.file(self.lot(), self.lot("moon_dust"), self.lot(amount="-5"), self.lot())
        upload = {"file": SimpleUploadedFile("p.csv", text.encode())}
        page = self.client.post("/pantry/import/", upload)
        self.assertContains(page, "2 rows can’t be read")
        self.assertContains(page, "moon_dust")
        self.client.post("/pantry/import/", {"text": text, "import": "yes"})
        outcomes = import_pantry(self.user, text)
        self.assertEqual([o.row for o in outcomes if o.is_wrong], [3, 4])
        self.assertFalse(Lot.objects.exists())

    def test_looking_over_changes_nothing_and_agreeing_imports(self) -> None:
        text = self.file(
            self.row(what="material", material="w", name="Reed wax", group="wax", behaves_like="soy_wax"),
            self.row(what="lot", material="w", amount_g="50", left_g="20", bought_on="2026-05-01"),
            self.lot("Olive oil"),
        )
        self.assertTrue(all(not o.is_wrong for o in preview(self.user, text)))
        self.assertFalse(Lot.objects.exists())
        self.assertRedirects(
            self.client.post("/pantry/import/", {"text": text, "import": "yes"}), "/pantry/"
        )
        lots = {lot.material: services.balance(lot) for lot in Lot.objects.all()}
        self.assertEqual(lots, {"my_reed_wax": 20, "olive_oil": 100})

    def test_files_that_are_none(self) -> None:
        for text in ("", "what\nlot", "a,b\n1,2", self.file(), self.file("lot,olive_oil")):
            page = self.client.post("/pantry/import/", {"text": text})
            self.assertContains(page, 'role="alert"')
        # A column that is not there is an empty cell in every row, whichever it is.
        rows = list(csv.DictReader(io.StringIO(self.file(self.lot()))))
        for gone in rows[0].keys() - {"what", "material"}:
            out = io.StringIO()
            writer = csv.DictWriter(out, [name for name in rows[0] if name != gone], extrasaction="ignore")
            writer.writeheader()
            writer.writerows(rows)
            outcomes = preview(self.user, out.getvalue())
            is_needed = gone in ("amount_g", "bought_on")
            self.assertEqual([o.is_wrong for o in outcomes], [is_needed], (gone, outcomes))
        binary = {"file": SimpleUploadedFile("p.csv", b"\xff\xfe\x00")}
        self.assertContains(self.client.post("/pantry/import/", binary), "UTF-8")

    def test_five_thousand_rows_in_seconds(self) -> None:
        text = self.file(*[self.lot(amount=str(1 + n % 90)) for n in range(5000)])
        start = time.perf_counter()
        import_pantry(self.user, text)
        self.assertLess(time.perf_counter() - start, 20.0)
        self.assertEqual(Lot.objects.count(), 5000)

    def test_a_spreadsheet_does_not_run_what_was_typed(self) -> None:
        services.buy_lot(self.user, material="olive_oil", amount_g=Decimal(1), bought_on=DAY, note="=1+1")
        self.assertIn("'=1+1", export_pantry(self.user, DAY))
