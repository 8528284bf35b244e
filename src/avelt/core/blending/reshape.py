"""Two outlines of any structure brought to one, so that they can be blended point by point.

Both are cut at the union of their nodes' places along them, so each keeps its own shape exactly. Where a closed
outline begins, and which way round it runs, is chosen so that the points travel least (a cyclic correlation by FFT).
"""

from __future__ import annotations

from itertools import pairwise

from avelt.core.arrays import Floats, np
from avelt.core.blending.nesting import as_nonzero, containers, holes, signed_area
from avelt.core.geometry import arc
from avelt.core.geometry.assignment import assigned

Outline = list[tuple[Floats, bool]]
_SAMPLES = 128
_SAME_PLACE = 1e-4  # of the length: nodes nearer than this are one
_NO_LENGTH = 1e-9
_QUARTERS = (0.0, 0.25, 0.5, 0.75, 1.0)
_FURTHER, _HARDLY = 2.0, 0.05  # a factor, and a share of the box
_HARDLY_FULL = 0.02  # of the box
_NEVER = 1e6  # the cost of what must not be


def alike(
    first: Outline, second: Outline, shift: float = 0.0, rules: tuple[str, str] = ("nonzero", "nonzero")
) -> tuple[Outline, Outline]:
    """Both outlines with the same subpaths and the same number of points in each.

    Subpaths (1 + 3 n, 2) with whether they are closed; both in one space, such as shares of the layer's box. What one
    side lacks grows out of a point. ``shift`` moves the start on the second by a share of its length. ``rules`` are the
    fill rules of the two; where they differ both are turned so that the nonzero rule fills them. Holes become holes
    and run against what they lie in, so that none is filled on the way.

    >>> line = [(np.array([[0, 0], [1, 0], [2, 0], [3, 0]], float), False)]
    >>> bent = [(np.array([[0, 0], [0, 1], [0, 2], [0, 3], [1, 3], [2, 3], [6, 3]], float), False)]
    >>> [len(outline[0][0]) for outline in alike(line, bent)]
    [7, 7]
    """
    first, second = _sound(first), _sound(second)
    if rules[0] != rules[1]:
        first, second = as_nonzero(first, rules[0]), as_nonzero(second, rules[1])
        rules = ("nonzero", "nonzero")
    made: list[tuple[tuple[Floats, bool], tuple[Floats, bool]]] = []
    inside = containers(second)
    hollow = holes(first, rules[0], containers(first)), holes(second, rules[1], inside)
    couples, rest_a, rest_b = _couples(first, second, *hollow)
    reversed_: set[int] = set()
    for i, j in couples:
        (a, closed_a), (b, closed_b) = first[i], second[j]
        before = b
        b = _turned(a, b, closed_a, closed_b, shift)
        if closed_b and signed_area(before) * signed_area(b) < 0:
            reversed_.add(j)
        if closed_a and not closed_b:
            a = _turned(b, a, False, True, 0.0)
        one, two = _one_structure(a, b)
        made.append(((one, closed_a and closed_b), (two, closed_a and closed_b)))
    for i in rest_a:
        points, closed = first[i]
        made.append(((points, closed), (_shrunk(points, second), closed)))
    for j in rest_b:
        points, closed = second[j]
        # What grows inside of something that runs the other way now runs against it still.
        around = [k for k in inside[j] if k not in rest_b]
        if around and min(around, key=lambda k: _middle_and_size(second[k][0])[2]) in reversed_:
            points = points[::-1]
        made.append(((_shrunk(points, first), closed), (points, closed)))
    return [entry[0] for entry in made], [entry[1] for entry in made]


def fits_node_by_node(first: Outline, second: Outline) -> bool:
    """Whether two outlines of one structure may be blended node by node: their points travel hardly further so than
    when both are laid along each other by length. Outlines of other structure never fit."""
    if [(len(p), c) for p, c in first] != [(len(p), c) for p, c in second]:
        return False
    for (a, closed), (b, _) in zip(first, second, strict=True):
        full = closed and len(a) >= 4 and min(_fullness(a), _fullness(b)) > _HARDLY_FULL
        if full and signed_area(a) * signed_area(b) < 0.0:
            return False  # node by node it would be turned inside out
    straight = _travel(first, second)
    if straight < _HARDLY:
        return True
    return straight <= _travel(*alike(first, second)) * _FURTHER + _HARDLY


