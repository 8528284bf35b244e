"""Dashes between two strokes.

Lists are brought to one length by repeating each, as CSS does for ``stroke-dasharray`` (the least common multiple of
both lengths). A line without dashes is one whose gaps are nothing, so that it breaks up instead of jumping.
"""

from __future__ import annotations

from math import lcm

_MOST = 64  # numbers: more are no pattern that anybody sees

Dashes = tuple[float, ...]


def alike(first: Dashes, second: Dashes) -> tuple[Dashes, Dashes] | None:
    """Both lists with the same even count of numbers; ``None`` when they are one already, or have no common form.

    >>> alike((4.0, 2.0), (6.0,))
    ((4.0, 2.0), (6.0, 6.0))
    >>> alike((), (4.0, 2.0))
    ((6.0, 0.0), (4.0, 2.0))
    """
    if first == second:
        return None
    one, two = _even(first), _even(second)
    one, two = one or _whole(two), two or _whole(one)
    count = lcm(len(one), len(two))
    if count > _MOST:
        return None
    return one * (count // len(one)), two * (count // len(two))


def _even(dashes: Dashes) -> Dashes:
    """An odd list is gone through twice, as SVG says."""
    return dashes * 2 if len(dashes) % 2 else dashes


def _whole(dashes: Dashes) -> Dashes:
    """The pattern with its gaps closed."""
    return tuple(value for k in range(0, len(dashes), 2) for value in (dashes[k] + dashes[k + 1], 0.0))
