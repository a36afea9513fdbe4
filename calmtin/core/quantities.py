"""What a number is a number of: a weight, a volume, a temperature, a step between two, a share.

A number that a maker reads or types is one of these until it is written, so that nobody has to know in
which unit it is kept, or in which a bench reads it.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from dataclasses import dataclass
from decimal import Decimal

from calmtin.core.notation import USUAL, Notation

OUNCE_G = Decimal("28.349523125")  # the international avoirdupois ounce, exactly
FLUID_OUNCE_ML = Decimal("29.5735295625")  # of the United States, exactly
FINE = Decimal("0.001")
CENT = Decimal("0.01")
# Whole numbers of five digits or more, which are read in threes.
_LONG = re.compile(r"(?<![.\d])\d{5,}")


class Quantity(ABC):
    """A number with its kind; `number` and `unit` are written as a bench reads them."""

    @abstractmethod
    def digits(self, notation: Notation = USUAL) -> str:
        """Return its digits in the bench's unit, with a decimal point."""

    @abstractmethod
    def unit(self, notation: Notation = USUAL) -> str:
        """Return the unit that its digits are in."""

    def number(self, notation: Notation = USUAL) -> str:
        """Return its digits alone, as a box shows them."""
        return in_signs(self.digits(notation), notation)

    def written(self, notation: Notation = USUAL) -> str:
        """Return its digits with their unit, large ones in threes."""
        in_threes = _LONG.sub(lambda found: f"{int(found[0]):,}", self.digits(notation))
        return f"{in_signs(in_threes, notation)} {self.unit(notation)}"


@dataclass(frozen=True, slots=True)
class Mass(Quantity):
    """A weight, g: in the steps it came in, or to `places` of a gram.

    >>> Mass(Decimal(1)).written(), Mass(12.04).written(Notation(scale_unit="oz"))
    ('1 g', '0.425 oz')
    """

    g: Decimal | float
    places: int | None = None

    def digits(self, notation: Notation = USUAL) -> str:
        """Return grams in the steps they came in, or ounces with the thousandths that a small one needs."""
        grams = _exact(self.g)
        if notation.scale_unit == "oz":
            ounces = grams / OUNCE_G
            is_fine = abs(ounces) < 1 and ounces != ounces.quantize(CENT)
            return real_minus(shortest(ounces.quantize(FINE if is_fine else CENT)))
        if self.places is None:
            return real_minus(shortest(grams))
        return real_minus(f"{grams.quantize(Decimal(1).scaleb(-self.places)):f}")

    def unit(self, notation: Notation = USUAL) -> str:
        """Return what the bench's scale shows."""
        return notation.scale_unit


def in_both(grams: Decimal) -> str:
    """Return a weight in both units, for a note that is stored as text.

    >>> in_both(Decimal("10.00"))
    '10 g (0.353 oz)'
    """
    return f"{Mass(grams).written()} ({Mass(grams).written(Notation(scale_unit='oz'))})"


@dataclass(frozen=True, slots=True)
class Volume(Quantity):
    """A volume, ml.

    >>> Volume(60).written(), Volume(60).written(Notation(scale_unit="oz"))
    ('60 ml', '2.03 fl oz')
    """

    ml: Decimal | float

    def digits(self, notation: Notation = USUAL) -> str:
        """Return millilitres to a hundredth, or fluid ounces."""
        ml = _exact(self.ml)
        if notation.scale_unit == "oz":
            ounces = ml / FLUID_OUNCE_ML
            return real_minus(shortest(ounces.quantize(FINE if abs(ounces) < 1 else CENT)))
        return real_minus(shortest(ml.quantize(CENT)))

    def unit(self, notation: Notation = USUAL) -> str:
        """Return fluid ounces where weights are in ounces."""
        return "fl oz" if notation.scale_unit == "oz" else "ml"


@dataclass(frozen=True, slots=True)
class Temperature(Quantity):
    """A temperature, C, written to `places` of a degree at most.

    >>> Temperature(65.0).written(), Temperature(65.0).written(Notation(temperature_unit="F"))
    ('65 °C', '149 °F')
    """

    c: Decimal | float
    places: int = 0

    def digits(self, notation: Notation = USUAL) -> str:
        """Return degrees of the bench's thermometer."""
        value = float(self.c)
        shown = celsius_to_fahrenheit(value) if notation.temperature_unit == "F" else value
        return _degrees(shown, self.places)

    def unit(self, notation: Notation = USUAL) -> str:
        """Return the degree of the bench's thermometer."""
        return f"°{notation.temperature_unit}"


