"""CSS's basic shapes (CSS Shapes 1) as outlines over a box: ``circle()``, ``ellipse()``, ``inset()``, ``polygon()``."""

from __future__ import annotations

import math
import re
from typing import Literal

from avelt.core.arrays import Floats, np
from avelt.core.errors import FormatError
from avelt.core.formats.svg_values import length
from avelt.core.geometry.bezier import box_outline, line_to, oval_outline
from avelt.core.words import tr

Rule = Literal["nonzero", "evenodd"]
_CALL = re.compile(r"\s*([a-z]+)\(([^()]*)\)\s*", re.I)
_WORDS = {"left": "0%", "center": "50%", "right": "100%", "top": "0%", "bottom": "100%"}


def outline(text: str, w: float, h: float) -> tuple[list[tuple[Floats, bool]], Rule]:
    """The shape's subpaths (points, closed) in px from the box's top left, and its fill rule.

    ``FormatError`` for what is no such shape.
    """
    found = _CALL.fullmatch(text)
    if found is None or found.group(1).lower() not in _SHAPES:
        raise FormatError(tr("clip-path {words} is not supported", words=text[:40]))
    name, inner = found.group(1).lower(), found.group(2)
    rule: Rule = "evenodd" if name == "polygon" and inner.strip().startswith("evenodd") else "nonzero"
    points = _SHAPES[name](inner, w, h)
    return [(points, True)], rule


def _centre(text: str, w: float, h: float) -> tuple[float, float]:
    words = [_WORDS.get(word, word) for word in text.split()] or ["50%", "50%"]
    words = [*words, "50%"][:2]
    return length(words[0], w), length(words[1], h)


def _radius(text: str, whole: float, near: float, far: float) -> float:
    if text in ("", "closest-side"):
        return near
    if text == "farthest-side":
        return far
    return max(0.0, length(text, whole))


def _round(inner: str, w: float, h: float, ellipse: bool) -> Floats:
    radii, _, at = inner.partition("at ") if "at " in inner else (inner, "", "")
    x, y = _centre(at, w, h)
    sides_x, sides_y = (abs(x), abs(w - x)), (abs(y), abs(h - y))
    words = radii.split()
    if ellipse:
        rx = _radius(words[0] if words else "", w, min(sides_x), max(sides_x))
        ry = _radius(words[1] if len(words) > 1 else "", h, min(sides_y), max(sides_y))
    else:
        both = (*sides_x, *sides_y)
        rx = ry = _radius(words[0] if words else "", math.hypot(w, h) / math.sqrt(2), min(both), max(both))
    return np.asarray(oval_outline(2 * rx, 2 * ry) + np.array([x - rx, y - ry]))


def _four(text: str) -> list[str]:
    words = text.split() or ["0"]
    return [
        words[0],
        words[1 % len(words)],
        words[2 if len(words) > 2 else 0],
        words[3 if len(words) > 3 else 1 % len(words)],
    ]


def _inset(inner: str, w: float, h: float) -> Floats:
    sides, _, corners = inner.partition("round")
    top, right, bottom, left = (length(word, (h, w, h, w)[k]) for k, word in enumerate(_four(sides)))
    radii = [length(word, w) for word in _four(corners.partition("/")[0])]
    box = box_outline(max(0.0, w - left - right), max(0.0, h - top - bottom), radii)
    return np.asarray(box + np.array([left, top]))


def _polygon(inner: str, w: float, h: float) -> Floats:
    corners = []
    for part in inner.split(","):
        words = part.split()
        if words and words[0] in ("evenodd", "nonzero"):
            continue
        if len(words) != 2:
            raise FormatError(tr("a polygon's corner is two lengths"))
        corners.append((length(words[0], w), length(words[1], h)))
    if len(corners) < 3:
        raise FormatError(tr("a polygon needs three corners"))
    points = [corners[0]]
    for corner in [*corners[1:], corners[0]]:
        points += line_to(points[-1], corner)
    return np.array(points)


_SHAPES = {
    "circle": lambda inner, w, h: _round(inner, w, h, False),
    "ellipse": lambda inner, w, h: _round(inner, w, h, True),
    "inset": _inset,
    "polygon": _polygon,
}
