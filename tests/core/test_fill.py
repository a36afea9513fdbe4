"""Fill plans by hand, and the balance that holds for every one of them."""

from __future__ import annotations

import json
from dataclasses import replace
from decimal import Decimal
from random import Random
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from calmtin.core.data.loader import containers, library
from calmtin.core.errors import CalmTinError
from calmtin.core.process.fill import (
    Filling,
    FillPlan,
    for_containers,
    from_pot,
    melt_of,
    whipped_counts,
    with_batch,
)
from calmtin.core.process.losses import Losses, learned_cling
from calmtin.core.process.scales import Scale, dilution_for, smallest_batch_g, weigh_on
from calmtin.core.process.series import one_pot, own_pots
from calmtin.core.process.tincture import tincture
from calmtin.core.process.uneven import ways_to_fill, whole_pot
from calmtin.exchange.formats.plan import plan

SHELF, SIZES = library(), containers()
SALVE = [(SHELF["beeswax_yellow"], 20.0), (SHELF["olive_oil"], 80.0)]
MELT = melt_of(SALVE, set_point_c=52.0)
STEP = Decimal("0.1")
KITCHEN = Scale("kitchen scale", STEP)
FINE = Scale("fine scale", Decimal("0.01"), Decimal(50))
kinds = st.sampled_from(
    [SIZES[slug] for slug in ("lip_tube_standard", "tin_2oz", "jar_120ml", "mould_30ml")]
)
losses = st.builds(
    Losses,
    cling_g=st.floats(0, 5),
    cling_share=st.floats(0, 0.05),
    test_g=st.floats(0, 2),
    overfill_g=st.floats(0, 5),
    margin_share=st.floats(0, 0.05),
    powder_share=st.floats(0, 0.1),
)
melts = st.sampled_from(
    [
        MELT,
        melt_of([*SALVE, (SHELF["alcohol_tincture"], 10.0)], set_point_c=52.0),
        melt_of([*SALVE, (SHELF["kaolin"], 8.0)], set_point_c=52.0),
        melt_of([(SHELF["shea_refined"], 80.0), (SHELF["olive_oil"], 20.0)], set_point_c=30.0, overrun=0.6),
    ]
)
fillings = st.lists(
    st.builds(
        lambda c, n, level, share: Filling(c, n, c.volume_ml * level, "", share),
        kinds,
        st.integers(1, 30),
        st.floats(0.3, 1.0),
        st.sampled_from([0.0, 0.0, 0.03]),
    ),
    min_size=1,
    max_size=4,
)


def fill(slug: str, count: int, level: float = 1.0) -> Filling:
    return Filling(SIZES[slug], count, SIZES[slug].volume_ml * level)


