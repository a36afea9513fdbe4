"""A flare-up is traced to its cause, one ingredient at a time, and formulas say so until it is found."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from calmtin.checks.models import PatchTest, Reaction
from calmtin.formulas.services import add_line
from calmtin.pours import services
from calmtin.pours.models import Check
from tests.bench_data import draft, pour_of, salve
from tests.checks.test_checks import WithSetPour


class Traced(WithSetPour):
    def setUp(self) -> None:
        super().setUp()
        calm = pour_of(self.user, self.version, done=True)
        services.record_check(
            self.user, calm, temp_c=21.0, felt_rung=None, signs={"flare_up": "0"}, who="Bow seat"
        )
        version = services.next_from_weights(self.user, self.pour)
        for slug, percent in (("peppermint", Decimal("0.5")), ("lanolin", Decimal(4))):
            version = add_line(self.user, version, slug=slug, percent=percent, seen=version.revision)
        self.pour = pour_of(self.user, version, done=True)
        self.look(sign_flare_up="2", who="Bow seat")
        self.flared = Check.objects.latest("pk")
        answer = self.client.post(f"/checks/{self.flared.pk}/trace/")
        self.reaction = Reaction.objects.get()
        self.page = f"/reactions/{self.reaction.pk}/"
        self.assertRedirects(answer, self.page)

    def patch(self, material: str, result: str, **typed: Any) -> Any:
        data = {"material": material, "result": result, "tried_on": f"{timezone.localdate():%Y-%m-%d}"}
        return self.client.post(self.page, {**data, **typed})

    def cautions(self, name: str, slug: str) -> list[str]:
        version = draft(salve(self.user, name))
        add_line(self.user, version, slug=slug, percent=Decimal(1), seen=version.revision)
        view = self.client.get(f"/formulas/{version.formula_id}/").context["view"]
        return [str(c.caution.title) for c in view.cautions if c.caution.key == "suspect"]

    def test_only_what_is_new_to_that_person_is_suspected_scents_first(self) -> None:
        self.assertEqual(self.reaction.suspects, ["peppermint", "lanolin"])
        page = self.client.get(self.page)
        self.assertContains(page, "of peppermint into")
        self.assertContains(page, f"Next from {timezone.localdate() + timedelta(days=7):%-d %B}")
        # Asked again, it is the same plan.
        self.client.post(f"/checks/{self.flared.pk}/trace/")
        self.assertEqual(Reaction.objects.count(), 1)

    def test_until_it_is_found_every_formula_with_a_suspect_says_so(self) -> None:
        self.assertEqual(self.cautions("Mint balm", "peppermint"), ["Peppermint is a suspect"])
        self.assertEqual(self.cautions("Plain balm", "castor_oil"), [])
        self.patch("peppermint", "calm")
        self.assertEqual(self.cautions("More mint", "peppermint"), [])
        self.assertEqual(self.cautions("Wool balm", "lanolin"), ["Lanolin, anhydrous is a suspect"])
        self.patch("lanolin", "reacted", notes="red after an hour")
        self.assertContains(self.client.get(self.page), "A patch of it alone reacted")
        self.assertEqual(
            self.cautions("Wool balm again", "lanolin"), ["Bow seat reacts to lanolin, anhydrous"]
        )
        self.assertEqual([patch.notes for patch in PatchTest.objects.all()], ["", "red after an hour"])

    def test_when_none_reacts_alone_it_says_what_else_it_may_be(self) -> None:
        for slug in self.reaction.suspects:
            self.patch(slug, "calm")
        self.assertContains(self.client.get(self.page), "None of them reacted alone.")
        self.assertEqual(self.cautions("Wool balm", "lanolin"), [])

    def test_what_cannot_be_is_refused_and_kept_on_the_page(self) -> None:
        self.assertContains(self.patch("olive_oil", "calm"), "Choose one of the suspected ingredients.")
        later = f"{timezone.localdate() + timedelta(days=2):%Y-%m-%d}"
        answer = self.patch("peppermint", "calm", tried_on=later, notes="kept note")
        self.assertContains(answer, "That day is still to come.")
        self.assertContains(answer, "kept note")
        self.assertFalse(PatchTest.objects.exists())
        calm = Check.objects.exclude(pk=self.flared.pk).latest("pk")
        self.assertEqual(self.client.post(f"/checks/{calm.pk}/trace/").status_code, 400)
