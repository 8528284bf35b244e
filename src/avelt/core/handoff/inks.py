"""Paints of a drawing: colours, gradients, patterns and strokes."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.curves.text import number
from avelt.core.handoff.courses import FINE, Signal
from avelt.core.handoff.css_text import matrices, px, rgb_text
from avelt.core.handoff.draft import Here
from avelt.core.handoff.nodes import Key, Moved, Node, Run
from avelt.core.handoff.pieces import Piece
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Pattern, Stroke
from avelt.core.timing.slots import PaintSlot, SlotContents
from avelt.core.words import tr

_W, _H = COLUMN["w"], COLUMN["h"]
_STOPS = 24  # fixed places that a gradient is drawn with whose stops move along it
_CAPS = {"butt": "", "round": "round", "square": "square"}
Tile = Callable[[Pattern], list[Node]]


def paint(here: Here, s: int, node: Node, slot: PaintSlot, prop: str, piece: Piece, tile: Tile) -> None:
    """Put a paint on a node as its ``fill`` or ``stroke``."""
    if slot.kind == "solid":
        here.put(node, here.colour(prop, slot.colour))
    elif slot.kind == "pattern" and slot.pattern is not None:
        node.attrs[prop] = f"url(#{here.draft.define(_pattern(here, s, slot, slot.pattern, tile))})"
        node.style.pop(prop, None)
        alpha = here.program.dense + 4 * slot.colour + 3
        here.put(node, Signal(f"{prop}-opacity", -1, (), (alpha,), lambda _, more: more, _plain, FINE), "1")
    else:
        node.attrs[prop] = f"url(#{here.draft.define(_gradient(here, s, slot, piece))})"
    if slot.show != "both":
        _fade(here, node, slot.show, prop)


def _plain(values: Floats) -> list[str]:
    return [number(v, 4) for v in values[:, 0].tolist()]


def _fade(here: Here, node: Node, show: str, prop: str) -> None:
    """A paint that fades over another as time goes."""
    first, last = ("1", "0") if show == "left" else ("0", "1")
    length = here.program.duration
    node.style[f"{prop}-opacity"] = first
    if length > 0.0:
        run = Run(here.outer(0.0), length / here.stage.speed, (Key(0.0, first), Key(1.0, last)))
        node.moved.append(Moved(f"{prop}-opacity", (run,)))


def _gradient(here: Here, s: int, slot: PaintSlot, piece: Piece) -> Node:
    linear = slot.kind == "linear"
    node = Node("linearGradient" if linear else "radialGradient")
    if linear:
        node.attrs.update(x1="0", y1="0", x2="1", y2="0")
    else:
        first = here.program.colours_end + slot.loose + slot.count + 6
        fx, fy, fr = here.program.end[first : first + 3].tolist()
        node.attrs.update(cx="0", cy="0", r="1", fx=number(fx), fy=number(fy))
        if fr:
            node.attrs["fr"] = number(fr)
        if (here.program.start[first : first + 3] != here.program.end[first : first + 3]).any():
            here.draft.lacks(here.name_of(s), tr("the focus of a gradient"), tr("it stands where it arrives"))
    if slot.spread != "pad":
        node.attrs["spreadMethod"] = slot.spread
    _over(here, s, node, slot, piece.fills_box, "gradientTransform")
    node.children = _stops(here, s, slot)
    return node


def _over(here: Here, s: int, node: Node, slot: PaintSlot, by_box: bool, attr: str) -> None:
    """The transform from a paint's own space to the box (or to px)."""
    first = here.program.colours_end + slot.loose + slot.count
    places = tuple(range(first, first + 6))
    if by_box and attr == "gradientTransform":
        signal = Signal("transform", -1, (), places, lambda _, more: more, matrices, FINE)
    else:
        node.attrs["gradientUnits" if attr == "gradientTransform" else "patternUnits"] = "userSpaceOnUse"

        def of(row: Floats, more: Floats) -> Floats:
            w = np.where(row[:, _W] != 0.0, row[:, _W], 1.0)
            h = np.where(row[:, _H] != 0.0, row[:, _H], 1.0)
            return np.asarray(more * np.stack([w, h, w, h, w, h], -1))

        signal = Signal("transform", s, ("w", "h"), places, of, matrices)
    moved = here.stage.moved(signal)
    if moved is None:
        node.attrs[attr] = here.stage.first(signal)
    else:
        node.style["transform"] = here.stage.first(signal)
        turns = (np.abs(here.stage.looks[:, places][:, 1:3]) > 1e-9).any()
        # A browser takes matrices apart and blends their parts: of turned ones so many lie on the way that it does not
        # show.
        node.moved.append((here.stage.moved_in_steps(signal) if turns else None) or moved)


