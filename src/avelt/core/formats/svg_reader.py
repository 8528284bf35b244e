"""The elements of an SVG as layers: frames, groups, uses and names."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.errors import FormatError
from avelt.core.formats import svg_effects, svg_leaves, svg_shapes
from avelt.core.formats.svg_context import Context, Here, Rect
from avelt.core.formats.svg_paint import href
from avelt.core.formats.svg_place import above, full_turns, plain_scale
from avelt.core.formats.svg_style import Style
from avelt.core.formats.svg_uses import written_out
from avelt.core.formats.svg_values import fit_view, length, numbers, transform, typed_turn
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.stretch import without_scale
from avelt.core.model.limits import MAX_DEPTH, MAX_LAYERS
from avelt.core.model.values import CLEAR, Frame, Group, Layer
from avelt.core.words import tr

_NOT_DRAWN = frozenset(
    (
        "defs",
        "symbol",
        "clipPath",
        "mask",
        "marker",
        "pattern",
        "linearGradient",
        "radialGradient",
        "filter",
        "style",
        "title",
        "desc",
        "metadata",
        "stop",
        "solidColor",
        "meshgradient",
        "script",
        "view",
        "cursor",
    )
)
_MOVING = frozenset(("animate", "animateTransform", "animateMotion", "animateColor", "set"))
_DEFAULT_SIZE = (300.0, 150.0)  # CSS 2, replaced elements without a size


class Reader(Context):
    """Reads one document."""

    # The frame

    def frame(self, name: str) -> Frame:
        """The document as a frame."""
        if written_out(self.root, self.ids, _NOT_DRAWN) > MAX_LAYERS:
            raise FormatError(tr("There are more than {max_layers} layers.", max_layers=MAX_LAYERS))
        style = self.style_of(self.root, {})
        view = self._view_box(self.root)
        w, h = self._size(self.root, view)
        matrix, inner = affine.identity(), (w, h)
        if view is not None:
            matrix = fit_view(view, w, h, self.root.attrs.get("preserveAspectRatio", ""))
            inner = (view[2], view[3])
        layers = self.children(self.root, Here(matrix, style, inner, total=matrix))
        root = svg_effects.finish(
            self, self.root, self.wrap(self.root, layers, affine.identity()), Here(matrix, style, inner)
        )
        if (
            root.opacity < 1
            or root.shadows
            or root.blur
            or root.hidden
            or (isinstance(root.body, Group) and root.body.mask)
        ):
            layers = [root]
        # A scale that the drawing says and one that its numbers have are the same size: they come in one form.
        layers = [without_scale(layer) for layer in layers]
        background = ""
        declared = self.sheet.declared(self.root)
        for key in ("background-color", "background"):
            if key in declared and not background:
                background = self.paints.colour(declared[key], style, 1.0, self.root) or ""
        # A browser blends the layers of a drawing among themselves; the white behind it is the page's.
        isolates = self.blends and not background
        return Frame("", name, w, h, background or CLEAR, True, tuple(layers), isolates=isolates)

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

    def children(self, node: Node, here: Here) -> list[Layer]:
        """The layers of what lies in an element."""
        made: list[Layer] = []
        for child in node.children():
            if child.tag in _MOVING:
                self.notes.add("left out", "an animation: the file is shown as it starts", child.says, child.line)
            if child.tag in _NOT_DRAWN or child.tag in _MOVING or ":" in child.tag:
                continue
            made += self.element(child, here)
            if node.tag == "switch" and made:
                break
        return made

    def element(self, node: Node, here: Here) -> list[Layer]:
        """The layers of one element: one for most, none for what cannot be shown."""
        if here.depth > MAX_DEPTH:
            raise FormatError(
                tr("Groups lie more than {max_depth} deep in each other.", max_depth=MAX_DEPTH),
                tr("line {line}, {says}", line=node.line, says=node.says),
            )
        self.count += 1
        if self.count > MAX_LAYERS:
            raise FormatError(
                tr("There are more than {max_layers} layers.", max_layers=MAX_LAYERS),
                tr("line {line}, {says}", line=node.line, says=node.says),
            )
        style = self.style_of(node, here.style)
        try:
            text = style.get("transform", node.attrs.get("transform", ""))
            own, typed = transform(text), typed_turn(text)
            own = self._about_origin(node, style, here, own)
        except FormatError as error:
            self.notes.add("unreadable", f"transform: {error.sentence}", node.says, node.line)
            own, typed = affine.identity(), 0.0
        inner = replace(here.moved(own, typed), style=style)
        try:
            made = self._draw(node, inner)
        except FormatError as error:
            if error.place:
                raise
            self.notes.add("left out", error.sentence, node.says, node.line)
            return []
        return [svg_effects.finish(self, node, layer, inner) for layer in made]

    def _about_origin(self, node: Node, style: Style, here: Here, own: Floats) -> Floats:
        """The transform about the element's ``transform-origin`` (CSS Transforms 1; of an SVG element 0 0)."""
        text = style.get("transform-origin", "")
        if not text or own is affine.identity():
            return own
        x, y, w, h = 0.0, 0.0, *here.view
        if style.get("transform-box") == "fill-box" and node.tag in svg_shapes.READERS:
            shape = svg_shapes.READERS[node.tag](node, style, here.view)
            x, y, w, h = shape.x, shape.y, shape.w, shape.h
        words = {"left": "0%", "center": "50%", "right": "100%", "top": "0%", "bottom": "100%"}
        parts = text.split()
        if parts[0] in ("top", "bottom") or (len(parts) > 1 and parts[1] in ("left", "right")):
            parts = [parts[1] if len(parts) > 1 else "center", parts[0]]
        parts = [words.get(part, part) for part in (*parts, "center")]
        ox, oy = x + length(parts[0], w), y + length(parts[1], h)
        return affine.multiply([1, 0, 0, 1, ox, oy], affine.multiply(own, [1, 0, 0, 1, -ox, -oy]))

    def _draw(self, node: Node, here: Here) -> list[Layer]:
        draw = ELEMENTS.get(node.tag)
        if draw is not None:
            return draw(self, node, here)
        self.notes.add("left out", f"<{node.tag}> is not supported", node.says, node.line)
        return []

    # Groups

    def group(self, node: Node, here: Here) -> list[Layer]:
        if node.tag == "svg":
            inner, window = self._nested(node, here, None)
            return [self.grouped(node, inner, node, window)]
        return [self.grouped(node, here, node, None)]

    def _nested(self, node: Node, here: Here, using: Node | None) -> tuple[Here, Rect | None]:
        """Inside a nested viewport (``using`` may give it another size), and its window when it cuts."""
        attrs = {**node.attrs, **({k: v for k, v in using.attrs.items() if k in ("width", "height")} if using else {})}
        x = length(attrs.get("x", "0"), here.view[0]) if using is None else 0.0
        y = length(attrs.get("y", "0"), here.view[1]) if using is None else 0.0
        w = length(attrs.get("width", "100%").replace("auto", "100%"), here.view[0])
        h = length(attrs.get("height", "100%").replace("auto", "100%"), here.view[1])
        box = self._view_box(node)
        fit = fit_view(box, w, h, node.attrs.get("preserveAspectRatio", "")) if box is not None else affine.identity()
        inner = here.moved(affine.multiply([1, 0, 0, 1, x, y], fit))
        cuts = self.style_of(node, here.style).get("overflow", "hidden") not in ("visible", "auto")
        back = affine.invert(fit)
        window: Rect | None = None
        if cuts and back is not None:
            a, b, c, d = (float(v) for v in affine.box_bounds(back, w, h))
            window = (a, b, c, d)
        return replace(inner, view=(box[2], box[3]) if box is not None else (w, h)), window

    def grouped(self, node: Node, here: Here, named: Node, window: Rect | None) -> Layer:
        """What lies in an element as a group; ``window`` cuts what stands out of it."""
        plain = plain_scale(here.matrix) is not None and not full_turns(here.rotation)
        # Lines that keep their width cannot lie in a group that is scaled: what it does goes into its layers.
        plain = plain or (window is None and _keeps_widths(node))
        kept = (here.matrix, here.rotation) if plain else (affine.identity(), 0.0)
        inner = replace(here, matrix=kept[0], rotation=kept[1], depth=here.depth + 1)
        children = self.children(node, inner)
        if window is not None and plain:
            x, y = (float(v) for v in affine.apply(here.matrix, window[:2]))
            window = (x, y, float(here.matrix[0]) * window[2], float(here.matrix[3]) * window[3])
        matrix, typed = (affine.identity(), 0.0) if plain else (here.matrix, here.rotation)
        return self.wrap(named, children, matrix, typed=typed, window=window)

    def use(self, node: Node, here: Here) -> list[Layer]:
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
        here = replace(here.moved(np.array([1.0, 0, 0, 1, x, y])), uses=(*here.uses, ident), depth=here.depth + 1)
        if target.tag in ("symbol", "svg"):
            styled = replace(here, style=self.style_of(target, here.style))
            inner, window = self._nested(target, styled, node)
            return [self.grouped(target, inner, node if node.attrs.get("id") else target, window)]
        made = self.element(target, here)
        if node.attrs.get("id") and made:
            made[0] = msgspec.structs.replace(made[0], name=node.attrs["id"])
        return made


def _keeps_widths(node: Node) -> bool:
    return any(
        "non-scaling-stroke" in (inner.attrs.get("vector-effect", ""), *inner.attrs.get("style", "").split(":"))
        for inner in node.all()
    )


#: What draws an element. To add one: a function of the context, the node and where it stands, and a row here.
ELEMENTS: dict[str, Callable[[Reader, Node, Here], list[Layer]]] = {
    **dict.fromkeys(("g", "a", "svg", "switch"), Reader.group),
    "use": Reader.use,
    "text": svg_leaves.text,
    "image": svg_leaves.image,
    **dict.fromkeys(svg_shapes.READERS, svg_leaves.shape),
}
