"""What one layer shows: forms with their paints, words, pictures."""

from __future__ import annotations

import math
from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.blending.paints import form
from avelt.core.curves.text import number
from avelt.core.handoff import inks
from avelt.core.handoff.courses import FINE, Signal
from avelt.core.handoff.css_text import matrices, plain, rgb_text
from avelt.core.handoff.draft import Here
from avelt.core.handoff.letters import SetWords
from avelt.core.handoff.nodes import Node
from avelt.core.handoff.pieces import Piece, fixed_path, form_of, path_signal
from avelt.core.handoff.placing import html_room
from avelt.core.handoff.rolling import rolling
from avelt.core.handoff.set_words import set_words
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Layer, Paint, Pattern, Picture, Text
from avelt.core.timing.slots import PaintSlot, SlotContents
from avelt.core.words import tr

Tile = Callable[[Pattern], list[Node]]
_TYPE = ("type_size", "letter_spacing", "line_height")
_FITS = {"stretch": "none", "inside": "xMidYMid meet", "cover": "xMidYMid slice"}
_END = 1e-3  # of the way: so near to an end it is there
_CIRCLE = 50.0  # px of HTML that stand for the unit circle of a conic gradient
_SHEET = 4000.0  # px: how large the sheet is that it is painted on


def _begins(share: Floats) -> np.ndarray:
    """Where a content has not begun to become the other."""
    return share <= _END


def _arrived(share: Floats) -> np.ndarray:
    """Where a content is the other: so near to it that what swings about its end is there."""
    return np.abs(share - 1.0) <= _END


def leaf(here: Here, s: int, part: SlotContents, layer: Layer, tile: Tile) -> list[Node]:
    """The nodes of a layer that holds no others."""
    body = layer.body
    if isinstance(body, Text):
        return _text(here, s, part, layer, body, tile)
    if isinstance(body, Picture):
        return [_picture(here, s, body)]
    trimmed = any(here.stage.ever(s, name, rest) for name, rest in (("trim_start", 0.0), ("trim_end", 1.0)))
    dashed = any(
        side is not None and side.stroke is not None and side.stroke.dashes for side in (part.left, part.right)
    )
    piece = form_of(here, s, layer, part, trimmed or bool(dashed))
    if piece is None:
        return []
    if any(paint.kind == "conic" for paint in part.fills):
        outline = form_of(here, s, layer, part, True)
        return _filled(here, s, part, piece, tile, outline)
    return _filled(here, s, part, piece, tile, None)


def _filled(here: Here, s: int, part: SlotContents, piece: Piece, tile: Tile, outline: Piece | None) -> list[Node]:
    """A form with all its paints, and its line."""
    made: list[Node] = []
    if not part.fills:
        return inks.stroked(here, s, piece, part, tile)
    for paint in part.fills:
        if paint.kind == "conic" and outline is not None:
            made.append(_conic(here, s, paint, outline))
            continue
        node = piece.node(here)
        inks.paint(here, s, node, paint, "fill", piece, tile)
        made.append(node)
    single = len(made) == 1 and made[0].tag != "foreignObject" and part.fills[0].show == "both"
    return [*made, *inks.stroked(here, s, piece, part, tile, made[0] if single else None)]


def _conic(here: Here, s: int, paint: PaintSlot, outline: Piece) -> Node:
    """Colours round a point: HTML's own, as SVG has none. Its colours stand where they arrive."""
    first = here.program.colours_end + paint.loose
    at = here.program.end[first : first + paint.count].tolist()
    colours = here.program.colours_of(here.program.end)[paint.colour : paint.colour + paint.count]
    begin = here.program.dense + 4 * paint.colour
    if here.program.changes(begin, 4 * paint.count) or here.program.changes(first, paint.count):
        here.draft.lacks(here.name_of(s), tr("a conic gradient"), tr("its colours stand as they arrive"))
    stops = ", ".join(
        f"{rgb_text(rgba.tolist())} {number(place * 100, 3)}%" for rgba, place in zip(colours, at, strict=True)
    )
    places = tuple(range(first + paint.count, first + paint.count + 6))
    w_at, h_at = COLUMN["w"], COLUMN["h"]

    def of(row: Floats, more: Floats) -> Floats:
        w, h = (np.where(row[:, k] != 0.0, row[:, k], 1.0) for k in (w_at, h_at))
        over = more * np.stack([w, h, w, h, w, h], -1)
        small = over[:, :4] / _CIRCLE
        centre = over[:, 4:] - (small[:, :2] + small[:, 2:]) * (_SHEET / 2)
        return np.asarray(np.concatenate([small, centre], -1))

    sheet = Node(
        "div",
        html=True,
        style={
            "width": f"{_SHEET:g}px",
            "height": f"{_SHEET:g}px",
            "transform-origin": "0 0",
            "background": f"conic-gradient({stops})",
        },
    )
    here.put(sheet, Signal("transform", s, ("w", "h"), places, of, matrices))
    outer, inner = html_room([], {"overflow": "hidden"})
    del inner.style["width"], inner.style["height"]
    for prop, column in (("width", "w"), ("height", "h")):
        here.put(inner, here.lengths(prop, s, column))
    if (shape := outline.outline) is not None:
        here.put(inner, Signal("clip-path", shape.slot, shape.columns, shape.more, shape.of, shape.texts, shape.fine))
    inner.children = [sheet]
    return outer


