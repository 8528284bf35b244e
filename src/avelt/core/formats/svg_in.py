"""SVG into a frame of layers.

Every element becomes a layer where Avelt has one for it; what it has not is named in the report. Plain
moves and even scales are worked into the numbers, so that a card drawn at 20, 278 stands at 20, 278; turns
and the rest stay as the layer's own turn, skew and scale.
"""

from __future__ import annotations

import contextlib
import hashlib
import re
from collections import Counter
from dataclasses import dataclass, replace

import msgspec
import numpy as np

from avelt.core.errors import AveltError, FormatError
from avelt.core.formats import svg_shapes, xml_tree
from avelt.core.formats.pictures_in import data_link, read_picture
from avelt.core.formats.report import Notes, Report
from avelt.core.formats.svg_paint import Area, Paints, href, opacity, reference
from avelt.core.formats.svg_place import (
    above,
    as_clip,
    bounds,
    full_turns,
    placed,
    plain_scale,
    split,
    text_name,
    upright,
)
from avelt.core.formats.svg_style import Sheet, Style, computed
from avelt.core.formats.svg_text import Setting, TextMeasure, TextReader, font_size, rough_width
from avelt.core.formats.svg_values import fit_view, length, numbers, transform, typed_turn
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.affine import Floats
from avelt.core.geometry.bezier import union
from avelt.core.model.find import walk
from avelt.core.model.limits import MAX_DEPTH, MAX_LAYERS, MAX_SVG_BYTES
from avelt.core.model.values import Asset, Frame, Group, Layer, Path, Picture, Solid, Source, Stroke, Text

_NOT_DRAWN = frozenset((
    "defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient", "filter", "style",
    "title", "desc", "metadata", "stop", "solidColor", "meshgradient",
))  # fmt: skip
_GROUPS = frozenset(("g", "a", "svg", "switch"))
_LEFT_OUT = {
    "filter": "a filter", "mix-blend-mode": "a blend mode", "marker-start": "a marker", "marker-mid": "a marker",
    "marker-end": "a marker",
}  # fmt: skip
_DEFAULT_SIZE = (300.0, 150.0)  # CSS 2, replaced elements without a size


@dataclass(frozen=True)
class Imported:
    """A frame with the assets it uses and the report. Ids are the import's own until it joins a project."""

    frame: Frame
    assets: tuple[Asset, ...]
    report: Report


def read_svg(data: bytes, name: str, measure: TextMeasure = rough_width, path: str = "") -> Imported:
    """An SVG file's bytes as a frame called ``name``; ``AveltError`` when it is no SVG that can be read."""
    if len(data) > MAX_SVG_BYTES:
        raise FormatError(f"The file is larger than {MAX_SVG_BYTES // 2**20} MB.", path or name)
    root = xml_tree.parse(data, path or name)
    if root.tag != "svg":
        raise FormatError(f"The outermost element is <{root.tag}>, not <svg>.", f"{path or name}, line {root.line}")
    reader = _Reader(root, measure)
    try:
        frame = reader.frame(name, Source(path, hashlib.sha256(data).hexdigest()))
    except AveltError as error:
        raise error.at(path or name) from None
    except RecursionError:
        raise FormatError("Elements lie too deep in each other.", path or name) from None
    counts = Counter(layer.kind for layer in walk(frame.layers))
    report = Report(path or name, name, dict(counts), tuple(reader.notes.found))
    return Imported(frame, tuple(reader.assets.values()), report)


@dataclass(frozen=True)
class _Here:
    """Where an element stands: the transform to its layer's parent, its inherited style, the viewport."""

    matrix: Floats
    style: Style
    view: tuple[float, float]
    depth: int = 0
    turn: float = 0.0  # typed since the layer's parent, degrees
    uses: tuple[str, ...] = ()