def _stops(here: Here, s: int, slot: PaintSlot) -> list[Node]:
    first = here.program.colours_end + slot.loose
    places = list(range(first, first + slot.count))
    if here.program.changes(first, slot.count):
        return _fixed_stops(here, slot, places)
    made = []
    for k, at in enumerate(here.program.start[places].tolist()):
        stop = Node("stop", attrs={"offset": number(at, 5)})
        here.put(stop, here.colour("stop-color", slot.colour + k))
        made.append(stop)
    return made


def _fixed_stops(here: Here, slot: PaintSlot, places: list[int]) -> list[Node]:
    """Stops cannot be moved by CSS: many stand still, and take the colours that pass them."""
    program, k = here.program, slot.count
    colours = [program.dense + 4 * (slot.colour + n) + c for n in range(k) for c in range(4)]
    space = program._in_space[slot.colour : slot.colour + k]
    made = []
    for at in np.linspace(0.0, 1.0, _STOPS).tolist():

        def of(_: Floats, more: Floats, at: float = at) -> Floats:
            out = []
            for row in more:
                rgba = program._to_colours(row[k:].reshape(k, 4), space)
                out.append([np.interp(at, row[:k], rgba[:, c]) for c in range(4)])
            return np.array(out)

        stop = Node("stop", attrs={"offset": number(at, 5)})
        here.put(stop, Signal("stop-color", -1, (), (*places, *colours), of, _plain_rgb, FINE * 2))
        made.append(stop)
    return made


def _plain_rgb(values: Floats) -> list[str]:
    return [
        f"rgb({', '.join(number(255 * v, 2) for v in row[:3])}, {number(row[3], 4)})"
        for row in values.clip(0, 1).tolist()
    ]


def _pattern(here: Here, s: int, slot: PaintSlot, pattern: Pattern, tile: Tile) -> Node:
    node = Node("pattern", attrs={"width": number(pattern.w, 4), "height": number(pattern.h, 4)})
    _over(here, s, node, slot, False, "patternTransform")
    node.children = tile(pattern)
    return node


# Strokes


def stroked(here: Here, s: int, piece: Piece, part: SlotContents, tile: Tile, node: Node | None = None) -> list[Node]:
    """The line along a form: on the node given when the form is painted once, or nodes of its own."""
    left, right = (side.stroke if side is not None else None for side in (part.left, part.right))
    source = (right or left) or part.pen
    if source is None or not part.stroke:
        return []
    trimmed = any(
        here.stage.ever(s, name, rest) for name, rest in (("trim_start", 0.0), ("trim_end", 1.0), ("trim_offset", 0.0))
    )
    one, other = left or right or source, right or left or source
    if node is not None and not trimmed:
        _line(here, s, node, part, one, other, piece, tile)
        return []
    made = []
    for single in _apart(piece) if trimmed else [piece]:
        own = single.node(here)
        own.attrs["fill"] = "none"
        _line(here, s, own, part, one, other, single, tile, dashes=not trimmed)
        if trimmed:
            _trim(here, s, own)
            if one.dashes or other.dashes:
                here.draft.lacks(here.name_of(s), "dashes", tr("a stroke that is drawn in parts has none"))
        made.append(own)
    return made


