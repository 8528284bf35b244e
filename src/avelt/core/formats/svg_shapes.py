"""The basic shapes of SVG as bodies with a box, in user space."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.errors import FormatError
from avelt.core.formats.svg_style import Style
from avelt.core.formats.svg_values import length, numbers, path_data
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import bounds_of, box_outline, line_to, oval_outline
from avelt.core.model.values import Box, Oval, Path, Subpath
from avelt.core.record import Record
from avelt.core.words import tr

View = tuple[float, float]


class Shape(Record, frozen=True):
    """A body in its box; ``trouble`` is what was wrong with it, ``body`` is None when nothing is left."""

    body: Box | Oval | Path | None
    x: float = 0.0
    y: float = 0.0
    w: float = 0.0
    h: float = 0.0
    trouble: str = ""


def outline(subpaths: list[tuple[Floats, bool]], trouble: str = "") -> Shape:
    """Subpaths (points, closed) as a path with its tight box."""
    if not subpaths:
        return Shape(None, trouble=trouble or "a path without any line")
    x, y, w, h = bounds_of([points for points, _ in subpaths])
    made = tuple(
        Subpath(tuple(float(v) for v in (points - np.array([x, y])).ravel()), closed) for points, closed in subpaths
    )
    return Shape(Path(made), x, y, w, h, trouble)


def scaled(body: Box | Oval | Path, factor: float) -> Box | Oval | Path:
    """The body with all its lengths times a factor."""
    if factor == 1.0 or isinstance(body, Oval):
        return body
    if isinstance(body, Box):
        a, b, c, d = body.radii
        return Box((a * factor, b * factor, c * factor, d * factor))
    return Path(tuple(Subpath(tuple(v * factor for v in s.points), s.closed) for s in body.subpaths), body.rule)


def transformed(shape: Shape, matrix: Floats) -> Shape:
    """The shape's outline put through a transform, as a path with its box."""
    body = shape.body
    rule: Literal["nonzero", "evenodd"] = "nonzero"
    if isinstance(body, Box):
        subpaths = [(box_outline(shape.w, shape.h, body.radii), True)]
    elif isinstance(body, Path):
        rule = body.rule
        subpaths = [(np.array(s.points, float).reshape(-1, 2), s.closed) for s in body.subpaths]
    else:
        subpaths = [(oval_outline(shape.w, shape.h), True)]
    shift = np.array([shape.x, shape.y])
    made = outline([(affine.apply(matrix, points + shift), closed) for points, closed in subpaths], shape.trouble)
    return replace(made, body=Path(made.body.subpaths, rule)) if isinstance(made.body, Path) else made


def _lengths(node: Node, style: Style, view: View, keys: str) -> list[float]:
    """The named attributes as lengths: x-like of the width, y-like of the height, r of the diagonal."""
    found = []
    for key in keys.split():
        whole = view[0] if key in ("x", "cx", "rx", "width", "x1", "x2") else view[1]
        if key == "r":
            whole = float(np.hypot(*view) / np.sqrt(2))
        text = style[key] if key in style and key not in node.attrs else node.attrs.get(key, "0")
        try:
            found.append(length(text, whole) if text != "auto" else 0.0)
        except FormatError as error:
            raise FormatError(
                tr("{tag}: its {key} cannot be used ({sentence})", tag=node.tag, key=key, sentence=error.sentence)
            ) from None
    return found


def _rect(node: Node, style: Style, view: View) -> Shape:
    x, y, w, h = _lengths(node, style, view, "x y width height")
    if w < 0 or h < 0:
        raise FormatError(tr("rect: its width or height is negative"))
    attrs = dict(node.attrs)
    attrs.update({k: style[k] for k in ("rx", "ry") if k in style})
    has_x, has_y = (attrs.get(key, "auto") != "auto" for key in ("rx", "ry"))
    rx, ry = _lengths(node, style, view, "rx ry")
    rx, ry = (rx if has_x else ry), (ry if has_y else rx)
    if rx < 0 or ry < 0:
        rx = ry = 0.0
    rx, ry = min(rx, w / 2), min(ry, h / 2)
    if abs(rx - ry) < 1e-9 or rx == 0 or ry == 0:
        r = min(rx, ry)
        return Shape(Box((r, r, r, r)), x, y, w, h)
    d = f"M{x + rx} {y}H{x + w - rx}A{rx} {ry} 0 0 1 {x + w} {y + ry}V{y + h - ry}A{rx} {ry} 0 0 1 {x + w - rx} {y + h}"
    d += f"H{x + rx}A{rx} {ry} 0 0 1 {x} {y + h - ry}V{y + ry}A{rx} {ry} 0 0 1 {x + rx} {y}Z"
    return outline(*path_data(d))


def _circle(node: Node, style: Style, view: View) -> Shape:
    cx, cy, r = _lengths(node, style, view, "cx cy r")
    if r < 0:
        raise FormatError(tr("circle: its radius is negative"))
    return Shape(Oval(), cx - r, cy - r, 2 * r, 2 * r)


def _ellipse(node: Node, style: Style, view: View) -> Shape:
    cx, cy, rx, ry = _lengths(node, style, view, "cx cy rx ry")
    has_x, has_y = (node.attrs.get(key, "auto") != "auto" for key in ("rx", "ry"))
    rx, ry = (rx if has_x else ry), (ry if has_y else rx)
    if rx < 0 or ry < 0:
        raise FormatError(tr("ellipse: one of its radii is negative"))
    return Shape(Oval(), cx - rx, cy - ry, 2 * rx, 2 * ry)


def _line(node: Node, style: Style, view: View) -> Shape:
    x1, y1, x2, y2 = _lengths(node, style, view, "x1 y1 x2 y2")
    return outline([(np.array([(x1, y1), *line_to((x1, y1), (x2, y2))]), False)])


def _poly(node: Node, closed: bool) -> Shape:
    try:
        values = numbers(node.attrs.get("points", ""))
    except FormatError as error:
        raise FormatError(f"{node.tag}: {error.sentence}") from None
    trouble = "an odd count of coordinates" if len(values) % 2 else ""
    corners = [(values[k], values[k + 1]) for k in range(0, len(values) - 1, 2)]
    if len(corners) < 2:
        return Shape(None, trouble=trouble or f"a {node.tag} without points")
    points = [corners[0]]
    for corner in corners[1:]:
        points += line_to(points[-1], corner)
    if closed and points[-1] != points[0]:
        points += line_to(points[-1], points[0])
    return outline([(np.array(points), closed)], trouble)


def _path(node: Node, style: Style, view: View) -> Shape:
    text = node.attrs.get("d", "")
    if "d" in style and "d" not in node.attrs:
        text = style["d"].removeprefix("path(").removesuffix(")").strip("'\" ")
    subpaths, trouble = path_data(text)
    return outline(subpaths, trouble)


READERS: dict[str, Callable[[Node, Style, View], Shape]] = {
    "rect": _rect,
    "circle": _circle,
    "ellipse": _ellipse,
    "line": _line,
    "polyline": lambda node, style, view: _poly(node, False),
    "polygon": lambda node, style, view: _poly(node, True),
    "path": _path,
}
