"""A caution is said wherever the thing happens: in a line, a finish, on the scale, in a file or a paste."""

from __future__ import annotations

import json
from decimal import Decimal

from django.test import TestCase

from calmtin.accounts.queries import bench_of
from calmtin.formulas.models import Formula
from calmtin.formulas.services import add_finish, rename, start_formula
from calmtin.pantry.adapters import shelf_for
from calmtin.pantry.services import add_material
from calmtin.pours.adapters import newest_grams
from calmtin.pours.queries.record import pour_view, pour_with_lines
from calmtin.pours.services import weigh
from tests.bench_data import Reads, draft, maker, pour_of, salve

# Material, a share of the whole that calls for the caution, audience, and words of its title.
CASES = (
    ("cinnamon_bark", "5", "adult_body_leave_on", "above its limit of"),
    ("clove_bud", "2", "adult_body_leave_on", "above its limit of"),
    ("bergamot", "2", "adult_body_leave_on", "Phototoxic"),
    ("lavender", "4", "child_3_to_24_months", "scent, above"),
    ("peppermint", "1", "child_2_to_6_years", "and children"),
    ("honey", "3", "adult_body_leave_on", "brings water"),
    ("beetroot_powder", "2", "adult_lips", "gives specks"),
    ("my_reed_fragrance", "2", "adult_body_leave_on", "above its supplier"),
)
FROM_THE_FIRST_CRUMB = ("honey", "peppermint", "beetroot_powder")


class EveryWayIn(Reads, TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        add_material(
            self.user, name="Reed fragrance", group="scent", behaves_like="almond_wax_blend", limit_pct=0.8
        )

    def for_whom(self, formula: Formula, audience: str) -> Formula:
        return rename(self.user, formula, name=formula.name, kind=formula.kind, audience=audience)

    def lines(self, slug: str, percent: str) -> list[tuple[str, Decimal]]:
        rest = Decimal(100) - Decimal(percent)
        return [("beeswax_yellow", Decimal(20)), ("olive_oil", rest - 20), (slug, Decimal(percent))]

    def test_line(self) -> None:
        for slug, percent, audience, words in CASES:
            made = start_formula(self.user, name="A", kind="firm_salve", lines=self.lines(slug, percent))
            self.for_whom(made, audience)
            with self.subTest(slug):
                self.assertContains(self.client.get(f"/formulas/{made.pk}/"), words)

    def test_finish(self) -> None:
        for slug, percent, audience, words in CASES:
            made = self.for_whom(salve(self.user), audience)
            add_finish(self.user, made, name="scented", parts=[(slug, Decimal(percent) + 1)])
            with self.subTest(slug):
                self.assertContains(self.client.get(f"/formulas/{made.pk}/v/1/finishes/"), words)

    def test_finish_name(self) -> None:
        made = salve(self.user)
        add_finish(self.user, made, name="healing", parts=[])
        self.assertContains(self.client.get(f"/formulas/{made.pk}/v/1/finishes/"), "is a claim")

    def test_on_the_scale(self) -> None:
        """Planned at a crumb, weighed at what calls for it; what was planned right says nothing."""
        for slug, percent, audience, words in CASES:
            made = start_formula(self.user, name="A", kind="firm_salve", lines=self.lines(slug, "0.05"))
            self.for_whom(made, audience)
            pour = pour_of(self.user, draft(made), acknowledged=True)
            for line in pour.lines.all():
                share = Decimal(percent) / 100 if line.material == slug else 0
                grams = (pour.batch_g * share).quantize(Decimal("0.1")) if share else line.planned_g
                weigh(self.user, line, min(grams, max(line.planned_g * 20, Decimal(20))))
            page = self.client.get(f"/pours/{pour.pk}/")
            with self.subTest(slug):
                if slug in FROM_THE_FIRST_CRUMB:
                    self.assertNotContains(page, words)  # the formula said it already
                else:
                    self.assertContains(page, words)
        right = pour_of(self.user, draft(salve(self.user)))
        for line in right.lines.all():
            weigh(self.user, line, line.planned_g)
        view = pour_view(pour_with_lines(self.user, pk=right.pk), shelf_for(self.user), bench_of(self.user))
        self.assertEqual(view.cautions, [])
        self.assertTrue(all(newest_grams(line) is not None for line in right.lines.all()))

    def test_file_and_paste(self) -> None:
        for slug, percent, audience, words in CASES:
            rows = [{"material": s, "percent": float(p)} for s, p in self.lines(slug, percent)]
            file = {"format": "calmtin.formula", "version": 1, "kind": "firm_salve", "audience": audience}
            self.client.post("/formulas/import/", {"text": json.dumps({**file, "lines": rows})})
            made = Formula.objects.order_by("-pk").first()
            with self.subTest(f"{slug} in a file"):
                self.assertContains(self.client.get(f"/formulas/{made.pk}/"), words)
            name = shelf_for(self.user)[slug].name
            text = f"20 g beeswax yellow\n{75 - float(percent):g} g olive oil\n{percent} g {name}"
            settled = {"material_2": slug, "grams_2": percent}
            self.client.post("/formulas/paste/", {"text": text, "name": "P", "make": "yes", **settled})
            made = self.for_whom(Formula.objects.order_by("-pk").first(), audience)
            self.assertEqual(made.name, "P")
            with self.subTest(f"{slug} pasted"):
                self.assertContains(self.client.get(f"/formulas/{made.pk}/"), words)

    def test_an_own_fragrance_is_a_scent_and_hardens_nothing(self) -> None:
        scent = shelf_for(self.user)["my_reed_fragrance"]
        self.assertEqual([c.slug for c, _ in scent.fractions], ["oil"])
        clay = add_material(self.user, name="Reed clay", group="colour", behaves_like="olive_oil")
        self.assertTrue(shelf_for(self.user)[clay.slug].is_filler)
