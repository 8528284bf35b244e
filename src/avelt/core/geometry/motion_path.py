"""A path followed by its length or a pace through its nodes: points, directions, and from a point to its share.

Lengths are integrated by Simpson's rule over 128 stretches of each cubic; the error is below 1e-6 of the length for
paths as people draw them.
"""

from __future__ import annotations

from functools import cache
from itertools import pairwise

from avelt.core.arrays import Floats, np
from avelt.core.geometry import arc

_STRETCHES = 128
_EASED = 6.0
_LAST = 0.999  # no inner node nearer to the end than this
_SAME_NODE = 0.06  # of the way: nearer than this a node is moved instead of a new one made


@cache
def _shares() -> Floats:
    """The ends and the middles of the stretches."""
    return np.linspace(0.0, 1.0, 2 * _STRETCHES + 1)


class ArcLengthPath:
    """A path of cubics (1 + 3 n, 2) made ready to be followed.

    Its shares are those of its length, unless ``pace`` says at which shares it comes by its n - 1 inner nodes: then
    they go evenly through those (``Pace``).
    """

    def __init__(self, points: Floats, pace: tuple[float, ...] = ()) -> None:
        self.points = np.asarray(points, float)
        curves = arc.cubics(self.points)
        hodograph = 3.0 * np.diff(curves, axis=1)
        t = _shares()
        s = 1.0 - t
        weights = np.stack([s * s, 2 * s * t, t * t], -1)
        speed = np.einsum("kj,njd->nkd", weights, hodograph)
        size = np.linalg.norm(speed, axis=-1)
        steps = (size[:, :-2:2] + 4 * size[:, 1::2] + size[:, 2::2]) / (6 * _STRETCHES)
        inside = np.concatenate([np.zeros((len(curves), 1)), np.cumsum(steps, 1)], 1)
        before = np.concatenate([[0.0], np.cumsum(inside[:, -1])[:-1]])
        self._along = (inside + before[:, None]).ravel()
        self._where = (np.arange(len(curves))[:, None] + _shares()[::2]).ravel()
        self._curves = curves
        self.length = float(self._along[-1])
        self._angles = _headings(self._curves, speed[:, ::2], size[:, ::2])
        nodes = before[1:] / self.length if self.length > 0 else before[1:]
        self.pace = Pace(np.array(pace, float), nodes) if len(pace) == len(nodes) and len(pace) else None

    def at(self, share: Floats) -> Floats:
        """Points (..., 2) at shares; beyond the ends straight on."""
        share = np.asarray(share, float)
        far = (share if self.pace is None else self.pace.lengths(share)) * self.length
        place = np.interp(far, self._along, self._where)
        k = np.minimum(place.astype(np.intp), len(self._curves) - 1)
        t = (place - k)[..., None]
        s = 1.0 - t
        c = self._curves[k]
        on = s**3 * c[..., 0, :] + 3 * s * s * t * c[..., 1, :] + 3 * s * t * t * c[..., 2, :] + t**3 * c[..., 3, :]
        over = far - np.clip(far, 0.0, self.length)
        angle = np.where(over < 0, self._angles[0], self._angles[-1])
        return np.asarray(on + over[..., None] * np.stack([np.cos(angle), np.sin(angle)], -1))

    def lean(self, share: Floats) -> Floats:
        """By how many degrees a thing on the way is turned at shares: nothing (or whole turns) at both ends.

        It heads along the path, measured from the straight line between the ends, and eases in and out of that over the
        first and the last sixth. Where the way goes all round, what is left over is spread along it instead.
        """
        share = np.clip(np.asarray(share, float), 0.0, 1.0)
        share = share if self.pace is None else self.pace.lengths(share)
        angle = np.interp(share * self.length, self._along, self._angles)
        whole = self._angles[-1] - self._angles[0]
        turns = np.floor((abs(whole) + np.pi - 1e-6) / (2 * np.pi))
        chord = self.points[-1] - self.points[0]
        if turns or float(np.hypot(*chord)) < 1e-9:
            rest = whole - np.sign(whole) * turns * 2 * np.pi
            return np.asarray(np.degrees(angle - self._angles[0] - rest * share))
        straight = float(np.arctan2(chord[1], chord[0]))
        first = (self._angles[0] - straight + np.pi) % (2 * np.pi) - np.pi
        ramp = np.clip(np.minimum(share, 1.0 - share) * _EASED, 0.0, 1.0)
        ramp = ramp * ramp * (3.0 - 2.0 * ramp)
        return np.asarray(np.degrees(first + angle - self._angles[0]) * ramp)

    def share_near(self, x: float, y: float) -> float:
        """The share at which it is nearest to a place."""
        far = self.length_near(x, y)
        return far if self.pace is None else self.pace.share(far)

    def length_near(self, x: float, y: float) -> float:
        """The share of the length whose point is nearest to a place."""
        if self.length <= 0:
            return 0.0
        there = arc.at(self._curves, _shares()[::2]).reshape(-1, 2)
        step = np.diff(there, axis=0)
        size = np.maximum((step**2).sum(-1), 1e-18)
        t = np.clip((((x, y) - there[:-1]) * step).sum(-1) / size, 0.0, 1.0)
        near = int(np.argmin(np.hypot(*(there[:-1] + t[:, None] * step - (x, y)).T)))
        first, last = self._along[near], self._along[near + 1]
        return float((first + t[near] * (last - first)) / self.length)


