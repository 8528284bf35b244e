"""A frame laid out flat: every layer with its parent and its transform in the frame's space."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.geometry import affine, tilt
from avelt.core.geometry.meeting import meets
from avelt.core.model.find import by_identity
from avelt.core.model.values import Frame, Layer
from avelt.core.record import Record

#: Where each part of a layer's transform stands in a row of ``Flat.parts``.
PARTS = ("x", "y", "w", "h", "pivot_x", "pivot_y", "rotation", "scale_x", "scale_y", "skew")


class Flat(Record, frozen=True):
    """Layers in paint order, parents before children.

    ``parent`` (n,) is an index or -1; ``parts`` (n, 10) as ``PARTS``; ``local`` and ``world`` (n, 6)
    transforms to the parent's and the frame's space; ``bounds`` (n, 4) upright boxes in the frame;
    ``opacity`` (n,) with that of the parents; ``path`` the places among siblings from the frame down;
    ``tilts`` the transforms (3, 3) to the frame of those that are turned out of the plane.
    """

    frame: Frame
    layers: tuple[Layer, ...]
    index: dict[str, int]
    parent: np.ndarray
    depth: np.ndarray
    path: tuple[tuple[int, ...], ...]
    parts: Floats
    local: Floats
    world: Floats
    bounds: Floats
    opacity: Floats
    tilts: dict[int, Floats]

    def to_frame(self, i: int) -> Floats:
        """The transform to the frame's space: (6,), or (3, 3) when it is turned out of the plane."""
        return self.tilts[i] if i in self.tilts else np.asarray(self.world[i])

    def corners(self, i: int) -> Floats:
        """The corners (4, 2) of a layer's box in the frame, clockwise from its top left."""
        return tilt.corners(self.to_frame(i), self.layers[i].w, self.layers[i].h)


def parts_of(layer: Layer) -> tuple[float, ...]:
    """The numbers of a layer's transform, in the order of ``PARTS``."""
    return (
        layer.x,
        layer.y,
        layer.w,
        layer.h,
        layer.pivot[0],
        layer.pivot[1],
        layer.rotation,
        layer.scale_x,
        layer.scale_y,
        layer.skew,
    )


def _flatten(frame: Frame) -> Flat:
    layers: list[Layer] = []
    parents: list[int] = []
    depths: list[int] = []
    paths: list[tuple[int, ...]] = []

    def add(siblings: tuple[Layer, ...], parent: int, path: tuple[int, ...]) -> None:
        for place, layer in enumerate(siblings):
            own = len(layers)
            layers.append(layer)
            parents.append(parent)
            depths.append(len(path))
            paths.append((*path, place))
            if layer.children:
                add(layer.children, own, paths[own])

    add(frame.layers, -1, ())
    n = len(layers)
    parent = np.array(parents, dtype=np.intp)
    depth = np.array(depths, dtype=np.intp)
    parts = np.array([parts_of(layer) for layer in layers], float).reshape(n, len(PARTS))
    local = affine.compose(parts)
    opacity = np.array([0.0 if layer.hidden else layer.opacity for layer in layers], float)
    world = to_world(local, parent, depth)
    for level in range(1, int(depth.max(initial=0)) + 1):
        rows = np.flatnonzero(depth == level)
        opacity[rows] *= opacity[parent[rows]]
    bounds = affine.box_bounds(world, parts[:, 2], parts[:, 3])
    turns = np.array([(layer.rotation_x, layer.rotation_y) for layer in layers], float).reshape(n, 2)
    tilts = tilt.worlds(local, parts, turns, parent, frame.perspective)
    for i, matrix in tilts.items():
        corners = tilt.corners(matrix, layers[i].w, layers[i].h)
        bounds[i] = [*corners.min(0), *(corners.max(0) - corners.min(0))]
    index = {layer.id: i for i, layer in enumerate(layers)}
    return Flat(frame, tuple(layers), index, parent, depth, tuple(paths), parts, local, world, bounds, opacity, tilts)


def to_world(local: Floats, parent: np.ndarray, depth: np.ndarray) -> Floats:
    """Transforms to the frame's space from those to each layer's parent, level by level."""
    world = local.copy()
    for level in range(1, int(depth.max(initial=0)) + 1):
        rows = np.flatnonzero(depth == level)
        world[rows] = affine.multiply(world[parent[rows]], local[rows])
    return world


#: The frame laid out flat, remembered by the frame's identity.
flatten = by_identity(_flatten)


def layer_at(frame: Frame, x: float, y: float, deep: bool = True, unlocked: bool = False) -> Layer | None:
    """The topmost layer that the point (px in the frame) meets; groups count through their children.

    ``unlocked``: those that are locked, or lie in something locked, let the point through.
    """
    found = layers_at(frame, x, y, unlocked)
    if not found:
        return None
    flat = flatten(frame)
    return found[0] if deep else flat.layers[_outermost(flat, flat.index[found[0].id])]


def _is_locked(flat: Flat, i: int) -> bool:
    while i >= 0:
        if flat.layers[i].locked:
            return True
        i = int(flat.parent[i])
    return False


def layers_at(frame: Frame, x: float, y: float, unlocked: bool = False) -> list[Layer]:
    """All layers but groups that the point (px in the frame) meets, the topmost first."""
    flat = flatten(frame)
    found = []
    for i in range(len(flat.layers) - 1, -1, -1):
        layer = flat.layers[i]
        if layer.children or flat.opacity[i] <= 0.0:
            continue
        back = tilt.back_to(flat.to_frame(i), x, y)
        if back is None:
            continue
        if meets(layer, layer.w, layer.h, *back) and not (unlocked and _is_locked(flat, i)):
            found.append(layer)
    return found


def _outermost(flat: Flat, i: int) -> int:
    while flat.parent[i] >= 0:
        i = int(flat.parent[i])
    return i
