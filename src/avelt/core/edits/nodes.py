"""Edits of the nodes of paths.

A node is named by its subpath and its place along it, from 0. A closed subpath's last point is its first node
again and is not counted. Every edit fits the layer's box anew; nothing but what was edited moves on screen.
"""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.edits.place import reboxed
from avelt.core.errors import EditError
from avelt.core.geometry import arc
from avelt.core.geometry.bezier import bounds_of, line_to
from avelt.core.model.values import Layer, Path, Subpath
from avelt.core.words import tr

replace = msgspec.structs.replace
_SAME = 1e-6  # px between points that count as one
Outline = list[tuple[Floats, bool]]


def outline_of(layer: Layer) -> Outline:
    """The subpaths (points (1 + 3 n, 2), closed) of a path layer, in its own px; closed ones end where they start."""
    if not isinstance(layer.body, Path):
        raise EditError(tr("A {kind} has no nodes: make it a path first.", kind=tr(layer.kind)))
    found: Outline = []
    for sub in layer.body.subpaths:
        points = np.array(sub.points, float).reshape(-1, 2)
        if sub.closed and np.abs(points[0] - points[-1]).max() > _SAME:
            points = np.concatenate([points, line_to(tuple(points[-1]), tuple(points[0]))])
        found.append((points, sub.closed))
    return found


def with_outline(layer: Layer, outline: Outline) -> Layer:
    """The path with other subpaths (in its own px), its box fitted to them."""
    if not isinstance(layer.body, Path):
        raise EditError(tr("Only a path has nodes."))
    kept = [(points, closed) for points, closed in outline if len(points) > 1]
    if not kept:
        raise EditError(tr("A path needs at least two nodes."))
    x, y, w, h = bounds_of([points for points, _ in kept])
    body = Path(
        tuple(Subpath(tuple((points - (x, y)).ravel().tolist()), closed) for points, closed in kept), layer.body.rule
    )
    return replace(reboxed(layer, x, y, w, h), body=body)


def count(outline: Outline, sub: int) -> int:
    """How many nodes a subpath has."""
    points, closed = outline[sub]
    return (len(points) - 1) // 3 + (0 if closed else 1)


def _edit(layer: Layer, sub: int, change: Callable[[Floats, bool], Outline]) -> Layer:
    outline = outline_of(layer)
    if not 0 <= sub < len(outline):
        raise EditError(tr("The path has no such part."))
    points, closed = outline[sub]
    return with_outline(layer, [*outline[:sub], *change(points.copy(), closed), *outline[sub + 1 :]])


def _last(points: Floats) -> int:
    return len(points) - 1


def move_node(layer: Layer, sub: int, node: int, dx: float, dy: float) -> Layer:
    """A node moved by px of the layer, with its handles."""

    def change(points: Floats, closed: bool) -> Outline:
        k, last = 3 * node, _last(points)
        touched = [j for j in (k - 1, k, k + 1) if 0 <= j <= last]
        if closed and k in (0, last):
            touched = [last - 1, last, 0, 1]
        points[touched] += (dx, dy)
        return [(points, closed)]

    return _edit(layer, sub, change)


def move_handle(layer: Layer, sub: int, point: int, x: float, y: float, mirror: bool) -> Layer:
    """The handle at a place among the subpath's points put to (x, y); ``mirror`` turns its partner along."""

    def change(points: Floats, closed: bool) -> Outline:
        last = _last(points)
        after = point % 3 == 1
        anchor = point - 1 if after else point + 1
        other = anchor - 1 if after else anchor + 1
        if closed:
            other = last - 1 if other < 0 else 1 if other > last else other
        points[point] = (x, y)
        if mirror and 0 <= other <= last:
            way = points[anchor] - points[point]
            length = float(np.hypot(*way))
            reach = float(np.hypot(*(points[other] - points[anchor])))
            if length > _SAME:
                points[other] = points[anchor] + way / length * reach
        return [(points, closed)]

    return _edit(layer, sub, change)


def add_node(layer: Layer, sub: int, segment: int, t: float) -> Layer:
    """One node more at a share of a segment; the outline stays as it is."""

    def change(points: Floats, closed: bool) -> Outline:
        first, second = arc.halves(points[3 * segment : 3 * segment + 4], min(1.0, max(0.0, t)))
        made = np.concatenate([points[: 3 * segment], first, second[1:], points[3 * segment + 4 :]])
        return [(made, closed)]

    return _edit(layer, sub, change)


