"""The form of a leaf: SVG elements, and the signals of their geometry."""

from __future__ import annotations

from typing import Literal

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.geometry.bezier import box_outlines, oval_outline
from avelt.core.handoff.courses import EVEN, Of, Signal
from avelt.core.handoff.css_text import path_texts, px
from avelt.core.handoff.draft import Here
from avelt.core.handoff.letters import Outline
from avelt.core.handoff.nodes import Node
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Box, Layer, Oval, Path
from avelt.core.record import Mutable
from avelt.core.timing.slots import SlotContents

_W, _H = COLUMN["w"], COLUMN["h"]
_RADII = slice(COLUMN["radius_1"], COLUMN["radius_4"] + 1)
_RADIUS_NAMES = ("radius_1", "radius_2", "radius_3", "radius_4")


class Piece(Mutable):
    """One form to be painted. ``fills_box``: its bounding box is the layer's box, so that gradients may count by it."""

    tag: str
    attrs: dict[str, str] = msgspec.field(default_factory=dict)
    style: dict[str, str] = msgspec.field(default_factory=dict)
    signals: list[Signal] = msgspec.field(default_factory=list)
    fills_box: bool = False

    def node(self, here: Here) -> Node:
        """A fresh node of the form, without paint."""
        made = Node(self.tag, attrs=dict(self.attrs), style=dict(self.style))
        for signal in self.signals:
            here.put(made, signal, "0px")
        # The first form is an attribute, for what cannot move it.
        text = made.style.pop("d", None)
        if text is not None:
            made.attrs["d"] = text.removeprefix('path("').removesuffix('")')
        return made

    @property
    def outline(self) -> Signal | None:
        """The signal of its path data, if it is one."""
        return next((signal for signal in self.signals if signal.prop == "d"), None)


def form_of(here: Here, s: int, layer: Layer, part: SlotContents, as_path: bool) -> Piece | None:
    """The form of a box, oval or path; ``as_path``: where strokes begin must be as the core has it."""
    body = layer.body
    reshapes = part.change == "reshape" and part.outline is not None
    if isinstance(body, Path) or reshapes:
        return _path(here, s, layer, part)
    if isinstance(body, Box):
        if not as_path and (alike := _alike(here, s, part, body)):
            return _rect(here, s, part, body, alike == "fits")
        return _box_path(here, s, part, body)
    if isinstance(body, Oval):
        return _ellipse(s) if not as_path else _drawn(here, s, ("w", "h"), _oval_of, (13,), (True,))
    return None


def _radii(part: SlotContents, body: Box) -> tuple[str, ...]:
    return () if part.change else _RADIUS_NAMES


def _alike(here: Here, s: int, part: SlotContents, body: Box) -> Literal["", "fits", "gives way"]:
    """Whether all four corners are always alike; and whether none must give way to another."""
    if not part.change:
        alike, fits = here.stage.corners
        return "" if not alike[s] else "fits" if fits[s] else "gives way"
    radii = np.array([body.radii])
    if (np.abs(radii - radii[:, :1]) >= EVEN).any():
        return ""
    size = here.stage.looked(s, "w", "h").min(1)
    return "fits" if ((radii[:, 0] <= size / 2 + EVEN) | (size <= 0.0)).all() else "gives way"


def _rect(here: Here, s: int, part: SlotContents, body: Box, fits: bool) -> Piece:
    size = [here.size("width", s, "w"), here.size("height", s, "h")]
    piece = Piece("rect", signals=size, fills_box=True)
    if not fits:

        def corner(row: Floats, _: Floats) -> Floats:
            radius = np.full(len(row), body.radii[0]) if part.change else row[:, _RADII.start]
            return np.asarray(np.maximum(np.minimum(radius, np.minimum(row[:, _W], row[:, _H]) / 2), 0.0)[:, None])

        columns = ("w", "h") if part.change else ("w", "h", "radius_1")
        piece.signals.append(Signal("rx", s, columns, (), corner, px(), shared="" if part.change else "rx"))
    elif not part.change:
        piece.signals.append(here.size("rx", s, "radius_1"))
    elif body.radii[0]:
        piece.attrs["rx"] = f"{body.radii[0]:g}"
    return piece


