"""What can be grabbed on the chosen layer, in px of its frame. No widget here."""

from __future__ import annotations

import math
from typing import Any, Literal

from avelt.core.arrays import np
from avelt.core.edits import nodes
from avelt.core.edits.paints import ends
from avelt.core.geometry import affine, tilt
from avelt.core.geometry.bezier import fit_radii
from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.model.values import Box, Conic, Frame, Gradient, Layer, Linear, Paint, Path, Radial
from avelt.core.record import Record
from avelt.core.words import tr

Kind = Literal["grip", "rotation", "pivot", "corner", "start", "end", "stop", "node", "handle"]
#: The eight grips: which share of the box each stands at, and so which sides it moves.
GRIPS = ((0, 0), (0.5, 0), (1, 0), (1, 0.5), (1, 1), (0.5, 1), (0, 1), (0, 0.5))
TURN_AWAY = 20.0  # widget px that the turning handle stands off the box
CORNER_IN = 9.0  # widget px that a corner's handle stands in from the box at least
SMALL = 30.0  # widget px of a side below which corner handles would lie on the grips
Point = tuple[float, float]

HINTS: dict[str, str] = {
    "grip": tr("Shift keeps the shape, Ctrl from the middle, Alt off the marks; Ctrl+Shift on a side slants"),
    "rotation": tr("Shift rotates by steps of 15°"),
    "pivot": tr("What it rotates and grows about; it holds at nine points"),
    "corner": tr("Rounds all corners; Alt only this one"),
    "start": tr("Where the gradient begins"),
    "end": tr("Where the gradient ends"),
    "stop": tr("Drag along the line; drag off to remove; double-click for its colour"),
    "node": tr("Drag to move; double-click the line for one more; Delete removes"),
    "handle": tr("Drag to bend; Alt bends this side alone"),
}


MORE_HINT = tr("Drag: the frame holds more than is seen of it, and scrolls there when it is played")


class Handle(Record, frozen=True):
    """One thing to grab: where it is, and what it stands for (``data``)."""

    kind: Kind
    at: Point
    data: Any = None


class Shown(Record, frozen=True):
    """What the board shows of the chosen layer besides its box."""

    frame: Frame
    layer: Layer
    scale: float  # widget px a px of the frame
    paint: Literal["", "fill", "stroke"] = ""
    node_mode: bool = False
    node: tuple[int, int] | None = None  # the chosen one: subpath and node
    pivot: bool = False  # whether the pivot is shown, to be moved


def paint_shown(layer: Layer, which: str) -> Gradient | None:
    """The gradient whose line is shown on the frame."""
    paint: Paint | None = None
    if which == "fill" and layer.fills:
        paint = layer.fills[-1]
    elif which == "stroke" and layer.stroke is not None:
        paint = layer.stroke.paint
    return paint if isinstance(paint, Linear | Radial | Conic) else None


def handles(shown: Shown) -> list[Handle]:
    """All handles of the chosen layer; those that matter most come first."""
    flat = flatten(shown.frame)
    i = flat.index.get(shown.layer.id)
    if i is None:
        return []
    if shown.node_mode and isinstance(shown.layer.body, Path):
        return _nodes(shown, flat, i)
    gradient = paint_shown(shown.layer, shown.paint)
    if gradient is not None:
        return _gradient(shown.layer, gradient, flat, i)
    if shown.layer.locked:
        return []
    pivot = [_pivot(shown.layer, flat, i)] if shown.pivot else []
    return [_turn(shown, flat, i), *_grips(shown.layer, flat, i), *pivot, *_corners(shown, flat, i)]


def to_frame(flat: Flat, i: int, x: float, y: float) -> Point:
    """A point of the layer's own px in the frame."""
    matrix = flat.to_frame(i)
    point = tilt.apply(matrix, (x, y)) if np.shape(matrix) == (3, 3) else affine.apply(matrix, (x, y))
    return float(point[0]), float(point[1])


def _grips(layer: Layer, flat: Flat, i: int) -> list[Handle]:
    return [Handle("grip", to_frame(flat, i, layer.w * gx, layer.h * gy), (gx, gy)) for gx, gy in GRIPS]


def _pivot(layer: Layer, flat: Flat, i: int) -> Handle:
    return Handle("pivot", to_frame(flat, i, layer.pivot[0] * layer.w, layer.pivot[1] * layer.h))


def _turn(shown: Shown, flat: Flat, i: int) -> Handle:
    """Above the middle of the box's upper side, whichever way the layer is turned."""
    layer = shown.layer
    top, middle = to_frame(flat, i, layer.w / 2, 0.0), to_frame(flat, i, layer.w / 2, layer.h / 2)
    dx, dy = top[0] - middle[0], top[1] - middle[1]
    size = math.hypot(dx, dy)
    if size < 1e-9:
        dx, dy, size = 0.0, -1.0, 1.0
    away = TURN_AWAY / shown.scale
    return Handle("rotation", (top[0] + dx / size * away, top[1] + dy / size * away), middle)


def _corners(shown: Shown, flat: Flat, i: int) -> list[Handle]:
    layer = shown.layer
    if not isinstance(layer.body, Box) or min(layer.w, layer.h) * shown.scale < SMALL:
        return []
    found = []
    radii = fit_radii(layer.body.radii, layer.w, layer.h)
    for k, (gx, gy) in enumerate(((0, 0), (1, 0), (1, 1), (0, 1))):
        inset = max(float(radii[k]), CORNER_IN / shown.scale)
        x = inset if gx == 0 else layer.w - inset
        y = inset if gy == 0 else layer.h - inset
        found.append(Handle("corner", to_frame(flat, i, x, y), k))
    return found


def _gradient(layer: Layer, paint: Gradient, flat: Flat, i: int) -> list[Handle]:
    (x0, y0), (x1, y1) = ends(paint)
    found = [
        Handle("start", to_frame(flat, i, x0 * layer.w, y0 * layer.h)),
        Handle("end", to_frame(flat, i, x1 * layer.w, y1 * layer.h)),
    ]
    inner = []
    for k, stop in enumerate(paint.stops):
        x, y = x0 + (x1 - x0) * stop.at, y0 + (y1 - y0) * stop.at
        inner.append(Handle("stop", to_frame(flat, i, x * layer.w, y * layer.h), k))
    # Stops at the very ends lie on the end handles: the ends are grabbed there.
    return [*found, *inner]


def _nodes(shown: Shown, flat: Flat, i: int) -> list[Handle]:
    found: list[Handle] = []
    outline = nodes.outline_of(shown.layer)
    for sub, (points, closed) in enumerate(outline):
        last = len(points) - 1
        for node in range(nodes.count(outline, sub)):
            k = 3 * node
            found.append(Handle("node", to_frame(flat, i, *points[k].tolist()), (sub, node)))
            if shown.node == (sub, node):
                for j in (k - 1 if k > 0 else (last - 1 if closed else -1), k + 1 if k < last else -1):
                    if 0 <= j <= last:
                        found.insert(0, Handle("handle", to_frame(flat, i, *points[j].tolist()), (sub, j, k)))
    return found


def nearest_handle(found: list[Handle], x: float, y: float, reach: float) -> Handle | None:
    """The handle at a point of the frame, within ``reach`` px; the first of those that are equally near."""
    best: Handle | None = None
    least = reach
    for handle in found:
        away = math.hypot(handle.at[0] - x, handle.at[1] - y)
        if away < least - 1e-9:
            best, least = handle, away
    return best
