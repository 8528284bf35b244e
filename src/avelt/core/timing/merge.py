"""The one tree that is on screen between two frames: a slot for every pair, leaving and entering layer.

A pair whose parents are a pair (or both frames) moves inside the parent's slot. Any other moves in the
space of the frame, at the top of the tree.
"""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.geometry.flatten import Flat
from avelt.core.pairing.joined import Joined
from avelt.core.record import Record, lazy


class Slot(Record, frozen=True):
    """Rows in the two flat frames (or -1) and the parent's slot (or -1). ``lifted``: in the frame's space."""

    left: int
    right: int
    parent: int
    lifted: bool = False


class Merged(Record, frozen=True):
    """Slots, parents first; children of each parent (-1: the frame) in paint order before and after the flip."""

    slots: tuple[Slot, ...]
    before: dict[int, tuple[int, ...]]
    after: dict[int, tuple[int, ...]]

    @lazy
    def parent(self) -> np.ndarray:
        """The parent's slot of each (slots,)."""
        return np.array([slot.parent for slot in self.slots], dtype=np.intp)

    @lazy
    def levels(self) -> tuple[np.ndarray, ...]:
        """Slots by depth below the top, so that parents are done before children."""
        depth = np.zeros(len(self.slots), dtype=np.intp)
        for s, slot in enumerate(self.slots):
            depth[s] = depth[slot.parent] + 1 if slot.parent >= 0 else 0
        return tuple(np.flatnonzero(depth == level) for level in range(1, int(depth.max(initial=0)) + 1))

    @lazy
    def lifts(self) -> bool:
        """Whether some pair lies in other groups before and after."""
        return any(slot.lifted for slot in self.slots)


def standing(flat: Flat) -> Merged:
    """The tree of a frame that stands: every layer is its own partner."""
    parents = flat.parent.tolist()
    members: dict[int, list[int]] = {}
    for s, parent in enumerate(parents):
        members.setdefault(parent, []).append(s)
    order = {parent: tuple(own) for parent, own in members.items()}
    return Merged(tuple(Slot(s, s, parent) for s, parent in enumerate(parents)), order, order)


def merge(joined: Joined, lifted: frozenset[str] = frozenset()) -> Merged:
    """Lay both trees into one. ``lifted`` are layers without a partner that move in the frame's space all the same."""
    a, b = joined.before, joined.after
    partner = {a.index[f]: b.index[t] for f, t in joined.to_of.items()}
    slots: list[Slot] = []
    slot_left: dict[int, int] = {}
    slot_right: dict[int, int] = {}

    def parent_slot(flat: Flat, row: int, known: dict[int, int]) -> int:
        up = int(flat.parent[row])
        return known[up] if up >= 0 else -1

    for i in range(len(a.layers)):
        j = partner.get(i, -1)
        up, over = int(a.parent[i]), int(b.parent[j]) if j >= 0 else -1
        if j < 0:
            up_high = a.layers[i].id in lifted and int(a.parent[i]) >= 0
            slots.append(Slot(i, -1, -1 if up_high else parent_slot(a, i, slot_left), up_high))
        elif (up < 0 and over < 0) or (up >= 0 and partner.get(up, -1) == over and over >= 0):
            slots.append(Slot(i, j, parent_slot(a, i, slot_left)))
        else:
            slots.append(Slot(i, j, -1, True))
        slot_left[i] = len(slots) - 1
        if j >= 0:
            slot_right[j] = len(slots) - 1
    for j in range(len(b.layers)):
        if j not in slot_right:
            up_high = b.layers[j].id in lifted and int(b.parent[j]) >= 0
            slots.append(Slot(-1, j, -1 if up_high else parent_slot(b, j, slot_right), up_high))
            slot_right[j] = len(slots) - 1
    members: dict[int, list[int]] = {}
    for s, slot in enumerate(slots):
        members.setdefault(slot.parent, []).append(s)
    before = {p: _ordered(slots, own, "left", "right") for p, own in members.items()}
    after = {p: _ordered(slots, own, "right", "left") for p, own in members.items()}
    return Merged(tuple(slots), before, after)


def _ordered(slots: list[Slot], members: list[int], main: str, other: str) -> tuple[int, ...]:
    """Members in one frame's order; those it lacks stand right above what they cover in the other."""
    order = sorted((s for s in members if getattr(slots[s], main) >= 0), key=lambda s: getattr(slots[s], main))
    present = set(order)
    previous: int | None = None
    for s in sorted((s for s in members if getattr(slots[s], other) >= 0), key=lambda s: getattr(slots[s], other)):
        if s not in present:
            place = 0 if previous is None else order.index(previous) + 1
            order.insert(place, s)
        previous = s
    return tuple(order)
