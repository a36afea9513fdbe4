"""What is worked out once for an object: nobody waits for another object's."""

from __future__ import annotations

from threading import Event, Thread
from unittest import TestCase

from calmtin.core.cached import cached_property


class Slow:
    def __init__(self, *, waits_for: Event | None = None) -> None:
        self.waits_for, self.times = waits_for, 0

    @cached_property
    def answer(self) -> int:
        """Forty-two."""
        self.times += 1
        if self.waits_for is not None:
            self.waits_for.wait(5.0)
        return 42


class Cached(TestCase):
    def test_once_for_each_object(self) -> None:
        one, other = Slow(), Slow()
        self.assertEqual([one.answer, one.answer, other.answer], [42] * 3)
        self.assertEqual((one.times, other.times), (1, 1))
        self.assertEqual(Slow.answer.__doc__, "Forty-two.")

    def test_one_object_does_not_wait_for_another(self) -> None:
        done, quick = Event(), Slow()
        slow = Slow(waits_for=done)
        first = Thread(target=lambda: slow.answer)
        first.start()
        second = Thread(target=lambda: quick.answer)
        second.start()
        second.join(2.0)
        self.assertFalse(second.is_alive(), "it waits for the other object")
        done.set()
        first.join()
