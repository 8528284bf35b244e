"""Any curve as the cubic Bezier that comes nearest to it."""

from __future__ import annotations

from typing import Any

from avelt.core.arrays import np
from avelt.core.curves import easing
from avelt.core.model.curves import Handles, Line, PlainCurve


def nearest_handles(curve: PlainCurve) -> tuple[list[float], float]:
    """A curve as the four numbers of a cubic Bezier, and the largest error: 0 where it is one."""
    if isinstance(curve, Line):
        return [0.0, 0.0, 1.0, 1.0], 0.0
    if isinstance(curve, Handles):
        return [curve.x1, curve.y1, curve.x2, curve.y2], 0.0
    from scipy.optimize import least_squares

    t = np.linspace(0.0, 1.0, 65)
    wanted = easing.at(curve, t)

    def away(p: Any) -> Any:
        return easing.at(Handles(float(p[0]), float(p[1]), float(p[2]), float(p[3])), t) - wanted

    found = least_squares(away, (0.3, 0.1, 0.6, 0.9), bounds=((0, -10, 0, -10), (1, 10, 1, 10)))
    handles = [round(float(value), 4) for value in found.x]
    return handles, float(np.abs(away(handles)).max())
