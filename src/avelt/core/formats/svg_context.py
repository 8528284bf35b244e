"""What the readers of single SVG elements share: where they stand, ids, styles, notes, and how layers are made.

Recursion is the reader's (``svg_reader.Reader``): leaves and effects ask for ``children`` and ``grouped`` of the
context they are handed, and know nothing about who draws them.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter

import msgspec
from msgspec.structs import replace

from avelt.core.arrays import Floats
from avelt.core.errors import FormatError
from avelt.core.formats.report import Notes
from avelt.core.formats.svg_paint import Paints
from avelt.core.formats.svg_place import bounds, placed, text_name, upright
from avelt.core.formats.svg_style import Sheet, Style, computed
from avelt.core.formats.svg_text import TextMeasure, font_size
from avelt.core.formats.svg_values import length
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import union
from avelt.core.model.values import Asset, Body, Group, Layer, Text
from avelt.core.record import Record

Rect = tuple[float, float, float, float]
_SLACK = 0.01  # px that may stand out of a window before it is kept as a clip
_TYPE_WORDS = {
    "xx-small": 9.0,
    "x-small": 10.0,
    "small": 13.0,
    "medium": 16.0,
    "large": 18.0,
    "x-large": 24.0,
    "xx-large": 32.0,
}


class Here(Record, frozen=True):
    """Where an element stands: the transform to its layer's parent, its inherited style, the viewport.

    ``total`` is the transform to the frame; ``rotation`` what was typed since the layer's parent, degrees.
    """

    matrix: Floats
    style: Style
    view: tuple[float, float]
    depth: int = 0
    rotation: float = 0.0
    uses: tuple[str, ...] = ()
    total: Floats = msgspec.field(default_factory=affine.identity)

    def moved(self, own: Floats, turn: float = 0.0) -> Here:
        """Where something inside stands that has a transform of its own."""
        return replace(
            self,
            matrix=affine.multiply(self.matrix, own),
            total=affine.multiply(self.total, own),
            rotation=self.rotation + turn,
        )


class Context(ABC):
    """One document while it is read."""

    def __init__(self, root: Node, measure: TextMeasure) -> None:
        self.root = root
        self.notes = Notes()
        self.sheet = Sheet(root, self.notes)
        self.ids: dict[str, Node] = {}
        for node in root.all():
            self.ids.setdefault(node.attrs.get("id", ""), node)
        self.ids.pop("", None)
        self.paints = Paints(self.ids, self.sheet, self.notes, self._tile)
        self.measure = measure
        self.assets: dict[str, Asset] = {}
        self.count = 0
        self.kind_count: Counter[str] = Counter()
        self.made = 0
        self.blends = False
        self._tiles: list[str] = []

    @abstractmethod
    def children(self, node: Node, here: Here) -> list[Layer]:
        """The layers of what lies in an element."""

    @abstractmethod
    def grouped(self, node: Node, here: Here, named: Node, window: Rect | None) -> Layer:
        """What lies in an element as a group; ``window`` cuts what stands out of it."""

    def style_of(self, node: Node, parent: Style) -> Style:
        """The element's computed style, relative font sizes resolved."""
        style = computed(parent, self.sheet.declared(node))
        size = style.get("font-size", "")
        if size and size != parent.get("font-size"):
            inherited = font_size(parent)
            try:
                px = _TYPE_WORDS[size] if size in _TYPE_WORDS else length(size, inherited, inherited)
            except FormatError as error:
                self.notes.add("unreadable", f"font-size: {error.sentence}", node.says, node.line)
                px = inherited
            style["font-size"] = f"{px:.10g}px"
        return style

    def wrap(
        self,
        node: Node,
        children: list[Layer],
        matrix: Floats,
        name: str = "",
        typed: float = 0.0,
        window: Rect | None = None,
    ) -> Layer:
        """Children (in the group's space) as a group whose box is around them, under a transform.

        A ``window`` (x, y, w, h) that something stands out of becomes the box, and clips.
        """
        x, y, w, h = union([bounds(child) for child in children])
        clips = window is not None and bool(children) and _stands_out(union([inked(c) for c in children]), window)
        if clips and window is not None:
            x, y, w, h = window
        moved = tuple(msgspec.structs.replace(child, x=child.x - x, y=child.y - y) for child in children)
        layer = self.layer(node, Group(moved, clips), 0.0, 0.0, w, h, name=name)
        return placed(layer, affine.multiply(matrix, [1, 0, 0, 1, x, y]), typed)

    def _tile(self, holder: Node, matrix: Floats, view: tuple[float, float]) -> tuple[Layer, ...] | None:
        """What lies in a pattern, as layers on its tile; ``None`` for a pattern inside itself."""
        ident = holder.attrs.get("id", "")
        if ident in self._tiles or len(self._tiles) > 8:
            return None
        self._tiles.append(ident)
        style = self.style_of(holder, {})
        layers = self.children(holder, Here(matrix, style, view, len(self._tiles), total=matrix))
        self._tiles.pop()
        return tuple(layers)

    # Layers and names

    def layer(self, node: Node, body: Body, x: float, y: float, w: float, h: float, name: str = "") -> Layer:
        """A layer with an id and a name."""
        self.kind_count[type(body).__name__] += 1
        self.made += 1
        ident = f"i{self.made}"
        layer = Layer(ident, ident, "", body, x, y, w, h)
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


def inked(layer: Layer) -> Rect:
    """The layer's upright bounds in its parent with half its stroke, its blur and shadows; of a plain group, those
    of what lies in it."""
    edge = 3.0 * layer.blur + max((3.0 * s.blur + abs(s.x) + abs(s.y) for s in layer.shadows), default=0.0)
    if isinstance(layer.body, Group) and layer.body.children and upright(layer) and not layer.body.clips and not edge:
        x, y, w, h = union([inked(child) for child in layer.body.children if child.id != layer.body.mask])
        return x + layer.x, y + layer.y, w, h
    edge += layer.stroke.width / 2 if layer.stroke else 0.0
    x, y, w, h = bounds(layer)
    return x - edge, y - edge, w + 2 * edge, h + 2 * edge


def _stands_out(box: Rect, window: Rect) -> bool:
    return (
        box[0] < window[0] - _SLACK
        or box[1] < window[1] - _SLACK
        or box[0] + box[2] > window[0] + window[2] + _SLACK
        or box[1] + box[3] > window[1] + window[3] + _SLACK
    )
