"""Evaluating any curve, and many at once."""

from __future__ import annotations

from collections.abc import Sequence

from avelt.core.arrays import ArrayLike, Floats, np
from avelt.core.curves import bounces, drawn, handles, spring
from avelt.core.model.curves import Drawn, Drops, Handles, Hold, Line, PlainCurve, Points, Ring, Steps

_SLOPE_STEP = 1e-5


def at(curve: PlainCurve, t: ArrayLike) -> Floats:
    """Values of one curve at t (any shape); 0..1 goes to about 0..1, values may leave it."""
    t = np.asarray(t, float)
    if isinstance(curve, Line):
        return t.copy()
    if isinstance(curve, Handles):
        return handles.evaluate((curve.x1, curve.y1, curve.x2, curve.y2), t)
    if isinstance(curve, Steps):
        return _steps(curve, t)
    if isinstance(curve, Points):
        return _points(curve, t)
    if isinstance(curve, Drawn):
        return drawn.evaluate(curve, t)
    if isinstance(curve, Drops):
        return bounces.drops(curve, t)
    if isinstance(curve, Ring):
        return bounces.ring(curve, t)
    if isinstance(curve, Hold):
        return bounces.hold(curve, t)
    return spring.evaluate(curve.bounce, curve.speed, t)


def slope(curve: PlainCurve, t: ArrayLike) -> Floats:
    """dy/dt: exact for two handles, else by central differences of 1e-5 (one-sided at the ends)."""
    t = np.asarray(t, float)
    if isinstance(curve, Handles):
        return handles.slope((curve.x1, curve.y1, curve.x2, curve.y2), t)
    if isinstance(curve, Line):
        return np.ones_like(t)
    low, high = np.clip(t - _SLOPE_STEP, 0.0, 1.0), np.clip(t + _SLOPE_STEP, 0.0, 1.0)
    return (at(curve, high) - at(curve, low)) / (high - low)


def reversed_curve(curve: PlainCurve) -> PlainCurve:
    """The curve whose value at t is 1 - (this curve at 1 - t): the same motion run backwards."""
    if isinstance(curve, Handles):
        return Handles(1 - curve.x2, 1 - curve.y2, 1 - curve.x1, 1 - curve.y1)
    if isinstance(curve, Line):
        return curve
    if isinstance(curve, Steps):
        swapped = {"start": "end", "end": "start"}
        return Steps(curve.count, swapped.get(curve.jump, curve.jump))  # type: ignore[arg-type]
    if isinstance(curve, Points):
        return Points(tuple((1 - at, 1 - value) for at, value in reversed(curve.points)))
    if isinstance(curve, Drawn):
        return drawn.turned(curve)
    if isinstance(curve, Hold):
        return Hold(1.0 - curve.at)
    t = np.linspace(0.0, 1.0, 201)
    values = 1.0 - at(curve, 1.0 - t)
    return Points(tuple(zip(t.tolist(), values.tolist(), strict=True)))


def _steps(curve: Steps, t: Floats) -> Floats:
    """CSS Easing Level 2, step easing functions (with the before flag unset)."""
    n = curve.count
    jumps = {"start": n, "end": n, "none": n - 1, "both": n + 1}[curve.jump]
    step = np.floor(t * n)
    if curve.jump in ("start", "both"):
        step = step + 1
    step = np.where((t >= 0) & (step < 0), 0, step)
    step = np.where((t <= 1) & (step > jumps), jumps, step)
    return step / jumps


def _points(curve: Points, t: Floats) -> Floats:
    """CSS Easing Level 2, the output of a linear easing function."""
    if len(curve.points) == 1:
        return np.full_like(t, curve.points[0][1])
    pairs = np.array(curve.points, float)
    inputs, values = pairs[:, 0], pairs[:, 1]
    i = np.clip(np.searchsorted(inputs, t, side="right") - 1, 0, len(inputs) - 2)
    span = inputs[i + 1] - inputs[i]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        share = (t - inputs[i]) / span
        value = values[i] * (1 - share) + values[i + 1] * share
    return np.where(span == 0, values[i + 1], value)


class CurveTable:
    """Many curves evaluated together: all two-handle curves in one solve, the others one by one."""

    def __init__(self, curves: Sequence[PlainCurve]) -> None:
        self.count = len(curves)
        self.curves = tuple(curves)
        rows = [i for i, c in enumerate(curves) if isinstance(c, Handles)]
        self._handle_rows = np.array(rows, dtype=np.intp)
        self._handles = np.array([(c.x1, c.y1, c.x2, c.y2) for c in curves if isinstance(c, Handles)], float).reshape(
            -1, 4
        )
        self._line_rows = np.array([i for i, c in enumerate(curves) if isinstance(c, Line)], dtype=np.intp)
        self._others = [(i, c) for i, c in enumerate(curves) if not isinstance(c, Handles | Line)]

    def at(self, t: Floats) -> Floats:
        """t (..., curves) to values of the same shape; curve i at t[..., i]."""
        out = np.empty_like(t)
        if len(self._handle_rows):
            out[..., self._handle_rows] = handles.evaluate(self._handles, t[..., self._handle_rows])
        if len(self._line_rows):
            out[..., self._line_rows] = t[..., self._line_rows]
        for i, curve in self._others:
            out[..., i] = at(curve, t[..., i])
        return out
