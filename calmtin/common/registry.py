"""How upper apps add to lower ones: what pages show comes from `Sources`, one answer from a `Provider`."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Generic, TypeVar

T = TypeVar("T")


class Sources(Generic[T]):
    """Functions of upper apps that each add to the same thing, in the order of their registration."""

    def __init__(self) -> None:
        self._registered: list[T] = []

    def add(self, *functions: T) -> None:
        """Add functions; once, however often an app gets ready."""
        self._registered.extend(f for f in functions if f not in self._registered)

    def __iter__(self) -> Iterator[T]:
        return iter(self._registered)


class Provider(Generic[T]):
    """What a lower app needs for its calculations and one app above it knows."""

    def __init__(self, default: T | None = None) -> None:
        self._provided = default

    def provide(self, provided: T) -> None:
        """Say what the app above provides; the last word counts."""
        self._provided = provided

    def __call__(self) -> T:
        """Return what was provided, or the default; raises `LookupError` without either."""
        if self._provided is None:
            raise LookupError("no app provides this")
        return self._provided
