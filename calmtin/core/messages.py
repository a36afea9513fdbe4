"""Sentences with typed values, formatted when they are read, in the reader's units.

The core says "Pour it at {at}." with a temperature; a page, a file or a command words it in the units of
the bench that asked. A message may hold messages.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from decimal import Decimal
from string import Formatter
from typing import Any

from calmtin.core.notation import USUAL, Notation
from calmtin.core.quantities import Quantity, in_signs, real_minus

_in_force: ContextVar[Callable[[], Notation]] = ContextVar("notation", default=lambda: USUAL)


def notation_in_force() -> Notation:
    """Return the notation of the current maker; the default one without a maker."""
    return _in_force.get()()


@contextmanager
def notation_of(find: Callable[[], Notation]) -> Iterator[None]:
    """Use the notation that `find` returns within this block."""
    token = _in_force.set(find)
    try:
        yield
    finally:
        _in_force.reset(token)


_look_up: Callable[[str], str] = str


def look_up_with(look_up: Callable[[str], str]) -> None:
    """Let templates be looked up in a catalogue before their values go in; without one they stay."""
    global _look_up
    _look_up = look_up


class _Writer(Formatter):
    """Fills a template in as a bench reads it: "{share:.1f} %" is "4,5 %" where decimals have commas."""

    def __init__(self, notation: Notation) -> None:
        self.notation = notation

    def format_field(self, value: Any, format_spec: str) -> Any:
        """Return one value as it is read."""
        if isinstance(value, Quantity):
            return value.written(self.notation)
        if isinstance(value, Message):
            return value.worded(self.notation)
        if isinstance(value, float | Decimal) or "," in format_spec:
            return in_signs(real_minus(format(value, format_spec)), self.notation)
        return format(value, format_spec)


class Message:
    """A template and its values; `str` words it in the notation in force.

    >>> from calmtin.core.quantities import Temperature
    >>> str(Message("Pour it at {at}, {share:.1f} % of it.", at=Temperature(65.0), share=12.34))
    'Pour it at 65 °C, 12.3 % of it.'
    """

    __slots__ = ("template", "values")

    def __init__(self, template: str, **values: Any) -> None:
        self.template, self.values = template, values

    def __str__(self) -> str:
        return self.worded(notation_in_force())

    def worded(self, notation: Notation) -> str:
        """Return the sentence in a bench's notation."""
        # A catalogue answers the empty text with its own head.
        template = _look_up(self.template) if self.template else ""
        return _Writer(notation).vformat(template, (), self.values)

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


def gettext_noop(text: str) -> str:
    """Return a text as it is; xgettext puts it into the catalogue, and who shows it looks it up there."""
    return text


def written(quantity: Quantity) -> str:
    """Return a quantity with its unit, as the maker at work reads it."""
    return quantity.written(notation_in_force())


def joined(words: Sequence[Words], joint: str) -> Message:
    """Return sentences or parts of one in a row, each worded when it is read.

    >>> str(joined(["wax", Message("{share:.0f} % shea", share=20.0)], "; "))
    'wax; 20 % shea'
    """
    names = [f"w{n}" for n in range(len(words))]
    return Message(joint.join(f"{{{name}}}" for name in names), **dict(zip(names, words, strict=True)))


def listed(numbers: Iterable[str]) -> str:
    """Return formatted numbers as a list, separated by a character that is not their decimal sign.

    >>> listed(["15.5", "18"])
    '15.5, 18'
    """
    return ("; " if notation_in_force().decimal_comma else ", ").join(numbers)


def said(template: str, **values: Any) -> str:
    """Return a sentence formatted at once for the current maker.

    >>> said("{share:.1f} % of it", share=12.34)
    '12.3 % of it'
    """
    return str(Message(template, **values))


def counted(count: int, one: str, many: str, **values: Any) -> str:
    """Return one of two sentences, for one and for any other number; both may name `{count}`.

    >>> counted(1, "{count} pour", "{count} pours"), counted(2, "{count} pour", "{count} pours")
    ('1 pour', '2 pours')
    """
    return said(one if count == 1 else many, count=count, **values)


def digits(value: Decimal | float, spec: str = "") -> str:
    """Return a number in a format of Python's, with the decimal sign of the maker at work.

    >>> digits(12.34, ".1f")
    '12.3'
    """
    return _Writer(notation_in_force()).format_field(value, spec)  # type: ignore[no-any-return]
