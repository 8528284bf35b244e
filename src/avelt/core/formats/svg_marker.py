"""Markers of SVG: where they stand on an outline, and how they are turned (SVG 2, section 13)."""

from __future__ import annotations

import math

from avelt.core.arrays import Floats, np
from avelt.core.errors import FormatError
from avelt.core.formats.svg_values import fit_view, length, numbers
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.record import Record
from avelt.core.words import tr

_MOST = 500  # markers on one outline
_NEAR = 1e-9


class Stand(Record, frozen=True):
    """Where a marker stands: ``start``, ``mid`` or ``end`` of the outline, the point, the direction in degrees."""

    role: str
    x: float
    y: float
    angle: float


def _direction(points: Floats, k: int, ahead: bool) -> float | None:
    """The direction in degrees out of (``ahead``) or into the corner at point ``k``."""
    step = 1 if ahead else -1
    at = points[k]
    for m in range(1, 4):
        j = k + step * m
        if not 0 <= j < len(points):
            return None
        dx, dy = (points[j] - at) * step
        if abs(dx) > _NEAR or abs(dy) > _NEAR:
            return math.degrees(math.atan2(dy, dx))
    return None


def _between(into: float | None, out: float | None) -> float:
    if into is None or out is None:
        return into if into is not None else out if out is not None else 0.0
    turn = (out - into + 180.0) % 360.0 - 180.0
    return into + turn / 2


def stands(subpaths: list[tuple[Floats, bool]]) -> list[Stand]:
    """All corners of an outline (subpaths (points, closed)) in order."""
    found: list[Stand] = []
    for points, closed in subpaths:
        last = len(points) - 1
        for k in range(0, len(points), 3):
            into = _direction(points, k, False) if k else None
            out = _direction(points, k, True) if k < last else None
            if closed and k in (0, last):
                into, out = _direction(points, last, False), _direction(points, 0, True)
            found.append(Stand("mid", float(points[k][0]), float(points[k][1]), _between(into, out)))
    if found:
        found[0] = Stand("start", found[0].x, found[0].y, found[0].angle)
        if len(found) > 1:
            found[-1] = Stand("end", found[-1].x, found[-1].y, found[-1].angle)
    return found[:_MOST]


def marker_matrix(marker: Node, stand: Stand, width: float) -> tuple[Floats, tuple[float, float, float, float]]:
    """From the marker's content to the outline's user space, and the marker's window in its content's px."""
    attrs = marker.attrs
    w, h = length(attrs.get("markerWidth", "3"), 3.0), length(attrs.get("markerHeight", "3"), 3.0)
    if w <= 0 or h <= 0:
        raise FormatError(tr("a marker without size"))
    orient = attrs.get("orient", "0").strip()
    angle = stand.angle
    if orient == "auto-start-reverse":
        angle += 180.0 if stand.role == "start" else 0.0
    elif orient != "auto":
        found = numbers(orient)
        angle = found[0] if found else 0.0
    scale = width if attrs.get("markerUnits", "strokeWidth") == "strokeWidth" else 1.0
    view = numbers(attrs.get("viewBox", ""))
    inner = fit_view(view, w, h, attrs.get("preserveAspectRatio", "")) if len(view) == 4 else affine.identity()
    whole = (view[2], view[3]) if len(view) == 4 else (w, h)
    words = {"left": 0.0, "center": 0.5, "right": 1.0, "top": 0.0, "bottom": 1.0}
    ref = []
    for k, key in enumerate(("refX", "refY")):
        text = attrs.get(key, "0").strip()
        start = view[k] if len(view) == 4 else 0.0
        ref.append(start + words[text] * whole[k] if text in words else length(text, whole[k]))
    rx, ry = affine.apply(inner, ref)
    cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    there = np.array([cos * scale, sin * scale, -sin * scale, cos * scale, stand.x, stand.y])
    matrix = affine.multiply(there, affine.multiply([1, 0, 0, 1, -rx, -ry], inner))
    back = affine.invert(inner)
    window = affine.box_bounds(back if back is not None else affine.identity(), w, h)
    return matrix, (float(window[0]), float(window[1]), float(window[2]), float(window[3]))