def _travel(first: Outline, second: Outline) -> float:
    """How far the points of two outlines of one structure are apart on the whole, weighted by length."""
    far = weight = 0.0
    for (a, _), (b, _) in zip(first, second, strict=True):
        if len(a) < 4 or len(a) != len(b):
            continue
        quarters = np.array(_QUARTERS)
        one, two = arc.at(arc.cubics(a), quarters), arc.at(arc.cubics(b), quarters)
        sizes = sum(np.linalg.norm(np.diff(there, axis=1), axis=-1).sum(1) for there in (one, two))
        far += float((np.linalg.norm(one - two, axis=-1).mean(1) * sizes).sum())
        weight += float(np.sum(sizes))
    return far / weight if weight > 0 else 0.0


def _sound(outline: Outline) -> Outline:
    """Without empty subpaths; closed ones end where they begin."""
    made: Outline = []
    for points, closed in outline:
        if len(points) < 4:
            if not len(points):
                continue
            points = np.repeat(points[:1], 4, 0)
        if closed and not np.allclose(points[0], points[-1]):
            end, start = points[-1], points[0]
            points = np.concatenate([points, [end + (start - end) / 3, end + (start - end) * 2 / 3, start]])
        made.append((points, closed))
    return made


def _couples(
    first: Outline, second: Outline, hollow_a: list[bool], hollow_b: list[bool]
) -> tuple[list[tuple[int, int]], list[int], list[int]]:
    """Which subpath becomes which, by the distance of their middles and the difference of their sizes: holes holes."""
    if not first or not second:
        return [], list(range(len(first))), list(range(len(second)))
    a = np.array([_middle_and_size(points) for points, _ in first])
    b = np.array([_middle_and_size(points) for points, _ in second])
    cost = np.linalg.norm(a[:, None, :2] - b[None, :, :2], axis=-1) + np.abs(a[:, None, 2] - b[None, :, 2])
    other = np.array(hollow_a)[:, None] != np.array(hollow_b)[None, :]
    found = [(i, j) for i, j in assigned(np.where(other, _NEVER, cost)) if not other[i, j]]
    used_a, used_b = {i for i, _ in found}, {j for _, j in found}
    return (
        found,
        [i for i in range(len(first)) if i not in used_a],
        [j for j in range(len(second)) if j not in used_b],
    )


def _middle_and_size(points: Floats) -> tuple[float, float, float]:
    nodes = points[::3]
    low, high = nodes.min(0), nodes.max(0)
    middle = (low + high) / 2
    return float(middle[0]), float(middle[1]), float(np.hypot(*(high - low)))


def _shrunk(points: Floats, other: Outline) -> Floats:
    """The subpath drawn together in its own middle."""
    x, y, _ = _middle_and_size(points)
    return np.broadcast_to(np.array([x, y]), points.shape).copy()


def _even(points: Floats, count: int) -> Floats:
    """Points (count, 2) at equal lengths along a subpath, the end not among them."""
    along = arc.travelled(points)
    whole = float(along[-1, -1])
    if whole < _NO_LENGTH:
        return np.repeat(points[:1], count, 0)
    there = arc.at(arc.cubics(points), np.linspace(0.0, 1.0, along.shape[1])).reshape(-1, 2)
    far = along.ravel()
    wanted = np.arange(count) / count * whole
    return np.stack([np.interp(wanted, far, there[:, 0]), np.interp(wanted, far, there[:, 1])], -1)


def _turned(a: Floats, b: Floats, closed_a: bool, closed_b: bool, shift: float) -> Floats:
    """The second subpath run round the same way as the first, begun where the points travel least."""
    if not closed_b:
        ends = np.hypot(*(a[0] - b[0])) + np.hypot(*(a[-1] - b[-1]))
        swapped = np.hypot(*(a[0] - b[-1])) + np.hypot(*(a[-1] - b[0]))
        return b[::-1] if swapped < ends and not closed_a else b
    ways = [b, b[::-1]]
    if closed_a and min(_fullness(a), _fullness(b)) > _HARDLY_FULL:
        # Turned inside out an outline would come to nothing half way: both run round the same way.
        ways = [b if signed_area(a) * signed_area(b) >= 0.0 else b[::-1]]
    found = [(*_best_start(a, way), way) for way in ways]
    _, start, way = max(found, key=lambda entry: entry[0])
    return _begun_at(way, (start + shift) % 1.0)


