"""Who is painted over whom, and when that changes."""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.geometry.flatten import Flat
from avelt.core.model.values import Transition
from avelt.core.pairing.joined import Joined
from avelt.core.timing.merge import Merged

Order = dict[int, tuple[int, ...]]
HALF = 0.5


def lifted(joined: Joined, transition: Transition) -> frozenset[str]:
    """Layers that come from or fall behind a layer which does not lie in their own group."""
    found = set()
    for ident, behind in _behind(joined.before, joined.leaves, transition, leaves=True) | _behind(
        joined.after, joined.enters, transition, leaves=False
    ):
        flat = joined.before if ident in joined.before.index else joined.after
        up = int(flat.parent[flat.index[ident]])
        if behind not in flat.index or not _lies_in(flat, flat.index[behind], up):
            found.add(ident)
    return frozenset(found)


def _behind(flat: Flat, alone: tuple[str, ...], transition: Transition, leaves: bool) -> set[tuple[str, str]]:
    usual = transition.leave.behind if leaves else transition.enter.behind
    own = {entry.layer: entry.pose.behind for entry in transition.absents}
    if not usual and not any(own.values()):
        return set()
    single = set(alone)
    found = set()
    for ident in alone:
        up = int(flat.parent[flat.index[ident]])
        inside = up >= 0 and flat.layers[up].id in single
        behind = own.get(ident, "" if inside else usual)
        if behind and behind != ident:
            found.add((ident, behind))
    return found


def _lies_in(flat: Flat, index: int, group: int) -> bool:
    """Whether a layer lies in a group (-1: the frame), at any depth."""
    while index >= 0:
        index = int(flat.parent[index])
        if index == group:
            return True
    return group < 0


def orders(merged: Merged, a: Flat, b: Flat, transition: Transition, length: float) -> tuple[tuple[float, Order], ...]:
    """Children by parent slot, each from a moment (ms) on. The first holds from the start."""
    moments = _flips(merged, a, b, transition, length)
    hidden = _hidden_behind(merged, a, b, transition)
    half = length * HALF
    if not moments and not hidden:
        return (0.0, merged.before), (half, merged.after)
    times = sorted({half, *moments.values()})
    made = [(0.0, _put_behind(merged, merged.before, hidden))]
    for moment in times:
        flipped = {s for s in range(len(merged.slots)) if moments.get(s, half) <= moment}
        order = merged.after if len(flipped) == len(merged.slots) else _partly(merged, flipped)
        made.append((moment, _put_behind(merged, order, hidden)))
    return tuple(made)


def _flips(merged: Merged, a: Flat, b: Flat, transition: Transition, length: float) -> dict[int, float]:
    """When slots with a moment of their own change their place in the order, ms."""
    own = {(s.from_id, s.to_id): s.order_at for s in transition.settled if s.order_at is not None}
    if not own:
        return {}
    found = {}
    for s, slot in enumerate(merged.slots):
        if slot.left >= 0 and slot.right >= 0:
            share = own.get((a.layers[slot.left].id, b.layers[slot.right].id))
            if share is not None:
                found[s] = share * length
    return found


def _partly(merged: Merged, flipped: set[int]) -> Order:
    """The order when only some have flipped: those stand at their place after, the rest at that before."""
    made: Order = {}
    for parent, members in merged.before.items():
        after = {s: k for k, s in enumerate(merged.after[parent])}
        now = {s: (after[s] if s in flipped else k) for k, s in enumerate(members)}
        # Of two at one place the flipped one has just come over (or under) the other, as it will stay.
        made[parent] = tuple(sorted(members, key=lambda s: (now[s], after[s])))
    return made


def _hidden_behind(merged: Merged, a: Flat, b: Flat, transition: Transition) -> dict[int, int]:
    """Slot -> the slot below which it is painted."""
    slot_of: dict[str, int] = {}
    alone_a, alone_b = [], []
    for s, slot in enumerate(merged.slots):
        for flat, row in ((a, slot.left), (b, slot.right)):
            if row >= 0:
                slot_of[flat.layers[row].id] = s
        if slot.right < 0:
            alone_a.append(a.layers[slot.left].id)
        elif slot.left < 0:
            alone_b.append(b.layers[slot.right].id)
    wanted = _behind(a, tuple(alone_a), transition, True) | _behind(b, tuple(alone_b), transition, False)
    return {slot_of[i]: slot_of[j] for i, j in wanted if i in slot_of and j in slot_of}


def _put_behind(merged: Merged, order: Order, hidden: dict[int, int]) -> Order:
    """The order with some put right below what they hide behind (or what that lies in)."""
    if not hidden:
        return order
    made = {parent: list(members) for parent, members in order.items()}
    parents = np.array([slot.parent for slot in merged.slots])
    for s, target in hidden.items():
        home = int(parents[s])
        while target >= 0 and int(parents[target]) != home:
            target = int(parents[target])
        if target < 0 or target == s:
            continue
        made[home].remove(s)
        made[home].insert(made[home].index(target), s)
    return {parent: tuple(members) for parent, members in made.items()}
