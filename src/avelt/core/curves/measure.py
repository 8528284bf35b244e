"""What a curve feels like, in numbers; and any curve as few straight pieces."""

from __future__ import annotations

from functools import lru_cache

from avelt.core.arrays import Floats, np
from avelt.core.curves import easing
from avelt.core.model.curves import PlainCurve
from avelt.core.record import Record

_SAMPLES = 2001


class Measure(Record, frozen=True):
    """Shares of the way and of the time, all on 0..1.

    ``overshoot`` beyond 1, ``undershoot`` below 0, ``half`` and ``ninety`` the first times 50 % and 90 %
    are reached, ``settles`` the last time the value is 1 % or more away from 1, ``peak_speed`` the
    largest slope by size (that of a straight line is 1).
    """

    overshoot: float
    undershoot: float
    half: float
    ninety: float
    settles: float
    peak_speed: float


@lru_cache(maxsize=256)
def measure(curve: PlainCurve) -> Measure:
    """Measured on 2,001 equal steps, times found between them by straight interpolation."""
    t = np.linspace(0.0, 1.0, _SAMPLES)
    y = easing.at(curve, t)
    speed = np.abs(np.diff(y)) * (_SAMPLES - 1)
    away = np.flatnonzero(np.abs(y - 1.0) >= 0.01)
    return Measure(
        overshoot=max(0.0, float(y.max()) - 1.0),
        undershoot=max(0.0, -float(y.min())),
        half=_first(t, y, 0.5),
        ninety=_first(t, y, 0.9),
        settles=float(t[min(int(away[-1]) + 1, _SAMPLES - 1)]) if len(away) else 0.0,
        peak_speed=float(speed.max()),
    )


def _first(t: Floats, y: Floats, level: float) -> float:
    reached = np.flatnonzero(y >= level)
    if not len(reached):
        return 1.0
    i = int(reached[0])
    if i == 0:
        return 0.0
    return float(t[i - 1] + (t[i] - t[i - 1]) * (level - y[i - 1]) / (y[i] - y[i - 1]))


def straight_pieces(curve: PlainCurve, tolerance: float) -> tuple[tuple[tuple[float, float], ...], float]:
    """Points (at, value) whose straight joins stay within ``tolerance`` of the curve, and the largest error.

    From each point the longest piece that still fits is taken (found by doubling and halving), which
    needs as few pieces as joins on the curve allow. The error is measured between the samples too.
    """
    n = _SAMPLES - 1
    t = np.linspace(0.0, 1.0, n + 1)
    y = easing.at(curve, t)

    def fits(i: int, j: int) -> bool:
        inner = slice(i, j + 1)
        line = y[i] + (y[j] - y[i]) * (t[inner] - t[i]) / (t[j] - t[i])
        return float(np.abs(line - y[inner]).max()) <= tolerance

    chosen = [0]
    while chosen[-1] < n:
        i = chosen[-1]
        reach = 1
        while i + reach * 2 <= n and fits(i, i + reach * 2):
            reach *= 2
        low, high = i + reach, min(n, i + reach * 2)
        while low < high:
            middle = (low + high + 1) // 2
            if fits(i, middle):
                low = middle
            else:
                high = middle - 1
        chosen.append(low)
    points = tuple((float(t[i]), float(y[i])) for i in chosen)
    fine = np.linspace(0.0, 1.0, n * 5 + 1)
    error = np.abs(np.interp(fine, t[chosen], y[chosen]) - easing.at(curve, fine)).max()
    return points, float(error)
