"""Drawing new layers on the board: what each tool makes of a drag or of clicks. No widget here."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from avelt.core.edits.shapes import add_layer, new_box, new_line, new_oval, new_path
from avelt.core.geometry.bezier import line_to
from avelt.core.model.values import Layer, Project
from avelt.core.record import Mutable
from avelt.core.words import tr
from avelt.window.frames.gestures import Keys

Point = tuple[float, float]
CLICK_SIZE = 100.0  # px of a box or oval that is clicked instead of drawn
_CLOSE = 8.0  # widget px from the first point that close a pen's path

#: The tools: id, word, key, what it does.
TOOLS = (
    ("choose", tr("Choose"), "1", tr("Choose, move and shape layers (1)")),
    ("box", tr("Box"), "2", tr("Draw a box; Shift for a square (2)")),
    ("oval", tr("Oval"), "3", tr("Draw an oval; Shift for a circle (3)")),
    ("line", tr("Line"), "4", tr("Draw a line; Shift by steps of 45° (4)")),
    (
        "pen",
        tr("Pen"),
        "5",
        tr("Draw a path: click for corners, drag for bends, click the start or press Return to end (5)"),
    ),
    ("text", tr("Text"), "6", tr("Click where words shall stand (6)")),
    ("picture", tr("Picture…"), "7", tr("Put a picture file on the frame (7)")),
)


def drawn(tool: str, start: Point, end: Point, keys: Keys) -> Layer | None:
    """The layer that a drag from start to end draws; ``None`` for a tool that draws otherwise."""
    (x0, y0), (x1, y1) = start, end
    if tool == "line":
        if keys.shift:
            dx, dy = x1 - x0, y1 - y0
            if abs(dx) > 2.4 * abs(dy):
                y1 = y0
            elif abs(dy) > 2.4 * abs(dx):
                x1 = x0
            else:
                side = max(abs(dx), abs(dy))
                x1, y1 = x0 + (side if dx > 0 else -side), y0 + (side if dy > 0 else -side)
        return new_line(x0, y0, x1, y1)
    if tool not in ("box", "oval"):
        return None
    w, h = abs(x1 - x0), abs(y1 - y0)
    if keys.shift:
        w = h = max(w, h)
    x, y = (x0 if x1 >= x0 else x0 - w), (y0 if y1 >= y0 else y0 - h)
    if keys.ctrl:
        x, y, w, h = x0 - w, y0 - h, 2 * w, 2 * h
    make = new_box if tool == "box" else new_oval
    return make(x, y, max(1.0, w), max(1.0, h))


class Pen(Mutable):
    """A path on its way: corners with the handles that a drag gave them, in px of the frame."""

    frame_id: str
    corners: list[Point] = msgspec.field(default_factory=list)
    out: list[Point] = msgspec.field(default_factory=list)  # the handle ahead of each corner; behind it is its mirror

    def press(self, point: Point, scale: float) -> bool:
        """A corner more; True when it closes the path."""
        if len(self.corners) > 1:
            x, y = self.corners[0]
            if abs(x - point[0]) * scale <= _CLOSE and abs(y - point[1]) * scale <= _CLOSE:
                return True
        self.corners.append(point)
        self.out.append(point)
        return False

    def bend(self, point: Point) -> None:
        """The last corner's handle pulled out to a point."""
        self.out[-1] = point

    def points(self, closed: bool, more: Point | None = None) -> list[Point]:
        """The path so far (start, then two handles and an end for each cubic), on to ``more`` when it is given."""
        corners, out = list(self.corners), list(self.out)
        if more is not None and not closed:
            corners.append(more)
            out.append(more)
        if closed:
            corners.append(corners[0])
            out.append(out[0])
        made = [corners[0]]
        for k in range(1, len(corners)):
            a, b = corners[k - 1], corners[k]
            ahead, mirror = out[k - 1], (2 * b[0] - out[k][0], 2 * b[1] - out[k][1])
            if ahead == a and mirror == b:
                made += line_to(a, b)
            else:
                made += [ahead, mirror, b]
        return made

    def layer(self, closed: bool) -> Layer | None:
        """The path as a layer; ``None`` when there are not two corners."""
        return new_path(self.points(closed), closed) if len(self.corners) > 1 else None


def put(frame_id: str, layer: Layer) -> Callable[[Project], tuple[Project, str]]:
    """The edit that puts a drawn layer on a frame; it gives the layer's id too."""
    return lambda project: add_layer(project, frame_id, layer)