def remove_node(layer: Layer, sub: int, node: int) -> Layer:
    """Without a node; its neighbours keep their handles. The last two nodes of a part go together."""

    def change(points: Floats, closed: bool) -> Outline:
        nodes = (len(points) - 1) // 3 + (0 if closed else 1)
        if nodes <= 2:
            return []
        k, last = 3 * node, _last(points)
        if closed and k == 0:
            points = _turned(points, 1)
            k, last = last - 3, _last(points)
        if k == 0:
            return [(points[3:], closed)]
        if k == last:
            return [(points[:-3], closed)]
        # From the neighbour's own handle out to the other neighbour's handle in.
        return [(np.concatenate([points[: k - 1], points[k + 2 :]]), closed)]

    return _edit(layer, sub, change)


def _turned(points: Floats, node: int) -> Floats:
    """A closed subpath starting at another of its nodes."""
    k = 3 * node
    return np.concatenate([points[k:-1], points[: k + 1]])


def smooth_node(layer: Layer, sub: int, node: int) -> Layer:
    """Handles in one line, along from neighbour to neighbour, a third of the way to each."""

    def change(points: Floats, closed: bool) -> Outline:
        k, last = 3 * node, _last(points)
        before, after = _neighbours(points, k, closed)
        if before is None or after is None:
            return [(points, closed)]
        way = points[after] - points[before]
        length = float(np.hypot(*way))
        if length <= _SAME:
            return [(points, closed)]
        unit = way / length
        here = points[k]
        reach_in = float(np.hypot(*(here - points[before]))) / 3
        reach_out = float(np.hypot(*(points[after] - here))) / 3
        points[k - 1 if k > 0 else last - 1] = here - unit * reach_in
        points[k + 1 if k < last else 1] = here + unit * reach_out
        return [(points, closed)]

    return _edit(layer, sub, change)


def corner_node(layer: Layer, sub: int, node: int) -> Layer:
    """Straight into the node and out of it."""

    def change(points: Floats, closed: bool) -> Outline:
        k, last = 3 * node, _last(points)
        before, after = _neighbours(points, k, closed)
        if before is not None:
            points[k - 1 if k > 0 else last - 1] = points[k] + (points[before] - points[k]) / 3
        if after is not None:
            points[k + 1 if k < last else 1] = points[k] + (points[after] - points[k]) / 3
        return [(points, closed)]

    return _edit(layer, sub, change)


def _neighbours(points: Floats, k: int, closed: bool) -> tuple[int | None, int | None]:
    last = _last(points)
    before = k - 3 if k >= 3 else (last - 3 if closed else None)
    after = k + 3 if k + 3 <= last else (3 if closed else None)
    return before, after


def is_smooth(points: Floats, k: int, closed: bool) -> bool:
    """Whether the handles at a node (place among the points) lie in one line."""
    last = _last(points)
    one = k - 1 if k > 0 else (last - 1 if closed else -1)
    two = k + 1 if k < last else (1 if closed else -1)
    if one < 0 or two < 0:
        return False
    a, b = points[k] - points[one], points[two] - points[k]
    size = float(np.hypot(*a) * np.hypot(*b))
    return size > _SAME and float(a @ b) / size > 0.9995


def break_node(layer: Layer, sub: int, node: int) -> Layer:
    """Open at a node: a closed part starts and ends there, an open one becomes two."""

    def change(points: Floats, closed: bool) -> Outline:
        if closed:
            return [(_turned(points, node), False)]
        k = 3 * node
        if k in (0, _last(points)):
            return [(points, False)]
        return [(points[: k + 1], False), (points[k:], False)]

    return _edit(layer, sub, change)


def close_part(layer: Layer, sub: int) -> Layer:
    """A straight path from an open part's end to its start."""

    def change(points: Floats, closed: bool) -> Outline:
        if not closed and np.abs(points[0] - points[-1]).max() > _SAME:
            points = np.concatenate([points, line_to(tuple(points[-1]), tuple(points[0]))])
        return [(points, True)]

    return _edit(layer, sub, change)


def set_start(layer: Layer, sub: int, node: int) -> Layer:
    """A closed part begins at another of its nodes."""

    def change(points: Floats, closed: bool) -> Outline:
        if not closed:
            raise EditError(tr("Only a closed part can begin at another node."))
        return [(_turned(points, node), True)] if node else [(points, True)]

    return _edit(layer, sub, change)


def nearest(outline: Outline, x: float, y: float) -> tuple[int, int, float, float]:
    """The subpath, segment and share of it nearest to a point of the layer, and how far away it is, px."""
    best = (0, 0, 0.0, float("inf"))
    t = np.linspace(0.0, 1.0, 65)
    for sub, (points, _) in enumerate(outline):
        if len(points) < 4:
            continue
        away = np.hypot(*np.moveaxis(arc.at(arc.cubics(points), t) - (x, y), -1, 0))
        segment, k = (int(v) for v in np.unravel_index(int(away.argmin()), away.shape))
        if away[segment, k] < best[3]:
            best = (sub, segment, float(t[k]), float(away[segment, k]))
    return best
