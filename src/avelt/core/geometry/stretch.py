"""A layer's scale worked into its own numbers: size, outline, strokes, type, and what lies in it.

Two drawings of one thing may say its size by a scale or by larger numbers; brought to one form they blend straight.
"""

from __future__ import annotations

import msgspec

from avelt.core.arrays import np
from avelt.core.geometry import affine
from avelt.core.geometry.place import local_of
from avelt.core.model.values import Body, Box, Group, Layer, Oval, Path, Picture, Stroke, Subpath, Text, Use

replace = msgspec.structs.replace
_EVEN = 1e-6  # of the scale: factors nearer than this are one


def without_scale(layer: Layer) -> Layer:
    """The layer looking the same with its scale worked in, where that can be: only a mirroring sign stays.

    What cannot be stretched (type or round corners by uneven factors) keeps its scale. So do layers in it.
    """
    wide, high = abs(layer.scale_x), abs(layer.scale_y)
    made = layer
    if (wide, high) != (1.0, 1.0) and wide > 0.0 and high > 0.0 and not (layer.rotation_x or layer.rotation_y):
        stretched = _content(layer, wide, high)
        if stretched is not None:
            # The scale is the innermost part of the transform: what is left of it moves the stretched content.
            rest = affine.multiply(local_of(layer), [1.0 / wide, 0.0, 0.0, 1.0 / high, 0.0, 0.0])
            x, y = (round(v, 9) + 0.0 for v in affine.place_for(rest, stretched.w, stretched.h, layer.pivot))
            signs = float(np.sign(layer.scale_x)), float(np.sign(layer.scale_y))
            made = replace(stretched, x=x, y=y, scale_x=signs[0], scale_y=signs[1])
    if isinstance(made.body, Group):
        children = tuple(without_scale(child) for child in made.body.children)
        if any(a is not b for a, b in zip(children, made.body.children, strict=True)):
            made = replace(made, body=replace(made.body, children=children))
    return made


def _child(layer: Layer, wide: float, high: float) -> Layer | None:
    """A layer in a space that is stretched; ``None`` when that is no size and place any more."""
    even = abs(wide - high) <= _EVEN * wide
    if not even and (layer.rotation or layer.skew or layer.rotation_x or layer.rotation_y):
        return None
    made = _content(layer, wide, high)
    return None if made is None else replace(made, x=layer.x * wide, y=layer.y * high)


def _content(layer: Layer, wide: float, high: float) -> Layer | None:
    """What a layer shows, stretched within its own space."""
    even = abs(wide - high) <= _EVEN * wide
    if not even and (layer.stroke is not None or layer.shadows or layer.blur or layer.back_blur):
        return None
    body = _body(layer.body, wide, high, even)
    if body is None:
        return None
    shadows = tuple(replace(s, x=s.x * wide, y=s.y * wide, blur=s.blur * wide) for s in layer.shadows)
    return replace(
        layer,
        body=body,
        w=layer.w * wide,
        h=layer.h * high,
        stroke=_stroke(layer.stroke, wide) if layer.stroke is not None else None,
        shadows=shadows,
        blur=layer.blur * wide,
        back_blur=layer.back_blur * wide,
    )


def _body(body: Body, wide: float, high: float, even: bool) -> Body | None:
    if isinstance(body, Box):
        tl, tr, br, bl = body.radii
        if any(body.radii) and not even:
            return None
        return Box((tl * wide, tr * wide, br * wide, bl * wide))
    if isinstance(body, Oval):
        return body
    if isinstance(body, Path):
        factors = np.array([wide, high])
        subs = (
            Subpath(tuple((np.array(sub.points, float).reshape(-1, 2) * factors).ravel().tolist()), sub.closed)
            for sub in body.subpaths
        )
        return replace(body, subpaths=tuple(subs))
    if isinstance(body, Picture):
        return body if even or body.fit == "stretch" else None
    if isinstance(body, Text):
        if not even:
            return None
        runs = tuple(replace(run, size=run.size * wide if run.size is not None else None) for run in body.runs)
        return replace(body, runs=runs, size=body.size * wide, letter_spacing=body.letter_spacing * wide)
    if isinstance(body, Use):
        return body  # a part scales to its box
    children = [_child(child, wide, high) for child in body.children]
    kept = tuple(child for child in children if child is not None)
    return replace(body, children=kept) if len(kept) == len(children) else None


def _stroke(stroke: Stroke, factor: float) -> Stroke:
    return replace(
        stroke,
        width=stroke.width * factor,
        dashes=tuple(dash * factor for dash in stroke.dashes),
        dash_offset=stroke.dash_offset * factor,
    )