def _best_start(a: Floats, b: Floats) -> tuple[float, float]:
    """How well a closed subpath follows another when begun at the best share of its length, and that share."""
    from numpy.fft import fft, ifft

    one, two = _even(a, _SAMPLES), _even(b, _SAMPLES)
    one, two = one - one.mean(0), two - two.mean(0)
    # Sum over k of one[k] . two[k + s] for every s at once: the shift with the least squared travel.
    together = ifft(np.conj(fft(one, axis=0)) * fft(two, axis=0), axis=0).real.sum(1)
    best = int(np.argmax(np.round(together, 9)))
    return float(np.round(together[best], 9)), best / _SAMPLES


def _fullness(points: Floats) -> float:
    """The area of a subpath as a share of its box; near 0 for lines there and back, and for figures of eight."""
    low, high = points.min(0), points.max(0)
    box = float(np.prod(high - low))
    return abs(signed_area(points)) / 2.0 / box if box > 0.0 else 0.0


def _begun_at(points: Floats, share: float) -> Floats:
    """A closed subpath begun at a share of its length; at a node when one is there."""
    whole = arc.length(points)
    if whole < _NO_LENGTH:
        return points
    nodes = _node_shares(points)
    near = int(np.argmin(np.abs(nodes - share)))
    if abs(nodes[near] - share) <= 1.0 / _SAMPLES:
        share = float(nodes[near])
    if share <= _SAME_PLACE or share >= 1.0 - _SAME_PLACE:
        return points
    return np.concatenate([arc.between(points, share * whole, whole), arc.between(points, 0.0, share * whole)[1:]])


def _node_shares(points: Floats) -> Floats:
    """Where the nodes stand along a subpath, 0..1."""
    ends = arc.travelled(points)[:, -1]
    whole = float(ends[-1])
    count = len(ends)
    shares = ends / whole if whole >= _NO_LENGTH else np.arange(1, count + 1) / count
    return np.concatenate([[0.0], shares])


def _one_structure(a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """Both cut at the places of all nodes of both."""
    first, second = _node_shares(a), _node_shares(b)
    if len(first) == len(second) and np.allclose(first, second, atol=0.02):
        return a, b  # near enough to go node by node: fewer points, and corners stay corners
    places = np.unique(np.concatenate([first, second]))
    keep = np.concatenate([[True], np.diff(places) > _SAME_PLACE])
    places = places[keep]
    places[-1] = 1.0
    return _cut_at(a, places), _cut_at(b, places)


def _cut_at(points: Floats, places: Floats) -> Floats:
    """The subpath with nodes at these shares of its length, 0 and 1 among them."""
    whole = arc.length(points)
    if whole < _NO_LENGTH:
        return np.repeat(points[:1], 3 * (len(places) - 1) + 1, 0)
    own = _node_shares(points)
    nearest = own[np.argmin(np.abs(own[None, :] - places[:, None]), 1)]
    snapped = np.where(np.abs(nearest - places) <= 2 * _SAME_PLACE, nearest, places)
    pieces = [arc.between(points, u * whole, v * whole) for u, v in pairwise(snapped.tolist())]
    single = [_one_cubic(piece) for piece in pieces]
    return np.concatenate([single[0], *(piece[1:] for piece in single[1:])])


def _one_cubic(piece: Floats) -> Floats:
    """A stretch between neighbouring nodes as one cubic: the longest of those that rounding left."""
    if len(piece) == 4:
        return piece
    curves = arc.cubics(piece)
    sizes = np.linalg.norm(curves[:, 3] - curves[:, 0], axis=-1) + np.linalg.norm(curves[:, 1] - curves[:, 0], axis=-1)
    best = curves[int(np.argmax(sizes))].copy()
    best[0], best[3] = piece[0], piece[-1]
    return np.asarray(best)
