"""What a press on a frame of the board means beside which layer it takes. No widget here."""

from __future__ import annotations

from collections.abc import Sequence

from avelt.core.edits import nodes
from avelt.core.geometry import tilt
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.values import Frame, Layer

_GUIDE_REACH = 3.0  # widget px


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


def uncovered(frame: Frame, x: float, y: float, chosen: Sequence[str]) -> Layer | None:
    """The chosen layer in whose box a point lies with nothing above it there: a group is held by its gaps, too."""
    flat, top = flatten(frame), layer_at(frame, x, y, unlocked=True)
    above = flat.index[top.id] if top is not None else -1
    for ident in chosen:
        i = flat.index.get(ident, -1)
        if i > above and not flat.layers[i].locked:
            there = tilt.back_to(flat.to_frame(i), x, y)
            if there is not None and 0 <= there[0] <= flat.layers[i].w and 0 <= there[1] <= flat.layers[i].h:
                return flat.layers[i]
    return None


def _near_line(x: float, y: float, ax: float, ay: float, bx: float, by: float) -> float:
    dx, dy = bx - ax, by - ay
    along = min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / ((dx * dx + dy * dy) or 1.0)))
    return float(((x - ax - along * dx) ** 2 + (y - ay - along * dy) ** 2) ** 0.5)


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
