"""What lies over an element of SVG: filter, clip, mask, opacity, blend mode."""

from __future__ import annotations

import contextlib
from typing import Literal, get_args

import msgspec
from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.errors import FormatError
from avelt.core.formats import css_shape, svg_filter, svg_shapes
from avelt.core.formats.svg_context import Context, Here
from avelt.core.formats.svg_filter import Effects
from avelt.core.formats.svg_paint import opacity, reference
from avelt.core.formats.svg_place import as_clip, bounds, in_one_tone, placed, upright
from avelt.core.formats.svg_text import font_size
from avelt.core.formats.svg_values import length, transform
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.place import local_of
from avelt.core.model.values import Blend, Group, Layer, Path, Solid

_BLENDS = frozenset(get_args(Blend)) - {"normal"}
_REGION = 1.5  # standard deviations of a blur that its filter's region must leave room for, or it is seen to cut
Rect = tuple[float, float, float, float]


def finish(context: Context, node: Node, layer: Layer, here: Here) -> Layer:
    """The layer with all that the element's style lays over it, in the order of CSS: filter, clip, mask, opacity."""
    style = here.style
    if style.get("filter", "none") not in ("none", ""):
        layer = _filtered(context, node, layer, here)
    for key in ("clip-path", "mask"):
        value = style.get(key, "none").strip()
        if not value.startswith("url("):
            if key == "clip-path" and value not in ("none", ""):
                layer = _clipped_by_shape(context, node, layer, here, value)
            elif value not in ("none", ""):
                context.notes.add("left out", f"{key} {value[:40]} is not supported", node.says, node.line)
            continue
        target = context.ids.get(reference(value)[0])
        if target is None or target.tag not in ("clipPath", "mask"):
            context.notes.add("left out", f"{key} {value[:40]} is not in the file", node.says, node.line)
            continue
        layer = masked(context, node, layer, target, here)
    layer = in_mask_box(layer)
    alpha = opacity(style.get("opacity", "1"))
    hidden = style.get("display") == "none" or (
        style.get("visibility", "visible") != "visible" and not isinstance(layer.body, Group)
    )
    if alpha < 1 or hidden:
        layer = msgspec.structs.replace(layer, opacity=layer.opacity * alpha, hidden=layer.hidden or hidden)
    blend = style.get("mix-blend-mode", "normal")
    if blend in _BLENDS:
        context.blends = True
        layer = msgspec.structs.replace(layer, blend=blend)
    elif blend not in ("normal", ""):
        context.notes.add("left out", f"the blend mode “{blend[:40]}”", node.says, node.line)
    if style.get("isolation") == "isolate" and isinstance(layer.body, Group):
        layer = msgspec.structs.replace(layer, body=msgspec.structs.replace(layer.body, isolates=True))
    return layer


# Filters


def _filtered(context: Context, node: Node, layer: Layer, here: Here) -> Layer:
    value = here.style["filter"]
    factor = _worked_in(layer, here)
    try:
        ids, effects = svg_filter.css_functions(value, font_size(here.style))
        window: Rect | None = None
        for ident in ids:
            target = context.ids.get(ident)
            if target is None or target.tag != "filter":
                context.notes.add("left out", f"the filter “{ident[:40]}” is not in the file", node.says, node.line)
                continue
            box = _in_user_units(layer, factor)
            found = svg_filter.evaluated(target, context.sheet, box)
            effects = Effects(
                float(np.hypot(effects.blur, found.blur)),
                (*effects.shadows, *found.shadows),
                effects.opacity * found.opacity,
                (*effects.notes, *found.notes),
                found.tone,
                found.shift,
            )
            window = _region(target, box, layer, factor, here)
    except FormatError as error:
        context.notes.add("left out", f"a filter: {error.sentence}", node.says, node.line)
        return layer
    for note in effects.notes:
        context.notes.add("approximated", note, node.says, node.line)
    shadows = tuple(
        msgspec.structs.replace(s, x=s.x * factor, y=s.y * factor, blur=s.blur * factor) for s in effects.shadows
    )
    if effects.tone:
        dx, dy = (v * factor for v in effects.shift)
        layer = msgspec.structs.replace(in_one_tone(layer, effects.tone), x=layer.x + dx, y=layer.y + dy)
    layer = msgspec.structs.replace(
        layer, blur=effects.blur * factor, shadows=shadows, opacity=layer.opacity * effects.opacity
    )
    if window is not None and _cuts(layer, window):
        return context.wrap(node, [layer], affine.identity(), name=layer.name, window=window)
    return layer