class Pace:
    """How shares become shares of a length that go through given pairs without a jump of speed.

    The monotone cubic of F. N. Fritsch and R. E. Carlson (SIAM Journal on Numerical Analysis 17, 1980); beyond the ends
    it goes on with its speed there.
    """

    def __init__(self, shares: Floats, lengths: Floats) -> None:
        x, y = (np.concatenate([[0.0], np.clip(v, 0.0, 1.0), [1.0]]) for v in (shares, lengths))
        x = np.maximum.accumulate(x + np.arange(len(x)) * 1e-9)  # two nodes at one share are a jump of no time
        self._x, self._y = x / x[-1], np.maximum.accumulate(y)
        step = np.diff(self._x)
        slope = np.diff(self._y) / step
        inner = np.zeros(len(x) - 2)
        up = slope[:-1] * slope[1:] > 0
        one, two = 2 * step[1:] + step[:-1], step[1:] + 2 * step[:-1]
        with np.errstate(divide="ignore", invalid="ignore"):
            mean = (one + two) / (one / slope[:-1] + two / slope[1:])
        inner[up] = mean[up]
        self._speed = np.concatenate([slope[:1], inner, slope[-1:]])
        self._step = step

    def lengths(self, share: Floats) -> Floats:
        """Shares of the length at shares."""
        share = np.asarray(share, float)
        k = np.clip(np.searchsorted(self._x, share, side="right") - 1, 0, len(self._step) - 1)
        h = self._step[k]
        t = np.clip((share - self._x[k]) / h, 0.0, 1.0)
        s = 1.0 - t
        made = (
            self._y[k] * (1 + 2 * t) * s * s
            + self._y[k + 1] * t * t * (3 - 2 * t)
            + h * t * s * (self._speed[k] * s - self._speed[k + 1] * t)
        )
        over = share - np.clip(share, 0.0, 1.0)
        return np.asarray(made + over * np.where(over < 0, self._speed[0], self._speed[-1]))

    def share(self, length: float) -> float:
        """The share at which it has come so far."""
        xs = np.union1d(np.linspace(0.0, 1.0, 513), self._x)
        return float(np.interp(length, self.lengths(xs), xs))


def _headings(curves: Floats, speed: Floats, size: Floats) -> Floats:
    """The direction at each place in radians, without jumps; where a handle has no length, that of its chord."""
    chord = curves[:, 3] - curves[:, 0]
    still = size < 1e-9 * np.maximum(1.0, size.max(initial=0.0))
    speed = np.where(still[..., None], chord[:, None, :], speed)
    return np.unwrap(np.arctan2(speed[..., 1], speed[..., 0]).ravel())


# Changing a path: points (1 + 3 n, 2) are node, handle, handle, node and so on; both ends stay.


