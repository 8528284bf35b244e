"""Which subpaths of an outline are holes, and what lies in what: by winding, as the fill rules of SVG 2 say."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.geometry import arc

Outline = list[tuple[Floats, bool]]
_PROBES = 8


def signed_area(points: Floats) -> float:
    """Twice the area that the nodes enclose; positive when they run clockwise (y down)."""
    x, y = points[::3].T
    return float(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1]) + x[-1] * y[0] - x[0] * y[-1])


def containers(outline: Outline) -> list[list[int]]:
    """For each subpath the others that it lies in."""
    polygons = [_polygon(points) for points, _ in outline]
    boxes = [(polygon.min(0), polygon.max(0)) for polygon in polygons]
    found: list[list[int]] = []
    for i, polygon in enumerate(polygons):
        inside = []
        for j, other in enumerate(polygons):
            low, high = boxes[j]
            if i == j or (boxes[i][0] < low).any() or (boxes[i][1] > high).any() or len(other) < 3:
                continue
            # Most of its points: outlines may touch.
            if np.mean(_within(polygon, other)) > 0.5:
                inside.append(j)
        found.append(inside)
    return found


def holes(outline: Outline, rule: str, inside: list[list[int]]) -> list[bool]:
    """Which subpaths let what lies beneath through; ``inside`` as ``containers`` gives it."""
    turns = [1 if signed_area(points) >= 0.0 else -1 for points, _ in outline]
    if rule == "evenodd":
        return [len(around) % 2 == 1 for around in inside]
    return [turns[i] + sum(turns[j] for j in around) == 0 for i, around in enumerate(inside)]


def as_nonzero(outline: Outline, rule: str) -> Outline:
    """The same area by the nonzero rule: every second subpath, from the outside in, runs the other way."""
    if rule != "evenodd":
        return outline
    inside = containers(outline)
    made: Outline = []
    for (points, closed), around in zip(outline, inside, strict=True):
        clockwise = signed_area(points) >= 0.0
        made.append((points if clockwise is (len(around) % 2 == 0) else points[::-1], closed))
    return made


def _polygon(points: Floats) -> Floats:
    """Points along a subpath (n, 2)."""
    return arc.at(arc.cubics(points), np.arange(_PROBES) / _PROBES).reshape(-1, 2) if len(points) >= 4 else points


def _within(points: Floats, polygon: Floats) -> np.ndarray:
    """Which points (n, 2) lie in a polygon (m, 2): (n,), by crossings to the right."""
    x, y = points[:, None, 0], points[:, None, 1]
    x1, y1 = polygon[None, :, 0], polygon[None, :, 1]
    x2, y2 = np.roll(x1, -1, 1), np.roll(y1, -1, 1)
    crosses = (y1 > y) != (y2 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = x1 + (y - y1) / (y2 - y1) * (x2 - x1)
    return np.asarray((crosses & (x < at)).sum(1) % 2 == 1)