@dataclass(frozen=True, slots=True)
class Degrees(Quantity):
    """A step between two temperatures, K, which is scaled and never shifted.

    >>> Degrees(5.0).written(), Degrees(5.0).written(Notation(temperature_unit="F"))
    ('5 °C', '9 °F')
    """

    k: float
    places: int = 0

    def digits(self, notation: Notation = USUAL) -> str:
        """Return degrees of the bench's thermometer."""
        return _degrees(self.k * (1.8 if notation.temperature_unit == "F" else 1.0), self.places)

    def unit(self, notation: Notation = USUAL) -> str:
        """Return the degree of the bench's thermometer."""
        return f"°{notation.temperature_unit}"


@dataclass(frozen=True, slots=True)
class Percent(Quantity):
    """A share, in percent."""

    value: Decimal | float

    def digits(self, notation: Notation = USUAL) -> str:
        """Return its digits, the same for every bench."""
        del notation
        return real_minus(shortest(self.value))

    def unit(self, notation: Notation = USUAL) -> str:
        """Return the sign."""
        del notation
        return "%"


@dataclass(frozen=True, slots=True)
class Between(Quantity):
    """A span of two quantities of one kind.

    >>> Between(Temperature(85), Temperature(90)).written()
    '85–90 °C'
    """

    low: Quantity
    high: Quantity
    joint: str = "–"

    def digits(self, notation: Notation = USUAL) -> str:
        """Return both ends."""
        return f"{self.low.digits(notation)}{self.joint}{self.high.digits(notation)}"

    def unit(self, notation: Notation = USUAL) -> str:
        """Return the unit that both are in."""
        return self.high.unit(notation)


def quantity(value: Decimal | float, unit: str) -> Quantity | None:
    """Return a number that is kept in `unit` ("g", "ml", "°C") with its kind; None for another unit.

    >>> quantity(5.0, "°C")
    Temperature(c=5.0, places=2)
    """
    if unit == "g":
        return Mass(value)
    if unit == "ml":
        return Volume(value)
    return Temperature(value, 2) if unit == "°C" else None


def shortest(value: Decimal | float) -> str:
    """Write a number with its shortest digits, never an exponent.

    >>> shortest(1e-05), shortest(Decimal("1E+3")), shortest(250.0)
    ('0.00001', '1000', '250')
    """
    return _trimmed(f"{_exact(value):f}")


def real_minus(digits: str) -> str:
    """Return digits with a real minus, and none before a nothing.

    >>> real_minus("-0.0"), real_minus("-2.5")
    ('0.0', '−2.5')
    """
    return digits.replace("-", "−") if digits.strip("-0.") else digits.lstrip("-")


_COMMAS = str.maketrans({".": ",", ",": "\u202f"})


def in_signs(digits: str, notation: Notation) -> str:
    """Return digits with the bench's decimal sign, and its sign between thousands.

    >>> in_signs("1,250.5", Notation(decimal_comma=True)).split()
    ['1', '250,5']
    """
    return digits.translate(_COMMAS) if notation.decimal_comma else digits


def celsius_to_fahrenheit(temp_c: float) -> float:
    """Return a temperature in F. For a difference of temperatures use `* 1.8`.

    >>> celsius_to_fahrenheit(-40.0)
    -40.0
    """
    return temp_c * 1.8 + 32.0


def fahrenheit_to_celsius(temp_f: float) -> float:
    """Return a temperature in C.

    >>> fahrenheit_to_celsius(212.0)
    100.0
    """
    return (temp_f - 32.0) / 1.8


def _exact(value: Decimal | float) -> Decimal:
    return value if isinstance(value, Decimal) else Decimal(repr(value))


def _trimmed(digits: str) -> str:
    return digits.rstrip("0").rstrip(".") if "." in digits else digits


def _degrees(value: float, places: int) -> str:
    return real_minus(_trimmed(f"{value:.{places}f}"))