def _line(
    here: Here,
    s: int,
    node: Node,
    part: SlotContents,
    left: Stroke,
    right: Stroke,
    piece: Piece,
    tile: Tile,
    dashes: bool = True,
) -> None:
    paint(here, s, node, part.stroke[0], "stroke", piece, tile)
    at = COLUMN["stroke_width"]
    here.put(node, Signal("stroke-width", s, ("stroke_width",), (), lambda row, _: np.maximum(row[:, [at]], 0.0), px()))
    here.flips(node, "stroke-linecap", left.cap, right.cap, "butt")
    here.flips(node, "stroke-linejoin", left.join, right.join, "miter")
    if left.miter != 4.0 or right.miter != 4.0:
        here.flips(node, "stroke-miterlimit", number(left.miter), number(right.miter))
    if left.under or right.under:
        here.flips(node, "paint-order", *("stroke" if side.under else "normal" for side in (left, right)))
    if not dashes:
        return
    if part.dashes is not None and any((*left.dashes, *right.dashes)):
        first = here.program.colours_end + part.dashes[0]
        places = tuple(range(first, first + part.dashes[1]))
        here.put(node, Signal("stroke-dasharray", -1, (), places, lambda _, more: np.maximum(more, 0.0), px()))
    elif left.dashes or right.dashes:
        texts = [" ".join(f"{number(v, 3)}px" for v in side.dashes) or "none" for side in (left, right)]
        here.flips(node, "stroke-dasharray", *texts)
    if left.dashes or right.dashes:
        here.put(node, here.lengths("stroke-dashoffset", s, "dash_offset"), "0px")


def _apart(piece: Piece) -> list[Piece]:
    """A form as one piece for each of its subpaths: each is drawn along its own length."""
    signal = piece.outline
    if signal is None:
        return [piece]
    texts = signal.texts
    made = []
    sample = texts(np.zeros((1, _width_of(signal))))[0]
    count = max(1, sample.count("M"))
    for k in range(count):

        def own(values: Floats, k: int = k) -> list[str]:
            return [f'path("M{text.removesuffix(chr(34) + ")").split("M")[k + 1]}")' for text in texts(values)]

        made.append(
            Piece(
                piece.tag,
                dict(piece.attrs),
                dict(piece.style),
                [Signal("d", signal.slot, signal.columns, signal.more, signal.of, own, signal.fine)],
            )
        )
    return made


def _width_of(signal: Signal) -> int:
    row = np.ones((1, len(COLUMN)))
    return int(np.asarray(signal.of(row, np.zeros((1, len(signal.more))))).shape[1])


def _trim(here: Here, s: int, node: Node) -> None:
    """Only a stretch of the line, by shares of its length."""
    node.attrs["pathLength"] = "1"
    start, end, offset = (COLUMN[name] for name in ("trim_start", "trim_end", "trim_offset"))

    def dashes(row: Floats, _: Floats) -> Floats:
        drawn = np.clip(np.abs(row[:, end] - row[:, start]), 0.0, 1.0)
        return np.stack([drawn, 1.0 - drawn], -1)

    def begins(row: Floats, _: Floats) -> Floats:
        return np.asarray(-(np.minimum(row[:, start], row[:, end]) + row[:, offset])[:, None])

    here.put(node, Signal("stroke-dasharray", s, ("trim_start", "trim_end"), (), dashes, _shares, 400.0))
    if (part_of := here.stage.looked(s, "trim_start", "trim_end"))[:, 0].size and (
        np.abs(part_of[:, 1] - part_of[:, 0]) < 1e-9
    ).any():
        # A stretch of no length would still show its round ends.
        there = Signal("stroke-opacity", s, ("trim_start", "trim_end"), (), _any_drawn, _shares, FINE)
        here.put(node, there, "1")
    here.put(
        node, Signal("stroke-dashoffset", s, ("trim_start", "trim_end", "trim_offset"), (), begins, _shares, 400.0), "0"
    )


def _any_drawn(row: Floats, _: Floats) -> Floats:
    start, end = row[:, COLUMN["trim_start"]], row[:, COLUMN["trim_end"]]
    return (np.abs(end - start) > 1e-9).astype(float)[:, None]


def _shares(values: Floats) -> list[str]:
    return [" ".join(number(v, 5) for v in row) for row in values.tolist()]


def fixed(node: Node, prop: str, rgba: tuple[float, ...]) -> None:
    """A colour that never changes."""
    node.style[prop] = rgb_text(rgba)
