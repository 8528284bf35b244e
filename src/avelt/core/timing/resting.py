"""What of a moment rests and what moves: so that a picture costs what moves, not what is there.

Inside a transition neighbours in paint order that do not change are drawn together once and kept; only what changes is
made into items again. What rests is worked out once for all programs of one layout (``Resting`` values are the same
objects then), however often cues and curves change.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from enum import Enum
from functools import partial

from avelt.core.arrays import np
from avelt.core.cache import Cache
from avelt.core.model.find import by_identity
from avelt.core.model.properties import SCALARS
from avelt.core.model.values import Frame, Pattern
from avelt.core.record import Record, lazy
from avelt.core.timing.compile import at_rest, compile_still
from avelt.core.timing.items import Matrices, Matrix, item_of, items, matrices_now
from avelt.core.timing.layering import Order
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Scene

_KEPT = 32
_LARGE, _PIECE, _TAKEN = 300, 120, 8  # layers
_FLAT = 6  # numbers of a matrix that turns nothing out of the plane


class Going(Enum):
    """What becomes of what goes with the scrolling, as long as a frame is scrolled."""

    MOVES = "moves"  # it is made anew
    ALONG = "along"  # what lies in no group is drawn as it was once, further on
    RESTS = "rests"  # nobody scrolls now: it is cut as for going along


class Placed(Record, frozen=True, eq=False):
    """An item and the matrices of the groups above it, from the frame down."""

    item: Item
    above: tuple[Matrix, ...]


class Resting(Record, frozen=True, eq=False):
    """Neighbours in paint order that stand still together.

    ``scrolled``: they go with the scrolling, and this is how they stand when the frame is scrolled so far, px across
    and down; empty for what goes nowhere.
    """

    placed: tuple[Placed, ...]
    scrolled: tuple[float, ...] = ()


class Moving(Record, frozen=True, eq=False):
    """A slot that changes, or in which something does, and the (resting) groups above it, from the frame down.

    ``by_part``: itself it rests, and only a part at work in it may move. ``along``: it goes with the scrolling, as what
    rests.
    """

    slot: int
    groups: tuple[int, ...]
    by_part: bool = False
    along: bool = False


class Plan(Record, frozen=True, eq=False):
    """A moment's paint order, cut into what rests together and what moves."""

    parts: tuple[Resting | Moving, ...]
    order: Order

    @lazy
    def live(self) -> np.ndarray:
        """The slots (n,) that items are made of anew: those that move, all that lies in them, and the groups above."""
        moving = [part for part in self.parts if isinstance(part, Moving)]
        found = [group for part in moving for group in part.groups]
        todo = [part.slot for part in moving]
        while todo:
            slot = todo.pop()
            found.append(slot)
            todo += self.order.get(slot, ())
        return np.array(sorted(set(found)), np.intp)


_plans: Cache[Plan] = Cache(_KEPT)


class Shown(Record, frozen=True, eq=False):
    """Items to draw now, and the matrices of the groups above them, from the frame down."""

    items: Sequence[Item]
    above: tuple[Matrix, ...] = ()


class Drawing(Record, frozen=True, eq=False):
    """A moment as what to draw, in order. ``exact``: nothing in it is kept.

    At the ends, and where all stands, nothing is: what is kept is blended once more, which rounds, and the ends shall
    paint to the bit as the frames themselves do.
    """

    scene: Scene
    exact: bool
    parts: tuple[Resting | Shown, ...]

    def apart(self) -> Iterator[Drawing]:
        """What is painted of it at a time, each as a drawing: what rests together, or one item."""
        for part in self.parts:
            alone = [part] if isinstance(part, Resting) else [Shown((item,), part.above) for item in part.items]
            for one in alone:
                yield Drawing(self.scene, self.exact, (one,))


