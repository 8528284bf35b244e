"""Paints of SVG: colours and gradients, brought into fractions of the layer's box."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour
from avelt.core.errors import FormatError
from avelt.core.formats.report import Notes
from avelt.core.formats.svg_style import Sheet, Style, computed
from avelt.core.formats.svg_values import fit_view, length, numbers, transform
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.model.values import Group, Layer, Linear, Paint, Pattern, Radial, Solid, Stop
from avelt.core.record import Record

_MAX_HREFS = 32
_REF = "url("


class Area(Record, frozen=True):
    """What a paint is laid over: the geometry's box in user space, and the viewport for percentages."""

    x: float
    y: float
    w: float
    h: float
    view_w: float
    view_h: float


def href(node: Node) -> str:
    """What the element refers to, by its new or old attribute."""
    return node.attrs.get("href") or node.attrs.get("xlink:href") or ""


def reference(value: str) -> tuple[str, str]:
    """The id inside ``url(#id)`` and what stands behind it."""
    inner, _, rest = value[len(_REF) :].partition(")")
    return inner.strip().strip("'\"").lstrip("#"), rest.strip()


#: Gives the layers that lie in an element, under a transform to the tile, in a viewport; None when it holds itself.
TileReader = Callable[[Node, Floats, tuple[float, float]], "tuple[Layer, ...] | None"]


class Paints:
    """Reads paints; remembers what it could not do in the notes."""

    def __init__(self, ids: dict[str, Node], sheet: Sheet, notes: Notes, tile: TileReader) -> None:
        self.ids, self.sheet, self.notes, self.tile = ids, sheet, notes, tile

    def colour(self, value: str, style: Style, alpha: float, node: Node) -> str | None:
        """CSS colour text with the opacity in it; ``None`` for no colour."""
        plain = value.strip()
        if plain.lower() in ("none", ""):
            return None
        if plain.lower() == "currentcolor":
            plain = style.get("color", "black")
            if plain.lower() == "currentcolor":
                plain = "black"
        try:
            rgba = colour.parse(plain.partition(" icc-color")[0])
        except FormatError:
            self.notes.add("unreadable", f"“{plain[:40]}” is not a colour", node.says, node.line)
            return None
        if alpha >= 1.0:
            return colour.to_text(rgba)
        return colour.to_text((*rgba[:3], rgba[3] * max(0.0, alpha)))

    def paint(self, value: str, alpha: float, style: Style, node: Node, area: Area) -> Paint | None:
        """A ``fill`` or ``stroke`` value as a paint over the area."""
        value = value.strip()
        if value in ("context-fill", "context-stroke"):
            value = style.get(f"-{value}", "none")
        if not value.startswith(_REF):
            text = self.colour(value, style, alpha, node)
            return Solid(text) if text is not None else None
        ident, fallback = reference(value)
        server = self.ids.get(ident)
        if server is not None and server.tag in ("linearGradient", "radialGradient"):
            return self.gradient(server, alpha, area, node)
        if server is not None and server.tag == "pattern":
            return self.pattern(server, alpha, area, node)
        if server is None:
            self.notes.add("left out", f"the paint “{ident}” is not in the file", node.says, node.line)
        else:
            self.notes.add("left out", f"a {server.tag} as paint is not supported", node.says, node.line)
        if fallback and fallback.lower() != "none":
            text = self.colour(fallback, style, alpha, node)
            return Solid(text) if text is not None else None
        return None

    def gradient(self, server: Node, alpha: float, area: Area, node: Node) -> Paint | None:
        """A gradient element with what it takes over through ``href``."""
        chain = self._chain(server)
        attrs: dict[str, str] = {}
        for link in reversed(chain):
            attrs.update({k: v for k, v in link.attrs.items() if k not in ("id", "href", "xlink:href")})
            style_transform = self.sheet.declared(link).get("gradient-transform")
            if style_transform:
                attrs["gradientTransform"] = style_transform
        holder = next((link for link in chain if any(c.tag == "stop" for c in link.children())), None)
        stops = self._stops(holder, alpha) if holder is not None else []
        if not stops:
            return None
        if len(stops) == 1:
            return Solid(stops[0].color)
        in_box = attrs.get("gradientUnits", "objectBoundingBox") != "userSpaceOnUse"
        if in_box and (area.w <= 0 or area.h <= 0):
            return None
        spread = attrs.get("spreadMethod", "pad")
        spread = spread if spread in ("pad", "reflect", "repeat") else "pad"
        try:
            own = transform(attrs.get("gradientTransform", ""))
            geometry = _linear(attrs, in_box, area) if server.tag == "linearGradient" else _radial(attrs, in_box, area)
        except FormatError as error:
            self.notes.add("unreadable", f"gradient: {error.sentence}", server.says, server.line)
            return Solid(stops[-1].color)
        if geometry is None:
            return Solid(stops[-1].color)
        matrix, focus = geometry
        whole = affine.multiply(own, matrix)
        if not in_box:
            scale = np.array([1 / (area.w or 1.0), 0, 0, 1 / (area.h or 1.0), 0, 0])
            whole = affine.multiply(scale, affine.multiply([1, 0, 0, 1, -area.x, -area.y], whole))
        a, b, c, d, e, f = (float(v) for v in whole)
        if server.tag == "linearGradient":
            return Linear(tuple(stops), (a, b, c, d, e, f), spread)  # type: ignore[arg-type]
        return Radial(tuple(stops), (a, b, c, d, e, f), focus[:2], focus[2], spread)  # type: ignore[arg-type]

    def pattern(self, server: Node, alpha: float, area: Area, node: Node) -> Paint | None:
        """A pattern element with what it takes over through ``href``, as layers on a tile."""
        chain = self._chain(server)
        attrs: dict[str, str] = {}
        for link in reversed(chain):
            attrs.update({k: v for k, v in link.attrs.items() if k not in ("id", "href", "xlink:href")})
        holder = next((link for link in chain if any(True for _ in link.children())), None)
        in_box = attrs.get("patternUnits", "objectBoundingBox") != "userSpaceOnUse"
        if holder is None or ((in_box or "viewBox" not in attrs) and (area.w <= 0 or area.h <= 0)):
            return None
        try:
            own = transform(attrs.get("patternTransform", ""))
            whole = (1.0, 1.0) if in_box else (area.view_w, area.view_h)
            x, w = (length(attrs.get(key, "0"), whole[0]) for key in ("x", "width"))
            y, h = (length(attrs.get(key, "0"), whole[1]) for key in ("y", "height"))
            view = numbers(attrs.get("viewBox", ""))
        except FormatError as error:
            self.notes.add("unreadable", f"pattern: {error.sentence}", server.says, server.line)
            return None
        if in_box:
            x, y, w, h = area.x + x * area.w, area.y + y * area.h, w * area.w, h * area.h
        if w <= 0 or h <= 0:
            return None
        if len(view) == 4 and view[2] > 0 and view[3] > 0:
            inner, seen = fit_view(view, w, h, attrs.get("preserveAspectRatio", "")), (view[2], view[3])
        elif attrs.get("patternContentUnits") == "objectBoundingBox":
            inner, seen = np.array([area.w, 0, 0, area.h, area.x - x, area.y - y]), (1.0, 1.0)
        else:
            inner, seen = np.array([1.0, 0, 0, 1, -x, -y]), (area.view_w, area.view_h)
        layers = self.tile(holder, inner, seen)
        if layers is None:
            self.notes.add("left out", "a pattern that is painted with itself", node.says, node.line)
            return None
        if alpha < 1.0:
            layers = (Layer("veil", "veil", "Pattern", Group(layers), 0.0, 0.0, w, h, opacity=alpha),)
        to_box = np.array([1 / (area.w or 1.0), 0, 0, 1 / (area.h or 1.0), 0, 0])
        there = affine.multiply(affine.multiply([1, 0, 0, 1, -area.x, -area.y], own), [1, 0, 0, 1, x, y])
        a, b, c, d, e, f = (float(v) for v in affine.multiply(to_box, there))
        return Pattern(layers, w, h, (a, b, c, d, e, f))

    def _chain(self, server: Node) -> list[Node]:
        chain = [server]
        kinds = ("pattern",) if server.tag == "pattern" else ("linearGradient", "radialGradient")
        while len(chain) < _MAX_HREFS:
            target = self.ids.get(href(chain[-1]).lstrip("#"))
            if target is None or target in chain or target.tag not in kinds:
                break
            chain.append(target)
        return chain

    def _stops(self, holder: Node, alpha: float) -> list[Stop]:
        found: list[Stop] = []
        last = 0.0
        for node in holder.children():
            if node.tag != "stop":
                continue
            declared = self.sheet.declared(node)
            style = computed({}, declared)
            offset = node.attrs.get("offset", "0").strip()
            try:
                at = float(offset[:-1]) / 100 if offset.endswith("%") else float(offset)
            except ValueError:
                at = 0.0
            last = max(last, min(1.0, max(0.0, at if at == at else 0.0)))
            text = self.colour(
                style.get("stop-color", "black"), style, alpha * opacity(style.get("stop-opacity", "1")), node
            )
            found.append(Stop(last, text or "rgb(0 0 0 / 0)"))
        return found