class _Reader:
    def __init__(self, root: Node, measure: TextMeasure) -> None:
        self.root = root
        self.notes = Notes()
        self.sheet = Sheet(root, self.notes)
        self.ids: dict[str, Node] = {}
        for node in root.all():
            self.ids.setdefault(node.attrs.get("id", ""), node)
        self.ids.pop("", None)
        self.paints = Paints(self.ids, self.sheet, self.notes)
        self.measure = measure
        self.assets: dict[str, Asset] = {}
        self.count = 0
        self.kind_count: Counter[str] = Counter()
        self.broken_styles: set[int] = set()

    # The frame

    def frame(self, name: str, source: Source) -> Frame:
        style = self.style_of(self.root, {})
        view = self._view_box(self.root)
        w, h = self._size(self.root, view)
        matrix, inner = affine.IDENTITY, (w, h)
        if view is not None:
            matrix = fit_view(view, w, h, self.root.attrs.get("preserveAspectRatio", ""))
            inner = (view[2], view[3])
        layers = self.children(self.root, _Here(matrix, style, inner))
        background = "#ffffff"
        if "background" in style or "background-color" in self.sheet.declared(self.root):
            declared = self.sheet.declared(self.root)
            text = self.paints.colour(
                declared.get("background-color", style.get("background", "none")), style, 1.0, self.root
            )
            background = text or background
        return Frame("", name, w, h, background, True, tuple(layers), (), source)

    def _view_box(self, node: Node) -> list[float] | None:
        text = node.attrs.get("viewBox")
        if text is None:
            return None
        try:
            view = numbers(text)
        except FormatError:
            view = []
        if len(view) != 4 or view[2] <= 0 or view[3] <= 0:
            self.notes.add("unreadable", f"viewBox “{text[:40]}”", node.says, node.line)
            return None
        return view

    def _size(self, node: Node, view: list[float] | None) -> tuple[float, float]:
        sides: list[float | None] = []
        for k, key in enumerate(("width", "height")):
            text = node.attrs.get(key, "auto").strip()
            try:
                value = None if text in ("auto", "") or text.endswith("%") else length(text, _DEFAULT_SIZE[k])
            except FormatError as error:
                self.notes.add("unreadable", f"{key}: {error.sentence}", node.says, node.line)
                value = None
            sides.append(value if value is None or value > 0 else None)
        w, h = sides
        ratio = view[2] / view[3] if view else _DEFAULT_SIZE[0] / _DEFAULT_SIZE[1]
        if w is None and h is None:
            return (view[2], view[3]) if view else _DEFAULT_SIZE
        return (w if w is not None else (h or 1.0) * ratio, h if h is not None else (w or 1.0) / ratio)

    # Elements

    def style_of(self, node: Node, parent: Style) -> Style:
        """The element's computed style, relative font sizes resolved."""
        style = computed(parent, self.sheet.declared(node))
        size = style.get("font-size", "")
        if size and size != parent.get("font-size"):
            known = {
                "xx-small": 9,
                "x-small": 10,
                "small": 13,
                "medium": 16,
                "large": 18,
                "x-large": 24,
                "xx-large": 32,
            }
            above = font_size(parent)
            try:
                px = float(known[size]) if size in known else length(size, above, above)
            except FormatError as error:
                self.notes.add("unreadable", f"font-size: {error.sentence}", node.says, node.line)
                px = above
            style["font-size"] = f"{px:.10g}px"
        return style

    def children(self, node: Node, here: _Here) -> list[Layer]:
        made: list[Layer] = []
        for child in node.children():
            if child.tag in _NOT_DRAWN or ":" in child.tag:
                continue
            made += self.element(child, here)
            if node.tag == "switch" and made:
                break
        return made

    def element(self, node: Node, here: _Here) -> list[Layer]:
        if here.depth > MAX_DEPTH:
            raise FormatError(f"Groups lie more than {MAX_DEPTH} deep in each other.", f"line {node.line}, {node.says}")
        self.count += 1
        if self.count > MAX_LAYERS:
            raise FormatError(f"There are more than {MAX_LAYERS} layers.", f"line {node.line}, {node.says}")
        style = self.style_of(node, here.style)
        for key, words in _LEFT_OUT.items():
            if style.get(key, "none") not in ("none", "normal", ""):
                self.notes.add("left out", f"{words} ({style[key][:40]}) is not supported yet", node.says, node.line)
        try:
            text = style.get("transform", node.attrs.get("transform", ""))
            own, typed = transform(text), typed_turn(text)
        except FormatError as error:
            self.notes.add("unreadable", f"transform: {error.sentence}", node.says, node.line)
            own, typed = affine.IDENTITY, 0.0
        inner = replace(here, matrix=affine.multiply(here.matrix, own), style=style, turn=here.turn + typed)
        try:
            made = self._draw(node, inner)
        except FormatError as error:
            if error.place:
                raise
            self.notes.add("left out", error.sentence, node.says, node.line)
            return []
        return [self._finish(node, layer, inner) for layer in made]

    def _draw(self, node: Node, here: _Here) -> list[Layer]:
        if node.tag in _GROUPS:
            return self._group(node, here)
        if node.tag == "use":
            return self._use(node, here)
        if node.tag == "text":
            return self._text(node, here)
        if node.tag == "image":
            return self._image(node, here)
        if node.tag in svg_shapes.READERS:
            return self._shape(node, here)
        self.notes.add("left out", f"<{node.tag}> is not supported", node.says, node.line)
        return []

    def _finish(self, node: Node, layer: Layer, here: _Here) -> Layer:
        """What all elements have: opacity, visibility, clip and mask."""
        style = here.style
        alpha = opacity(style.get("opacity", "1"))
        hidden = style.get("display") == "none" or (
            style.get("visibility", "visible") != "visible" and not isinstance(layer.body, Group)
        )
        if alpha < 1 or hidden:
            layer = msgspec.structs.replace(layer, opacity=layer.opacity * alpha, hidden=layer.hidden or hidden)
        for key in ("clip-path", "mask"):
            value = style.get(key, "none").strip()
            if not value.startswith("url("):
                if value not in ("none", ""):
                    self.notes.add("left out", f"{key} {value[:40]} is not supported yet", node.says, node.line)
                continue
            target = self.ids.get(reference(value)[0])
            if target is None or target.tag not in ("clipPath", "mask"):
                self.notes.add("left out", f"{key} {value[:40]} is not in the file", node.says, node.line)
                continue
            layer = self._masked(node, layer, target, here)
        return layer

    # Groups

    def _group(self, node: Node, here: _Here) -> list[Layer]:
        matrix, view = here.matrix, here.view
        if node.tag == "svg":
            matrix, view = self._nested(node, here, None)
        return [self._grouped(node, here, matrix, view, node)]

    def _nested(self, node: Node, here: _Here, using: Node | None) -> tuple[Floats, tuple[float, float]]:
        """A nested viewport's transform and size (``using`` may give it another size)."""
        attrs = {**node.attrs, **({k: v for k, v in using.attrs.items() if k in ("width", "height")} if using else {})}
        x = length(attrs.get("x", "0"), here.view[0]) if using is None else 0.0
        y = length(attrs.get("y", "0"), here.view[1]) if using is None else 0.0
        w = length(attrs.get("width", "100%").replace("auto", "100%"), here.view[0])
        h = length(attrs.get("height", "100%").replace("auto", "100%"), here.view[1])
        matrix = affine.multiply(here.matrix, [1, 0, 0, 1, x, y])
        box = self._view_box(node)
        if box is None:
            return matrix, (w, h)
        return affine.multiply(matrix, fit_view(box, w, h, node.attrs.get("preserveAspectRatio", ""))), (box[2], box[3])

    def _grouped(self, node: Node, here: _Here, matrix: Floats, view: tuple[float, float], named: Node) -> Layer:
        plain = plain_scale(matrix) is not None and not full_turns(here.turn)
        kept = (matrix, here.turn) if plain else (affine.IDENTITY, 0.0)
        inner = replace(here, matrix=kept[0], turn=kept[1], view=view, depth=here.depth + 1)
        children = self.children(node, inner)
        return self.wrap(named, children, affine.IDENTITY if plain else matrix, typed=0.0 if plain else here.turn)

    def wrap(self, node: Node, children: list[Layer], matrix: Floats, name: str = "", typed: float = 0.0) -> Layer:
        """Children (in the group's space) as a group whose box is around them, under a transform."""
        x, y, w, h = union([bounds(child) for child in children])
        moved = tuple(msgspec.structs.replace(child, x=child.x - x, y=child.y - y) for child in children)
        layer = self.layer(node, Group(moved), 0.0, 0.0, w, h, name=name)
        return placed(layer, affine.multiply(matrix, [1, 0, 0, 1, x, y]), typed)

    def _use(self, node: Node, here: _Here) -> list[Layer]:
        ident = href(node)
        target = self.ids.get(ident.lstrip("#")) if ident.startswith("#") else None
        if target is None:
            self.notes.add("left out", f"the use of “{ident[:60]}”, which is not in the file", node.says, node.line)
            return []
        if ident in here.uses or any(up is target for up in above(node)):
            self.notes.add("left out", f"“{ident[:60]}” uses itself", node.says, node.line)
            return []
        x = length(node.attrs.get("x", "0"), here.view[0])
        y = length(node.attrs.get("y", "0"), here.view[1])
        here = replace(
            here,
            matrix=affine.multiply(here.matrix, [1, 0, 0, 1, x, y]),
            uses=(*here.uses, ident),
            depth=here.depth + 1,
        )
        if target.tag in ("symbol", "svg"):
            matrix, view = self._nested(target, here, node)
            inner = replace(here, style=self.style_of(target, here.style))
            return [self._grouped(target, inner, matrix, view, node if node.attrs.get("id") else target)]
        made = self.element(target, here)
        if node.attrs.get("id") and made:
            made[0] = msgspec.structs.replace(made[0], name=node.attrs["id"])
        return made

    # Leaves

    def _shape(self, node: Node, here: _Here) -> list[Layer]:
        shape = svg_shapes.READERS[node.tag](node, here.style, here.view)
        if shape.trouble:
            self.notes.add("unreadable", shape.trouble, node.says, node.line)
        if shape.body is None:
            return []
        factor, rest = split(here.matrix)
        area = Area(shape.x, shape.y, shape.w, shape.h, *here.view)
        fills = self._fills(node, here.style, area)
        stroke = self._stroke(node, here, area, factor)
        body = svg_shapes.scaled(shape.body, factor)
        if isinstance(body, Path) and here.style.get("fill-rule") == "evenodd":
            body = Path(body.subpaths, "evenodd")
        layer = self.layer(node, body, 0.0, 0.0, shape.w * factor, shape.h * factor)
        layer = msgspec.structs.replace(layer, fills=fills, stroke=stroke)
        return [placed(layer, affine.multiply(rest, [1, 0, 0, 1, shape.x * factor, shape.y * factor]), here.turn)]

    def _fills(self, node: Node, style: Style, area: Area) -> tuple[object, ...]:
        alpha = opacity(style.get("fill-opacity", "1"))
        paint = self.paints.paint(style.get("fill", "black"), alpha, style, node, area)
        return (paint,) if paint is not None else ()

    def _stroke(self, node: Node, here: _Here, area: Area, factor: float) -> Stroke | None:
        style = here.style
        if style.get("stroke", "none").strip() == "none":
            return None
        alpha = opacity(style.get("stroke-opacity", "1"))
        paint = self.paints.paint(style["stroke"], alpha, style, node, area)
        diagonal = float(np.hypot(*here.view) / np.sqrt(2))
        width = length(style.get("stroke-width", "1"), diagonal, font_size(style))
        if paint is None or width <= 0:
            return None
        if style.get("vector-effect") == "non-scaling-stroke":
            factor = 1.0
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
        return Stroke(
            paint, width * factor,
            cap if cap in ("butt", "round", "square") else "butt",  # type: ignore[arg-type]
            join if join in ("miter", "round", "bevel") else "miter",  # type: ignore[arg-type]
            miter, dashes, length(style.get("stroke-dashoffset", "0"), diagonal) * factor,
        )  # fmt: skip

    def _text(self, node: Node, here: _Here) -> list[Layer]:
        nowhere = Area(0, 0, 1, 1, *here.view)

        def run_fill(style: Style, part: Node) -> Solid | None:
            paint = self.paints.paint(
                style.get("fill", "black"), opacity(style.get("fill-opacity", "1")), style, part, nowhere
            )
            return paint if isinstance(paint, Solid) else None

        reader = TextReader(self.style_of, run_fill, self.notes, self.measure, here.view)
        settings = reader.read(node, here.style)
        if not settings:
            self.notes.add("left out", "a text without words", node.says, node.line)
            return []
        if len(settings) == 1:
            return [self._text_layer(node, settings[0], here)]
        plain = plain_scale(here.matrix) is not None and not full_turns(here.turn)
        inner = replace(here, matrix=here.matrix if plain else affine.IDENTITY, turn=here.turn if plain else 0.0)
        layers = [
            msgspec.structs.replace(self._text_layer(node, setting, inner), name=text_name(setting.body.words))
            for setting in settings
        ]
        outer, typed = (affine.IDENTITY, 0.0) if plain else (here.matrix, here.turn)
        return [self.wrap(node, layers, outer, typed=typed)]

    def _text_layer(self, node: Node, setting: Setting, here: _Here) -> Layer:
        factor, rest = split(here.matrix)
        area = Area(setting.x, setting.y, setting.w, setting.h, *here.view)
        fills = self._fills(node, setting.style, area)
        stroke = self._stroke(node, replace(here, style=setting.style), area, factor)
        body = setting.body
        if factor != 1.0:
            runs = tuple(msgspec.structs.replace(r, size=r.size * factor if r.size else None) for r in body.runs)
            body = msgspec.structs.replace(body, runs=runs, size=body.size * factor, tracking=body.tracking * factor)
        layer = self.layer(node, body, 0.0, 0.0, setting.w * factor, setting.h * factor)
        layer = msgspec.structs.replace(layer, fills=fills, stroke=stroke)
        return placed(layer, affine.multiply(rest, [1, 0, 0, 1, setting.x * factor, setting.y * factor]), here.turn)

    def _image(self, node: Node, here: _Here) -> list[Layer]:
        link = href(node)
        if not link.startswith("data:"):
            self.notes.add("left out", "a picture outside the file is not read", node.says, node.line)
            return []
        asset = self._embedded(link, node)
        if asset is None:
            return []
        x, y = length(node.attrs.get("x", "0"), here.view[0]), length(node.attrs.get("y", "0"), here.view[1])
        w = length(node.attrs.get("width", f"{asset.w}").replace("auto", f"{asset.w}"), here.view[0])
        h = length(node.attrs.get("height", f"{asset.h}").replace("auto", f"{asset.h}"), here.view[1])
        keep = node.attrs.get("preserveAspectRatio", "xMidYMid meet")
        fit = "stretch" if keep.startswith("none") else "cover" if "slice" in keep else "inside"
        factor, rest = split(here.matrix)
        layer = self.layer(node, Picture(asset.id, fit), 0.0, 0.0, w * factor, h * factor)  # type: ignore[arg-type]
        return [placed(layer, affine.multiply(rest, [1, 0, 0, 1, x * factor, y * factor]), here.turn)]

    def _embedded(self, link: str, node: Node) -> Asset | None:
        try:
            asset = read_picture(data_link(link), node.says)
        except FormatError as error:
            self.notes.add("unreadable", f"an embedded picture: {error.sentence}", node.says, node.line)
            return None
        self.assets[asset.id] = asset
        return asset

    # Clips and masks

    def _masked(self, node: Node, layer: Layer, target: Node, here: _Here) -> Layer:
        """The layer behind a mask: a group's own, or a group around it."""
        if target.attrs.get("id", "") in here.uses:
            self.notes.add("left out", "a clip that clips itself", node.says, node.line)
            return layer
        clip = target.tag == "clipPath"
        units = target.attrs.get("clipPathUnits" if clip else "maskContentUnits", "userSpaceOnUse")
        matrix = here.matrix
        if units == "objectBoundingBox":
            x, y, w, h = bounds(layer)
            matrix = np.array([w, 0, 0, h, x, y])
        with contextlib.suppress(FormatError):
            matrix = affine.multiply(matrix, transform(target.attrs.get("transform", "")))
        uses = (*here.uses, target.attrs.get("id", ""))
        base = self.style_of(target, {} if clip else here.style)
        inner = _Here(matrix, base, here.view, here.depth + 1, 0.0, uses)
        shapes = self.children(target, inner)
        if clip:
            shapes = [as_clip(shape) for shape in shapes if not shape.hidden]
            own = self.sheet.declared(target)
            if own.get("clip-path", "none") != "none":
                shapes = [self._finish(target, self.wrap(target, shapes, affine.IDENTITY), replace(inner, style=own))]
        mask = shapes[0] if len(shapes) == 1 else self.wrap(target, shapes, affine.IDENTITY, name="")
        mask = msgspec.structs.replace(mask, name=target.attrs.get("id") or "Mask")
        by = "alpha" if clip or base.get("mask-type") == "alpha" else "luminance"
        if not (isinstance(layer.body, Group) and not layer.body.mask and upright(layer)):
            layer = self.wrap(node, [layer], affine.IDENTITY, name=layer.name)
        assert isinstance(layer.body, Group)
        mask = msgspec.structs.replace(mask, x=mask.x - layer.x, y=mask.y - layer.y)
        body = msgspec.structs.replace(layer.body, children=(mask, *layer.body.children), mask=mask.id, mask_by=by)
        return msgspec.structs.replace(layer, body=body)

    # Layers and names

    def layer(self, node: Node, body: object, x: float, y: float, w: float, h: float, name: str = "") -> Layer:
        self.kind_count[type(body).__name__] += 1
        ident = f"i{sum(self.kind_count.values())}"
        layer = Layer(ident, ident, "", body, x, y, w, h)  # type: ignore[arg-type]
        return msgspec.structs.replace(layer, name=name or self._name(node, layer))

    def _name(self, node: Node, layer: Layer) -> str:
        for key in ("inkscape:label", "data-name"):
            if node.attrs.get(key, "").strip():
                return node.attrs[key].strip()
        title = next((child for child in node.children() if child.tag == "title"), None)
        if title is not None and title.text().strip():
            return " ".join(title.text().split())
        if node.attrs.get("id", "").strip():
            return node.attrs["id"].strip()
        if isinstance(layer.body, Text):
            return text_name(layer.body.words)
        word = layer.kind.capitalize()
        return f"{word} {self.kind_count[type(layer.body).__name__]}"
