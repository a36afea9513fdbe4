"""A draft that nothing was poured from can be deleted; a strength stays as it was written."""

from __future__ import annotations

from decimal import Decimal

from calmtin.accounts.models import Bench
from calmtin.formulas import services
from calmtin.formulas.models import Formula, Version
from tests.bench_data import draft, pour_of
from tests.formulas.test_formulas import WithSalve


class Drafts(WithSalve):
    def delete(self, number: int, **sent: str) -> object:
        version = Version.objects.get(formula=self.formula, number=number)
        data = {"seen": version.revision, "sure": "yes"} | sent
        return self.client.post(f"/formulas/{self.formula.pk}/v/{number}/delete/", data)

    def test_the_only_draft_is_the_formula(self) -> None:
        self.assertContains(self.client.get(f"/formulas/{self.formula.pk}/details/"), "Delete the formula")
        unsure = self.client.post(f"/formulas/{self.formula.pk}/v/1/delete/", {"seen": 0})
        self.assertContains(unsure, "Tick the box to confirm")
        self.assertContains(self.delete(1, seen="7"), "changed in another tab")
        self.assertRedirects(self.delete(1), "/formulas/")
        self.assertFalse(Formula.objects.exists())

    def test_a_later_draft_alone_goes_and_a_poured_version_stays(self) -> None:
        pour_of(self.user, self.version)
        self.version.refresh_from_db()
        services.start_next_version(self.user, self.version)
        self.assertContains(self.delete(1), "can’t be deleted")
        self.assertRedirects(self.delete(2), f"/formulas/{self.formula.pk}/")
        self.assertEqual([v.number for v in self.formula.versions.all()], [1])
        self.assertNotContains(self.client.get(f"/formulas/{self.formula.pk}/details/"), "gone for good")

    def test_what_others_were_copied_from_stays(self) -> None:
        services.branch(self.user, self.version, name="Stroke salve")
        self.assertContains(self.delete(1), "Another formula was copied from this one")

    def test_a_strength_in_proof_is_kept_as_it_was_written(self) -> None:
        version = services.add_line(
            self.user, self.version, slug="alcohol_tincture", percent=Decimal(2), seen=0
        )
        key = version.lines.get(material="alcohol_tincture").key
        page = self.client.get(f"/formulas/{self.formula.pk}/")
        # Choosing proof sends nothing by itself: the number stays until it is kept.
        self.assertNotRegex(page.content.decode(), r'class="strength"[^>]*hx-trigger')
        self.post(f"lines/{key}/strength/", strength="151", scale="proof")
        line = draft(self.formula).lines.get(key=key)
        self.assertEqual((line.alcohol_pct, line.alcohol_typed), (75.5, "151 proof"))
        again = self.client.get(f"/formulas/{self.formula.pk}/")
        self.assertRegex(again.content.decode(), r'name="strength"[^>]*\s+value="151"')
        self.assertContains(again, '<option value="proof" selected>')
        wrong = self.post(f"lines/{key}/strength/", strength="230", scale="proof")
        self.assertContains(wrong, "cannot be above 200")
        self.assertContains(wrong, 'value="230"')

    def test_sentences_are_in_the_unit_of_the_bench(self) -> None:
        Bench.objects.filter(user=self.user).update(temperature_unit="F")
        services.add_line(self.user, self.version, slug="lavender", percent=Decimal(1), seen=0)
        version = draft(self.formula)
        wax = version.lines.get(material="beeswax_yellow").key
        services.set_percent(self.user, version, key=wax, percent=Decimal(45), seen=version.revision)
        page = self.client.get(f"/formulas/{self.formula.pk}/?why=room")
        text = page.content.decode()
        self.assertContains(page, "is solid at room temperature and")
        self.assertIn("% at 91 °F", " ".join(text.split()))
        self.assertNotIn("°C", text)