def _worked_in(layer: Layer, here: Here) -> float:
    """How many of the layer's own px one of the element's user units is."""

    def size(m: np.ndarray) -> float:
        return float(abs(m[0] * m[3] - m[1] * m[2]) ** 0.5)

    own = abs(layer.scale_x * layer.scale_y) ** 0.5
    return size(here.matrix) / own if own > 0 else 1.0


def _in_user_units(layer: Layer, factor: float) -> Rect:
    """The layer's box for shares of it; where it stands does not matter to effects."""
    return 0.0, 0.0, layer.w / (factor or 1.0), layer.h / (factor or 1.0)


def _region(target: Node, box: Rect, layer: Layer, factor: float, here: Here) -> Rect | None:
    """The filter's region in the layer's parent; ``None`` when it cannot be told for a turned layer."""
    if not upright(layer):
        return None
    attrs = target.attrs
    with contextlib.suppress(FormatError):
        if attrs.get("filterUnits", "objectBoundingBox") == "objectBoundingBox":
            x, y = (length(attrs.get(key, "-10%"), 1.0) for key in ("x", "y"))
            w, h = (length(attrs.get(key, "120%"), 1.0) for key in ("width", "height"))
            return layer.x + x * layer.w, layer.y + y * layer.h, w * layer.w, h * layer.h
        x, w = length(attrs.get("x", "-10%"), here.view[0]), length(attrs.get("width", "120%"), here.view[0])
        y, h = length(attrs.get("y", "-10%"), here.view[1]), length(attrs.get("height", "120%"), here.view[1])
        left, top = affine.apply(here.matrix, (x, y))
        return float(left), float(top), w * factor, h * factor
    return None


def _cuts(layer: Layer, window: Rect) -> bool:
    """Whether a filter's region is seen to cut the layer's blur or shadows."""
    x, y, w, h = bounds(layer)
    left, top, right, bottom = x, y, x + w, y + h
    for shift_x, shift_y, blur in [(0.0, 0.0, layer.blur), *((s.x, s.y, s.blur) for s in layer.shadows if not s.inner)]:
        far = blur * _REGION
        left, right = min(left, x + shift_x - far), max(right, x + w + shift_x + far)
        top, bottom = min(top, y + shift_y - far), max(bottom, y + h + shift_y + far)
    return (
        left < window[0] - 0.5
        or top < window[1] - 0.5
        or right > window[0] + window[2] + 0.5
        or bottom > window[1] + window[3] + 0.5
    )


# Clips and masks


def masked(context: Context, node: Node, layer: Layer, target: Node, here: Here) -> Layer:
    """The layer behind a mask: a group's own, or a group around it."""
    if target.attrs.get("id", "") in here.uses:
        context.notes.add("left out", "a clip that clips itself", node.says, node.line)
        return layer
    clip = target.tag == "clipPath"
    units = target.attrs.get("clipPathUnits" if clip else "maskContentUnits", "userSpaceOnUse")
    moved = here
    if units == "objectBoundingBox":
        x, y, w, h = bounds(layer)
        moved = replace(here, matrix=np.array([w, 0, 0, h, x, y]))
    if clip:
        with contextlib.suppress(FormatError):
            moved = moved.moved(transform(target.attrs.get("transform", "")))
    uses = (*here.uses, target.attrs.get("id", ""))
    base = context.style_of(target, {})
    inner = replace(moved, style=base, depth=here.depth + 1, rotation=0.0, uses=uses)
    shapes = context.children(target, inner)
    if clip:
        shapes = [as_clip(shape) for shape in shapes if not shape.hidden]
        own = context.sheet.declared(target)
        if own.get("clip-path", "none") != "none":
            shapes = [
                finish(context, target, context.wrap(target, shapes, affine.identity()), replace(inner, style=own))
            ]
    window = None if clip else _mask_region(target, layer, here)
    plain = len(shapes) == 1 and window is None
    mask = shapes[0] if plain else context.wrap(target, shapes, affine.identity(), name="", window=window)
    mask = msgspec.structs.replace(mask, name=target.attrs.get("id") or "Mask")
    return behind(context, node, layer, mask, "alpha" if clip or base.get("mask-type") == "alpha" else "luminance")