def drawing_of(
    scene: Scene, pieces: bool = False, going: Going = Going.MOVES, rested: tuple[float, ...] = ()
) -> Drawing:
    """What a painter draws of a scene.

    ``pieces``: a large frame at rest is cut into pieces that are kept, so that an edit costs the piece that it touched;
    what is blended anew may then differ by one level in 255. ``going``: what becomes of what goes with the scrolling,
    and ``rested`` how far it was scrolled when it rested last: what was kept then is taken along.
    """
    scene = at_rest(scene)
    if not 0.0 < scene.at < scene.program.duration and not scene.looping:
        top = items(scene)
        if pieces and not scene.program.mixes and len(scene.scalars) > _LARGE:
            return Drawing(scene, False, tuple(_pieces(scene, top)))
        return Drawing(scene, True, (Shown(top),))
    plan = plan_of(scene, going, rested)
    matrices = matrices_now(scene, plan.live)
    parts = (part if isinstance(part, Resting) else _shown(scene, part, matrices) for part in plan.parts)
    return Drawing(scene, False, tuple(parts))


def _shown(scene: Scene, part: Moving, matrices: Matrices) -> Resting | Shown:
    """What moves, as it is now. A part at work in which nothing moves rests, by itself."""
    inner = scene.inside.get(part.slot) if part.by_part else None
    above = tuple(matrices[group] for group in part.groups)
    if inner is None or _stirs(inner) or ~part.slot in scene.inside:
        return Shown(item_of(scene, part.slot, matrices), above)
    last: tuple[Scene, Resting] | None = part.__dict__.get("at_rest")
    if last is not None and looks_the_same(last[0], inner):
        return last[1]
    made = item_of(scene, part.slot, matrices)
    if part.along and not all(map(_flat, made)):
        return Shown(made, above)
    resting = Resting(tuple(Placed(item, above) for item in made), scene.offset if part.along else ())
    part.__dict__["at_rest"] = inner, resting
    return resting


def _stirs(scene: Scene) -> bool:
    """Whether something moves in it."""
    moves = scene.looping or 0.0 < scene.at < scene.program.duration
    return moves or any(_stirs(inner) for inner in scene.inside.values())


def looks_the_same(one: Scene, other: Scene) -> bool:
    """Whether two scenes are drawn alike for sure: the same numbers of the same program at the same of its times."""
    if one is other:
        return True
    if one.program is not other.program or one.at != other.at or one.inside.keys() != other.inside.keys():
        return False
    if one.looping != other.looping or one.offset != other.offset:
        return False
    inside = (looks_the_same(inner, other.inside[slot]) for slot, inner in one.inside.items())
    return np.array_equal(one.vector, other.vector) and all(inside)


def _pieces(scene: Scene, top: list[Item]) -> Iterator[Resting]:
    """Neighbours at the top of the tree, some layers each. They are the same objects while their items are."""
    inside = _sizes(scene)
    run: list[Item] = []
    size = 0
    for item in top:
        size += inside[item.slot]
        run.append(item)
        if size >= _PIECE or item is top[-1]:
            yield _kept_pieces.get(tuple(run), None, partial(_piece, tuple(run)))
            run, size = [], 0


def _piece(together: tuple[Item, ...]) -> Resting:
    return Resting(tuple(Placed(item, ()) for item in together))


_kept_pieces: Cache[Resting] = Cache(1024)


def _sizes(scene: Scene) -> list[int]:
    """How many layers each slot is, with all that lies in it."""
    parent = scene.program.parent.tolist()
    sizes = [1] * len(parent)
    for s in range(len(parent) - 1, -1, -1):
        if parent[s] >= 0:
            sizes[parent[s]] += sizes[s]
    return sizes


def tile_scene(pattern: Pattern) -> Scene:
    """A pattern's tile as a scene."""
    return compile_still(_tile(pattern)).at(0.0)


def _as_frame(pattern: Pattern) -> Frame:
    return Frame("", "", pattern.w, pattern.h, "#00000000", True, pattern.layers)


#: A pattern's tile as a frame, remembered by the pattern's identity.
_tile = by_identity(_as_frame)


