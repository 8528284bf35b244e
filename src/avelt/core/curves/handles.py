"""The two-handle curve: ``cubic-bezier()`` of CSS Easing Functions Level 1, vectorised over curves."""

from __future__ import annotations

import math

from avelt.core.arrays import ArrayLike, Floats, np

_FEW = 64  # up to this many curves at once plain floats are faster than arrays
_CLOSE = 2e-16  # of x: less cannot be told
_ROUNDS = 64  # bisection alone reaches the last bit of s in about 54
_STILL = 4e-16  # about one step of a float near 1


def _poly(p1: Floats, p2: Floats, s: Floats) -> Floats:
    """One coordinate of the cubic with ends 0 and 1 at parameter s."""
    return ((1 + 3 * p1 - 3 * p2) * s + (3 * p2 - 6 * p1)) * s * s + 3 * p1 * s


def _poly_slope(p1: Floats, p2: Floats, s: Floats) -> Floats:
    return (3 * (1 + 3 * p1 - 3 * p2) * s + 2 * (3 * p2 - 6 * p1)) * s + 3 * p1


def parameter(x1: ArrayLike, x2: ArrayLike, x: ArrayLike) -> Floats:
    """The s with x(s) = x, for x in 0..1 (others are clamped); x1 and x2 in 0..1.

    Newton's steps inside a shrinking bracket, so flat stretches cost rounds but never accuracy.
    """
    shape = np.broadcast_shapes(np.shape(x1), np.shape(x2), np.shape(x))
    if math.prod(shape) <= _FEW:
        few = np.broadcast_arrays(np.asarray(x1, float), np.asarray(x2, float), np.asarray(x, float))
        rows = zip(*(part.ravel().tolist() for part in few), strict=True)
        return np.array([_one(a, b, t) for a, b, t in rows], float).reshape(shape)
    first, second = (np.broadcast_to(np.asarray(v, float), shape).ravel() for v in (x1, x2))
    wanted = np.clip(np.broadcast_to(np.asarray(x, float), shape), 0.0, 1.0).ravel()
    found = wanted.copy()
    left = np.arange(len(wanted))  # those that are not found yet: most are after few rounds
    low, high, s = np.zeros(len(wanted)), np.ones(len(wanted)), wanted.copy()
    for _ in range(_ROUNDS):
        error = _poly(first, second, s) - wanted
        below = error < 0
        low, high = np.where(below, s, low), np.where(below, high, s)
        slope = _poly_slope(first, second, s)
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            step = s - error / slope
        inside = (step >= low) & (step <= high)
        new = np.where(inside, step, (low + high) / 2)
        new = np.where(error == 0.0, s, new)
        goes_on = (np.abs(new - s) > _STILL) & (np.abs(error) > _CLOSE)
        found[left] = new
        if not goes_on.any():
            break
        left, s = left[goes_on], new[goes_on]
        first, second, wanted, low, high = (part[goes_on] for part in (first, second, wanted, low, high))
    return np.asarray(found.reshape(shape))


def _one(x1: float, x2: float, x: float) -> float:
    """``parameter`` for plain numbers: a frame of playing needs a handful, and arrays of that size cost more."""
    x = min(1.0, max(0.0, x))
    a, b, c = 1 + 3 * x1 - 3 * x2, 3 * x2 - 6 * x1, 3 * x1
    low, high, s = 0.0, 1.0, x
    for _ in range(_ROUNDS):
        error = ((a * s + b) * s + c) * s - x
        if abs(error) <= _CLOSE:
            break
        low, high = (s, high) if error < 0 else (low, s)
        slope = (3 * a * s + 2 * b) * s + c
        new = s - error / slope if slope else -1.0
        if not low <= new <= high:
            new = (low + high) / 2
        if abs(new - s) <= _STILL:
            return new
        s = new
    return s


def evaluate(handles: ArrayLike, t: ArrayLike) -> Floats:
    """Values at t of curves (..., 4) as x1 y1 x2 y2, broadcast against t (...,).

    Outside 0..1 a curve goes on straight along its tangent at the near end, as CSS says.

    >>> evaluate([0.25, 0.1, 0.25, 1.0], [0.0, 0.5, 1.0]).round(6).tolist()
    [0.0, 0.802403, 1.0]
    """
    h = np.asarray(handles, float)
    t = np.asarray(t, float)
    x1, y1, x2, y2 = h[..., 0], h[..., 1], h[..., 2], h[..., 3]
    inside = _poly(y1, y2, parameter(x1, x2, t))
    before, after = t < 0, t > 1
    if before.any() or after.any():
        start, end = _end_slopes(x1, y1, x2, y2)
        inside = np.where(before, start * t, np.where(after, 1 + end * (t - 1), inside))
    # The ends hold to the bit whatever the solver rounded.
    return np.where(t == 0, 0.0, np.where(t == 1, 1.0, inside))


def _end_slopes(x1: Floats, y1: Floats, x2: Floats, y2: Floats) -> tuple[Floats, Floats]:
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        start = np.where(
            x1 > 0, y1 / x1, np.where((y1 == 0) & (x2 > 0), y2 / x2, np.where((y1 == 0) & (y2 == 0), 1.0, 0.0))
        )
        end = np.where(
            x2 < 1,
            (1 - y2) / (1 - x2),
            np.where((y2 == 1) & (x1 < 1), (1 - y1) / (1 - x1), np.where((y2 == 1) & (y1 == 1), 1.0, 0.0)),
        )
    return start, end


def slope(handles: ArrayLike, t: ArrayLike) -> Floats:
    """dy/dx at t; infinite where the curve stands upright."""
    h = np.asarray(handles, float)
    t = np.asarray(t, float)
    x1, y1, x2, y2 = h[..., 0], h[..., 1], h[..., 2], h[..., 3]
    s = parameter(x1, x2, t)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        value = _poly_slope(y1, y2, s) / _poly_slope(x1, x2, s)
    start, end = _end_slopes(x1, y1, x2, y2)
    return np.where(t <= 0, start, np.where(t >= 1, end, value))
