"""Whatever copies a formula carries every field of it; a new field is carried or named here."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from django.db.models import Model
from django.test import TestCase

from calmtin.core.measured import Measured
from calmtin.exchange.formats.formula import import_formula, write_formula
from calmtin.formulas import services
from calmtin.formulas.adapters import composition_of
from calmtin.formulas.models import Finish, Formula, Line, Version
from calmtin.pantry.adapters import shelf_for
from tests.bench_data import draft, maker, pour_of

OF_FORMULA = {"name", "kind", "audience", "sees_sun", "notes"}
OF_VERSION = {"batch_g", "overrun_pct", "cooling"}
OF_LINE = {
    "position", "material", "percent", "is_balancing", "is_locked", "on_top_pct", "typed",
    "typed_g", "low_g", "high_g", "alcohol_pct", "alcohol_typed",
}  # fmt: skip
# What belongs to the one row alone, and never to a copy of it.
OWN = {
    Formula: {
        "id",
        "owner",
        "came_from",
        "created_at",
        "touched_at",
        "revision",
        "put_away_at",
        "code",
        "pair",
        "season",
    },
    Version: {
        "id",
        "formula",
        "number",
        "parent",
        "revision",
        "step",
        "started_at",
        "poured_at",
        "first_poured_at",
    },
    Line: {"id", "version", "key"},
}  # fmt: skip


def facts(row: Model, names: set[str]) -> dict[str, Any]:
    return {name: getattr(row, name) for name in sorted(names)}


class CarriesOver(TestCase):
    def setUp(self) -> None:
        self.user = maker()
        self.formula = services.start_formula(
            self.user,
            name="Rigger balm",
            kind="whipped_butter",
            audience="child_6_to_15_years",
            sees_sun=False,
        )
        services.rename(
            self.user, self.formula, name="Rigger balm", kind="whipped_butter",
            audience="child_6_to_15_years", sees_sun=False, notes="For the junior eight.",
        )  # fmt: skip
        version = draft(self.formula)
        for slug, percent in (("olive_oil", "0"), ("shea_refined", "50"), ("alcohol_tincture", "2")):
            version = self.edit(services.add_line, version, slug=slug, percent=Decimal(percent))
        version = self.edit(services.set_batch, version, batch_g=Decimal("237.5"))
        version = self.edit(
            services.add_line,
            version,
            slug="lavender",
            measured=Measured.of("8 drops", 0.36, 0.18, 0.4),
            on_top=True,
        )
        keys = {line.material: line.key for line in version.lines.all()}
        version = self.edit(services.set_lock, version, key=keys["shea_refined"], is_locked=True)
        version = self.edit(
            services.set_strength,
            version,
            key=keys["alcohol_tincture"],
            alcohol_pct=72.5,
            typed="145 proof",
        )
        self.version = self.edit(services.set_process, version, cooling="lumps_left", overrun_pct=65)

    def edit(self, service: Any, version: Version, **values: Any) -> Version:
        version.refresh_from_db()
        return service(self.user, version, seen=version.revision, **values)

    def lines(self, version: Version, names: set[str] = OF_LINE) -> list[dict[str, Any]]:
        return [facts(line, names) for line in version.lines.all()]

    def assert_same(self, made: Version, names: set[str] = OF_LINE) -> None:
        self.version.refresh_from_db()
        self.assertEqual(facts(made, OF_VERSION), facts(self.version, OF_VERSION))
        self.assertEqual(self.lines(made, names), self.lines(self.version, names))

    def test_every_field_is_carried_or_named(self) -> None:
        for model, carried in ((Formula, OF_FORMULA), (Version, OF_VERSION), (Line, OF_LINE)):
            self.assertEqual({field.name for field in model._meta.fields}, carried | OWN[model])

    def test_the_example_has_something_in_every_field(self) -> None:
        for name in OF_LINE:
            default = Line._meta.get_field(name).get_default()
            self.assertTrue(
                any(getattr(li, name) not in (default, 0) for li in self.version.lines.all()), name
            )
        for row, names in ((self.formula, OF_FORMULA), (self.version, OF_VERSION)):
            for name in names:
                self.assertNotEqual(getattr(row, name), type(row)._meta.get_field(name).get_default(), name)

    def test_the_next_version(self) -> None:
        made = services.start_next_version(self.user, self.version)
        self.assert_same(made, OF_LINE | {"key"})
        self.assertEqual((made.number, made.parent), (2, self.version))

    def test_an_edit_of_a_poured_version(self) -> None:
        pour_of(self.user, self.version, acknowledged=True)
        self.version.refresh_from_db()
        key = self.version.lines.get(material="shea_refined").key
        made = services.set_lock(
            self.user, self.version, key=key, is_locked=True, seen=self.version.revision
        )
        self.assertEqual(made.number, 2)
        self.assert_same(made, OF_LINE | {"key"})

    def test_a_copy(self) -> None:
        made = services.branch(self.user, self.version, name="Stroke balm")
        self.assertEqual(facts(made, OF_FORMULA), facts(self.formula, OF_FORMULA) | {"name": "Stroke balm"})
        self.assertEqual(made.came_from, self.version)
        self.assert_same(draft(made))
        keys = {line.key for line in self.version.lines.all()} & {
            line.key for line in draft(made).lines.all()
        }
        self.assertEqual(keys, set())

    def test_a_branch_with_a_finish_has_the_base_and_the_finish(self) -> None:
        finish = Finish.objects.create(formula=self.formula, name="Minty")
        finish.parts.create(material="peppermint", percent=Decimal("0.3"))
        made = services.branch(self.user, self.version, name="Minty balm", finish=finish)
        self.assertEqual(facts(made, OF_FORMULA), facts(self.formula, OF_FORMULA) | {"name": "Minty balm"})
        self.assertEqual(facts(draft(made), OF_VERSION), facts(self.version, OF_VERSION))
        base = {li.material: li for li in self.version.lines.all() if not li.is_on_top}
        copied = {li.material: li for li in draft(made).lines.all()}
        self.assertEqual(set(copied), {*base, "peppermint"})
        self.assertEqual(copied["peppermint"].on_top_pct, Decimal("0.3"))
        for slug, line in base.items():
            for name in OF_LINE - {"percent", "position"}:
                self.assertEqual(getattr(copied[slug], name), getattr(line, name), (slug, name))
        self.assertEqual(composition_of(draft(made), shelf_for(self.user)).total, 100)

    def test_undo_and_redo(self) -> None:
        before = self.lines(self.version, OF_LINE | {"key"}), facts(self.version, OF_VERSION)
        key = self.version.lines.get(material="alcohol_tincture").key
        changed = self.edit(services.set_percent, self.version, key=key, percent=Decimal(5))
        changed = self.edit(services.set_process, changed, cooling="slow_bench", overrun_pct=0)
        after = self.lines(changed, OF_LINE | {"key"}), facts(changed, OF_VERSION)
        for _ in range(2):
            changed = self.edit(services.undo, changed)
        self.assertEqual((self.lines(changed, OF_LINE | {"key"}), facts(changed, OF_VERSION)), before)
        for _ in range(2):
            changed = self.edit(services.redo, changed)
        self.assertEqual((self.lines(changed, OF_LINE | {"key"}), facts(changed, OF_VERSION)), after)

    def test_a_file_out_and_in(self) -> None:
        made = import_formula(self.user, write_formula(self.version))
        self.assertEqual(facts(made, OF_FORMULA), facts(self.formula, OF_FORMULA))
        self.assert_same(draft(made), OF_LINE - {"position", "typed", "alcohol_typed"})

    def test_a_pour_of_it(self) -> None:
        pour = pour_of(self.user, self.version, acknowledged=True)
        lines = {line.key: line for line in self.version.lines.all()}
        weighed = {line.key: (line.material, line.percent) for line in pour.lines.all()}
        self.assertEqual(weighed, {key: (li.material, li.percent) for key, li in lines.items()})

    def test_a_change_of_the_amount_drops_the_words_beside_it(self) -> None:
        line = self.version.lines.get(material="lavender")
        self.assertEqual(line.typed, "8 drops")
        made = self.edit(services.set_percent, self.version, key=line.key, percent=Decimal("0.2"))
        self.assertEqual(made.lines.get(key=line.key).typed, "")

    def test_a_proposal_drops_the_words_where_it_moves_an_amount_or_changes_the_material(self) -> None:
        keys = {line.material: line.key for line in self.version.lines.all()}
        self.edit(services.set_lock, self.version, key=keys["shea_refined"], is_locked=False)
        version = self.edit(
            services.set_weight,
            self.version,
            key=keys["alcohol_tincture"],
            measured=Measured.of("5 ml", 4.6, 4.5, 4.7),
        )
        kept = {line.material: line.percent for line in version.lines.all()}
        rows = [(key, slug, kept[slug]) for slug, key in keys.items()]
        same = self.edit(services.apply_lines, version, percents=rows)
        self.assertEqual(same.lines.get(key=keys["alcohol_tincture"]).typed, "5 ml")
        other = [(k, "peppermint" if s == "lavender" else s, p) for k, s, p in rows]
        swapped = self.edit(services.apply_lines, same, percents=other)
        self.assertEqual(swapped.lines.get(key=keys["lavender"]).typed, "")
        half = kept["alcohol_tincture"] / 2
        moved = {"alcohol_tincture": half, "olive_oil": kept["olive_oil"] + half}
        rows = [(k, s, moved.get(s, p)) for k, s, p in other]
        changed = self.edit(services.apply_lines, swapped, percents=rows)
        self.assertEqual(changed.lines.get(key=keys["alcohol_tincture"]).typed, "")
