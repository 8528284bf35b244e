"""Curves drawn by hand: stretches of cubic Beziers in which time goes forward only. Evaluating and changing them."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.curves.handles import parameter
from avelt.core.geometry import arc
from avelt.core.model.curves import Drawn
from avelt.core.words import tr

Point = tuple[float, float]
_ROUNDED = 1e-9


def is_sound(points: tuple[Point, ...]) -> str:
    """What is wrong with the points; empty when they can be used."""
    if len(points) < 4 or (len(points) - 1) % 3:
        return tr("A drawn curve has nodes with two handles between each.")
    if points[0][0] != 0.0 or points[-1][0] != 1.0:
        return tr("A drawn curve runs from time 0 to time 1.")
    for k in range(0, len(points) - 1, 3):
        if not _goes_forward(*(points[k + j][0] for j in range(4))):
            return tr("Time must go forward in a drawn curve.")
    return ""


def _goes_forward(a: float, b: float, c: float, d: float) -> bool:
    """Whether a cubic with these Bezier coefficients never falls: its slope, a quadratic in Bezier form, is nowhere
    below zero."""
    first, middle, last = b - a, c - b, d - c
    if first < -_ROUNDED or last < -_ROUNDED:
        return False
    return middle >= 0.0 or middle * middle <= max(first, 0.0) * max(last, 0.0) + _ROUNDED


def evaluate(curve: Drawn, t: Floats) -> Floats:
    """Values at t (any shape); before 0 and after 1 it stays as at the ends."""
    points = np.array(curve.points, float)
    nodes = points[::3, 0]
    i = np.clip(np.searchsorted(nodes, t, side="right") - 1, 0, len(nodes) - 2)
    first, handle_a, handle_b, last = (points[3 * i + k] for k in range(4))
    span = np.maximum(last[..., 0] - first[..., 0], 1e-12)
    s = parameter(
        (handle_a[..., 0] - first[..., 0]) / span,
        (handle_b[..., 0] - first[..., 0]) / span,
        np.clip((t - first[..., 0]) / span, 0.0, 1.0),
    )
    r = 1.0 - s
    value = (
        r**3 * first[..., 1] + 3 * r * r * s * handle_a[..., 1] + 3 * r * s * s * handle_b[..., 1] + s**3 * last[..., 1]
    )
    return np.asarray(np.where(t <= 0.0, points[0, 1], np.where(t >= 1.0, points[-1, 1], value)), float)


def moved(curve: Drawn, k: int, x: float, y: float) -> Drawn:
    """Point ``k`` moved as near to (x, y) as time allows; a node takes its handles along."""
    points = [list(point) for point in curve.points]
    last = len(points) - 1
    if k % 3:
        low, high = points[k - k % 3][0], points[k - k % 3 + 3][0]
        points[k] = [min(high, max(low, x)), y]
        return _drawn(points)
    x = points[k][0] if k in (0, last) else min(points[k + 3][0], max(points[k - 3][0], x))
    dx, dy = x - points[k][0], y - points[k][1]
    for j in (k - 1, k, k + 1):
        if 0 <= j <= last:
            points[j] = [points[j][0] + dx, points[j][1] + dy]
    for j in range(0, last, 3):
        for handle in (j + 1, j + 2):
            points[handle][0] = min(points[j + 3][0], max(points[j][0], points[handle][0]))
    return _drawn(points)


def with_node(curve: Drawn, x: float) -> Drawn:
    """One node more at a time; the curve keeps its shape."""
    points = np.array(curve.points, float)
    nodes = points[::3, 0]
    i = int(np.clip(np.searchsorted(nodes, x, side="right") - 1, 0, len(nodes) - 2))
    piece = points[3 * i : 3 * i + 4]
    span = max(piece[3, 0] - piece[0, 0], 1e-12)
    inner = (piece[:, 0] - piece[0, 0]) / span
    s = float(parameter(inner[1], inner[2], np.clip((x - piece[0, 0]) / span, 0.0, 1.0)))
    one, two = arc.halves(piece, s)
    return _drawn(np.concatenate([points[: 3 * i], one, two[1:], points[3 * i + 4 :]]).tolist())


def without_node(curve: Drawn, k: int) -> Drawn:
    """Without the inner node that point ``k`` is or belongs to; the ends stay."""
    node = round(k / 3) * 3
    if node in (0, len(curve.points) - 1):
        return curve
    return Drawn((*curve.points[: node - 1], *curve.points[node + 2 :]))


def turned(curve: Drawn) -> Drawn:
    """The same motion run backwards: 1 - value at 1 - t."""
    return Drawn(tuple((1.0 - x, 1.0 - y) for x, y in reversed(curve.points)))


def _drawn(points: list[list[float]]) -> Drawn:
    return Drawn(tuple((float(x), float(y)) for x, y in points))