def moved(points: Floats, k: int, to: tuple[float, float]) -> Floats:
    """A point put elsewhere. Handles go with their node; a handle turns the one across when both were in line."""
    made = points.copy()
    target = np.array(to, float)
    if k in (0, len(points) - 1):
        return made
    if k % 3 == 0:
        made[k - 1 : k + 2] += target - points[k]
        return made
    made[k] = target
    node, other = (k - 1, k - 2) if k % 3 == 1 else (k + 1, k + 2)
    if 0 < other < len(points) - 1 and node not in (0, len(points) - 1):
        one, two = points[k] - points[node], points[other] - points[node]
        sizes = float(np.hypot(*one)), float(np.hypot(*two))
        if min(sizes) > 1e-9 and float(one @ two) / (sizes[0] * sizes[1]) < -0.999:
            new = target - points[node]
            far = float(np.hypot(*new))
            if far > 1e-9:
                made[other] = points[node] - new / far * sizes[1]
    return made


def with_node(points: Floats, share: float) -> tuple[Floats, int]:
    """The same path with one node more at a share of its length, and where that node stands among the points."""
    along = arc.travelled(points)
    k, t = arc.locate(along, min(1.0, max(0.0, share)) * float(along[-1, -1]))
    t = min(0.999, max(0.001, t))
    first, last = arc.halves(arc.cubics(points)[k], t)
    return np.concatenate([points[: 3 * k], first, last[1:], points[3 * k + 4 :]]), 3 * k + 3


def without_node(points: Floats, k: int) -> Floats:
    """Without a node between the ends; the handles beyond it stay."""
    if k % 3 or not 0 < k < len(points) - 1:
        return points
    return np.concatenate([points[: k - 1], points[k + 2 :]])


def smoothed(points: Floats, k: int) -> Floats:
    """The handles of a node laid in line, along the path from neighbour to neighbour, a third of each stretch long."""
    if k % 3 or not 0 < k < len(points) - 1:
        return points
    made = points.copy()
    way = points[k + 3] - points[k - 3]
    size = float(np.hypot(*way))
    if size > 1e-9:
        for handle, side in ((k - 1, -1.0), (k + 1, 1.0)):
            far = float(np.hypot(*(points[k + int(3 * side)] - points[k]))) / 3
            made[handle] = points[k] + side * far * way / size
    return made


def drawn(
    points: Floats, pace: tuple[float, ...], share: float, to: tuple[float, float]
) -> tuple[Floats, tuple[float, ...]]:
    """The path drawn to a place where it is at a share: by the node that is there, or a new one, smooth.

    What follows it is at that place at that share, and by every other node when it was: the points, and the pace.
    """
    course = ArcLengthPath(points, pace)
    share = min(_LAST, max(1.0 - _LAST, share))
    shares = [course.share_near(float(x), float(y)) for x, y in points[3:-1:3]] if not pace else list(pace)
    there = float(course.pace.lengths(np.array(share))) if course.pace is not None else share
    near = [(abs(other - share), k) for k, other in enumerate(shares)]
    if near and min(near)[0] <= _SAME_NODE:
        k = 3 * min(near)[1] + 3
        shares[min(near)[1]] = share
    else:
        points, k = with_node(points, there)
        shares.insert(k // 3 - 1, share)
    return smoothed(moved(points, k, to), k), tuple(round(v, 6) for v in shares)


def straightened(points: Floats, k: int) -> Floats:
    """The stretches on both sides of a node made straight."""
    made = points.copy()
    for other in (k - 3, k + 3):
        if 0 <= other < len(points):
            low, high = min(k, other), max(k, other)
            step = (points[high] - points[low]) / 3
            made[low + 1], made[low + 2] = points[low] + step, points[high] - step
    return made


def polyline(nodes: Floats) -> Floats:
    """Straight from node to node (n, 2)."""
    parts = [nodes[:1]]
    for a, b in pairwise(nodes):
        parts.append(np.array([a + (b - a) / 3, b - (b - a) / 3, b]))
    return np.concatenate(parts)
