"""When a pour is looked at again, and what is asked."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from calmtin.core.data.loader import library
from calmtin.core.errors import CalmTinError
from calmtin.core.process.checks import LOOKS, SIGNS, Schedule, in_words, looks_of, new_to, read_signs

POURED = datetime(2026, 5, 1, 9, tzinfo=UTC)


def schedule(*taken: tuple[str, timedelta], is_whipped: bool = False) -> Schedule:
    looks = looks_of(POURED, is_whipped=is_whipped, end_of_life=POURED + timedelta(days=365))
    return Schedule(tuple(looks), tuple((slug, POURED + after) for slug, after in taken))


class WhenToLook(TestCase):
    def due(self, plan: Schedule, **after: float) -> str:
        found = plan.due(POURED + timedelta(**after))
        return found[0].slug if found else ""

    def test_each_in_its_time_and_a_later_one_takes_the_place_of_those_before_it(self) -> None:
        plan = schedule()
        self.assertEqual(self.due(plan, minutes=10), "")
        self.assertEqual(self.due(plan, minutes=40), "set")
        self.assertEqual(self.due(plan, hours=2), "hour")
        self.assertEqual(self.due(plan, hours=30), "day")
        self.assertEqual(self.due(plan, days=9), "week")
        self.assertEqual(self.due(plan, days=30), "month")
        self.assertEqual(self.due(plan, days=80), "")  # missed long ago: nobody is asked for it any more
        self.assertEqual(self.due(plan, days=366), "end")

    def test_a_whipped_one_is_looked_at_after_two_days_too(self) -> None:
        self.assertEqual(self.due(schedule(is_whipped=True), days=3), "two_days")
        self.assertEqual(self.due(schedule(), days=3), "day")

    def test_what_was_looked_at_is_not_asked_again(self) -> None:
        plan = schedule(("day", timedelta(hours=25)))
        self.assertEqual(self.due(plan, days=2), "")
        coming = plan.coming(POURED + timedelta(days=2))
        self.assertEqual((coming[0].slug, coming[1]), ("week", POURED + timedelta(days=7)))
        # A check that names no look counts for what was due then.
        self.assertEqual(self.due(schedule(("", timedelta(days=6))), days=8), "")
        self.assertEqual(self.due(schedule(("", timedelta(hours=2))), days=1), "day")

    @given(
        st.lists(st.tuples(st.sampled_from(["", *LOOKS]), st.integers(0, 400)), max_size=5),
        st.integers(0, 500),
    )
    def test_at_most_one_is_due_and_nothing_that_was_taken(self, taken: list, day: int) -> None:
        plan = schedule(*((slug, timedelta(days=after)) for slug, after in taken))
        now = POURED + timedelta(days=day)
        due = plan.due(now)
        if due:
            self.assertNotIn(due[0].slug, [slug for slug, _ in taken])
            self.assertLessEqual(due[1], now)
            self.assertFalse([pair for pair in plan.open if due[1] < pair[1] <= now])

    def test_signs_are_kept_by_the_place_of_their_word(self) -> None:
        kept = read_signs({"grain": "2", "liked": "4", "bloom": "", "flare_up": "0"})
        self.assertEqual(kept, {"grain": 2, "liked": 4, "flare_up": 0})
        told = in_words(kept)
        self.assertIn(("Grain", "gritty", True), told)
        self.assertIn(("Flare-up or rash", "none", False), told)
        for wrong in ({"grain": "3"}, {"sand": "1"}, {"grain": "-1"}, {"grain": "x"}):
            with self.assertRaises(CalmTinError):
                read_signs(wrong)
        for look in LOOKS.values():
            self.assertLessEqual(set(look.asks), set(SIGNS))

    def test_what_is_new_to_a_person_names_scents_first(self) -> None:
        shelf = library()
        tried = [shelf[slug] for slug in ("olive_oil", "lanolin", "peppermint")]
        self.assertEqual([m.slug for m in new_to(tried, ["olive_oil"])], ["peppermint", "lanolin"])