def plan_of(scene: Scene, going: Going = Going.MOVES, rested: tuple[float, ...] = ()) -> Plan:
    """How the scene's paint order is cut. Not for the ends of a transition, where each frame is drawn as it is.

    ``going``: what becomes of what goes with the scrolling. ``rested``: how far it was scrolled when it rested last.
    """
    program = scene.program
    if not scene.scrolled:
        going = Going.RESTS
    order = scene.order
    # Programs of one layout that carry no speed of their own have the same numbers where nothing moves.
    held: tuple[object, ...] = (program, order) if program.carries else (program.contents, order)
    alike = (scene.flipped, program.stands.still.tobytes(), _at_work(scene))
    at_rest_there = (*alike, Going.RESTS, rested)
    if going == Going.ALONG and _plans.has(held, at_rest_there):
        key: tuple[object, ...] = at_rest_there
    else:
        key = (*alike, going, scene.offset if going == Going.RESTS else ())
    return _plans.get(held, key, lambda: _plan(scene, going))


def _at_work(scene: Scene) -> frozenset[int]:
    """The slots in which scenes stand that have clocks of their own; none where all parts are as they are before
    anything begins. Where one is at work the others may be next: what lies around them stays as it is then."""
    rests = {use.slot: use.rest for use in scene.program.uses}
    if all(inner is rests.get(s) for s, inner in scene.inside.items()):
        return frozenset()
    return frozenset(max(s, ~s) for s in scene.inside)


def _plan(scene: Scene, going: Going) -> Plan:
    program, order = scene.program, scene.order
    whole = np.arange(len(program.contents))
    matrices = matrices_now(scene, whole)
    goes = [slot for scroll in program.scrolls for slot in (scroll.down // len(SCALARS)).tolist()]
    taken = set(goes) & set(order.get(-1, ())) if going != Going.MOVES else set()
    still = program.stands.still.copy()
    if going != Going.RESTS:
        still[[slot for slot in goes if slot not in taken]] = False
    at_work = _at_work(scene)
    by_part = _resting_slots(still, order)
    still[list(at_work)] = False
    rests = _resting_slots(still, order)
    parts: list[Resting | Moving] = []
    run: list[Placed] = []
    last_goes = False

    def close() -> None:
        if run:
            parts.append(Resting(tuple(run), scene.offset if last_goes else ()))
            run.clear()

    def visit(parent: int, groups: tuple[int, ...], along: bool) -> None:
        nonlocal last_goes
        above = tuple(matrices[group] for group in groups)
        for slot in order.get(parent, ()):
            made = item_of(scene, slot, matrices) if still[slot] else ()
            goes = along or slot in taken
            turned = goes and not all(map(_flat, made))
            if rests[slot] and not turned and not (program.mixes and any(map(mixes, made))):
                if last_goes != goes or (goes and len(run) >= _TAKEN):
                    close()
                last_goes = goes
                run.extend(Placed(item, above) for item in made)
            elif len(made) == 1 and opens(made[0]) and not turned:
                visit(slot, (*groups, slot), goes)
            else:
                close()
                alone = slot in at_work and bool(by_part[slot]) and not program.mixes
                parts.append(Moving(slot, groups, alone, alone and goes))

    visit(-1, (), along=False)
    close()
    return Plan(tuple(parts), order)


def _resting_slots(still: np.ndarray, order: Order) -> np.ndarray:
    """Slots (slots,) that stand still with all that lies in them."""
    rests = still.copy()

    def settle(parent: int) -> bool:
        inside = [settle(slot) for slot in order.get(parent, ())]
        if parent >= 0:
            rests[parent] &= all(inside)
            return bool(rests[parent])
        return True

    settle(-1)
    return rests


def _flat(item: Item) -> bool:
    """Whether it is not turned out of the plane."""
    return len(item.matrix) == _FLAT


def mixes(item: Item) -> bool:
    """Whether what it looks like depends on what lies beneath."""
    if item.blend != "normal" or item.back_blur > 0.0:
        return True
    alone = item.isolates or item.mask is not None or item.opacity < 1.0 or item.blur > 0.0 or bool(item.shades)
    return not alone and any(mixes(child) for child in item.children)


def opens(item: Item) -> bool:
    """Whether a group is painted as if its layers lay beside it."""
    effects = (
        item.blur > 0.0 or item.shades or item.back_blur > 0.0 or item.blend != "normal" or item.isolates or item.cut
    )
    return bool(item.children) and item.opacity >= 1.0 and item.mask is None and not item.clips and not effects
