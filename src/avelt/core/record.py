"""The bases of small types that are not part of the project file.

They are made by msgspec, as the model's values are: a dataclass writes and compiles its methods as the program starts,
which takes forty times as long, and there are over a hundred.
"""

from __future__ import annotations

import msgspec


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
