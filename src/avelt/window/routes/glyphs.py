"""A small mark for each kind of trigger, drawn by hand: one function a kind, found by its word."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

Draw = Callable[[QPainter, QColor], None]


def draw_glyph(painter: QPainter, centre: QPointF, word: str, ink: QColor, size: float = 16.0) -> None:
    """The mark of a trigger, fitted into a square of ``size`` px round a point."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(centre)
    painter.scale(size / 16.0, size / 16.0)
    painter.setPen(QPen(ink, 1.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    GLYPHS.get(word, _unknown)(painter, ink)
    painter.restore()


def _dot(painter: QPainter, ink: QColor, x: float = 0.0, y: float = 0.0, r: float = 2.3) -> None:
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    painter.drawEllipse(QPointF(x, y), r, r)
    painter.restore()


def _lines(painter: QPainter, *lines: tuple[float, float, float, float]) -> None:
    for x0, y0, x1, y1 in lines:
        painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))


def _tap(painter: QPainter, ink: QColor) -> None:
    painter.drawEllipse(QPointF(0, 0), 7, 7)
    _dot(painter, ink)


def _double(painter: QPainter, ink: QColor) -> None:
    painter.drawEllipse(QPointF(0, 0), 7, 7)
    painter.drawEllipse(QPointF(0, 0), 4.3, 4.3)
    _dot(painter, ink, r=1.7)


def _hold(painter: QPainter, ink: QColor) -> None:
    _dot(painter, ink, 0, -2, 3.4)
    _lines(painter, (-6, 6, 6, 6))


def _release(painter: QPainter, ink: QColor) -> None:
    _lines(painter, (0, 3, 0, -6), (0, -6, -3, -3), (0, -6, 3, -3), (-6, 6, 6, 6))


def _hover_in(painter: QPainter, ink: QColor) -> None:
    painter.drawRoundedRect(QRectF(-2, -6, 9, 12), 2, 2)
    _lines(painter, (-7, 0, 2, 0), (2, 0, -0.5, -2.5), (2, 0, -0.5, 2.5))


def _hover_out(painter: QPainter, ink: QColor) -> None:
    painter.drawRoundedRect(QRectF(-7, -6, 9, 12), 2, 2)
    _lines(painter, (-2, 0, 7, 0), (7, 0, 4.5, -2.5), (7, 0, 4.5, 2.5))


def _drag(painter: QPainter, ink: QColor) -> None:
    _dot(painter, ink, -4.5, 0, 3.2)
    _lines(painter, (0, 0, 7, 0), (7, 0, 4.5, -2.5), (7, 0, 4.5, 2.5))


def _scroll(painter: QPainter, ink: QColor) -> None:
    painter.drawRoundedRect(QRectF(-4, -7, 8, 14), 4, 4)
    _lines(painter, (0, -4, 0, -1))


def _pointer(painter: QPainter, ink: QColor) -> None:
    path = QPainterPath(QPointF(-4, -6))
    for x, y in ((5, 0.5), (1, 1.5), (-1, 6)):
        path.lineTo(x, y)
    path.closeSubpath()
    painter.drawPath(path)


def _key(painter: QPainter, ink: QColor) -> None:
    painter.drawRoundedRect(QRectF(-7, -6, 14, 12), 3, 3)
    _lines(painter, (-3, 2.5, 3, 2.5))


def _timer(painter: QPainter, ink: QColor) -> None:
    painter.drawEllipse(QPointF(0, 0), 7, 7)
    _lines(painter, (0, 0, 0, -4.2), (0, 0, 3, 1.5))


def _loading(painter: QPainter, ink: QColor) -> None:
    painter.drawArc(QRectF(-7, -7, 14, 14), 90 * 16, -270 * 16)
    _dot(painter, ink, r=1.8)


def _crosses(painter: QPainter, ink: QColor) -> None:
    painter.setPen(QPen(ink, 1.2, Qt.PenStyle.DotLine))
    _lines(painter, (-7, 0, 7, 0))
    painter.setPen(QPen(ink, 1.5))
    _lines(painter, (-6, 6, -1, 2), (-1, 2, 6, -6))
    _dot(painter, ink, 0.6, 0, 1.9)


def _signal(painter: QPainter, ink: QColor) -> None:
    _dot(painter, ink, -5, 0, 2)
    for r in (4.5, 8.5):
        painter.drawArc(QRectF(-5 - r, -r, 2 * r, 2 * r), -42 * 16, 84 * 16)


def _ends(painter: QPainter, ink: QColor) -> None:
    _lines(painter, (-7, 0, 3, 0), (3, 0, 0.5, -2.5), (3, 0, 0.5, 2.5), (6, -6, 6, 6))


def _unknown(painter: QPainter, ink: QColor) -> None:
    painter.drawEllipse(QPointF(0, 0), 7, 7)


GLYPHS: dict[str, Draw] = {
    "tap": _tap,
    "double tap": _double,
    "press and hold": _hold,
    "release": _release,
    "hover in": _hover_in,
    "hover out": _hover_out,
    "drag": _drag,
    "scroll": _scroll,
    "pointer": _pointer,
    "key": _key,
    "timer": _timer,
    "loading": _loading,
    "input crosses": _crosses,
    "signal": _signal,
    "motion ends": _ends,
}
