"""A property that is worked out once and then kept by its object.

`functools.cached_property` of Python 3.11 holds one lock a property for all objects of a process: two designs wait for each other, and two
threads that come to two such properties in opposite order wait for ever. This one holds no lock; whoever shares an object between threads
takes turns on the whole of it (`server/turns.py`).
"""

from __future__ import annotations

from collections.abc import Callable
from copy import copy
from typing import Any, Generic, TypeVar, overload

from anabasis.patience import look

T = TypeVar("T")


class once(Generic[T]):  # noqa: N801 - a decorator, spelled as one
    """Work a value out at the first asking, and keep it in the object's `__dict__` under the property's name."""

    def __init__(self, work: Callable[[Any], T]) -> None:
        """`work`: the method that is decorated."""
        self._work = work
        self.__doc__ = work.__doc__

    def __set_name__(self, owner: type, name: str) -> None:
        """Learn the name under which the value is kept."""
        self._name = name

    @overload
    def __get__(self, instance: None, owner: type) -> once[T]: ...

    @overload
    def __get__(self, instance: object, owner: type) -> T: ...

    def __get__(self, instance: object | None, owner: type) -> once[T] | T:
        """Return the value. It is asked for only where the object has none: what stands in `__dict__` goes first."""
        if instance is None:
            return self
        look()
        value = self._work(instance)
        instance.__dict__[self._name] = value
        return value


def changed(instance: T, drop: tuple[str, ...] = (), **fields: object) -> T:
    """Return a copy with other values in some fields and all that was worked out, but for what is dropped: whoever asks knows that it stays true."""
    new = copy(instance)
    for name, value in fields.items():
        object.__setattr__(new, name, value)
    for name in drop:
        new.__dict__.pop(name, None)
    return new
