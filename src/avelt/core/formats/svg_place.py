"""Bringing transforms into a layer's own numbers."""

from __future__ import annotations

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.place import local_of
from avelt.core.model.values import Group, Layer, Paint, Pattern, Solid, Stop, Text

_EPS = 1e-9


def text_name(words: str) -> str:
    """What to call a text that the file does not name."""
    plain = " ".join(words.split())
    return f"Text '{plain if len(plain) <= 40 else plain[:39] + '…'}'"


def above(node: Node) -> list[Node]:
    """The elements that this one lies in, innermost first."""
    found: list[Node] = []
    up = node.parent
    while up is not None:
        found.append(up)
        up = up.parent
    return found


def plain_scale(matrix: Floats) -> float | None:
    """The factor of a transform that only moves and scales evenly; ``None`` for any other."""
    a, b, c, d = (float(v) for v in matrix[:4])
    if a > 0 and abs(b) <= _EPS * a and abs(c) <= _EPS * a and abs(a - d) <= _EPS * a:
        return a
    return None


def full_turns(typed: float) -> int:
    """How many whole turns an angle holds, to the nearest."""
    return round(typed / 360.0)


def split(matrix: Floats) -> tuple[float, Floats]:
    """An even scale that can be worked into the numbers, and the transform that is left."""
    a, b, c, d = (float(v) for v in matrix[:4])
    size = float(np.hypot(a, b))
    even = size > 0 and abs(a - d) <= 1e-6 * size and abs(b + c) <= 1e-6 * size
    if not even:
        return 1.0, matrix
    rest = np.array([a / size, b / size, c / size, d / size, matrix[4], matrix[5]])
    return size, rest


def placed(layer: Layer, matrix: Floats, typed: float = 0.0) -> Layer:
    """The layer standing where the transform puts its box's top left.

    ``typed`` is the sum of the turns as the file has them, degrees: the same angle can be said in many turns,
    and 405 is a full turn more than 45.
    """
    if plain_scale(matrix) == 1.0 and not full_turns(typed):
        return msgspec.structs.replace(layer, x=float(matrix[4]), y=float(matrix[5]))
    turn, scale_x, scale_y, skew = affine.decompose(matrix)
    x, y = affine.place_for(matrix, layer.w, layer.h, layer.pivot)
    turn += 360.0 * round((typed - turn) / 360.0)
    clean = [round(v, 9) + 0.0 for v in (turn, scale_x, scale_y, skew)]
    return msgspec.structs.replace(
        layer,
        x=x,
        y=y,
        rotation=clean[0],
        scale_x=clean[1],
        scale_y=clean[2],
        skew=clean[3],
        any_turn=bool(clean[0]) and not typed,
    )


def bounds(layer: Layer) -> tuple[float, float, float, float]:
    """The layer's upright box in its parent."""
    if upright(layer):
        return layer.x, layer.y, layer.w, layer.h
    x, y, w, h = (float(v) for v in affine.box_bounds(local_of(layer), layer.w, layer.h))
    return x, y, w, h


def upright(layer: Layer) -> bool:
    """Neither turned, scaled nor skewed."""
    return layer.rotation == 0 and layer.scale_x == 1 and layer.scale_y == 1 and layer.skew == 0


def in_one_tone(layer: Layer, tone: str) -> Layer:
    """The layer and what lies in it painted in one colour; how much each paint lets through stays."""
    body = layer.body
    if isinstance(body, Group):
        body = msgspec.structs.replace(body, children=tuple(in_one_tone(child, tone) for child in body.children))
    elif isinstance(body, Text):
        runs = tuple(msgspec.structs.replace(run, fill=None) for run in body.runs)
        body = msgspec.structs.replace(body, runs=runs)
    stroke = layer.stroke
    if stroke is not None:
        stroke = msgspec.structs.replace(stroke, paint=_toned(stroke.paint, tone))
    fills = tuple(_toned(paint, tone) for paint in layer.fills)
    return msgspec.structs.replace(layer, body=body, fills=fills, stroke=stroke)


def _toned(paint: Paint, tone: str) -> Paint:
    r, g, b, _ = colour.parse(tone)

    def with_alpha(text: str) -> str:
        return colour.to_text((r, g, b, colour.parse(text)[3]))

    if isinstance(paint, Solid):
        return Solid(with_alpha(paint.color))
    if isinstance(paint, Pattern):
        return msgspec.structs.replace(paint, layers=tuple(in_one_tone(layer, tone) for layer in paint.layers))
    stops = tuple(Stop(stop.at, with_alpha(stop.color)) for stop in paint.stops)
    return msgspec.structs.replace(paint, stops=stops)


def as_clip(layer: Layer) -> Layer:
    """A shape as part of a clip: all ink, whatever it was painted with."""
    if isinstance(layer.body, Group):
        body = msgspec.structs.replace(layer.body, children=tuple(as_clip(c) for c in layer.body.children))
        return msgspec.structs.replace(layer, body=body, opacity=1.0)
    return msgspec.structs.replace(layer, fills=(Solid("#000000"),), stroke=None, opacity=1.0)
