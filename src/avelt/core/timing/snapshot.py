"""A moment as a frame: the layers as they stand on screen, so that motion can start from there."""

from __future__ import annotations

from operator import is_

import msgspec

from avelt.core.blending import colour
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import (
    Box,
    Conic,
    Frame,
    Group,
    Layer,
    Linear,
    Paint,
    Path,
    Radial,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Subpath,
    Text,
)
from avelt.core.timing.items import items
from avelt.core.timing.painted import Brush, Item
from avelt.core.timing.program import Scene

_C = COLUMN


def snapshot(scene: Scene, frame: Frame) -> Frame:
    """``frame`` with the layers that the scene shows: same ids and origins, values as they are now.

    Of content that is being cross-faded the stronger half is taken. Groups keep what they hold now. Layers that are as
    they were drawn are those very values; of those that only fade all but the opacity is.
    """
    layers = tuple(_layer(scene, item) for item in _strongest(items(scene)))
    return msgspec.structs.replace(
        frame, layers=layers, background=colour.to_text(scene.background), w=scene.size[0], h=scene.size[1]
    )


def _strongest(found: list[Item]) -> list[Item]:
    best: dict[int, Item] = {}
    for item in found:
        if item.slot not in best or item.opacity >= best[item.slot].opacity:
            best[item.slot] = item
    return list(best.values())


def _layer(scene: Scene, item: Item) -> Layer:
    # Its name and ids are those of where it goes; what it shows is what is painted now.
    layer = scene.program.contents[item.slot].layer
    stands = scene.program.stands
    as_drawn, fades = stands.of_layers[item.slot]
    if scene.scrolled and item.slot in stands.goes:
        as_drawn = fades = False
    row = scene.scalars[item.slot]
    if fades and not isinstance(layer.body, Group):
        return layer if as_drawn else msgspec.structs.replace(layer, opacity=float(row[_C["opacity"]]), hidden=False)
    body = item.layer.body
    if isinstance(body, Group):
        inner = [_layer(scene, child) for child in _strongest(item.children)]
        if item.mask is not None and item.mask.layer is not item.layer:
            inner.insert(0, _layer(scene, item.mask))
        if as_drawn and len(inner) == len(layer.children) and all(map(is_, inner, layer.children)):
            return layer
        ids = {child.id for child in inner}
        mask = body.mask if body.mask in ids else (inner[0].id if item.mask is not None and inner else "")
        body = msgspec.structs.replace(body, children=tuple(inner), clips=item.clips, mask=mask)
    elif isinstance(body, Box):
        body = Box((item.radii[0], item.radii[1], item.radii[2], item.radii[3]))
    elif isinstance(body, Path) and item.outline is not None:
        body = Path(tuple(Subpath(tuple(p.ravel().tolist()), closed) for p, closed in item.outline), body.rule)
    elif isinstance(body, Text):
        body = msgspec.structs.replace(
            body, size=item.type_size, letter_spacing=item.letter_spacing, line_height=item.line_height
        )
    stroke = layer.stroke
    if item.pen is not None:
        pen = item.pen
        stroke = Stroke(
            _paint(pen.brush), pen.width, pen.cap, pen.join, pen.miter, pen.dashes, pen.offset, *pen.trim, pen.under
        )
    names = ("x", "y", "rotation", "rotation_x", "rotation_y", "scale_x", "scale_y", "skew", "blur", "back_blur")
    number = {name: float(row[_C[name]]) for name in names}
    shadows = tuple(Shadow(colour.to_text(s.colour), s.x, s.y, s.blur, s.inner) for s in item.shades)
    return msgspec.structs.replace(
        layer,
        body=body,
        w=item.w,
        h=item.h,
        opacity=float(row[_C["opacity"]]),
        hidden=False,
        pivot=(float(row[_C["pivot_x"]]), float(row[_C["pivot_y"]])),
        fills=tuple(_paint(brush) for brush in item.fills) if not isinstance(body, Group) else layer.fills,
        stroke=stroke,
        shadows=shadows,
        **number,
    )


def _paint(brush: Brush) -> Paint:
    if brush.kind == "solid":
        return Solid(colour.to_text(brush.colours[0]))
    stops = tuple(Stop(float(at), colour.to_text(c)) for at, c in zip(brush.at, brush.colours, strict=True))
    a, b, c, d, e, f = brush.matrix
    if brush.pattern is not None:
        return msgspec.structs.replace(brush.pattern, matrix=(a, b, c, d, e, f))
    if brush.kind == "conic":
        return Conic(stops, (a, b, c, d, e, f))
    if brush.kind == "linear":
        return Linear(stops, (a, b, c, d, e, f), brush.spread)  # type: ignore[arg-type]
    return Radial(stops, (a, b, c, d, e, f), (brush.focus[0], brush.focus[1]), brush.focus[2], brush.spread)  # type: ignore[arg-type]
