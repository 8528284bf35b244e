"""Outlines by the length along them: measuring, cutting, and points at a share of the way.

Lengths of cubics are sums over chords; with ``_CHORDS`` of them the error is below 1e-4 of a cubic's length for
shapes as people draw them.
"""

from __future__ import annotations

from functools import cache

from avelt.core.arrays import Floats, np

_CHORDS = 32


@cache
def _shares() -> Floats:
    return np.linspace(0.0, 1.0, _CHORDS + 1)


def cubics(points: Floats) -> Floats:
    """A subpath's points (1 + 3 n, 2) as cubics (n, 4, 2)."""
    count = (len(points) - 1) // 3
    index = np.arange(count)[:, None] * 3 + np.arange(4)
    return np.asarray(points[index])


def at(curves: Floats, t: Floats) -> Floats:
    """Points (n, k, 2) of cubics (n, 4, 2) at parameters (k,)."""
    s = 1.0 - t
    weights = np.stack([s**3, 3 * s * s * t, 3 * s * t * t, t**3], -1)
    return np.asarray(np.einsum("kj,njd->nkd", weights, curves))


def travelled(points: Floats) -> Floats:
    """Length along a subpath (n, chords + 1) at the parameters 0..1 of each of its cubics; px."""
    there = at(cubics(points), _shares())
    steps = np.linalg.norm(np.diff(there, axis=1), axis=-1)
    inside = np.concatenate([np.zeros((len(there), 1)), np.cumsum(steps, 1)], 1)
    before = np.concatenate([[0.0], np.cumsum(inside[:, -1])[:-1]]) if len(there) else np.zeros(0)
    return np.asarray(inside + before[:, None])


def length(points: Floats) -> float:
    """The length of a subpath, px."""
    along = travelled(points)
    return float(along[-1, -1]) if len(along) else 0.0


def locate(along: Floats, distance: float) -> tuple[int, float]:
    """The cubic and its parameter at a length along a subpath (``along`` as ``travelled`` gives it)."""
    count = len(along)
    k = min(count - 1, int(np.searchsorted(along[:, -1], distance)))
    return k, float(np.interp(distance, along[k], _shares()))


def direction(curve: Floats, t: float) -> tuple[float, float]:
    """The unit direction of a cubic (4, 2) at a parameter; (1, 0) where it has none."""
    first = curve[1:] - curve[:-1]
    s = 1.0 - t
    way = s * s * first[0] + 2 * s * t * first[1] + t * t * first[2]
    if float(np.hypot(*way)) < 1e-9:
        way = curve[3] - curve[0]
    size = float(np.hypot(*way))
    return (float(way[0]) / size, float(way[1]) / size) if size > 1e-12 else (1.0, 0.0)


def halves(curve: Floats, t: float) -> tuple[Floats, Floats]:
    """A cubic (4, 2) cut in two at a parameter (de Casteljau)."""
    a = curve[:-1] + (curve[1:] - curve[:-1]) * t
    b = a[:-1] + (a[1:] - a[:-1]) * t
    c = b[0] + (b[1] - b[0]) * t
    return np.array([curve[0], a[0], b[0], c]), np.array([c, b[1], a[2], curve[3]])


def between(points: Floats, first: float, last: float) -> Floats:
    """The stretch of a subpath from one length to another (px, ``first`` before ``last``)."""
    along = travelled(points)
    curves = cubics(points)
    i, t = locate(along, first)
    j, u = locate(along, last)
    if i == j:
        piece = halves(curves[i], t)[1]
        share = (u - t) / (1.0 - t) if t < 1.0 else 0.0
        return halves(piece, min(1.0, max(0.0, share)))[0]
    made = [halves(curves[i], t)[1], *(curves[k][1:] for k in range(i + 1, j)), halves(curves[j], u)[0][1:]]
    return np.concatenate(made)


def trimmed(outline: list[tuple[Floats, bool]], start: float, end: float, offset: float) -> list[tuple[Floats, bool]]:
    """Each subpath (points, closed) from a share of its length to another, both shifted by ``offset``.

    What is cut is open. A closed subpath goes on over its seam; an open one is cut there in two.
    """
    low, high = min(start, end), max(start, end)
    if high - low >= 1.0 - 1e-9:
        return outline
    made: list[tuple[Floats, bool]] = []
    for points, closed in outline:
        if len(points) < 4 or high - low <= 1e-9:
            continue
        whole = length(points)
        first = (low + offset) % 1.0
        last = first + (high - low)
        if last <= 1.0 + 1e-12:
            made.append((between(points, first * whole, min(1.0, last) * whole), False))
            continue
        head, tail = between(points, first * whole, whole), between(points, 0.0, (last - 1.0) * whole)
        if closed:
            made.append((np.concatenate([head, tail[1:]]), False))
        else:
            made += [(head, False), (tail, False)]
    return made