def opacity(text: str) -> float:
    """An opacity: a number or per cent, kept in 0..1; 1 for what is neither."""
    text = text.strip()
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return 1.0
    return min(1.0, max(0.0, value)) if value == value else 1.0


def _measure(attrs: dict[str, str], key: str, default: str, in_box: bool, whole: float) -> float:
    return length(attrs.get(key, default), 1.0 if in_box else whole)


def _linear(attrs: dict[str, str], in_box: bool, area: Area) -> tuple[Floats, tuple[float, float, float]] | None:
    x1 = _measure(attrs, "x1", "0%", in_box, area.view_w)
    y1 = _measure(attrs, "y1", "0%", in_box, area.view_h)
    x2 = _measure(attrs, "x2", "100%", in_box, area.view_w)
    y2 = _measure(attrs, "y2", "0%", in_box, area.view_h)
    dx, dy = x2 - x1, y2 - y1
    if dx == 0 and dy == 0:
        return None
    return np.array([dx, dy, -dy, dx, x1, y1]), (0.0, 0.0, 0.0)


def _radial(attrs: dict[str, str], in_box: bool, area: Area) -> tuple[Floats, tuple[float, float, float]] | None:
    diagonal = float(np.hypot(area.view_w, area.view_h) / np.sqrt(2))
    cx = _measure(attrs, "cx", "50%", in_box, area.view_w)
    cy = _measure(attrs, "cy", "50%", in_box, area.view_h)
    r = _measure(attrs, "r", "50%", in_box, diagonal)
    if r <= 0:
        return None
    fx = _measure(attrs, "fx", attrs.get("cx", "50%"), in_box, area.view_w)
    fy = _measure(attrs, "fy", attrs.get("cy", "50%"), in_box, area.view_h)
    fr = max(0.0, _measure(attrs, "fr", "0%", in_box, diagonal))
    return np.array([r, 0, 0, r, cx, cy]), ((fx - cx) / r, (fy - cy) / r, fr / r)
