"""Shapes, texts and pictures of SVG as layers."""

from __future__ import annotations

import math
import re

import msgspec
from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.errors import FormatError
from avelt.core.formats import svg_marker, svg_shapes
from avelt.core.formats.pictures_in import data_link, read_picture
from avelt.core.formats.svg_context import Context, Here
from avelt.core.formats.svg_paint import Area, href, opacity, reference
from avelt.core.formats.svg_place import full_turns, placed, plain_scale, split, text_name
from avelt.core.formats.svg_style import Style
from avelt.core.formats.svg_text import Setting, TextReader, font_size
from avelt.core.formats.svg_values import length
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import oval_outline
from avelt.core.model.values import Asset, Layer, Oval, Paint, Path, Picture, Solid, Stroke, Subpath
from avelt.core.words import tr

_MARKED = frozenset(("path", "line", "polyline", "polygon"))


def shape(context: Context, node: Node, here: Here) -> list[Layer]:
    """A basic shape or path, with its markers in a group around it."""
    found = svg_shapes.READERS[node.tag](node, here.style, here.view)
    if found.trouble:
        context.notes.add("unreadable", found.trouble, node.says, node.line)
    if found.body is None:
        return []
    made = _shape_layer(context, node, here, found)
    if node.tag in _MARKED and isinstance(found.body, Path):
        marks = _markers(context, node, here, found)
        if marks:
            return [context.wrap(node, [made, *marks], affine.identity(), name=made.name)]
    return [made]


def _shape_layer(context: Context, node: Node, here: Here, found: svg_shapes.Shape) -> Layer:
    style = here.style
    body = found.body
    if body is None:
        raise FormatError(tr("it has no outline"))
    factor, rest = split(here.matrix)
    area = Area(found.x, found.y, found.w, found.h, *here.view)
    fixed = style.get("vector-effect") == "non-scaling-stroke" and style.get("stroke", "none") != "none"
    if fixed and plain_scale(rest) != 1.0:
        # The line keeps its width whatever the shape is put through: the shape is worked out, not transformed.
        baked = svg_shapes.transformed(found, here.matrix)
        fills = fills_of(context, node, style, area)
        layer = context.layer(node, baked.body or body, baked.x, baked.y, baked.w, baked.h)
        m = here.matrix
        stroke = stroke_of(context, node, here, area, abs(float(m[0] * m[3] - m[1] * m[2])) ** 0.5)
        return msgspec.structs.replace(layer, fills=fills, stroke=stroke)
    fills = fills_of(context, node, style, area)
    stroke = stroke_of(context, node, here, area, factor)
    if stroke is not None and stroke.dashes and isinstance(body, Oval):
        # Dashes begin where the outline does: SVG begins an ellipse at its right, an oval begins at its top.
        points = oval_outline(found.w, found.h)
        body = Path((Subpath(tuple(np.concatenate([points[3:], points[1:4]]).ravel().tolist()), True),))
    body = svg_shapes.scaled(body, factor)
    if isinstance(body, Path) and style.get("fill-rule") == "evenodd":
        body = Path(body.subpaths, "evenodd")
    layer = context.layer(node, body, 0.0, 0.0, found.w * factor, found.h * factor)
    layer = msgspec.structs.replace(layer, fills=fills, stroke=stroke)
    return placed(layer, affine.multiply(rest, [1, 0, 0, 1, found.x * factor, found.y * factor]), here.rotation)


def fills_of(context: Context, node: Node, style: Style, area: Area) -> tuple[Paint, ...]:
    """The element's fill as a stack of at most one."""
    alpha = opacity(style.get("fill-opacity", "1"))
    paint = context.paints.paint(style.get("fill", "black"), alpha, style, node, area)
    return (paint,) if paint is not None else ()


