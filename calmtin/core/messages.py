"""Sentences with typed values, worded when they are read and by whoever reads them.

The core says "Pour it at {at}." with a temperature; a page, a file or a command words it in the units of
the bench that asked. A message may hold messages.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import Quantity

_in_force: ContextVar[Callable[[], Notation]] = ContextVar("notation", default=lambda: USUAL)


def notation_in_force() -> Notation:
    """Return the notation of the maker at work; the usual one where nobody is."""
    return _in_force.get()()


@contextmanager
def notation_of(find: Callable[[], Notation]) -> Iterator[None]:
    """Let `find` say, once it is asked, how amounts are written inside this block."""
    token = _in_force.set(find)
    try:
        yield
    finally:
        _in_force.reset(token)


class Message:
    """A template and its values; `str` words it in the notation in force.

    >>> from calmtin.core.quantities import Temperature
    >>> str(Message("Pour it at {at}.", at=Temperature(65.0)))
    'Pour it at 65 °C.'
    """

    __slots__ = ("template", "values")

    def __init__(self, template: str, **values: Any) -> None:
        self.template, self.values = template, values

    def __str__(self) -> str:
        return self.worded(notation_in_force())

    def worded(self, notation: Notation) -> str:
        """Return the sentence in a bench's notation."""
        return self.template.format(**{name: word(value, notation) for name, value in self.values.items()})

    def __repr__(self) -> str:
        return f"Message({self.template!r}, {self.values!r})"

    def __bool__(self) -> bool:
        return bool(self.template)

    def __eq__(self, other: object) -> bool:
        if isinstance(other, Message):
            return (self.template, self.values) == (other.template, other.values)
        return isinstance(other, str) and str(self) == other

    def __hash__(self) -> int:
        return hash(self.template)

    def __contains__(self, words: str) -> bool:
        return words in str(self)


Words = str | Message


def written(quantity: Quantity) -> str:
    """Return a quantity with its unit, as the maker at work reads it."""
    return quantity.written(notation_in_force())


def word(value: Any, notation: Notation) -> Any:
    """Return a value of a message as it is read; a number that has no kind stays what it is."""
    if isinstance(value, Quantity):
        return value.written(notation)
    return value.worded(notation) if isinstance(value, Message) else value