class ByHand(TestCase):
    def test_tins(self) -> None:
        # At 57 C: beeswax 0.84 + 13 x 0.00068 = 0.84884; olive 0.911 - 32 x 0.00068 = 0.88924.
        # 1 / (0.2 / 0.84884 + 0.8 / 0.88924) = 0.880852 g/ml; 60 ml x 0.95 x 10 = 502.09 g.
        made = for_containers(MELT, [fill("tin_2oz", 10, 0.95)], Losses(cling_share=0.04), resolution=STEP)
        self.assertAlmostEqual(MELT.density_pour, 0.880852, places=5)
        self.assertAlmostEqual(made.filled_g, 502.09, places=1)
        self.assertEqual(made.batch_g, Decimal("523.1"))  # / 0.96
        # Set: 1 / (0.2 / 0.96 + 0.8 / 0.911) = 0.92041 g/ml; 57 ml sink by 1 - 0.880852 / 0.92041 = 4.30 %.
        self.assertAlmostEqual(made.dip_ml(made.fillings[0]), 57 * 0.04298, places=2)
        self.assertAlmostEqual(made.top_up_g(made.fillings[0]), 10 * 57 * 0.04298 * 0.880852, places=1)

    def test_tubes_with_a_test_and_a_film_in_the_pot(self) -> None:
        # 12 x 4.3 g = 51.6; + 1 g film + 1 g test = 53.6; 2 % more clings: / 0.98 = 54.694, so 54.7.
        tube = Filling(SIZES["lip_tube_standard"], 12, 4.3 / MELT.density_pour)
        made = for_containers(MELT, [tube], Losses(cling_g=1, cling_share=0.02, test_g=1), resolution=STEP)
        self.assertEqual(made.batch_g, Decimal("54.7"))
        self.assertAlmostEqual(made.clung_g, 1 + 0.02 * 54.7, places=6)
        self.assertAlmostEqual(made.left_g, 54.7 - 51.6 - 1 - 2.094, places=6)

    def test_a_jar_poured_and_a_jar_whipped(self) -> None:
        butter = [(SHELF["shea_refined"], 80.0), (SHELF["olive_oil"], 20.0)]
        poured, whipped = (melt_of(butter, set_point_c=30.0, overrun=o) for o in (0.0, 0.6))
        jar = [fill("jar_120ml", 3)]
        self.assertAlmostEqual(whipped.density_pour, poured.density_set / 1.6, places=9)
        made = for_containers(whipped, jar, Losses(), resolution=STEP)
        self.assertAlmostEqual(float(made.batch_g), 3 * 120 * poured.density_set / 1.6, delta=0.1)
        self.assertEqual(made.dip_ml(jar[0]), 0.0)  # it is filled cold
        # A fifth less or more of the gain: 1.48 and 1.72 times the volume instead of 1.6.
        few, many = whipped_counts(whipped, [fill("jar_30ml", 100)], Losses(), batch_g=Decimal(500))
        volume = 500 / poured.density_set
        self.assertEqual((few, many), (int(volume * 1.48 / 30), int(volume * 1.72 / 30)))

    def test_a_mould_is_filled_again_and_its_overfill_goes_back(self) -> None:
        mould = Filling(replace(SIZES["mould_round_60ml"], cavities=6, on_hand=12), 25, 60.0)
        made = for_containers(MELT, [mould], Losses(overfill_g=8.0), resolution=Decimal(1))
        self.assertEqual((mould.moulds, mould.rounds, mould.is_short), (5, 3, False))
        self.assertAlmostEqual(float(made.batch_g), 25 * 60 * 0.880852 + 8, delta=1.0)
        self.assertGreaterEqual(made.left_g, 8.0 - 1e-9)  # what is scraped off is there again
        self.assertTrue(replace(mould, container=replace(SIZES["tin_2oz"], on_hand=12)).is_short)

    def test_a_tincture_boils_off_and_the_tins_are_full(self) -> None:
        parts = [*SALVE, (SHELF["alcohol_tincture"], 10.0)]
        melt = melt_of(parts, set_point_c=52.0, alcohol_pct=60.0)
        made = for_containers(melt, [fill("tin_2oz", 4)], Losses(), resolution=STEP)
        gone = tincture(float(made.batch_g) * 10 / 110, 60.0).to_lose_g
        self.assertAlmostEqual(made.driven_off_g, gone, places=6)
        self.assertGreaterEqual(float(made.batch_g) - gone, 4 * 60 * melt.density_pour)
        plain = for_containers(MELT, [fill("tin_2oz", 4)], Losses(), resolution=STEP)
        self.assertAlmostEqual(float(made.batch_g - plain.batch_g), gone, delta=1.5)

    def test_a_test_of_50_g_goes_into_one_jar_as_it_is(self) -> None:
        made = whole_pot(MELT, SIZES["jar_120ml"], Losses(cling_g=2), batch_g=Decimal(50))
        self.assertEqual(made.count, 1)
        self.assertAlmostEqual(made.fillings[0].each_ml, 48 / MELT.density_pour)
        self.assertAlmostEqual(made.left_g, 0.0, places=9)
        with self.assertRaisesRegex(CalmTinError, "holds 5 ml"):
            whole_pot(MELT, SIZES["jar_5ml"], Losses(), batch_g=Decimal(50))

    def test_what_is_left_over_has_its_ways(self) -> None:
        def ways(
            ml: float, count: int = 9, level: float = 0.8
        ) -> list[tuple[str, list[tuple[int, float]]]]:
            batch = Decimal(repr(round(ml * MELT.density_pour, 3)))
            asked = [fill("jar_60ml", count, level)]
            found = ways_to_fill(MELT, asked, Losses(), batch_g=batch, containers=SIZES.values())
            return [
                (f.way, [(k.count, round(100 * k.level)) for k in f.plan.fillings if k.count])
                for f in found
            ]

        # 48 ml each: a little short of one, of three; three and a half; a little over three.
        self.assertEqual(ways(47), [("less", [(1, 78)])])
        self.assertEqual(ways(141), [("less", [(3, 78)]), ("part", [(2, 80), (1, 75)])])
        half = [("less", [(4, 70)]), ("fuller", [(3, 93)]), ("part", [(3, 80), (1, 40)])]
        self.assertEqual(ways(168), half)
        self.assertEqual(ways(150), [("fuller", [(3, 83)]), ("part", [(3, 80), (1, 10)])])
        self.assertEqual(ways(144.5), [])
        # No more of them on hand: the others are filled fuller, where they hold it.
        self.assertEqual(ways(168, count=3), [("fuller", [(3, 93)])])
        self.assertEqual(ways(190, count=3), [])
        # Far too little for one: it is filled with what there is, or a smaller one is taken.
        self.assertEqual([way for way, _ in ways(10)], ["part", "whole"])

    def test_refusals_name_the_field(self) -> None:
        for field, filling, lost in (
            ("count", fill("tin_2oz", 0), Losses()),
            ("level", fill("tin_2oz", 1, 1.2), Losses()),
            ("loss", fill("tin_2oz", 1), Losses(cling_share=0.9)),
            ("loss", fill("tin_2oz", 1), Losses(test_g=-1.0)),
        ):
            with self.assertRaises(CalmTinError) as refused:
                for_containers(MELT, [filling], lost, resolution=STEP)
            self.assertEqual(refused.exception.field, field)

    def test_what_clings_is_learned_from_pours(self) -> None:
        # A count that left most of the pot out teaches nothing, and no plan can ask for more than fits.
        self.assertIsNone(learned_cling([(200.0, 90.0)]))
        self.assertEqual(learned_cling([(200.0, 90.0), (100.0, 4.0)]), (0.0, 0.04))
        self.assertEqual(learned_cling([(10.0, 1.0), (14.0, 9.0), (20.0, 14.0)])[1], 0.25)
        self.assertIsNone(learned_cling([]))
        self.assertEqual(learned_cling([(100.0, 4.0), (300.0, 12.0)]), (0.0, 0.04))
        grams, share = learned_cling([(100.0, 6.0), (200.0, 5.0), (400.0, 4.0)])
        self.assertEqual((round(grams, 3), share), (5.0, 0.0))  # less from more: no share at all


