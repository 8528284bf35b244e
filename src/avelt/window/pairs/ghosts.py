"""Ghosts: where a layer stands on the frame in which it is absent, and what dragging it does. No widget here."""

from __future__ import annotations

import math
from typing import Literal

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.geometry import affine
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Away, Layer, Transition
from avelt.core.pairing.engine import Pairing
from avelt.core.record import Record
from avelt.core.timing.program import Program

replace = msgspec.structs.replace
Grip = Literal["move", "size", "rotation", "fade"]
_NEAR_PIVOT = 4.0  # px: a corner so near to the pivot says nothing about size
_STEP = 15.0  # degrees that Shift turns by


class Ghost(Record, frozen=True):
    """A leaving or entering layer where it is absent, in the frame's px.

    ``matrix`` (6,) takes its box to the frame, ``parent`` its group's px; ``side`` is the frame on which it shows.
    """

    layer: Layer
    side: Literal["from", "to"]
    pose: Away
    own: bool
    matrix: Floats
    parent: Floats
    w: float
    h: float
    opacity: float

    def corners(self) -> Floats:
        """The corners (4, 2) in the frame, clockwise from the top left."""
        return affine.apply(self.matrix, np.array([(0, 0), (self.w, 0), (self.w, self.h), (0, self.h)], float))

    @property
    def pivot(self) -> tuple[float, float]:
        """The point about which it is turned and scaled, in the frame."""
        x, y = affine.apply(self.matrix, np.array([self.layer.pivot[0] * self.w, self.layer.pivot[1] * self.h]))
        return float(x), float(y)


def pose_of(transition: Transition, layer_id: str, leaves: bool) -> tuple[Away, bool]:
    """How a layer is where it is absent, and whether that is its own."""
    own = next((entry.pose for entry in transition.absents if entry.layer == layer_id), None)
    usual = transition.leave if leaves else transition.enter
    return (own, True) if own is not None else (usual, False)


def ghost_of(program: Program, pairing: Pairing, transition: Transition, layer_id: str) -> Ghost | None:
    """The ghost of a leaving or entering layer; ``None`` for one that has a partner."""
    leaves = layer_id in pairing.left.flat.index and layer_id not in pairing.to_of
    if not leaves and (layer_id not in pairing.right.flat.index or layer_id in pairing.from_of):
        return None
    found = (s for s, part in enumerate(program.contents) if (part.left if leaves else part.right) is not None)
    slot = next((s for s in found if _of(program, s, leaves).id == layer_id), -1)
    if slot < 0:
        return None
    scene = program.scene_of(
        program.end.copy() if leaves else program.start.copy(), program.duration if leaves else 0.0
    )
    world = scene.world()
    up = int(program.parent[slot])
    parent = world[up] if up >= 0 else affine.identity()
    row = scene.scalars[slot]
    pose, own = pose_of(transition, layer_id, leaves)
    return Ghost(
        _of(program, slot, leaves),
        "to" if leaves else "from",
        pose,
        own,
        world[slot],
        parent,
        float(row[COLUMN["w"]]),
        float(row[COLUMN["h"]]),
        float(row[COLUMN["opacity"]]),
    )


def _of(program: Program, slot: int, leaves: bool) -> Layer:
    layer = program.contents[slot].left if leaves else program.contents[slot].right
    return layer if layer is not None else program.contents[slot].layer


def outermost_alone(pairing: Pairing) -> tuple[str, ...]:
    """Layers without a partner that do not lie in a group without one: those whose ghosts are shown."""
    found = []
    for flat, alone in ((pairing.left.flat, pairing.leaves), (pairing.right.flat, pairing.enters)):
        single = set(alone)
        for ident in alone:
            up = int(flat.parent[flat.index[ident]])
            if up < 0 or flat.layers[up].id not in single:
                found.append(ident)
    return tuple(found)


def dragged(ghost: Ghost, grip: Grip, start: tuple[float, float], now: tuple[float, float], even: bool) -> Away:
    """The pose after a grip was dragged from a point of the frame to another; ``even`` keeps shape or steps turns."""
    pose = ghost.pose
    if grip == "move":
        back = affine.invert(ghost.parent)
        dx, dy = now[0] - start[0], now[1] - start[1]
        if even:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        if back is not None:
            a, b, c, d = (float(v) for v in back[:4])  # the project is saved: no NumPy numbers in it
            dx, dy = a * dx + c * dy, b * dx + d * dy
        return replace(pose, shift_x=pose.shift_x + dx, shift_y=pose.shift_y + dy)
    x, y = ghost.pivot
    if grip == "rotation":
        turned = math.degrees(math.atan2(now[1] - y, now[0] - x) - math.atan2(start[1] - y, start[0] - x))
        turned = (turned + 180.0) % 360.0 - 180.0
        total = pose.rotation + turned
        return replace(pose, rotation=round(total / _STEP) * _STEP if even else total)
    if grip == "size":
        return _sized(ghost, start, now, even)
    # The fade bar is as long as the ghost is wide.
    left, right = float(ghost.corners()[:, 0].min()), float(ghost.corners()[:, 0].max())
    share = (now[0] - left) / max(1.0, right - left)
    return replace(pose, opacity=min(1.0, max(0.0, share)))


def _sized(ghost: Ghost, start: tuple[float, float], now: tuple[float, float], even: bool) -> Away:
    """Scales so that the corner that was taken follows the pointer, about the pivot."""
    pose = ghost.pose
    turn = math.atan2(ghost.matrix[1], ghost.matrix[0])
    cos, sin = math.cos(-turn), math.sin(-turn)

    def along(point: tuple[float, float]) -> tuple[float, float]:
        dx, dy = point[0] - ghost.pivot[0], point[1] - ghost.pivot[1]
        return cos * dx - sin * dy, sin * dx + cos * dy

    (x0, y0), (x1, y1) = along(start), along(now)
    factor_x = x1 / x0 if abs(x0) > _NEAR_PIVOT else 1.0
    factor_y = y1 / y0 if abs(y0) > _NEAR_PIVOT else 1.0
    if even:
        far = math.hypot(x0, y0)
        factor_x = factor_y = math.hypot(x1, y1) / far if far > _NEAR_PIVOT else 1.0
    return replace(pose, scale_x=max(0.0, pose.scale_x * factor_x), scale_y=max(0.0, pose.scale_y * factor_y))
