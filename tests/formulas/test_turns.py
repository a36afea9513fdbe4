"""One search per maker and two at once: the newer one of a maker takes the older one's place."""

from __future__ import annotations

from threading import Event, Thread
from time import monotonic, sleep
from types import SimpleNamespace
from unittest import mock

from django.test import SimpleTestCase

from calmtin.core.errors import CalmTinError
from calmtin.formulas.proposals import turns


def asker(pk: int, gone: bool = False) -> SimpleNamespace:
    environ = {"waitress.client_disconnected": lambda: gone}
    return SimpleNamespace(user=SimpleNamespace(pk=pk), META=environ)


class Turns(SimpleTestCase):
    def hold(self, pk: int) -> tuple[Thread, Event, list[bool]]:
        """Keep a turn until it is told to stop, or the event is set."""
        begun, let_go, ended = Event(), Event(), []

        def run() -> None:
            with turns.solving_turn(asker(pk)) as stop:
                begun.set()
                while not let_go.wait(0.01):
                    if stop():
                        ended.append(True)
                        return

        thread = Thread(target=run)
        thread.start()
        begun.wait(5)
        return thread, let_go, ended

    def test_a_newer_search_of_the_same_maker_ends_the_older(self) -> None:
        thread, _, ended = self.hold(1)
        with turns.solving_turn(asker(1)) as stop:
            self.assertEqual(ended, [True])
            self.assertFalse(stop())
        thread.join()

    def test_a_third_at_once_is_told_to_come_back(self) -> None:
        held = [self.hold(pk) for pk in (1, 2)]
        late = self.assertRaisesRegex(CalmTinError, "in a moment")
        with mock.patch.object(turns, "WAIT_S", 0.05), late, turns.solving_turn(asker(3)):
            self.fail("there was a third turn")
        for thread, let_go, _ in held:
            let_go.set()
            thread.join()
        with turns.solving_turn(asker(3)) as stop:
            self.assertFalse(stop())

    def test_a_fourth_is_told_at_once_while_three_search_or_wait(self) -> None:
        held = [self.hold(pk) for pk in (1, 2)]
        waits = Thread(target=lambda: held.append(self.hold(3)))
        waits.start()
        while turns._door._value:  # until the third stands at the door
            sleep(0.01)
        began = monotonic()
        with self.assertRaisesRegex(CalmTinError, "in a moment"), turns.solving_turn(asker(4)):
            self.fail("there was a fourth place")
        self.assertLess(monotonic() - began, 0.5)
        # Who asks again is let in: their earlier search leaves its place.
        with turns.solving_turn(asker(1)) as stop:
            self.assertFalse(stop())
        for thread, let_go, _ in held[:2]:
            let_go.set()
            thread.join()
        waits.join()
        held[2][1].set()
        held[2][0].join()

    def test_over_when_time_is_up_or_nobody_waits_any_more(self) -> None:
        with mock.patch.object(turns, "DEADLINE_S", -1.0), turns.solving_turn(asker(1)) as stop:
            self.assertTrue(stop())
        with turns.solving_turn(asker(1, gone=True)) as stop:
            self.assertTrue(stop())
        self.assertEqual(turns._running, {})
