"""Backwards from the day: hand-worked cases, and the laws of a bench with one pot."""

from __future__ import annotations

from datetime import date, timedelta
from itertools import permutations
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from calmtin.core.packing.deadlines import SETTLES, Job, timelines

TODAY = date(2026, 6, 1)


def days(job: Job, **kwargs: object) -> dict[str, int]:
    """Return the days of a job's steps, counted from today."""
    way = timelines([job], TODAY, **kwargs)[job.key]  # type: ignore[arg-type]
    return {step.slug: (step.on - TODAY).days for step in way.steps}


def by(day: int) -> date:
    return TODAY + timedelta(days=day)


class Worked(TestCase):
    def test_a_plain_batch(self) -> None:
        self.assertEqual(days(Job(1, by(20))), {"pour": 17, "check": 19, "label": 19, "ready": 20})

    def test_one_that_may_grain_has_a_week(self) -> None:
        self.assertEqual(
            days(Job(1, by(20), grains=True)), {"pour": 12, "check": 19, "label": 19, "ready": 20}
        )

    def test_bought_for_and_infused_cold(self) -> None:
        told = days(Job(1, by(60), infuses=True, buys=True), buying_days=10)
        self.assertEqual(told, {"buy": 19, "infuse": 29, "pour": 57, "check": 59, "label": 59, "ready": 60})

    def test_too_little_time_for_a_cold_infusion(self) -> None:
        way = timelines([Job(1, by(12), infuses=True)], TODAY)[1]
        self.assertTrue(way.warm)
        self.assertEqual((way.on("infuse"), way.on("pour"), way.late_days), (by(8), by(9), 0))

    def test_grain_is_not_waited_for_where_there_is_no_time(self) -> None:
        way = timelines([Job(1, by(5), grains=True)], TODAY)[1]
        self.assertTrue(way.hasty)
        self.assertEqual((way.on("pour"), way.late_days), (by(2), 0))

    def test_too_late_says_by_how_much(self) -> None:
        way = timelines([Job(1, by(4), buys=True)], TODAY, buying_days=7)[1]
        self.assertEqual((way.on("pour"), way.on("ready"), way.late_days), (by(7), by(10), 6))

    def test_two_for_one_day_do_not_collide(self) -> None:
        ways = timelines([Job(1, by(10)), Job(2, by(10))], TODAY, taken={by(6)})
        self.assertEqual({ways[1].on("pour"), ways[2].on("pour")}, {by(7), by(5)})

    def test_the_one_with_less_room_gets_the_later_day(self) -> None:
        # The first could be poured any day, the second has to be bought for until day 7.
        ways = timelines([Job(1, by(10)), Job(2, by(10), buys=True)], TODAY, buying_days=7)
        self.assertEqual((ways[1].on("pour"), ways[2].on("pour")), (by(6), by(7)))

    def test_what_is_poured_only_waits(self) -> None:
        way = timelines([Job(1, by(9), poured_on=by(-1))], TODAY)[1]
        self.assertEqual([step.slug for step in way.steps], ["pour", "check", "label", "ready"])
        self.assertEqual((way.on("check"), way.on("label")), (by(1), by(8)))


JOBS = st.lists(
    st.builds(lambda day, buys: (by(day), buys), st.integers(min_value=0, max_value=14), st.booleans()),
    min_size=1,
    max_size=5,
)


class Laws(TestCase):
    @settings(max_examples=150, deadline=None)
    @given(jobs=JOBS, taken=st.sets(st.integers(min_value=0, max_value=14), max_size=4))
    def test_no_two_on_one_day_and_in_time_whenever_all_can_be(
        self, jobs: list[tuple[date, bool]], taken: set[int]
    ) -> None:
        made = [Job(n, day, buys=buys) for n, (day, buys) in enumerate(jobs)]
        busy = {by(n) for n in taken}
        ways = timelines(made, TODAY, buying_days=3, taken=busy)
        pours = [way.on("pour") for way in ways.values()]
        self.assertEqual(len(set(pours)), len(pours))
        self.assertFalse(set(pours) & busy)
        for job in made:
            first = TODAY + timedelta(days=3 if job.buys else 0)
            self.assertGreaterEqual(ways[job.key].on("pour") or TODAY, first)
        in_time = all(way.late_days == 0 for way in ways.values())
        self.assertEqual(in_time, _some_order_works(made, busy))


def _some_order_works(jobs: list[Job], busy: set[date]) -> bool:
    """Try every order by hand: each in turn on its first free day."""
    for order in permutations(jobs):
        used = set(busy)
        for job in order:
            day = TODAY + timedelta(days=3 if job.buys else 0)
            while day in used:
                day += timedelta(days=1)
            if day + timedelta(days=SETTLES + 1) > job.needed_on:
                break
            used.add(day)
        else:
            return True
    return False