class Balance(TestCase):
    def weighed(self, made: FillPlan) -> float:
        return made.filled_g + made.clung_g + made.test_g + made.driven_off_g + made.powder_g + made.left_g

    @given(melts, fillings, losses)
    def test_every_gram_is_somewhere_and_nothing_runs_short(self, melt, wanted, lost) -> None:
        made = for_containers(melt, wanted, lost, resolution=STEP)
        self.assertAlmostEqual(self.weighed(made), float(made.batch_g), places=6)
        self.assertGreaterEqual(made.left_g, lost.overfill_g - 1e-6)
        self.assertLess(made.left_g - lost.overfill_g, lost.margin_share * (made.filled_g + 5) + 0.11)
        more = with_batch(made, lost, made.batch_g + 7)
        self.assertAlmostEqual(self.weighed(more), float(made.batch_g) + 7, places=6)

    @given(melts, fillings, losses)
    def test_from_the_pot_is_the_inverse(self, melt, wanted, lost) -> None:
        assume(len({f.container.slug for f in wanted}) == len(wanted))
        made = for_containers(melt, wanted, lost, resolution=STEP)
        back = from_pot(melt, wanted, lost, batch_g=made.batch_g)
        self.assertEqual([f.count for f in back.fillings], [f.count for f in wanted])
        self.assertAlmostEqual(self.weighed(back), float(back.batch_g), places=6)

    @given(melts, fillings, losses, st.integers(20, 4000))
    def test_what_does_not_come_out_even_has_ways_that_use_all_of_it(
        self, melt, offers, lost, grams
    ) -> None:
        assume(len({f.container.slug for f in offers}) == len(offers))
        batch = Decimal(grams)
        for fit in ways_to_fill(melt, offers, lost, batch_g=batch, containers=SIZES.values()):
            self.assertAlmostEqual(self.weighed(fit.plan), grams, places=6)
            used = fit.plan.filled_g * (1 + lost.margin_share) + lost.overfill_g * (1 + lost.margin_share)
            self.assertAlmostEqual(used, fit.plan.filled_g + fit.plan.left_g, places=4)
            for filling in fit.plan.fillings:
                self.assertTrue(0.05 <= filling.level <= 1 + 1e-9, filling)
            asked = {offer.container.slug: offer.count for offer in offers}
            for slug, most in asked.items():
                there = sum(f.count for f in fit.plan.fillings if f.container.slug == slug)
                self.assertTrue(there <= most or fit.way == "whole", fit)

    @given(melts, fillings, losses, st.integers(20, 4000))
    def test_a_pot_never_fills_more_than_it_holds(self, melt, offers, lost, grams) -> None:
        made = from_pot(melt, offers, lost, batch_g=Decimal(grams))
        self.assertAlmostEqual(self.weighed(made), grams, places=6)
        if made.fillings:
            self.assertGreaterEqual(made.left_g, lost.overfill_g - 1e-5)
        for offer in offers:
            filled = sum(f.count for f in made.fillings if f.container == offer.container)
            self.assertLessEqual(filled, sum(o.count for o in offers if o.container == offer.container))


