"""The bases of small types that are not part of the project file.

They are made by msgspec, as the model's values are: a dataclass writes and compiles its methods as the program starts,
which takes forty times as long, and there are over a hundred.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

import msgspec

T = TypeVar("T")


class lazy(Generic[T]):
    """A property that is worked out once for each instance, and kept in its ``__dict__``.

    Unlike ``functools.cached_property`` of Python 3.11 it takes no lock. That lock is one for all instances of a class:
    whoever works one out keeps everybody else from all of them. Two threads that ask for one at a time may both
    work it out; the first result is kept, and both get it.

    >>> class Square(Record, frozen=True):
    ...     side: float
    ...     @lazy
    ...     def area(self) -> float:
    ...         return self.side**2
    >>> Square(3.0).area
    9.0
    """

    def __init__(self, make: Callable[[Any], T]) -> None:
        self.make, self.name, self.__doc__ = make, "", make.__doc__

    def __set_name__(self, _: type, name: str) -> None:
        self.name = name

    @overload
    def __get__(self, instance: None, _: type) -> lazy[T]: ...

    @overload
    def __get__(self, instance: object, _: type) -> T: ...

    def __get__(self, instance: object | None, _: type) -> lazy[T] | T:
        if instance is None:
            return self
        made: T = instance.__dict__.setdefault(self.name, self.make(instance))
        return made


class Record(msgspec.Struct, frozen=True, dict=True, weakref=True):
    """A type that is its fields, and never changes.

    >>> class Spot(Record, frozen=True):
    ...     x: float
    ...     y: float = 0.0
    >>> Spot(1.0)
    Spot(x=1.0, y=0.0)
    """


class Mutable(msgspec.Struct, dict=True, weakref=True):
    """A type that is its fields, which change while something is worked out."""
