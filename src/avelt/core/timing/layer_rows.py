"""A layer as a row of the dense block."""

from __future__ import annotations

from avelt.core.geometry import affine
from avelt.core.geometry.flatten import Flat, parts_of
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Box, Layer, Text


def row_in(flat: Flat, index: int, lifted: bool) -> list[float]:
    """A layer's dense numbers, in its parent's space or (lifted) in the frame's."""
    layer = flat.layers[index]
    row = own_row(layer)
    if lifted:
        world = flat.world[index]
        turn, scale_x, scale_y, skew = affine.decompose(world)
        # The same angle can be said in many turns: keep the one nearest to what was typed along the path up.
        typed = layer.rotation
        up = int(flat.parent[index])
        while up >= 0:
            typed += flat.layers[up].rotation
            up = int(flat.parent[up])
        turn += 360.0 * round((typed - turn) / 360.0)
        row[:2] = affine.place_for(world, layer.w, layer.h, layer.pivot)
        row[6:10] = [turn, scale_x, scale_y, skew]
        row[COLUMN["opacity"]] = float(flat.opacity[index])
    return row


def own_row(layer: Layer) -> list[float]:
    """A layer's dense numbers in its parent's space."""
    body = layer.body
    radii = list(body.radii) if isinstance(body, Box) else [0.0] * 4
    stroke = [layer.stroke.width, layer.stroke.dash_offset] if layer.stroke else [0.0, 0.0]
    text = [body.size, body.letter_spacing, body.line_height] if isinstance(body, Text) else [16.0, 0.0, 1.2]
    trim = (
        [layer.stroke.trim_start, layer.stroke.trim_end, layer.stroke.trim_offset] if layer.stroke else [0.0, 1.0, 0.0]
    )
    return [
        *parts_of(layer),
        0.0 if layer.hidden else layer.opacity,
        *radii,
        *stroke,
        *text,
        layer.rotation_x,
        layer.rotation_y,
        *trim,
        layer.blur,
        layer.back_blur,
        0.0,
        0.0,
        0.0,
        0.0,
        0.0,
    ]
