"""What a dragged edge is drawn to: other layers, the frame, guides, the grid. No widget here."""

from __future__ import annotations

from collections.abc import Sequence

from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Frame
from avelt.core.record import Record

Box = tuple[float, float, float, float]


class Marks(Record, frozen=True):
    """Places along x and along y that draw edges; ``grid`` (0: none) draws where nothing else is near."""

    x: tuple[float, ...]
    y: tuple[float, ...]
    grid: float = 0.0


class Snapped(Record, frozen=True):
    """A travel after snapping, and the marks that caught it."""

    dx: float
    dy: float
    lines_x: tuple[float, ...] = ()
    lines_y: tuple[float, ...] = ()


def marks_of(frame: Frame, moving: Sequence[str], grid: float = 0.0) -> Marks:
    """All that draws in a frame: its edges and middle, its guides, and layers beside those that move."""
    flat = flatten(frame)
    still = set(moving)
    beside = {int(flat.parent[flat.index[ident]]) for ident in moving if ident in flat.index} | {-1}
    xs, ys = [0.0, frame.w / 2, frame.w, *frame.guides_x], [0.0, frame.h / 2, frame.h, *frame.guides_y]
    for i, layer in enumerate(flat.layers):
        if layer.id in still or int(flat.parent[i]) not in beside or flat.opacity[i] <= 0:
            continue
        x, y, w, h = (float(v) for v in flat.bounds[i])
        xs += [x, x + w / 2, x + w]
        ys += [y, y + h / 2, y + h]
    return Marks(tuple(dict.fromkeys(xs)), tuple(dict.fromkeys(ys)), grid)


def snapped(box: Box, dx: float, dy: float, marks: Marks, near: float) -> Snapped:
    """The travel of a box drawn to the nearest mark within ``near`` px by its edges or its middle."""
    x, y, w, h = box
    mx, line_x = _pull((x, x + w / 2, x + w), dx, marks.x, marks.grid, near)
    my, line_y = _pull((y, y + h / 2, y + h), dy, marks.y, marks.grid, near)
    return Snapped(mx, my, line_x, line_y)


def snapped_point(x: float, y: float, marks: Marks, near: float) -> Snapped:
    """A point drawn to the marks; ``dx, dy`` is where it goes."""
    mx, line_x = _pull((x,), 0.0, marks.x, marks.grid, near)
    my, line_y = _pull((y,), 0.0, marks.y, marks.grid, near)
    return Snapped(x + mx, y + my, line_x, line_y)


def _pull(
    edges: tuple[float, ...], travel: float, marks: tuple[float, ...], grid: float, near: float
) -> tuple[float, tuple[float, ...]]:
    best, reach = 0.0, near
    line: tuple[float, ...] = ()
    for edge in edges:
        for mark in marks:
            away = mark - (edge + travel)
            if abs(away) < reach:
                best, reach, line = away, abs(away), (mark,)
    if not line and grid > 0:
        place = edges[0] + travel
        return travel + round(place / grid) * grid - place, ()
    return travel + best, line