def stroke_of(context: Context, node: Node, here: Here, area: Area, factor: float) -> Stroke | None:
    """The element's stroke; ``factor`` is the scale worked into the layer's numbers."""
    style = here.style
    if style.get("stroke", "none").strip() == "none":
        return None
    alpha = opacity(style.get("stroke-opacity", "1"))
    paint = context.paints.paint(style["stroke"], alpha, style, node, area)
    diagonal = float(np.hypot(*here.view) / np.sqrt(2))
    width = length(style.get("stroke-width", "1"), diagonal, font_size(style))
    if paint is None or width <= 0:
        return None
    if style.get("vector-effect") == "non-scaling-stroke":
        size = abs(float(here.total[0] * here.total[3] - here.total[1] * here.total[2])) ** 0.5
        factor = factor / size if size > 0 else 1.0
    dashes: tuple[float, ...] = ()
    text = style.get("stroke-dasharray", "none")
    if text != "none":
        found = [length(part, diagonal, font_size(style)) for part in re.split(r"[\s,]+", text.strip()) if part]
        if found and min(found) >= 0 and sum(found) > 0:
            dashes = tuple(v * factor for v in (found * 2 if len(found) % 2 else found))
    cap, join = style.get("stroke-linecap", "butt"), style.get("stroke-linejoin", "miter")
    try:
        miter = max(1.0, float(style.get("stroke-miterlimit", "4")))
    except ValueError:
        miter = 4.0
    order = style.get("paint-order", "normal").split()
    under = "stroke" in order and ("fill" not in order or order.index("stroke") < order.index("fill"))
    return Stroke(
        paint,
        width * factor,
        cap if cap in ("butt", "round", "square") else "butt",  # type: ignore[arg-type]
        join if join in ("miter", "round", "bevel") else "miter",  # type: ignore[arg-type]
        miter,
        dashes,
        length(style.get("stroke-dashoffset", "0"), diagonal) * factor,
        under=under,
    )


def _markers(context: Context, node: Node, here: Here, found: svg_shapes.Shape) -> list[Layer]:
    """The markers on an outline, each a group of its own."""
    style = here.style
    by_role: dict[str, Node] = {}
    for role in ("start", "mid", "end"):
        value = style.get(f"marker-{role}", style.get("marker", "none")).strip()
        if not value.startswith("url("):
            continue
        marker = context.ids.get(reference(value)[0])
        ident = marker.attrs.get("id", "") if marker is not None else ""
        if marker is None or marker.tag != "marker":
            context.notes.add("left out", f"the marker {value[:40]} is not in the file", node.says, node.line)
        elif f"#{ident}" not in here.uses:
            by_role[role] = marker
    if not by_role or not isinstance(found.body, Path):
        return []
    shift = np.array([found.x, found.y])
    outline: list[tuple[Floats, bool]] = [
        (np.array(s.points, float).reshape(-1, 2) + shift, s.closed) for s in found.body.subpaths
    ]
    width = length(style.get("stroke-width", "1"), float(np.hypot(*here.view) / np.sqrt(2)), font_size(style))
    made: list[Layer] = []
    for stand in svg_marker.stands(outline):
        marker = by_role.get(stand.role)
        if marker is None:
            continue
        matrix, window = svg_marker.marker_matrix(marker, stand, width)
        base = {key: value for key, value in context.style_of(marker, {}).items() if not key.startswith("marker")}
        base["-context-fill"], base["-context-stroke"] = style.get("fill", "black"), style.get("stroke", "none")
        uses = (*here.uses, f"#{marker.attrs.get('id', '')}")
        inner = replace(here.moved(matrix), style=base, uses=uses, depth=here.depth + 1, rotation=0.0)
        cuts = base.get("overflow", "hidden") not in ("visible", "auto")
        made.append(context.grouped(marker, inner, marker, window if cuts else None))
    return [layer for layer in made if layer.children]


