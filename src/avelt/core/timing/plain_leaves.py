"""Layers of a program that are as simple as most are: a box or an oval with one solid fill and nothing else about it.

What they are painted as needs a few numbers only, so where many play at once they are looked up once a program.
"""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Box, Layer, Oval
from avelt.core.record import Record
from avelt.core.timing.program import Program
from avelt.core.timing.slots import SlotContents

_WIDTH = len(SCALARS)
#: What must be nothing, and stay so.
_NONE = tuple(COLUMN[name] for name in ("blur", "back_blur", "cut_top", "cut_right", "cut_bottom", "cut_left"))


class Plain(Record, frozen=True):
    """One such layer, where its one colour is, and whether it is a box."""

    layer: Layer
    colour: int
    box: bool


def plain_leaves(program: Program) -> tuple[Plain | None, ...]:
    """For each slot what it is, where it is as simple; remembered with the program."""
    found: tuple[Plain | None, ...] | None = program.__dict__.get("plain_leaves")
    if found is None:
        written = np.zeros(len(program.start), bool)
        for track in program.tracks:
            written[track.written] = True
        found = tuple(_of(program, s, part, written) for s, part in enumerate(program.contents))
        program.__dict__["plain_leaves"] = found
    return found


def _of(program: Program, s: int, part: SlotContents, written: np.ndarray) -> Plain | None:
    layer = part.right
    if layer is None or part.left is not layer or part.change or not isinstance(layer.body, Box | Oval):
        return None
    if layer.stroke is not None or part.stroke or part.shadows or layer.blend != "normal" or len(part.fills) != 1:
        return None
    paint = part.fills[0]
    if paint.kind != "solid" or paint.pattern is not None or paint.show != "both" or paint.count != 1:
        return None
    first = s * _WIDTH
    nothing = [first + column for column in _NONE]
    if written[nothing].any() or program.start[nothing].any():
        return None
    return Plain(layer, paint.colour, isinstance(layer.body, Box))


def numbers_of(vector: Floats, s: int, columns: tuple[int, ...]) -> tuple[float, ...]:
    """A few of the dense numbers of a slot, as plain floats."""
    first, item = s * _WIDTH, vector.item
    return tuple([item(first + column) for column in columns])
