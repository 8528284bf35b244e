"""What a click on a frame means: which layer, which guide, what a rectangle holds. No widget here."""

from __future__ import annotations

from collections.abc import Sequence

from avelt.core.edits import nodes
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.values import Frame, Layer

_GUIDE_REACH = 3.0  # widget px


def _chain(frame: Frame, layer: Layer) -> list[Layer]:
    """A layer and what it lies in, outwards."""
    flat = flatten(frame)
    i = flat.index[layer.id]
    found = [layer]
    while flat.parent[i] >= 0:
        i = int(flat.parent[i])
        found.append(flat.layers[i])
    return found


def hit(frame: Frame, x: float, y: float, chosen: Sequence[str], deep: bool) -> Layer | None:
    """What a click chooses at a point of the frame (px).

    Always of what lies on top there: what of it is chosen already, else the outermost group's child at hand; ``deep``:
    the innermost layer. Locked layers let the click through.
    """
    inner = layer_at(frame, x, y, unlocked=True)
    if inner is None or deep:
        return inner
    chain = _chain(frame, inner)
    for layer in chain:
        if layer.id in chosen:
            return layer
    flat = flatten(frame)
    # A group that fills the frame is a container, not a thing: go one step in.
    for layer in reversed(chain):
        w, h = (float(v) for v in flat.bounds[flat.index[layer.id]][2:])
        covers = w >= frame.w * 0.85 and h >= frame.h * 0.4
        if not (layer.children and covers and layer is not chain[0]):
            return layer
    return inner


def on_outline(frame: Frame, x: float, y: float, chosen: Sequence[str], reach: float) -> Layer | None:
    """The chosen layer whose box's edge lies at a point, within ``reach`` px of the frame: it can be dragged by that,
    whatever lies above it."""
    flat = flatten(frame)
    for ident in chosen:
        i = flat.index.get(ident)
        if i is None or flat.layers[i].locked:
            continue
        corners = flat.corners(i)
        if any(_near_line(x, y, *corners[k - 1], *corners[k]) <= reach for k in range(4)):
            return flat.layers[i]
    return None


def _near_line(x: float, y: float, ax: float, ay: float, bx: float, by: float) -> float:
    dx, dy = bx - ax, by - ay
    along = min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / ((dx * dx + dy * dy) or 1.0)))
    return float(((x - ax - along * dx) ** 2 + (y - ay - along * dy) ** 2) ** 0.5)


def one_deeper(frame: Frame, x: float, y: float, chosen: str) -> Layer | None:
    """The layer one step further in than the chosen one, under a point."""
    inner = layer_at(frame, x, y, unlocked=True)
    if inner is None or not chosen:
        return inner
    chain = _chain(frame, inner)
    ids = [layer.id for layer in chain]
    return chain[ids.index(chosen) - 1] if chosen in ids[1:] else inner


def guide_at(frame: Frame, x: float, y: float, px: float) -> tuple[str, float] | None:
    """The guide at a point: its axis and place; ``px`` is one of the widget's in the frame's."""
    reach = _GUIDE_REACH * px
    for axis, places, at in (("x", frame.guides_x, x), ("y", frame.guides_y, y)):
        for place in places:
            if abs(place - at) <= reach:
                return axis, place
    return None


def beside(frame: Frame, layer: Layer | None, step: int) -> Layer | None:
    """The layer some steps up (or down) in paint order among its siblings, round again; the topmost for none."""
    if layer is None:
        return frame.layers[-1] if frame.layers else None
    flat = flatten(frame)
    up = int(flat.parent[flat.index[layer.id]])
    siblings = flat.layers[up].children if up >= 0 else frame.layers
    place = next(k for k, entry in enumerate(siblings) if entry.id == layer.id)
    return siblings[(place + step) % len(siblings)]


def next_node(layer: Layer, node: tuple[int, int] | None, step: int) -> tuple[int, int] | None:
    """The node some steps on along a path, over all its parts, round again; the first for none."""
    outline = nodes.outline_of(layer)
    every = [(sub, k) for sub in range(len(outline)) for k in range(nodes.count(outline, sub))]
    if not every:
        return None
    return every[(every.index(node) + step) % len(every)] if node in every else every[0]


def inside(frame: Frame, area: tuple[float, float, float, float]) -> list[str]:
    """The ids of the top layers that lie wholly in an area (x, y, w, h) of the frame."""
    flat = flatten(frame)
    found = []
    for i, layer in enumerate(flat.layers):
        x, y, w, h = (float(v) for v in flat.bounds[i])
        holds = area[0] <= x and area[1] <= y and x + w <= area[0] + area[2] and y + h <= area[1] + area[3]
        if flat.parent[i] < 0 and holds and not layer.locked and flat.opacity[i] > 0:
            found.append(layer.id)
    return found
