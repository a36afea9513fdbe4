"""Drafts that stay at 100, versions that freeze, and bad input that changes nothing."""

from __future__ import annotations

import re
from decimal import Decimal
from uuid import uuid4

from django.core.exceptions import PermissionDenied
from django.test import TestCase

from calmtin.core.composition import MOST_LINES
from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError, DoesNotAddUp, UnknownMaterial
from calmtin.formulas import services
from calmtin.formulas.models import Formula, Line, Version
from tests.bench_data import Reads, draft, maker, pour_of, salve


class WithSalve(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.formula = salve(self.user)
        self.version = draft(self.formula)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.client.defaults["HTTP_HX_REQUEST"] = "true"

    def line(self, slug: str, version: Version | None = None) -> Line:
        return (version or self.version).lines.get(material=slug)

    def percents(self, version: Version | None = None) -> dict[str, Decimal]:
        return {line.material: line.percent for line in (version or self.version).lines.all()}

    def post(self, path: str, **data: object) -> object:
        self.version.refresh_from_db()
        address = f"/formulas/{self.formula.pk}/v/{self.version.number}/{path}"
        return self.client.post(address, {"seen": self.version.revision, **data})


class Drafts(WithSalve):
    def test_balancing_line_holds_100(self) -> None:
        self.assertTrue(self.line("olive_oil").is_balancing)
        services.set_percent(
            self.user, self.version, key=self.line("beeswax_yellow").key, percent=Decimal("21.125"), seen=0
        )
        self.assertEqual(self.line("olive_oil").percent, Decimal("65.875"))
        self.assertEqual(sum(self.percents().values()), Decimal(100))

    def test_more_than_100_changes_nothing(self) -> None:
        before = self.percents()
        with self.assertRaises(DoesNotAddUp):
            services.set_percent(
                self.user, self.version, key=self.line("beeswax_yellow").key, percent=Decimal(90), seen=0
            )
        self.version.refresh_from_db()
        self.assertEqual((self.percents(), self.version.revision), (before, 0))

    def test_removing_the_balancing_line_passes_it_on(self) -> None:
        services.remove_line(self.user, self.version, key=self.line("olive_oil").key, seen=0)
        self.assertEqual(sum(self.percents().values()), Decimal(100))
        self.assertEqual(self.version.lines.filter(is_balancing=True).count(), 1)

    def test_down_to_nothing_and_up_again(self) -> None:
        version = self.version
        for line in list(version.lines.all()):
            version.refresh_from_db()
            services.remove_line(self.user, version, key=line.key, seen=version.revision)
        self.assertContains(self.post("lines/", material="shea_refined"), "Shea butter, refined")
        self.assertEqual(self.percents(), {"shea_refined": Decimal(100)})

    def test_stale_tab_is_refused(self) -> None:
        wax = self.line("beeswax_yellow")
        services.set_percent(self.user, self.version, key=wax.key, percent=Decimal(20), seen=0)
        with self.assertRaises(services.EditedElsewhere):
            services.set_percent(self.user, self.version, key=wax.key, percent=Decimal(30), seen=0)
        self.assertEqual(self.line("beeswax_yellow").percent, Decimal(20))

    def test_unknown_and_double_materials(self) -> None:
        for slug, error in (("moon_dust", UnknownMaterial), ("olive_oil", CalmTinError)):
            with self.assertRaises(error):
                services.add_line(self.user, self.version, slug=slug, percent=Decimal(1), seen=0)
        self.assertEqual(self.version.lines.count(), 4)

    def test_one_form_sent_twice_is_one_formula(self) -> None:
        key = str(uuid4())
        for _ in range(2):
            self.client.post(
                "/formulas/new/", {"name": "Rigger balm", "kind": "firm_salve", "request_key": key}
            )
        self.assertEqual(Formula.objects.filter(name="Rigger balm").count(), 1)


class Poured(WithSalve):
    def test_editing_a_poured_version_starts_the_next(self) -> None:
        pour_of(self.user, self.version)
        before = self.percents()
        answer = self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent="25")
        self.assertEqual(answer.headers["HX-Push-Url"], f"/formulas/{self.formula.pk}/v/2/")
        self.assertEqual(self.percents(), before)
        second = draft(self.formula)
        self.assertEqual((second.number, second.parent_id), (2, self.version.pk))
        self.assertEqual(self.percents(second)["beeswax_yellow"], Decimal(25))
        self.assertEqual(self.line("beeswax_yellow", second).key, self.line("beeswax_yellow").key)

    def test_a_refused_edit_starts_no_version(self) -> None:
        pour_of(self.user, self.version)
        self.assertContains(
            self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent="99"), "That makes"
        )
        self.assertEqual(self.formula.versions.count(), 1)

    def test_rows_of_a_poured_version_cannot_be_changed(self) -> None:
        pour_of(self.user, self.version)
        line = self.line("olive_oil")
        line.percent = Decimal(1)
        for attempt in (
            line.save,
            line.delete,
            self.version.lines.all().delete,
            lambda: self.version.lines.update(percent=1),
            lambda: Line.objects.create(version=self.version, position=9, material="argan_oil", percent=1),
        ):
            with self.assertRaises(PermissionDenied):
                attempt()
        self.assertEqual(self.percents()["olive_oil"], Decimal(69))