class OnScales(TestCase):
    def test_ten_thousand_sheets_sum_to_the_batch(self) -> None:
        random = Random(12)
        for _ in range(10_000):
            shares = [random.randint(1, 100_000) for _ in range(random.randint(1, 12))]
            cut = [Decimal(100_000 * s // sum(shares)) / 1000 for s in shares]
            cut[0] += 100 - sum(cut)
            scales = random.choice([[KITCHEN], [KITCHEN, FINE], [Scale("coarse", Decimal(1)), FINE]])
            batch = Decimal(random.randint(100, 50_000)) / 10
            rows, total = weigh_on(cut, batch, scales)
            self.assertEqual(sum(row.grams for row in rows), total)
            self.assertLess(abs(total - batch), scales[0].step_g + Decimal("0.06"))
            for row in rows:
                self.assertEqual(row.grams % row.scale.step_g, 0)
                if not row.is_small:
                    self.assertLess(abs(row.grams - row.exact_g), 2 * row.scale.step_g)

    def test_the_fine_scale_takes_what_is_little_and_not_what_is_heavy(self) -> None:
        rows, _ = weigh_on([Decimal("99.6"), Decimal("0.4")], Decimal(100), [KITCHEN, FINE])
        self.assertEqual(
            [(r.scale.name, r.is_small) for r in rows], [("kitchen scale", False), ("fine scale", False)]
        )
        rows, _ = weigh_on([Decimal("99.6"), Decimal("0.4")], Decimal(100), [KITCHEN])
        self.assertEqual([r.is_small for r in rows], [False, True])
        self.assertAlmostEqual(rows[1].error_pct, 0.0)
        tiny, _ = weigh_on([Decimal("99.99"), Decimal("0.01")], Decimal(100), [KITCHEN, FINE])
        self.assertTrue(tiny[1].is_small)  # 0.01 g is too little even for the fine one

    def test_three_ways_out(self) -> None:
        made = dilution_for(Decimal("0.4"), Decimal(55), [KITCHEN])
        self.assertEqual((made.share, made.take_g, made.less_oil_g), (Decimal("0.10"), 4, Decimal("3.6")))
        self.assertEqual(made.stuff_g / (made.stuff_g + made.oil_g), made.share)
        self.assertEqual(dilution_for(Decimal("0.04"), Decimal(55), [KITCHEN]).share, Decimal("0.01"))
        self.assertIsNone(dilution_for(Decimal("0.4"), Decimal(3), [KITCHEN]))
        self.assertEqual(smallest_batch_g(Decimal("0.4"), Decimal(250), [KITCHEN]), 625)
        self.assertEqual(smallest_batch_g(Decimal("0.05"), Decimal(250), [KITCHEN, FINE]), 500)


class Series(TestCase):
    @given(
        st.lists(st.integers(2, 45), min_size=2, max_size=6, unique=True).map(sorted),
        st.sampled_from([Decimal("0.1"), Decimal("0.01")]),
        st.integers(8, 30),
    )
    def test_every_sample_of_one_pot_has_its_share(self, percents, step, sample) -> None:
        wanted = [Decimal(p) / 100 for p in percents]
        ladder = one_pot(wanted, sample_g=Decimal(sample), loss_g=Decimal("0.5"), step_g=step)
        taken = sample + Decimal("0.5")
        line, rest = ladder.line_g, ladder.rest_g
        for rung, target in zip(ladder.rungs, wanted, strict=True):
            line += rung.add_g
            self.assertAlmostEqual(line + rest, rung.pot_g, places=9)
            self.assertGreaterEqual(rung.pot_g, taken - step * len(wanted))
            # Half a step in a pot of so many grams, and no more: later additions make up for it.
            self.assertLess(abs(line / (line + rest) - target), step * Decimal("0.51") / rung.pot_g)
            self.assertAlmostEqual(rung.share, line / (line + rest), places=12)
            line, rest = (part * (1 - taken / rung.pot_g) for part in (line, rest))

    def test_one_pot_is_truer_than_pots_of_their_own_on_a_coarse_scale(self) -> None:
        wanted = [Decimal("0.15"), Decimal("0.18"), Decimal("0.21")]
        ladder = one_pot(wanted, sample_g=Decimal(12), loss_g=Decimal(0), step_g=Decimal("0.5"))
        alone = own_pots(wanted, sample_g=Decimal(12), step_g=Decimal("0.5"))
        self.assertLess(ladder.rungs[0].off, alone[0].off)
        with self.assertRaisesRegex(CalmTinError, "must rise"):
            one_pot(wanted[::-1], sample_g=Decimal(12), loss_g=Decimal(0), step_g=STEP)


class Command(TestCase):
    FORMULA = {
        "format": "calmtin.formula",
        "version": 1,
        "name": "Row",
        "kind": "lip_balm",
        "lines": [
            {"material": "beeswax_yellow", "percent": 22},
            {"material": "cocoa_butter", "percent": 18},
            {"material": "olive_oil", "percent": 59.8},
            {"material": "tocopherols_50", "percent": 0.2},
        ],
    }
    TWO = [
        {"container": "lip_tube_standard", "count": 12, "fill_g": 4.3},
        {"container": "tin_2oz", "count": 4, "fill_ml": 55},
    ]

    def plan(self, **data: object) -> dict:
        asked = {"formula": self.FORMULA, "containers": self.TWO, "loss_g": 3, "scale_g": 0.1, **data}
        return plan(json.loads(json.dumps(asked)), SHELF)

    def test_containers_to_the_scale_and_back(self) -> None:
        made = self.plan()
        self.assertAlmostEqual(sum(line["grams"] for line in made["lines"]), made["batch_g"], places=6)
        self.assertAlmostEqual(
            made["batch_g"], made["filled_g"] + made["loss_g"] + made["left_g"], places=2
        )
        self.assertEqual(made["warnings"], ["Tocopherols 50 %: 0.5 g is too little for this scale."])
        back = self.plan(batch_g=made["batch_g"])
        self.assertEqual([c["count"] for c in back["containers"]], [12, 4])
        rows = [{"container": "lip_tube_standard"}, {"container": "tin_2oz", "count": 1}]
        free = self.plan(batch_g=250, containers=rows)
        self.assertEqual([c["count"] for c in free["containers"]], [58])
        self.assertLess(free["left_g"], 4.3)

    def test_what_is_wrong_is_named(self) -> None:
        for words, wrong in {
            "whole “count”": {"containers": [{"container": "tin_2oz"}]},
            "must name one of": {"containers": [{"container": "bucket", "count": 1}]},
            "holds 60 ml": {"containers": [{"container": "tin_2oz", "count": 1, "fill_ml": 90}]},
            "must be from 0.001": {"scale_g": 0},
            "1 to 20 containers": {"containers": []},
        }.items():
            with self.assertRaisesRegex(CalmTinError, words.replace("“", '"').replace("”", '"')):
                self.plan(**wrong)
