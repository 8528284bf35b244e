"""Edits of layers: values, moving and resizing."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import msgspec
import numpy as np

from avelt.core.blending import colour
from avelt.core.edits.frames import put_frame
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id
from avelt.core.model.limits import MAX_COORDINATE, MIN_SIZE
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Box, Frame, Group, Layer, Path, Project, Solid, Stroke, Subpath, Text

replace = msgspec.structs.replace


def edit_layer(project: Project, frame_id: str, layer_id: str, change: Callable[[Layer], Layer]) -> Project:
    """The project with one layer changed."""
    frame = frame_by_id(project, frame_id)
    new = change_layers(frame, {layer_id: change})
    return project if new is frame else put_frame(project, new)


def resized(layer: Layer, w: float, h: float) -> Layer:
    """The layer with another box; outlines and what a group holds are stretched with it."""
    w, h = max(0.0, w), max(0.0, h)
    sx = w / layer.w if layer.w > MIN_SIZE else 1.0
    sy = h / layer.h if layer.h > MIN_SIZE else 1.0
    body = layer.body
    if isinstance(body, Path):
        stretch = np.array([sx, sy])
        body = Path(
            tuple(
                Subpath(tuple((np.array(s.points).reshape(-1, 2) * stretch).ravel().tolist()), s.closed)
                for s in body.subpaths
            ),
            body.rule,
        )
    elif isinstance(body, Group):
        children = tuple(
            replace(resized(child, child.w * sx, child.h * sy), x=child.x * sx, y=child.y * sy)
            for child in body.children
        )
        body = replace(body, children=children)
    return replace(layer, w=w, h=h, body=body)


def move_in_frame(frame: Frame, layer_id: str, dx: float, dy: float) -> Frame:
    """The layer moved by px of the frame, whatever it lies in."""
    flat = flatten(frame)
    i = flat.index[layer_id]
    up = int(flat.parent[i])
    if up >= 0:
        back = affine.invert(flat.world[up])
        if back is None:
            raise EditError("The layer lies in a group without size and cannot be moved.")
        back = np.array([*back[:4], 0.0, 0.0])
        dx, dy = (float(v) for v in affine.apply(back, (dx, dy)))
    return change_layers(frame, {layer_id: lambda layer: replace(layer, x=layer.x + dx, y=layer.y + dy)})


def set_box_in_frame(frame: Frame, layer_id: str, box: tuple[float, float, float, float]) -> Frame:
    """The layer with its upright box in the frame at (x, y, w, h); for layers without turn or skew."""
    flat = flatten(frame)
    i = flat.index[layer_id]
    layer = flat.layers[i]
    a, b, c, d = (float(v) for v in flat.world[i][:4])
    if abs(b) > 1e-9 or abs(c) > 1e-9 or abs(a) < 1e-9 or abs(d) < 1e-9:
        raise EditError("A turned layer is resized by its numbers.")
    new = resized(layer, box[2] / abs(a), box[3] / abs(d))
    frame = change_layers(frame, {layer_id: lambda _: new})
    x, y, _, _ = flatten(frame).bounds[i]
    return move_in_frame(frame, layer_id, box[0] - float(x), box[1] - float(y))


def _colour_text(value: object) -> str:
    return colour.to_text(colour.parse(str(value)))


def _set_fill(layer: Layer, value: object) -> Layer:
    text = str(value).strip()
    return replace(layer, fills=() if text.lower() == "none" else (Solid(_colour_text(text)),))


def _set_stroke(layer: Layer, value: object) -> Layer:
    width = float(str(value))
    if layer.stroke is None:
        return replace(layer, stroke=Stroke(Solid("#22302f"), width)) if width > 0 else layer
    return replace(layer, stroke=replace(layer.stroke, width=max(0.0, width)))


def _number(name: str, low: float = -MAX_COORDINATE, high: float = MAX_COORDINATE) -> Callable[[Layer, object], Layer]:
    def change(layer: Layer, value: object) -> Layer:
        return replace(layer, **{name: min(high, max(low, float(str(value))))})

    return change


def _set_corner(layer: Layer, value: object) -> Layer:
    if not isinstance(layer.body, Box):
        raise EditError(f"A {layer.kind} has no corners to round.")
    r = max(0.0, float(str(value)))
    return replace(layer, body=Box((r, r, r, r)))


def _set_type(layer: Layer, value: object) -> Layer:
    if not isinstance(layer.body, Text):
        raise EditError(f"A {layer.kind} has no type size.")
    size = max(0.1, float(str(value)))
    factor = size / layer.body.size if layer.body.size else 1.0
    return replace(layer, body=replace(layer.body, size=size), w=layer.w * factor, h=layer.h * factor)


def _set_name(layer: Layer, value: object) -> Layer:
    name = str(value).strip()
    return replace(layer, name=name) if name else layer


#: What can be set on a layer by name. Places are those in its parent; the table adds what is needed.
SETTERS: Mapping[str, Callable[[Layer, object], Layer]] = {
    "name": _set_name,
    "x": _number("x"),
    "y": _number("y"),
    "w": lambda layer, value: resized(layer, float(str(value)), layer.h),
    "h": lambda layer, value: resized(layer, layer.w, float(str(value))),
    "turn": _number("turn", -1e6, 1e6),
    "scale_x": _number("scale_x", -1000, 1000),
    "scale_y": _number("scale_y", -1000, 1000),
    "skew": _number("skew", -89, 89),
    "opacity": _number("opacity", 0.0, 1.0),
    "corner": _set_corner,
    "fill": _set_fill,
    "stroke": _set_stroke,
    "type": _set_type,
}


def set_value(project: Project, frame_id: str, layer_id: str, name: str, value: object) -> Project:
    """One value of one layer; ``EditError`` or ``FormatError`` when it has none of that kind."""
    return edit_layer(project, frame_id, layer_id, lambda layer: SETTERS[name](layer, value))