def _box_path(here: Here, s: int, part: SlotContents, body: Box) -> Piece:
    def of(row: Floats, _: Floats) -> Floats:
        radii = np.repeat([body.radii], len(row), 0) if part.change else row[:, _RADII]
        return box_outlines(row[:, _W], row[:, _H], radii).reshape(len(row), -1)

    return _drawn(here, s, ("w", "h", *_radii(part, body)), of, (25,), (True,))


def _ellipse(s: int) -> Piece:
    def half(at: int) -> Of:
        return lambda row, _: np.maximum(row[:, [at]], 0.0) / 2

    signals = [
        Signal(prop, s, (name,), (), half(COLUMN[name]), px())
        for prop, name in (("cx", "w"), ("cy", "h"), ("rx", "w"), ("ry", "h"))
    ]
    return Piece("ellipse", signals=signals, fills_box=True)


def _oval_of(row: Floats, _: Floats) -> Floats:
    return np.stack([oval_outline(max(0.0, r[_W]), max(0.0, r[_H])).ravel() for r in row])


def _path(here: Here, s: int, layer: Layer, part: SlotContents) -> Piece:
    """A free outline: numbers of the program where it has its own, else the layer's, stretched to its box."""
    rules = {side.body.rule for side in (part.left, part.right) if side and isinstance(side.body, Path)}
    rule = rules.pop() if len(rules) == 1 else "nonzero"
    if part.outline is not None:
        slot, first = part.outline, here.program.colours_end + part.outline.loose
        count = 2 * sum(slot.lengths)

        def of(row: Floats, more: Floats) -> Floats:
            if not slot.unit:
                return more
            size = np.where(row[:, [_W, _H]] != 0.0, row[:, [_W, _H]], 1.0)
            return np.asarray(more * np.tile(size, count // 2))

        columns = ("w", "h") if slot.unit else ()
        more = tuple(range(first, first + count))
        piece = _drawn(here, s, columns, of, slot.lengths, slot.closed, more)
    else:
        body = layer.body
        if not isinstance(body, Path):
            return Piece("path", attrs={"d": ""})
        points = [np.array(sub.points, float) for sub in body.subpaths]
        whole = np.concatenate([np.zeros(0), *points])
        own = np.array([layer.w or 1.0, layer.h or 1.0])

        def stretched(row: Floats, _: Floats) -> Floats:
            by = np.where([layer.w, layer.h], row[:, [_W, _H]] / own, 1.0)
            return np.asarray(whole * np.tile(by, len(whole) // 2))

        lengths = tuple(len(p) // 2 for p in points)
        piece = _drawn(here, s, ("w", "h"), stretched, lengths, tuple(sub.closed for sub in body.subpaths))
    if rule == "evenodd":
        piece.attrs["fill-rule"] = "evenodd"
    return piece


def _drawn(
    here: Here,
    s: int,
    columns: tuple[str, ...],
    of: Of,
    lengths: tuple[int, ...],
    closed: tuple[bool, ...],
    more: tuple[int, ...] = (),
) -> Piece:
    return Piece("path", signals=[path_signal(s, columns, more, of, lengths, closed)])


def path_signal(
    s: int, columns: tuple[str, ...], more: tuple[int, ...], of: Of, lengths: tuple[int, ...], closed: tuple[bool, ...]
) -> Signal:
    """Path data by numbers (k, 2 * points)."""
    texts = path_texts(lengths, closed)
    return Signal("d", s, columns, more, of, lambda values: [f'path("{t}")' for t in texts(values)])


def fixed_path(outline: Outline, rule: str) -> Piece:
    """A form that never changes."""
    lengths = tuple(len(points) for points, _ in outline)
    texts = path_texts(lengths, tuple(shut for _, shut in outline))
    flat = np.concatenate([np.zeros(0), *(points.ravel() for points, _ in outline)])
    piece = Piece("path", attrs={"d": texts(flat[None])[0]})
    if rule == "evenodd":
        piece.attrs["fill-rule"] = "evenodd"
    return piece
