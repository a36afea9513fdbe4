"""A property that is worked out once for each object.

`functools.cached_property` holds, in Python 3.11, one lock for all objects of a class while it works one
out: everybody's page would wait for one bench that learns from a long log. Two threads that ask one object
at the same time may both work it out here; the later answer stays, and both are the same.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

T = TypeVar("T")


class cached_property(Generic[T]):  # noqa: N801  # named as what it stands in for
    """Work `function` out when it is first asked for, and keep it in the object."""

    def __init__(self, function: Callable[[Any], T]) -> None:
        self.function, self.name = function, function.__name__
        self.__doc__ = function.__doc__

    def __set_name__(self, owner: type[Any], name: str) -> None:
        self.name = name

    @overload
    def __get__(self, instance: None, owner: type[Any]) -> cached_property[T]: ...
    @overload
    def __get__(self, instance: object, owner: type[Any]) -> T: ...
    def __get__(self, instance: object | None, owner: type[Any]) -> cached_property[T] | T:
        if instance is None:
            return self
        found = instance.__dict__[self.name] = self.function(instance)
        return found