class PutAway(WithSalve):
    def test_out_of_the_lists_and_back_with_everything(self) -> None:
        pour = pour_of(self.user, self.version, done=True)
        self.assertContains(self.client.get("/"), self.formula.name)
        self.assertRedirects(self.client.post(f"/formulas/{self.formula.pk}/archive/"), "/formulas/")
        self.assertEqual([view[0] for view in self.client.get("/formulas/").context["formulas"]], [])
        self.assertContains(self.client.get("/formulas/"), "Archived (1)")
        self.assertEqual(list(self.client.get("/").context["formulas"]), [])
        self.assertEqual(self.client.get(f"/pours/{pour.pk}/").status_code, 200)
        self.assertContains(self.client.get(f"/formulas/{self.formula.pk}/details/"), "Restore")
        self.client.post(f"/formulas/{self.formula.pk}/restore/")
        self.assertEqual(len(self.client.get("/formulas/").context["formulas"]), 1)


class BadInput(WithSalve):
    def test_after_a_refusal_the_next_edit_is_taken(self) -> None:
        """A refused edit must not leave the page with a revision that was never kept."""
        wax = self.line("beeswax_yellow").key
        nothing = {f"amount_{line.key}": "0" for line in self.version.lines.all()}
        for path, data in (
            ("lines/", {"material": "beeswax_yellow", "percent": "3"}),
            ("lines/", {"material": "beeswax_yellow", "percent": "+3"}),
            (f"lines/{wax}/percent/", {"percent": "400"}),
            ("amounts/", {"unit": "g", "was": "g"} | nothing),
        ):
            refused = self.post(path, **data)
            self.assertEqual(refused.status_code, 200, path)
            seen = int(re.findall(r'name="seen"\s+value="(\d+)"', refused.content.decode())[0])
            self.version.refresh_from_db()
            self.assertEqual(seen, self.version.revision, path)

    def test_percent(self) -> None:
        wax = self.line("beeswax_yellow")
        before = self.percents()
        for typed, words in {
            "abc": "is not a number",
            "-3": "cannot be below 0",
            "1e9": "is not a number",
            "1000000000": "cannot be above 100",
            "": "is empty",
            "95": "Take 8 off",
        }.items():
            answer = self.post(f"lines/{wax.key}/percent/", percent=typed)
            self.assertContains(answer, words)
            self.assertContains(answer, f'id="wrong-{wax.key}"')
            self.assertContains(answer, f'value="{typed}"')
            self.assertEqual(self.percents(), before, typed)

    def test_comma_is_a_decimal_sign(self) -> None:
        self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent="17,5")
        self.assertEqual(self.percents()["beeswax_yellow"], Decimal("17.5"))

    def test_a_material_by_any_of_its_names(self) -> None:
        for words, slug in {
            "Candelilla wax": "candelilla_wax",
            "cera alba": "beeswax_white",
            "Butyrospermum parkii": None,
            "argan": "argan_oil",
            "butter": None,
            "moon dust": None,
        }.items():
            answer = self.post("lines/", material=words, percent="1")
            if slug:
                self.assertIn(slug, self.percents(), words)
            else:
                self.assertContains(answer, f'value="{words}"')
                self.assertContains(answer, 'id="wrong-add"')
        self.assertContains(self.post("lines/", material="butter"), "may be")
        self.assertContains(self.post("lines/", material="moon dust"), "There is no material called")
        self.assertEqual(self.version.lines.count(), 7)

    def test_line_41(self) -> None:
        spare = [slug for slug, m in library().items() if m.group in ("oil", "butter", "scent")]
        for slug in [s for s in spare if s not in self.percents()][: MOST_LINES - 4]:
            self.version.refresh_from_db()
            services.add_line(
                self.user, self.version, slug=slug, percent=Decimal("0.1"), seen=self.version.revision
            )
        self.assertEqual(self.version.lines.count(), MOST_LINES)
        answer = self.post("lines/", material="carnauba_wax", percent="1")
        self.assertContains(answer, "can have up to 40 lines")
        self.assertContains(answer, 'value="carnauba_wax" aria-invalid="true"')
        self.assertEqual(self.version.lines.count(), MOST_LINES)

    def test_batch_and_name(self) -> None:
        for typed in ("0", "heavy", "1e9", "60000"):
            answer = self.post("batch/", batch_g=typed)
            self.assertContains(answer, 'id="wrong-batch"')
            self.assertContains(answer, f'value="{typed}"')
        self.version.refresh_from_db()
        self.assertEqual(self.version.batch_g, Decimal(100))
        address = f"/formulas/{self.formula.pk}/details/"
        nameless = self.client.post(address, {"name": " ", "kind": "lip_balm"})
        self.assertContains(nameless, "Give the formula a name")
        self.assertContains(nameless, 'value="lip_balm" class="" id="id_kind_5" checked')
        for name in ("Lip balm", "Lip balm 2"):  # a new one that was given none is called by its kind
            self.client.post("/formulas/new/", {"name": " ", "kind": "lip_balm"})
            self.assertEqual(Formula.objects.latest("pk").name, name)

    def test_forged_requests(self) -> None:
        for seen in ("", "x", "-1", "99999"):
            address = f"/formulas/{self.formula.pk}/v/1/lines/{self.line('olive_oil').key}/remove/"
            self.assertContains(self.client.post(address, {"seen": seen}), "another tab")
        self.assertContains(self.post("lines/nosuchline/remove/"), "no longer in the formula")
        self.assertEqual(self.version.lines.count(), 4)


