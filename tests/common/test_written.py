"""How numbers are written: never "−0", a real minus, and no more digits than a scale has and one."""

from __future__ import annotations

import re
from collections.abc import Callable
from decimal import Decimal
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.common.templatetags import calm
from calmtin.core.messages import Message, notation_of
from calmtin.core.notation import Notation
from calmtin.core.quantities import OUNCE_G, Between, Degrees, Mass, Percent, Temperature, Volume

BENCHES = [
    Notation(scale_unit=unit, temperature_unit=degree) for unit in ("g", "oz") for degree in ("C", "F")
]
FILTERS: list[Callable[[Any], str]] = [
    calm.one, calm.percent, calm.hundredths, calm.dose, calm.signed, calm.grams, calm.normal,
    calm.signed_grams, calm.temp, calm.whole_temp, calm.volume, calm.degrees,
]  # fmt: skip
NOTHING = re.compile(r"[-−]0(?:\.0*)?(?![.\d])")


class Written(TestCase):
    @given(st.decimals(-2, 2, places=4), st.sampled_from(BENCHES))
    def test_no_minus_before_a_nothing(self, value: Decimal, bench: Notation) -> None:
        with notation_of(lambda: bench):
            told = [write(value) for write in FILTERS] + [calm.in_steps(value, Decimal("0.1"))]
        kinds = (
            Mass(value),
            Mass(value, 1),
            Volume(value),
            Temperature(value, 1),
            Degrees(float(value)),
            Percent(value),
        )
        told += [kind.written(bench) for kind in kinds]
        for text in told:
            self.assertIsNone(NOTHING.search(text), told)
            self.assertNotIn("-", text)

    @given(st.decimals(Decimal("0.01"), 50_000, places=2))
    def test_a_weight_in_ounces_is_the_weight(self, grams: Decimal) -> None:
        told = Mass(grams).number(Notation(scale_unit="oz"))
        self.assertLessEqual(len(told.partition(".")[2]), 3)
        self.assertAlmostEqual(
            float(told), float(grams / OUNCE_G), delta=0.00501 if grams > OUNCE_G else 0.000501
        )


class Messages(TestCase):
    def test_each_reader_gets_their_own_units(self) -> None:
        told = Message(
            "{part} Pour it {span}.",
            part=Message("Weigh {wax}.", wax=Mass(Decimal(54))),
            span=Between(Temperature(60.0), Temperature(65.0)),
        )
        self.assertEqual(str(told), "Weigh 54 g. Pour it 60–65 °C.")
        with notation_of(lambda: Notation(scale_unit="oz", temperature_unit="F")):
            self.assertEqual(f"{told}", "Weigh 1.9 oz. Pour it 140–149 °F.")

    def test_what_a_maker_wrote_is_no_template(self) -> None:
        self.assertEqual(str(Message("{name} is kept.", name="{wax} {0}")), "{wax} {0} is kept.")