def _clipped_by_shape(context: Context, node: Node, layer: Layer, here: Here, value: str) -> Layer:
    """The layer behind one of CSS's basic shapes, reckoned from its fill box."""
    factor = _worked_in(layer, here) or 1.0
    try:
        outline, rule = css_shape.outline(value, layer.w / factor, layer.h / factor)
    except FormatError as error:
        context.notes.add("left out", error.sentence, node.says, node.line)
        return layer
    scaled = [(points * factor, closed) for points, closed in outline]
    shape = svg_shapes.outline(scaled)
    if not isinstance(shape.body, Path):
        return layer
    mask = context.layer(node, Path(shape.body.subpaths, rule), shape.x, shape.y, shape.w, shape.h, name="Clip")
    mask = msgspec.structs.replace(mask, fills=(Solid("#000000"),))
    matrix = affine.multiply(local_of(layer), [1.0, 0.0, 0.0, 1.0, shape.x, shape.y])
    mask = placed(msgspec.structs.replace(mask, x=0.0, y=0.0), matrix)
    return behind(context, node, layer, mask, "alpha")


def behind(context: Context, node: Node, layer: Layer, mask: Layer, by: Literal["alpha", "luminance"]) -> Layer:
    """The layer behind a mask that stands in its parent: a group's own, or a group around it."""
    effects = layer.shadows or layer.blur or layer.opacity < 1
    if not (isinstance(layer.body, Group) and not layer.body.mask and upright(layer)) or effects:
        layer = context.wrap(node, [layer], affine.identity(), name=layer.name)
    if not isinstance(layer.body, Group):
        return layer
    mask = msgspec.structs.replace(mask, x=mask.x - layer.x, y=mask.y - layer.y)
    body = msgspec.structs.replace(layer.body, children=(mask, *layer.body.children), mask=mask.id, mask_by=by)
    return msgspec.structs.replace(layer, body=body)


def in_mask_box(layer: Layer) -> Layer:
    """A masked group, and a masked one right in it, with the box of its mask: what lies beyond that is not seen."""
    body = layer.body
    if not isinstance(body, Group) or not body.mask:
        return layer
    children = tuple(in_mask_box(child) if child.id != body.mask else child for child in body.children)
    mask = next((child for child in children if child.id == body.mask), None)
    x, y, w, h = bounds(mask) if mask is not None else (0.0, 0.0, 0.0, 0.0)
    if not (w > 0 and h > 0 and upright(layer)) or (x, y, w, h) == (0.0, 0.0, layer.w, layer.h):
        return msgspec.structs.replace(layer, body=msgspec.structs.replace(body, children=children))
    moved = tuple(msgspec.structs.replace(child, x=child.x - x, y=child.y - y) for child in children)
    body = msgspec.structs.replace(body, children=moved)
    return msgspec.structs.replace(layer, x=layer.x + x, y=layer.y + y, w=w, h=h, body=body)


def _mask_region(target: Node, layer: Layer, here: Here) -> Rect | None:
    """The part of a mask that counts, in the layer's parent; ``None`` when it leaves everything."""
    attrs = target.attrs
    with contextlib.suppress(FormatError):
        if attrs.get("maskUnits", "objectBoundingBox") == "objectBoundingBox":
            x, y, w, h = bounds(layer)
            rx, ry = (length(attrs.get(key, "-10%"), 1.0) for key in ("x", "y"))
            rw, rh = (length(attrs.get(key, "120%"), 1.0) for key in ("width", "height"))
            return x + rx * w, y + ry * h, rw * w, rh * h
        x, w = length(attrs.get("x", "-10%"), here.view[0]), length(attrs.get("width", "120%"), here.view[0])
        y, h = length(attrs.get("y", "-10%"), here.view[1]), length(attrs.get("height", "120%"), here.view[1])
        left, top, wide, tall = (float(v) for v in affine.box_bounds(here.matrix, w, h))
        shift = affine.apply(np.array([*here.matrix[:4], 0.0, 0.0]), (x, y))
        return left + float(shift[0]), top + float(shift[1]), wide, tall
    return None
