"""Each caution has a case that raises it and a near miss that does not."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from calmtin.core.cautions.case import Case
from calmtin.core.cautions.ceilings import drops_of, fit_factor, fitted_scents, phototoxic_sum
from calmtin.core.cautions.rules import RULES, all_cautions
from calmtin.core.custom_material import own_material
from calmtin.core.data.loader import ceilings, drops_per_ml, kinds, library, scent_facts
from calmtin.core.data.marked import as_marked, marked
from calmtin.core.engine.blend import blend
from calmtin.core.engine.firmness import set_point_c
from calmtin.core.messages import notation_of
from calmtin.core.notation import Notation
from calmtin.core.process.grain import grain_risk

SHELF = library()
FRAGRANCE = own_material(
    SHELF["lavender"], slug="my_fragrance", name="Reed fragrance", group="scent", limit_pct=0.8
)


def case(audience: str = "adult_body_leave_on", cooling: str = "rest_then_chill", **facts: object) -> Case:
    """Return a case; keywords that are slugs are percents, the rest replaces the usual facts."""
    lines = [(SHELF[slug], float(p)) for slug, p in facts.items() if slug in SHELF]
    lines += facts.pop("extra", [])
    blended = blend(lines)
    set_c = set_point_c(blended)
    usual = {
        "name": "Thole pin salve",
        "kind": kinds()["firm_salve"],
        "sees_sun": True,
        "batch_g": Decimal(500),
        "scale_step_g": Decimal("0.1"),
    }
    usual |= {key: value for key, value in facts.items() if key not in SHELF}
    return Case(
        lines=lines,
        ceiling=ceilings()[audience],
        scents=scent_facts(),
        set_c=set_c,
        grain=grain_risk(blended, cooling),
        **usual,
    )


# rule key, what raises it, and what only nearly does.
PAIRS = [
    ("total", case(olive_oil=80, beeswax_yellow=20.05), case(olive_oil=80, beeswax_yellow=20.005)),
    ("too_much", case(olive_oil=95.4, tocopherols_50=4.6), case(olive_oil=98.6, tocopherols_50=1.4)),
    ("too_much", case(olive_oil=60, arrowroot=40), case(olive_oil=64, arrowroot=36)),
    (
        "slips",
        case(olive_oil=66, beeswax_white=5, castor_oil=29, kind=kinds()["gloss"]),
        case(olive_oil=65, beeswax_white=5, castor_oil=30, kind=kinds()["gloss"]),
    ),
    ("wet", case(olive_oil=99, honey=1), case(olive_oil=99, castor_oil=1)),
    ("scent_total", case(olive_oil=96.9, lavender=3.1), case(olive_oil=97, lavender=3)),
    (
        "scent_total",
        case("adult_lips", olive_oil=98.9, lavender=1.1),
        case("adult_lips", olive_oil=99, lavender=1),
    ),
    (
        "scent_total",
        case("infant_under_3_months", olive_oil=99.9, lavender=0.1),
        case("infant_under_3_months", olive_oil=100),
    ),
    ("scent_limit", case(olive_oil=99.4, clove_bud=0.6), case(olive_oil=99.5, clove_bud=0.5)),
    ("scent_unknown", case(olive_oil=99.5, vetiver=0.5), case(olive_oil=99.5, patchouli=0.5)),
    (
        "phototoxic",
        case(olive_oil=98.7, bergamot=0.3, lemon_expressed=1.0),
        case(olive_oil=98.85, bergamot=0.2, lemon_expressed=0.95),
    ),
    ("phototoxic", case(olive_oil=99.5, bergamot=0.5), case(olive_oil=99.5, bergamot=0.5, sees_sun=False)),
    ("phototoxic", case(olive_oil=99.5, bergamot=0.5), case(olive_oil=99.5, bergamot_fcf=0.5)),
    (
        "lips",
        case("adult_lips", olive_oil=99.5, tea_tree=0.5),
        case("adult_lips", olive_oil=99.5, peppermint=0.5),
    ),
    ("lips", case("adult_lips", olive_oil=99.5, wintergreen=0.5), case(olive_oil=99.5, wintergreen=0.5)),
    (
        "age",
        case("child_2_to_6_years", olive_oil=99.5, peppermint=0.5),
        case("child_2_to_6_years", olive_oil=99.5, lavender=0.5),
    ),
    (
        "pregnancy",
        case("pregnancy", olive_oil=99.5, myrrh=0.5),
        case("pregnancy", olive_oil=99.5, lavender=0.5),
    ),
    ("heat", case(olive_oil=70, beeswax_yellow=20, rosehip_oil=10), case(olive_oil=80, beeswax_yellow=20)),
    (
        "scent_heat",
        case(olive_oil=84, carnauba_wax=15, lavender=1),
        case(olive_oil=84, beeswax_yellow=15, lavender=1),
    ),
    ("colour", case(olive_oil=99, beetroot_powder=1), case(olive_oil=99, mica=1)),
    (
        "rancid",
        case(olive_oil=90, grapeseed_oil=10),
        case(olive_oil=89.5, grapeseed_oil=10, tocopherols_50=0.5),
    ),
    (
        "rancid",
        case(olive_oil=89.5, grapeseed_oil=10, tocopheryl_acetate=0.5),
        case(olive_oil=91, grapeseed_oil=9),
    ),
    (
        "grain",
        case(cooling="slow_bench", shea_refined=70, olive_oil=30),
        case(shea_refined=30, olive_oil=70),
    ),
    ("claim", case(name="Eczema rescue", olive_oil=100), case(name="Secure grip balm", olive_oil=100)),
    (
        "claim",
        case(name="Healing balm SPF 15", olive_oil=100),
        case(name="Heald's headland balm", olive_oil=100),
    ),
    (
        "claim",
        case(notes="Cures eczema, says my aunt", olive_oil=100),
        case(notes="Secure lid; heels in the stretcher", olive_oil=100),
    ),
    (
        "own_limit",
        case(extra=[(FRAGRANCE, 0.81)], olive_oil=99.19),
        case(extra=[(FRAGRANCE, 0.8)], olive_oil=99.2),
    ),
    (
        "scent_unknown",
        case(extra=[(replace(FRAGRANCE, limit_pct=None), 0.5)], olive_oil=99.5),
        case(extra=[(FRAGRANCE, 0.5)], olive_oil=99.5),
    ),
    (
        "heat",
        case(olive_oil=49.5, carnauba_wax=50, tocopherols_50=0.5),
        case(olive_oil=79.5, beeswax_yellow=20, tocopherols_50=0.5),
    ),
    ("summer", case(coconut_rbd=5, olive_oil=95), case(coconut_rbd=4.9, olive_oil=95.1)),
    ("too_small", case(olive_oil=99.9, lavender=0.1), case(olive_oil=99.8, lavender=0.2)),
    ("allergens", case(sweet_almond_oil=100), case(olive_oil=95, colloidal_oatmeal=5)),
    (
        "cross_contact",
        case(olive_oil=95, colloidal_oatmeal=5),
        case(olive_oil=95, corn_starch=5),
    ),
]


class Cautions(TestCase):
    def test_each_is_raised_and_its_near_miss_is_not(self) -> None:
        for key, raised, near in PAIRS:
            with self.subTest(key):
                found = [c for c in all_cautions(raised) if c.key == key]
                self.assertTrue(found)
                for caution in found:
                    self.assertTrue(caution.title and caution.words and caution.instead and caution.rule)
                self.assertNotIn(key, [c.key for c in all_cautions(near)])

    def test_a_closed_pour_keeps_each_for_every_reader(self) -> None:
        abroad = Notation(decimal_comma=True, scale_unit="oz")
        for key, raised, _ in PAIRS:
            for words in (w for c in all_cautions(raised) for w in (c.title, c.words, c.instead)):
                kept = as_marked(words)
                with self.subTest(key), notation_of(lambda: abroad):
                    self.assertNotIn("{", kept)
                    self.assertEqual(str(marked(kept)), str(words))

    def test_every_rule_is_in_the_pairs(self) -> None:
        raised = {c.key for _, bad, _ in PAIRS for c in all_cautions(bad)}
        self.assertLessEqual({key for key, _, _ in PAIRS}, raised)
        self.assertGreaterEqual(len({key for key, _, _ in PAIRS}), len(RULES))

    def test_worst_first(self) -> None:
        levels = [
            c.level
            for c in all_cautions(case(sweet_almond_oil=90, honey=5, grapeseed_oil=10, beetroot_powder=1))
        ]
        order = ["stop", "think", "note"]
        self.assertEqual(levels, sorted(levels, key=order.index))


class Scent(TestCase):
    def test_made_to_fit_it_fits(self) -> None:
        lines = [
            (SHELF["olive_oil"], 94.0),
            (SHELF["bergamot"], 1.0),
            (SHELF["clove_bud"], 2.0),
            (SHELF["lavender"], 3.0),
        ]
        ceiling = ceilings()["adult_body_leave_on"]
        # Clove bud comes to its own 0.5 % and bergamot to 0.4 %; then all 3.9 % to the audience's 3 %.
        fitted = fitted_scents(lines, scent_facts(), ceiling, sees_sun=True)
        self.assertEqual([round(p, 6) for p in fitted], [94.0, 0.307692, 0.384615, 2.307692])
        scaled = [(m, p) for (m, _), p in zip(lines, fitted, strict=True)]
        self.assertLessEqual(phototoxic_sum(scaled, scent_facts()), 1.0 + 1e-9)
        self.assertAlmostEqual(fit_factor(scaled, scent_facts(), ceiling, sees_sun=True), 1.0)
        # Out of the sun only the one that is over its own limit moves, as long as the sum holds.
        few = [(SHELF["olive_oil"], 97.0), (SHELF["clove_bud"], 1.0), (SHELF["lavender"], 2.0)]
        self.assertEqual(fitted_scents(few, scent_facts(), ceiling, sees_sun=False), [97.0, 0.5, 2.0])

    def test_it_comes_to_the_ceiling_and_not_below(self) -> None:
        lines = [(SHELF["olive_oil"], 95.0), (SHELF["lavender"], 5.0)]
        for audience, ceiling in ceilings().items():
            wanted = ceiling.total_max_pct
            fitted = fitted_scents(lines, scent_facts(), ceilings()[audience], sees_sun=True)
            self.assertAlmostEqual(fitted[1], wanted)

    def test_drops(self) -> None:
        usual, fewest, most = drops_of(1.0, SHELF["lavender"].density_solid, drops_per_ml()["lavender"])
        self.assertAlmostEqual(usual, 20 / 0.885)
        self.assertEqual((fewest, most), (usual, 2 * usual))