def _picture(here: Here, s: int, body: Picture) -> Node:
    node = Node("image", attrs={"href": f"asset:{body.asset}", "preserveAspectRatio": _FITS[body.fit]})
    for prop, name in (("width", "w"), ("height", "h")):
        here.put(node, here.size(prop, s, name))
    return node


# Words


def _text(here: Here, s: int, part: SlotContents, layer: Layer, body: Text, tile: Tile) -> list[Node]:
    both = part.both
    if part.change == "roll" and both is not None:
        made = []
        for k, side in enumerate(both):
            if isinstance(side.body, Text):
                node = Node("g", children=_words(here, s, part, side.body, tile))
                here.put(node, _only(s, _begins if k == 0 else _arrived), "1")
                made.append(node)
        counter = Node("g", children=rolling(here, s, part, both, body, tile))
        here.put(counter, _only(s, lambda share: ~_begins(share) & ~_arrived(share)), "1")
        return [*made, counter]
    if both is not None and not part.change:
        bodies = [side.body for side in both if isinstance(side.body, Text)]
        if len(bodies) == 2 and _look(bodies[0]) != _look(bodies[1]):
            half = here.program.duration / 2
            made = []
            for own, span in zip(bodies, ((-math.inf, half), (half, math.inf)), strict=True):
                node = Node("g", children=_words(here, s, part, own, tile))
                here.shown(node, [span])
                made.append(node)
            return made
    return _words(here, s, part, body, tile)


def _only(s: int, seen: Callable[[Floats], np.ndarray]) -> Signal:
    """Seen or not by how far the content is on its way."""
    at = COLUMN["mix"]
    return Signal("opacity", s, ("mix",), (), lambda row, _: seen(row[:, [at]]).astype(float), plain, FINE)


def _look(body: Text) -> tuple[object, ...]:
    return (body.runs, body.family, body.weight, body.italic, body.align)


def _words(here: Here, s: int, part: SlotContents, body: Text, tile: Tile) -> list[Node]:
    """A text as outlines, run by run; or as text."""
    if here.draft.words == "text":
        return set_words(here, s, part, body, tile)
    at = [COLUMN[name] for name in (*_TYPE, "w")]

    def set_at(row: Floats) -> list[SetWords]:
        size, spacing, line, width = (float(v) for v in row[at])
        return here.draft.letters.words(body, size, spacing, line, width)

    columns_read = (*_TYPE, *(() if body.align == "left" else ("w",)))
    width = len(COLUMN)
    runs = set_at(here.program.start[s * width : (s + 1) * width])
    made: list[Node] = []
    for k, run in enumerate(runs):
        if not run.outline:
            continue
        lengths = tuple(len(points) for points, _ in run.outline)
        closed = tuple(shut for _, shut in run.outline)

        def of(row: Floats, _: Floats, k: int = k) -> Floats:
            return np.stack([np.concatenate([p.ravel() for p, _ in set_at(r)[k].outline]) for r in row])

        piece = Piece("path", signals=[path_signal(s, columns_read, (), of, lengths, closed)])
        if here.stage.moved(piece.signals[0]) is None:
            piece = fixed_path(run.outline, run.rule)
        if run.rule == "evenodd":
            piece.attrs["fill-rule"] = "evenodd"
        if run.fill is not None:
            node = piece.node(here)
            _own_paint(here, s, node, run.fill)
            made.append(node)
            continue
        for paint in part.fills:
            node = piece.node(here)
            inks.paint(here, s, node, paint, "fill", piece, tile)
            made.append(node)
    return made


def _own_paint(here: Here, s: int, node: Node, paint: Paint) -> None:
    """A paint of a run's own, which never moves."""
    f = form(paint)
    if f.kind == "solid":
        node.style["fill"] = rgb_text(f.colours[0].tolist())
        return
    if f.kind not in ("linear", "radial"):
        here.draft.lacks(
            here.name_of(s),
            tr("a paint of some words"),
            tr("a {kind} paint in text is drawn as its first colour", kind=tr(f.kind)),
        )
        node.style["fill"] = rgb_text(f.colours[0].tolist())
        return
    w, h = (float(v) or 1.0 for v in here.stage.looked(s, "w", "h")[-1])
    over = np.array(f.matrix) * np.array([w, h, w, h, w, h])
    gradient = Node(
        "linearGradient" if f.kind == "linear" else "radialGradient",
        attrs={"gradientUnits": "userSpaceOnUse", "gradientTransform": matrices(over[None])[0]},
    )
    gradient.attrs.update(
        {"x1": "0", "x2": "1", "y1": "0", "y2": "0"} if f.kind == "linear" else {"cx": "0", "cy": "0", "r": "1"}
    )
    gradient.children = [
        Node("stop", attrs={"offset": number(at, 4)}, style={"stop-color": rgb_text(rgba.tolist())})
        for at, rgba in zip(f.at.tolist(), f.colours, strict=True)
    ]
    node.attrs["fill"] = f"url(#{here.draft.define(gradient)})"
