"""Things that several stations draw: frames as pictures, ribbons, waits, curves."""

from __future__ import annotations

from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from avelt.core.arrays import np
from avelt.core.geometry import tilt
from avelt.core.model.curves import PlainCurve
from avelt.window.theme import Theme

RADIUS = 10.0


def draw_frame(
    painter: QPainter,
    image: QImage,
    rect: QRectF,
    border: QColor,
    width: float = 1.5,
    radius: float = RADIUS,
    paper: bool = True,
) -> None:
    """A frame's picture with rounded corners and a border; white ``paper`` beneath shows through a clear background."""
    path = QPainterPath()
    path.addRoundedRect(rect, radius, radius)
    painter.save()
    painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    painter.setClipPath(path)
    if paper:
        painter.fillRect(rect, Qt.GlobalColor.white)
    painter.drawImage(rect, image, QRectF(image.rect()))
    painter.restore()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(border, width))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(rect, radius, radius)


@lru_cache(maxsize=512)
def curve_points(curve: PlainCurve, count: int = 49) -> tuple[tuple[float, float], ...]:
    """A curve as points to draw: (t, value)."""
    from avelt.core.curves import easing

    t = np.linspace(0.0, 1.0, count)
    return tuple(zip(t.tolist(), easing.at(curve, t).tolist(), strict=True))


def curve_path(curve: PlainCurve, rect: QRectF, count: int = 49) -> QPainterPath:
    """A curve in a rectangle, 0 at its bottom and 1 at its top."""
    left, bottom, width, height = rect.left(), rect.bottom(), rect.width(), rect.height()
    path = QPainterPath()
    points = [QPointF(left + t * width, bottom - value * height) for t, value in curve_points(curve, count)]
    path.addPolygon(QPolygonF(points))
    return path


def draw_wait(painter: QPainter, theme: Theme, rect: QRectF) -> None:
    """Waiting time: a diagonal hatch."""
    if rect.width() > 0.5:
        brush = theme.hatch()
        painter.setBrushOrigin(rect.topLeft())
        painter.fillRect(rect, brush)
        painter.setBrushOrigin(0, 0)


def draw_rest(painter: QPainter, theme: Theme, left: float, right: float, y: float) -> None:
    """Time after the end: dots."""
    if right > left:
        pen = QPen(theme.quiet, 1.0, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([1, 4])
        painter.setPen(pen)
        painter.drawLine(QPointF(left, y), QPointF(right, y))


def draw_ribbon(
    painter: QPainter, theme: Theme, rect: QRectF, curve: PlainCurve, role: str, own: bool, chosen: bool
) -> None:
    """Moving time: filled from the from-colour to the to-colour with the curve inside.

    What is inherited is drawn lower and paler than what is the cue's own.
    """
    if not own:
        rect = rect.adjusted(0, 4, 0, -4)
    first = theme.ribbon_to if role == "enters" else theme.ribbon_from
    last = theme.ribbon_from if role == "leaves" else theme.ribbon_to
    from PySide6.QtGui import QLinearGradient  # Qt names two hundred gradients when it is first asked for one

    fill = QLinearGradient(rect.topLeft(), rect.topRight())
    for at, colour in ((0.0, first), (1.0, last)):
        shade = QColor(colour)
        shade.setAlphaF(1.0 if own else 0.45)
        fill.setColorAt(at, shade)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(fill)
    painter.drawRoundedRect(rect, 4, 4)
    inner = rect.adjusted(2, 3, -2, -3)
    if inner.width() > 4:
        painter.save()
        painter.setClipRect(rect)
        ink = QColor(theme.ink)
        ink.setAlphaF(0.8 if own else 0.45)
        painter.setPen(QPen(ink, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(curve_path(curve, inner))
        painter.restore()
    if chosen:
        painter.setPen(QPen(theme.ink, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)


def shortened(painter: QPainter, text: str, width: float) -> str:
    """The text, cut with an ellipsis where it would be wider."""
    return painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(max(0.0, width)))


def box_polygon(matrix: np.ndarray, w: float, h: float, to: QTransform) -> QPolygonF:
    """A layer's box under its transform, in the widget."""
    return QPolygonF([to.map(QPointF(float(x), float(y))) for x, y in tilt.corners(matrix, w, h)])