def text(context: Context, node: Node, here: Here) -> list[Layer]:
    """A text: one layer, or a group of them where the file places it in pieces."""
    nowhere = Area(0, 0, 1, 1, *here.view)

    def run_fill(style: Style, part: Node) -> Solid | None:
        paint = context.paints.paint(
            style.get("fill", "black"), opacity(style.get("fill-opacity", "1")), style, part, nowhere
        )
        return paint if isinstance(paint, Solid) else None

    texts = TextReader(context.style_of, run_fill, context.notes, context.measure, here.view, context.ids.get)
    settings = texts.read(node, here.style)
    if not settings:
        context.notes.add("left out", "a text without words", node.says, node.line)
        return []
    if len(settings) == 1 and not settings[0].turn:
        return [_text_layer(context, node, settings[0], here)]
    plain = plain_scale(here.matrix) is not None and not full_turns(here.rotation)
    inner = replace(here, matrix=here.matrix if plain else affine.identity(), rotation=here.rotation if plain else 0.0)
    layers = [
        msgspec.structs.replace(_text_layer(context, node, setting, inner), name=text_name(setting.body.words))
        for setting in settings
    ]
    outer, typed = (affine.identity(), 0.0) if plain else (here.matrix, here.rotation)
    words = "".join(setting.body.words for setting in settings)
    named = "" if node.attrs.get("id") or node.attrs.get("data-name") else text_name(words)
    return [context.wrap(node, layers, outer, name=named, typed=typed)]


def _text_layer(context: Context, node: Node, setting: Setting, here: Here) -> Layer:
    factor, rest = split(here.matrix)
    area = Area(setting.x, setting.y, setting.w, setting.h, *here.view)
    fills = fills_of(context, node, setting.style, area)
    stroke = stroke_of(context, node, replace(here, style=setting.style), area, factor)
    body = setting.body
    if factor != 1.0:
        runs = tuple(msgspec.structs.replace(r, size=r.size * factor if r.size else None) for r in body.runs)
        body = msgspec.structs.replace(
            body, runs=runs, size=body.size * factor, letter_spacing=body.letter_spacing * factor
        )
    layer = context.layer(node, body, 0.0, 0.0, setting.w * factor, setting.h * factor)
    layer = msgspec.structs.replace(layer, fills=fills, stroke=stroke)
    there = affine.multiply(rest, [1, 0, 0, 1, setting.x * factor, setting.y * factor])
    if setting.turn:
        x, y = setting.pin[0] * factor, setting.pin[1] * factor
        cos, sin = math.cos(math.radians(setting.turn)), math.sin(math.radians(setting.turn))
        about = [cos, sin, -sin, cos, x - cos * x + sin * y, y - sin * x - cos * y]
        there = affine.multiply(affine.multiply(rest, about), [1, 0, 0, 1, setting.x * factor, setting.y * factor])
    return placed(layer, there, here.rotation + setting.turn)


def image(context: Context, node: Node, here: Here) -> list[Layer]:
    """An embedded picture."""
    link = href(node)
    if not link.startswith("data:"):
        context.notes.add("left out", "a picture outside the file is not read", node.says, node.line)
        return []
    asset = _embedded(context, link, node)
    if asset is None:
        return []
    x, y = length(node.attrs.get("x", "0"), here.view[0]), length(node.attrs.get("y", "0"), here.view[1])
    w, h = _picture_size(node, here, asset)
    keep = node.attrs.get("preserveAspectRatio", "xMidYMid meet")
    fit = "stretch" if keep.startswith("none") else "cover" if "slice" in keep else "inside"
    factor, rest = split(here.matrix)
    layer = context.layer(node, Picture(asset.id, fit), 0.0, 0.0, w * factor, h * factor)  # type: ignore[arg-type]
    return [placed(layer, affine.multiply(rest, [1, 0, 0, 1, x * factor, y * factor]), here.rotation)]


def _picture_size(node: Node, here: Here, asset: Asset) -> tuple[float, float]:
    """Width and height; what is not given follows from the picture's shape."""
    given = [node.attrs.get(key, "auto").strip() or "auto" for key in ("width", "height")]
    w = length(given[0], here.view[0]) if given[0] != "auto" else None
    h = length(given[1], here.view[1]) if given[1] != "auto" else None
    if w is None and h is None:
        return float(asset.w), float(asset.h)
    ratio = asset.w / asset.h if asset.h else 1.0
    return (w if w is not None else (h or 0.0) * ratio, h if h is not None else (w or 0.0) / ratio)


def _embedded(context: Context, link: str, node: Node) -> Asset | None:
    try:
        asset = read_picture(data_link(link), node.says)
    except FormatError as error:
        context.notes.add("unreadable", f"an embedded picture: {error.sentence}", node.says, node.line)
        return None
    context.assets[asset.id] = asset
    return asset
