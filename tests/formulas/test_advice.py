"""What is said where a target is not met, word for word, and on its right side."""

from __future__ import annotations

from django.test import SimpleTestCase

from calmtin.core.data.loader import library
from calmtin.core.solver.problem import Limits, Target
from calmtin.core.solver.search import solve
from calmtin.formulas.proposals.wording import say_reason, say_way_out

SALVE = {"beeswax_yellow": 20.0, "olive_oil": 80.0}
AT_LEAST, AT_MOST = {"beeswax_yellow": (15.0, 30.0)}, {"beeswax_yellow": (5.0, 12.0)}


class Advice(SimpleTestCase):
    def said(
        self, target: Target, limits: Limits, parts: dict[str, float], unit: str = "C"
    ) -> tuple[list[str], list[str]]:
        solution = solve([(library()[slug], percent) for slug, percent in parts.items()], target, limits)
        self.assertEqual(solution.status, "not_met")
        return [say_reason(r, unit) for r in solution.limits], [say_way_out(w) for w in solution.ways_out]

    def test_too_soft(self) -> None:
        stops, ways = self.said(Target(9.5, 21.0), Limits(ranges=AT_MOST), SALVE)
        self.assertEqual(
            stops,
            [
                "The closest possible is 3.4 at 21 °C, 6.1 below the target.",
                "Beeswax, yellow is held to at most 12 %; more would help.",
            ],
        )
        self.assertRegex(ways[0], r"^Allow beeswax, yellow up to 5\d %\.$")
        self.assertEqual(ways[1:], ["Add a harder wax or butter, such as candelilla or kokum."])

    def test_too_hard(self) -> None:
        stops, ways = self.said(Target(1.0, 21.0), Limits(ranges=AT_LEAST), SALVE)
        self.assertEqual(
            stops,
            [
                "The closest possible is 4.1 at 21 °C, 3.1 above the target.",
                "Beeswax, yellow is held to at least 15 %; less would help.",
            ],
        )
        self.assertRegex(ways[0], r"^Allow beeswax, yellow down to 4(\.\d)? %\.$")
        self.assertEqual(ways[1:], ["Add a liquid oil, or take wax out."])

    def test_butters_alone_have_no_wax_to_take_out(self) -> None:
        stops, ways = self.said(Target(2.0, 21.0), Limits(), {"cocoa_butter": 50.0, "kokum_butter": 50.0})
        self.assertEqual(
            stops,
            [
                "The closest possible is 8.8 at 21 °C, 6.8 above the target.",
                "These materials can’t get any closer in any proportion.",
            ],
        )
        self.assertEqual(
            ways, ["Add a liquid oil.", "Set the target to 8.8, which these limits can reach."]
        )

    def test_too_soft_on_the_hot_day_in_fahrenheit(self) -> None:
        stops, _ = self.said(
            Target(4.0, 21.0, 6.0, 45.0), Limits(ranges={"beeswax_yellow": (5.0, 30.0)}), SALVE, "F"
        )
        self.assertEqual(stops[0], "The closest possible is 5.0 at 69.8 °F, 1.0 above the target.")
        self.assertEqual(stops[1], "At 113 °F firmness is 1.4, 4.6 below the target.")

    def test_too_little_melts_on_skin(self) -> None:
        stops, _ = self.said(
            Target(4.0, 21.0, skin_melt=0.9), Limits(ranges={"beeswax_yellow": (5.0, 30.0)}), SALVE
        )
        self.assertEqual(stops[0], "Only 24 % of it melts on skin.")

    def test_a_layer_at_its_end(self) -> None:
        parts = {"beeswax_yellow": 10.0, "candelilla_wax": 1.0, "olive_oil": 89.0}
        stops, ways = self.said(Target(6.0, 21.0), Limits(layers={"wax": (0.0, 12.0)}), parts)
        self.assertEqual(stops[1], "Wax in total is limited to 0–12 %.")
        self.assertRegex(ways[0], r"^Allow 2\d % wax in total\.$")
