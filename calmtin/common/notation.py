"""How the maker at work writes amounts, for every box of one request, as Django does with time zones."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING, TypeVar

from calmtin.common.degrees import in_unit
from calmtin.common.numbers import CENT, plain
from calmtin.core.errors import CalmTinError
from calmtin.core.recipe.notation import USUAL, Notation
from calmtin.core.units import OUNCE_G

if TYPE_CHECKING:
    from _typeshed import DataclassInstance

Row = TypeVar("Row", bound="DataclassInstance")
_QUOTED = re.compile(r"(“[^”]*”)")
_GRAMS = re.compile(r"(?<![\w.])(\d[\d,]*(?:\.\d+)?) g\b(?!/)")
_in_force: ContextVar[Callable[[], Notation]] = ContextVar("notation", default=lambda: USUAL)


def notation_in_force() -> Notation:
    """Return the notation of the maker at work; the usual one where nobody is signed in."""
    return _in_force.get()()


def scale_weight(grams: Decimal | float) -> str:
    """Write grams in the unit of the bench's scale: in the steps they came in, or in ounces.

    >>> scale_weight(Decimal("4.80")), scale_weight(250.0)
    ('4.8', '250')
    """
    exact = grams if isinstance(grams, Decimal) else Decimal(repr(grams))
    if notation_in_force().scale_unit == "g":
        return plain(exact)
    ounces = exact / OUNCE_G
    fine = abs(ounces) < 1 and ounces != ounces.quantize(CENT)
    return plain(ounces.quantize(Decimal("0.001") if fine else CENT))


def in_bench_units(text: str) -> str:
    """Return a sentence with its weights and temperatures in the bench's units; what is quoted stays.

    >>> in_bench_units("“250 g” is read as 25.0 g. Pour it at 60-65 C.")
    '“250 g” is read as 25.0 g. Pour it at 60–65 °C.'
    """
    notation = notation_in_force()

    def tell(piece: str) -> str:
        piece = in_unit(piece, notation.temperature_unit)
        return piece if notation.scale_unit == "g" else _GRAMS.sub(_ounces, piece)

    pieces = _QUOTED.split(text)
    pieces[::2] = map(tell, pieces[::2])
    return "".join(pieces)


def _ounces(found: re.Match[str]) -> str:
    return f"{scale_weight(Decimal(found[1].replace(',', '')))} oz"


def said(refused: CalmTinError) -> str:
    """Return a refusal's sentence in the bench's units."""
    return in_bench_units(refused.sentence)


def told(row: Row, *names: str) -> Row:
    """Return a dataclass with its sentences in `names` in the bench's units."""
    return replace(row, **{name: in_bench_units(getattr(row, name)) for name in names})


@contextmanager
def notation_of(find: Callable[[], Notation]) -> Iterator[None]:
    """Let `find` say, once it is asked, how amounts are written inside this block."""
    token = _in_force.set(find)
    try:
        yield
    finally:
        _in_force.reset(token)
