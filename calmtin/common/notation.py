"""How the maker at work writes amounts, for every box of one request, as Django does with time zones."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from calmtin.core.recipe.notation import USUAL, Notation

_in_force: ContextVar[Callable[[], Notation]] = ContextVar("notation", default=lambda: USUAL)


def notation_in_force() -> Notation:
    """Return the notation of the maker at work; the usual one where nobody is signed in."""
    return _in_force.get()()


@contextmanager
def notation_of(find: Callable[[], Notation]) -> Iterator[None]:
    """Let `find` say, once it is asked, how amounts are written inside this block."""
    token = _in_force.set(find)
    try:
        yield
    finally:
        _in_force.reset(token)
