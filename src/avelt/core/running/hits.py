"""What lies under a point of a scene."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.geometry import tilt
from avelt.core.geometry.meeting import meets
from avelt.core.model.properties import COLUMN
from avelt.core.timing.items import scale_inside
from avelt.core.timing.program import Scene

_W, _H = COLUMN["w"], COLUMN["h"]
_SEEN = 1 / 255
_FLAT = 1e-12  # of a transform that brings nothing back
_BESIDE = 8.0  # px of the layer beside its box: more than what still counts as on it


Hit = tuple[int, ...]  # slots from the outermost scene to the innermost: one in each


def path_at(scene: Scene, x: float, y: float) -> tuple[Hit, ...]:
    """What lies under a point (px of the frame), the innermost first, then what it lies in, outwards; empty for none.

    A scene that stands in a slot is looked into: what is hit there begins with that slot.
    """
    chain = slots_at(scene, x, y)
    if not chain:
        return ()
    inner: tuple[Hit, ...] = ()
    child = scene.inside.get(chain[0])
    if child is not None:
        tilts = scene.tilts()
        back = tilt.back_to(tilts.get(chain[0], scene.world()[chain[0]]), x, y)
        if back is not None:
            row = scene.scalars[chain[0]]
            sx, sy = scale_inside(child, float(row[_W]), float(row[_H]), scene.program.contents[chain[0]].layer)
            inner = tuple((chain[0], *hit) for hit in path_at(child, back[0] / sx, back[1] / sy))
    return (*inner, *((slot,) for slot in chain))


def paint_order(scene: Scene) -> list[int]:
    """The slots of a scene as they are painted, each before what lies in it."""
    order: list[int] = []
    stack = list(reversed(scene.order.get(-1, ())))
    while stack:
        slot = stack.pop()
        order.append(slot)
        stack += reversed(scene.order.get(slot, ()))
    return order


def slots_at(scene: Scene, x: float, y: float) -> tuple[int, ...]:
    """The topmost slot that the point meets, then what it lies in, outwards; empty for none.

    Layers that cannot be seen are not hit. The point is in px of the frame.
    """
    world, tilts = scene.world(), scene.tilts()
    near = _near(scene, world, x, y)
    near[list(tilts)] = True
    possible = set(np.flatnonzero(near & (scene.world_opacity() >= _SEEN)).tolist())
    stack = list(scene.order.get(-1, ()))
    order: list[int] = []
    while stack:
        slot = stack.pop()
        order.append(slot)
        stack.extend(scene.order.get(slot, ()))
    # Popping from the end visits topmost first; a group comes before its own layers, which are above it.
    for slot in order:
        if slot not in possible or scene.order.get(slot) or scene.program.is_absent(slot, scene.at):
            continue
        back = tilt.back_to(tilts.get(slot, world[slot]), x, y)
        if back is None:
            continue
        row = scene.scalars[slot]
        if meets(scene.program.contents[slot].layer, float(row[_W]), float(row[_H]), *back):
            chain = [slot]
            while scene.program.parent[chain[-1]] >= 0:
                chain.append(int(scene.program.parent[chain[-1]]))
            return tuple(chain)
    return ()


def _near(scene: Scene, world: Floats, x: float, y: float) -> np.ndarray:
    """Slots (slots,) whose upright box is about where the point is: of all others nothing needs to be looked at."""
    a, b, c, d, e, f = world.T
    size = a * d - b * c
    flat = np.abs(size) < _FLAT
    over = np.where(flat, 1.0, size)
    px, py = (d * (x - e) - c * (y - f)) / over, (a * (y - f) - b * (x - e)) / over
    w, h = scene.scalars[:, _W], scene.scalars[:, _H]
    return np.asarray(flat | ((px >= -_BESIDE) & (py >= -_BESIDE) & (px <= w + _BESIDE) & (py <= h + _BESIDE)))
