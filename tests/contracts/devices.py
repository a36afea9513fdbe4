"""What every scale and every thermometer must do, a real one too: derive, and say how to touch it.

Import the module, not its classes, or the runner takes them for tests of nothing.
"""

from __future__ import annotations

from abc import abstractmethod
from decimal import Decimal
from unittest import TestCase

from calmtin.devices.base import Scale, Thermometer


class ScaleContract(TestCase):
    """Derive from it; the four methods below touch the scale as a hand does."""

    @abstractmethod
    def scale(self) -> Scale:
        """Return the scale as it is now, empty cup on it at first."""

    @abstractmethod
    def put(self, grams: Decimal) -> None:
        """Put so much onto it, or take it off."""

    @abstractmethod
    def wait(self, seconds: float) -> None:
        """Let time pass."""

    @abstractmethod
    def pull_plug(self, *, out: bool) -> None:
        """Pull its plug, or put it in again."""

    def steady(self) -> Decimal:
        """Return what it shows once it stands still, in ten seconds at most."""
        for _ in range(40):
            weight = self.scale().read()
            if weight.is_steady:
                assert weight.grams is not None
                return weight.grams
            self.wait(0.25)
        raise AssertionError("It never stood still.")

    def test_it_shows_what_is_on_it_in_whole_steps(self) -> None:
        for grams in (Decimal("12.3"), Decimal(250), Decimal("0.4")):
            before = self.steady()
            self.put(grams)
            shown = self.steady()
            step = self.scale().step_g
            self.assertEqual(shown % step, 0)
            self.assertLessEqual(abs(shown - before - grams), 2 * step)

    def test_a_figure_that_runs_is_not_called_steady(self) -> None:
        self.steady()
        self.put(Decimal(100))
        self.assertFalse(self.scale().read().is_steady)

    def test_tare_makes_a_new_nothing_and_what_is_taken_off_shows_below_it(self) -> None:
        self.put(Decimal(50))
        self.steady()
        self.scale().tare()
        self.wait(2.0)
        self.assertLessEqual(abs(self.steady()), self.scale().step_g)
        self.put(Decimal(-20))
        self.assertLessEqual(abs(self.steady() + 20), 2 * self.scale().step_g)

    def test_too_much_on_it_is_said_and_has_no_figure(self) -> None:
        self.put(self.scale().capacity_g + 10)
        self.wait(5.0)
        weight = self.scale().read()
        self.assertEqual((weight.state, weight.grams, weight.is_steady), ("overload", None, False))
        self.scale().tare()  # without effect
        self.put(-self.scale().capacity_g)
        self.assertLessEqual(abs(self.steady() - 10), 2 * self.scale().step_g)

    def test_a_pulled_plug_is_said_and_it_starts_from_zero_afterwards(self) -> None:
        self.put(Decimal(30))
        self.steady()
        self.pull_plug(out=True)
        weight = self.scale().read()
        self.assertEqual((weight.state, weight.grams, weight.is_steady), ("unplugged", None, False))
        self.scale().tare()  # without effect
        self.pull_plug(out=False)
        self.assertLessEqual(abs(self.steady()), 2 * self.scale().step_g)
        self.put(Decimal(12))
        self.assertLessEqual(abs(self.steady() - 12), 2 * self.scale().step_g)

    def test_its_zero_hardly_wanders_in_a_minute(self) -> None:
        self.put(Decimal(80))
        before = self.steady()
        self.wait(60.0)
        self.assertLessEqual(abs(self.steady() - before), 2 * self.scale().step_g)


class ThermometerContract(TestCase):
    """Derive from it; the pot is the test's."""

    @abstractmethod
    def thermometer(self) -> Thermometer:
        """Return the thermometer as it is now, in a pot as warm as the room."""

    @abstractmethod
    def truth(self) -> float:
        """Return how warm the pot really is, C."""

    @abstractmethod
    def heat(self) -> None:
        """Put the pot into the bath."""

    @abstractmethod
    def wait(self, seconds: float) -> None:
        """Let time pass."""

    @abstractmethod
    def pull_plug(self, *, out: bool) -> None:
        """Pull its plug, or put it in again."""

    def shown(self) -> float:
        """Return what it shows."""
        temp_c = self.thermometer().read().temp_c
        assert temp_c is not None
        return temp_c

    def test_it_shows_how_warm_the_pot_is(self) -> None:
        self.assertLessEqual(abs(self.shown() - self.truth()), 1.0)
        self.heat()
        for _ in range(10):
            self.wait(240.0)
            self.assertLessEqual(abs(self.shown() - self.truth()), 2.0)
        self.assertTrue(self.shown() > 60.0)

    def test_it_shows_tenths(self) -> None:
        self.assertEqual(
            round(self.shown() / self.thermometer().step_c), self.shown() / self.thermometer().step_c
        )

    def test_a_pulled_plug_is_said(self) -> None:
        self.pull_plug(out=True)
        warmth = self.thermometer().read()
        self.assertEqual((warmth.state, warmth.temp_c), ("unplugged", None))
        self.pull_plug(out=False)
        self.assertEqual(self.thermometer().read().state, "ok")
