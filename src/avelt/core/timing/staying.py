"""Layers without a partner in groups whose bounds change: they stay where their own frame has them.

A group that keeps its size moves as one thing and takes along what lies in it. One whose size is another at the other
end has other bounds, because of what it holds there: its own travel moves nothing that leaves or enters in it.
"""

from __future__ import annotations

from collections.abc import Sequence

from avelt.core.model.properties import COLUMN
from avelt.core.timing.merge import Merged, Slot

POSITION = (COLUMN["x"], COLUMN["y"])
_SIZE = (COLUMN["w"], COLUMN["h"])
#: Rotation, scales and skew of a row, and what they are where a group only stands somewhere.
_LINEAR = slice(COLUMN["rotation"], COLUMN["skew"] + 1)
_UPRIGHT = [0.0, 1.0, 1.0, 0.0]
_SAME_SIZE = 1e-3  # px
Rows = tuple[list[float], list[float]]


def travel_of_bounds(merged: Merged, rows: Sequence[Rows], slot: Slot) -> tuple[tuple[float, float], int]:
    """How far (px across, down) the groups around a slot travel because their bounds change, and the nearest of
    these groups (-1: there is none). ``rows``: the dense numbers at both ends of all slots before it, parents too."""
    across, down, nearest = 0.0, 0.0, -1
    up = slot.parent
    while up >= 0:
        one, two = rows[up]
        if any(abs(one[c] - two[c]) > _SAME_SIZE for c in _SIZE) and one[_LINEAR] == two[_LINEAR] == _UPRIGHT:
            x, y = POSITION
            across, down = across + two[x] - one[x], down + two[y] - one[y]
            nearest = up if nearest < 0 else nearest
        up = merged.slots[up].parent
    return (across, down), nearest


def stay(merged: Merged, rows: Sequence[Rows], slot: Slot, start: list[float], end: list[float]) -> int:
    """Take the travel of bounds off the rows of a layer that leaves or enters, at the end where it is absent.

    Gives the group by whose cue its position must run so that both cancel at every moment: the nearest one where the
    layer goes nowhere by itself, else -1.
    """
    travel, nearest = travel_of_bounds(merged, rows, slot)
    goes = any(start[c] != end[c] for c in POSITION)
    for c, by in zip(POSITION, travel, strict=True):
        if slot.right < 0:
            end[c] -= by
        else:
            start[c] += by
    return -1 if goes else nearest
