"""The second poses of loops, laid out by the same rows as the layers that they belong to."""

from __future__ import annotations

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.geometry.flatten import Flat
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Layer, Loop
from avelt.core.record import Mutable, Record
from avelt.core.timing.followers import moved_by_clocks
from avelt.core.timing.layer_rows import own_row
from avelt.core.timing.merge import Merged


class LoopPose(Record, frozen=True):
    """A loop at work: the slot that it moves, whether it is of the frame arrived at, and how its second pose differs:
    what is added to the numbers at ``places`` (n,), and how many times as large those at ``scaled`` (k,) are."""

    loop: Loop
    slot: int
    of_right: bool
    places: np.ndarray
    added: Floats
    scaled: np.ndarray
    ratios: Floats


class Second(Mutable):
    """A loop's second pose while it is laid out: what it adds to the dense columns of its slot, to colours (by place)
    and to loose numbers (by place)."""

    loop: Loop
    slot: int
    of_right: bool
    layer: Layer
    dense: Floats
    colours: list[tuple[int, Floats]] = msgspec.field(default_factory=list)
    loose: list[tuple[int, Floats]] = msgspec.field(default_factory=list)

    def laid_out(self, dense: int, colours: int) -> LoopPose:
        """Where it is in a vector with so many dense numbers and colours before the loose ones."""
        row, offset = self.slot * len(SCALARS), self.loop.offset
        moved = self.dense.copy()
        shift = (0.0, 0.0) if self.loop.path else (offset.shift_x, offset.shift_y)
        for name, by in (("x", shift[0]), ("y", shift[1]), ("rotation", offset.rotation)):
            moved[COLUMN[name]] += by
        ratios = {"scale_x": offset.scale_x, "scale_y": offset.scale_y, "opacity": offset.opacity}
        columns = np.flatnonzero(moved)
        parts = [(row + columns, moved[columns])]
        parts += [(dense + 4 * k + np.arange(by.size), by.ravel()) for k, by in self.colours]
        parts += [(dense + 4 * colours + k + np.arange(by.size), by) for k, by in self.loose]
        places = np.concatenate([places for places, _ in parts])
        added = np.concatenate([by for _, by in parts])
        differs = added != 0.0
        scaled = [(row + COLUMN[name], ratio) for name, ratio in ratios.items() if ratio != 1.0]
        return LoopPose(
            self.loop,
            self.slot,
            self.of_right,
            places[differs],
            added[differs],
            np.array([place for place, _ in scaled], np.intp),
            np.array([ratio for _, ratio in scaled], float),
        )


def second_poses(a: Flat, b: Flat, merged: Merged) -> dict[int, list[Second]]:
    """The second poses of all loops, by slot. A loop that both frames share (by origin) is that of the right one."""
    left, right = moved_by_clocks(a.frame), moved_by_clocks(b.frame) if a.frame is not b.frame else ()
    if not left and not right:
        return {}
    shared = {loop.origin for loop in left} & {loop.origin for loop in right}
    sides = [(a, False, loop) for loop in left if loop.origin not in shared]
    sides += [(b, True, loop) for loop in right]
    slots = {(False, slot.left): s for s, slot in enumerate(merged.slots) if slot.left >= 0}
    slots |= {(True, slot.right): s for s, slot in enumerate(merged.slots) if slot.right >= 0}
    found: dict[int, list[Second]] = {}
    for flat, of_right, loop in sides:
        index = flat.index.get(loop.layer, -1)
        if (of_right, index) in slots and not loop.muted:
            slot = slots[of_right, index]
            layer = flat.layers[index]
            second = loop.changes.of(layer)
            differs = np.array(own_row(second)) - np.array(own_row(layer))
            found.setdefault(slot, []).append(Second(loop, slot, of_right, second, differs))
    return found
