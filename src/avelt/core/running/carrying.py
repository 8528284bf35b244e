"""The speed of an interrupted motion, carried over into the one that takes its place."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.arrays import Floats, np
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.timing.program import Program
from avelt.core.timing.slots import SlotContents, owners

_WIDTH = len(SCALARS)


def carried_speed(old: Program, ms: float, new: Program, rate: float = 1.0, begins: bool = True) -> Floats:
    """What to add to the new program's own start speed so that nothing changes its speed at once: (numbers,).

    Speeds are per ms, measured over the last and the first millisecond. Only slots that lie in the same
    parent before and after are carried: others have another space. Colours and outlines are, where both programs
    hold them in the same form. ``rate``: how fast the old program's time went. ``begins``: the new one begins by
    itself; what follows a value has no speed of its own.
    """
    before = old.table(np.array([ms - 1.0, ms]))
    own = new.table(np.array([0.0, 1.0]))
    speed_before, speed_own = (before[1] - before[0]) * rate, own[1] - own[0] if begins else np.zeros(len(new.start))
    speed = np.zeros(len(new.start))
    where = {part.layer.id: s for s, part in enumerate(old.contents)}
    pairs = [
        (s, t)
        for s, part in enumerate(new.contents)
        if part.left is not None
        and (t := where.get(part.left.id)) is not None
        and _parent_after(old, t) == _parent_before(new, s)
    ]
    here, there = np.array(pairs, np.intp).reshape(-1, 2).T
    rows, own_rows, old_rows = (
        numbers[: program.dense].reshape(-1, _WIDTH)
        for numbers, program in ((speed, new), (speed_own, new), (speed_before, old))
    )
    rows[here] = old_rows[there] - own_rows[here]
    rows[:, COLUMN["mix"]] = 0.0  # it only says which of two contents is seen
    moves, moved = _moving(new, speed_own), _moving(old, speed_before)
    for s, t in pairs:
        if s in moves or t in moved:
            for ours, theirs in _places(new, s, old, t):
                speed[ours] = speed_before[theirs] - speed_own[ours]
    return speed


def _moving(program: Program, speed: Floats) -> frozenset[int]:
    """The slots of which colours or loose numbers move."""
    owned = owners(program.contents, program.dense, program.colours_end)
    before = np.concatenate([[0], np.cumsum(speed != 0.0)])
    return frozenset(owned.slots[before[owned.first + owned.count] > before[owned.first]].tolist())


def _parent_after(program: Program, slot: int) -> str:
    up = int(program.parent[slot])
    return program.contents[up].layer.id if up >= 0 else ""


def _parent_before(program: Program, slot: int) -> str:
    up = int(program.parent[slot])
    if up < 0:
        return ""
    left = program.contents[up].left
    return left.id if left else "none"


def _places(new: Program, s: int, old: Program, t: int) -> Iterator[tuple[slice, slice]]:
    """Stretches of colours and loose numbers of the two vectors that are the same."""
    one, two = new.contents[s], old.contents[t]
    for ours, theirs in zip(_forms(one), _forms(two), strict=False):
        if ours[0] == theirs[0]:
            (_, colour, count, loose, length), (_, colour2, _, loose2, _) = ours, theirs
            yield _stretch(new.dense + 4 * colour, 4 * count), _stretch(old.dense + 4 * colour2, 4 * count)
            if length:
                yield _stretch(new.colours_end + loose, length), _stretch(old.colours_end + loose2, length)
    a, b = one.outline, two.outline
    if a and b and (a.lengths, a.unit) == (b.lengths, b.unit) and one.change == two.change == "":
        length = 2 * sum(a.lengths)
        yield _stretch(new.colours_end + a.loose, length), _stretch(old.colours_end + b.loose, length)


def _forms(part: SlotContents) -> list[tuple[object, int, int, int, int]]:
    """Its paints and shadows: what must be alike, first colour and how many, first loose number and how many."""
    made: list[tuple[object, int, int, int, int]] = []
    for name, paints in (("fill", part.fills), ("stroke", part.stroke)):
        for paint in paints:
            length = paint.count + 9 if paint.loose >= 0 else 0
            made.append(((name, paint.kind, paint.count, paint.show), paint.colour, paint.count, paint.loose, length))
    made += [(("shadow", shadow.inner), shadow.colour, 1, shadow.loose, 3) for shadow in part.shadows]
    return made


def _stretch(first: int, count: int) -> slice:
    return slice(first, first + count)
