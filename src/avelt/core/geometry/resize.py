"""A layer with another box: what it holds goes with it."""

from __future__ import annotations

import msgspec

from avelt.core.arrays import np
from avelt.core.model.limits import MIN_SIZE
from avelt.core.model.values import Group, Layer, Path, Subpath

replace = msgspec.structs.replace


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
