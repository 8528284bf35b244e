"""Paints and pens of a scene as Qt's."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

from PySide6.QtCore import Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QConicalGradient,
    QGradient,
    QLinearGradient,
    QPen,
    QRadialGradient,
    QTransform,
)

from avelt.core.arrays import Floats, np
from avelt.core.blending.paints import form
from avelt.core.model.values import Paint
from avelt.core.timing.painted import Brush, Pen

_SPREAD = {
    "pad": QGradient.Spread.PadSpread,
    "reflect": QGradient.Spread.ReflectSpread,
    "repeat": QGradient.Spread.RepeatSpread,
}
_CAP = {"butt": Qt.PenCapStyle.FlatCap, "round": Qt.PenCapStyle.RoundCap, "square": Qt.PenCapStyle.SquareCap}
_JOIN = {"miter": Qt.PenJoinStyle.SvgMiterJoin, "round": Qt.PenJoinStyle.RoundJoin, "bevel": Qt.PenJoinStyle.BevelJoin}
#: Qt counts angles against the clock from the right; conic gradients go with it from the top.
_CLOCKWISE = QTransform(0.0, -1.0, -1.0, 0.0, 0.0, 0.0)
_APART = 1e-6  # Qt drops the first of two stops at one place; a hair apart both count
_MAX_FOCUS = 0.9999


def colour(rgba: Floats | Sequence[float]) -> QColor:
    """A QColor from four numbers 0..1."""
    r, g, b, a = rgba.tolist() if isinstance(rgba, np.ndarray) else rgba
    return QColor.fromRgbF(min(1.0, max(0.0, r)), min(1.0, max(0.0, g)), min(1.0, max(0.0, b)), min(1.0, max(0.0, a)))


@lru_cache(maxsize=4096)
def _solid(rgba: bytes) -> QBrush:
    return QBrush(colour(np.frombuffer(rgba)))


def as_brush(paint: Paint) -> Brush:
    """A paint of the model as a scene's brush."""
    f = form(paint)
    return Brush(f.kind, f.colours, f.at, f.matrix, f.focus, f.spread, f.pattern)


def qbrush(brush: Brush, w: float, h: float) -> QBrush:
    """A QBrush over a box of w x h, for every paint but a pattern (which a painter must paint first)."""
    if brush.kind == "solid":
        return _solid(brush.colours[0].tobytes())
    gradient: QGradient
    if brush.kind == "linear":
        gradient = QLinearGradient(0.0, 0.0, 1.0, 0.0)
    elif brush.kind == "conic":
        gradient = QConicalGradient(0.0, 0.0, 0.0)
    else:
        fx, fy, fr = brush.focus
        far = math.hypot(fx, fy)
        if far > _MAX_FOCUS:
            fx, fy = fx / far * _MAX_FOCUS, fy / far * _MAX_FOCUS
        gradient = QRadialGradient(0.0, 0.0, 1.0, fx, fy, min(fr, _MAX_FOCUS))
    gradient.setSpread(_SPREAD[brush.spread])
    # SVG and CSS Images blend stops without multiplying alpha in; Qt's default does.
    gradient.setInterpolationMode(QGradient.InterpolationMode.ComponentInterpolation)
    last = -1.0
    for at, rgba in zip(brush.at.tolist(), brush.colours, strict=True):
        place = at if at > last else last + _APART
        if place > 1.0:
            place = 1.0
        gradient.setColorAt(place, colour(rgba))
        last = place
    made = QBrush(gradient)
    a, b, c, d, e, f = brush.matrix
    w, h = w or 1.0, h or 1.0
    over = QTransform(a * w, b * h, c * w, d * h, e * w, f * h)
    made.setTransform(_CLOCKWISE * over if brush.kind == "conic" else over)
    return made


def qpen(pen: Pen) -> QPen:
    """A QPen of a stroke's form, without its paint."""
    made = QPen(Qt.GlobalColor.black, pen.width, Qt.PenStyle.SolidLine, _CAP[pen.cap], _JOIN[pen.join])
    made.setMiterLimit(pen.miter)
    if pen.dashes and pen.width > 0:
        made.setDashPattern([max(dash / pen.width, 1e-4) for dash in pen.dashes])
        made.setDashOffset(pen.offset / pen.width)
    return made