class Process(WithSalve):
    def test_whipping_and_cooling_belong_to_the_version(self) -> None:
        butter = salve(
            self.user, "Rowlock whip", [("shea_refined", Decimal(70)), ("olive_oil", Decimal(30))]
        )
        self.assertEqual(draft(butter).overrun_pct, 0)
        whipped = services.start_formula(
            self.user, name="Whip", kind="whipped_butter", lines=[("shea_refined", Decimal(100))]
        )
        self.assertEqual(draft(whipped).overrun_pct, 50)
        page = self.client.get(f"/formulas/{whipped.pk}/")
        self.assertContains(page, "before whipping")
        self.post("process/", cooling="slow_bench", overrun="50")
        self.version.refresh_from_db()
        self.assertEqual((self.version.cooling, self.version.overrun_pct), ("slow_bench", 50))
        pour_of(self.user, self.version)
        self.post("process/", cooling="chill_at_once", overrun="0")
        self.version.refresh_from_db()
        self.assertEqual(self.version.cooling, "slow_bench")
        self.assertEqual(draft(self.formula).cooling, "chill_at_once")

    def test_bad_overrun(self) -> None:
        answer = self.post("process/", cooling="slow_bench", overrun="plenty")
        self.assertContains(answer, 'id="wrong-process"')
        self.assertContains(answer, 'value="plenty"')

    def test_reasons_add_up_and_stay_open(self) -> None:
        page = self.client.get(f"/formulas/{self.formula.pk}/?why=skin")
        why = page.context["why"]
        self.assertEqual(why.at.name, "skin")
        self.assertAlmostEqual(why.total_rungs, why.at.rung, places=9)
        self.assertContains(page, "Coconut oil, refined</strong> adds no firmness here")
        edited = self.post(f"lines/{self.line('beeswax_yellow').key}/percent/", percent="20", why="skin")
        self.assertEqual(edited.context["why"].at.name, "skin")
        odd = self.client.get(f"/formulas/{self.formula.pk}/?why=%3Cb%3E")
        self.assertEqual(odd.context["why"].at.name, "room")
