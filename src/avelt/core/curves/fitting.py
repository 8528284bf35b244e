"""A curve as another kind of curve: the numbers of that kind which come nearest to it.

The distance is the largest difference of the two on a grid of the unit interval, in shares of the way from 0 to 1.
Numbers without a closed form are found by least squares (``scipy.optimize.least_squares``) from a few fixed starts, so
the same curve always gives the same numbers.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from itertools import pairwise

from avelt.core.arrays import Floats, np
from avelt.core.curves import easing
from avelt.core.curves.handles_of import nearest_handles
from avelt.core.curves.measure import straight_pieces
from avelt.core.model.curves import Drawn, Drops, Handles, Hold, Line, PlainCurve, Points, Ring, Spring, Steps

_GRID = np.linspace(0.0, 1.0, 241)
_STRAIGHT = 0.01  # how far straight joins may be off a curve that becomes points
_NEAR = 0.005  # a drawn curve gets more nodes until it is as near
_MOST_NODES = 12
_JUST = 1e-6


def fitted(curve: PlainCurve, kind: PlainCurve) -> tuple[PlainCurve, float]:
    """The curve of the kind of ``kind`` that is nearest to ``curve``, and the largest difference.

    A curve that is of the kind already, and a line, which has no shape to keep, give ``curve`` and ``kind`` themselves.
    """
    if type(curve) is type(kind):
        return curve, 0.0
    if isinstance(curve, Line):
        return kind, _apart(curve, kind)
    made = _FITS[type(kind)](curve, kind)
    return made, _apart(curve, made)


def _apart(one: PlainCurve, other: PlainCurve) -> float:
    return float(np.abs(easing.at(one, _GRID) - easing.at(other, _GRID)).max())


def _line(_: PlainCurve, kind: PlainCurve) -> PlainCurve:
    return kind


def _handles(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    return Handles(*nearest_handles(curve)[0])


def _points(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    return Points(tuple((round(x, 4), round(y, 4)) for x, y in straight_pieces(curve, _STRAIGHT)[0]))


def _drawn(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    """Handles are one piece, points are corners; what else there is gets nodes until the pieces are near enough."""
    if isinstance(curve, Handles):
        return Drawn(((0.0, 0.0), (curve.x1, curve.y1), (curve.x2, curve.y2), (1.0, 1.0)))
    if isinstance(curve, Points | Steps | Hold):
        return _cornered(straight_pieces(curve, _NEAR)[0])
    best = _smooth(curve, 2)
    for nodes in range(3, _MOST_NODES + 1):
        if _apart(curve, best) <= _NEAR:
            break
        best = min((best, _smooth(curve, nodes)), key=lambda made: _apart(curve, made))
    return best


def _cornered(points: Iterable[tuple[float, float]]) -> Drawn:
    spots = list(points)
    made = [spots[0]]
    for (ax, ay), (bx, by) in pairwise(spots):
        made += [(ax + (bx - ax) / 3, ay + (by - ay) / 3), (bx - (bx - ax) / 3, by - (by - ay) / 3), (bx, by)]
    return Drawn(tuple((float(x), float(y)) for x, y in made))


def _smooth(curve: PlainCurve, nodes: int) -> Drawn:
    """Nodes at even times with the curve's own slopes there (a cubic Hermite interpolant)."""
    times = np.linspace(0.0, 1.0, nodes)
    values = easing.at(curve, times)
    inside = np.clip(times, _JUST, 1.0 - _JUST)
    slopes = (easing.at(curve, inside + _JUST) - easing.at(curve, inside - _JUST)) / (2 * _JUST)
    made = [(0.0, float(values[0]))]
    for k in range(nodes - 1):
        third = (times[k + 1] - times[k]) / 3
        made.append((float(times[k] + third), float(values[k] + slopes[k] * third)))
        made.append((float(times[k + 1] - third), float(values[k + 1] - slopes[k + 1] * third)))
        made.append((float(times[k + 1]), float(values[k + 1])))
    return Drawn(tuple((round(x, 5), round(y, 5)) for x, y in made))


def _steps(curve: PlainCurve, kind: PlainCurve) -> PlainCurve:
    """As many steps as the kind begins with: more of them are always nearer. The jumps are chosen."""
    count = kind.count if isinstance(kind, Steps) else 4
    made = [Steps(count, "end"), Steps(count, "start"), Steps(count, "both")]
    return _best(curve, made if count < 2 else [*made, Steps(count, "none")])


def _hold(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    """It switches when the curve is half way for the first time."""
    past = np.flatnonzero(easing.at(curve, _GRID) >= 0.5)
    return Hold(round(float(_GRID[past[0]]), 3) if len(past) else 1.0)


def _drops(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    return _best(curve, (Drops(count, keep) for count in range(7) for keep in np.arange(0.05, 0.91, 0.05).tolist()))


def _spring(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    """Bounces on a grid that is made finer about the best one, with the slope the curve starts with and without."""
    slope = (float(easing.at(curve, _JUST)) - float(easing.at(curve, 0.0))) / _JUST
    speeds = {0.0, round(min(20.0, max(-20.0, slope)), 2)}
    best = _best(curve, (Spring(bounce, s) for s in sorted(speeds) for bounce in np.arange(-0.9, 0.91, 0.15).tolist()))
    for width in (0.05, 0.015, 0.005):
        if isinstance(best, Spring):
            middle, speed = best.bounce, best.speed
            around = (round(min(0.98, max(-1.0, middle + k * width)), 3) for k in (-2, -1, 0, 1, 2))
            best = _best(curve, (Spring(bounce, speed) for bounce in around))
    return best


def _ring(curve: PlainCurve, _: PlainCurve) -> PlainCurve:
    starts = ((0.5, 5.0), (1.5, 5.0), (2.5, 5.0), (4.0, 4.0))
    return _searched(curve, lambda p: Ring(float(p[0]), float(p[1])), starts, ((0.0, 0.0), (40.0, 60.0)))


def _best(curve: PlainCurve, candidates: Iterable[PlainCurve]) -> PlainCurve:
    wanted = easing.at(curve, _GRID)
    return min(candidates, key=lambda made: float(((easing.at(made, _GRID) - wanted) ** 2).sum()))


def _searched(
    curve: PlainCurve,
    make: Callable[[Floats], PlainCurve],
    starts: Iterable[tuple[float, float]],
    bounds: tuple[tuple[float, float], tuple[float, float]],
) -> PlainCurve:
    from scipy.optimize import least_squares

    wanted = easing.at(curve, _GRID)
    found = [least_squares(lambda p: easing.at(make(p), _GRID) - wanted, start, bounds=bounds) for start in starts]
    nearest = min(found, key=lambda one: float(one.cost))
    return make(np.round(nearest.x, 3))


_FITS: dict[type, Callable[[PlainCurve, PlainCurve], PlainCurve]] = {
    Line: _line,
    Handles: _handles,
    Points: _points,
    Steps: _steps,
    Drawn: _drawn,
    Spring: _spring,
    Drops: _drops,
    Ring: _ring,
    Hold: _hold,
}
