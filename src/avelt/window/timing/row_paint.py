"""Painting one row of the cue sheet: words, values, ribbon, keys."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from avelt.core.timing.schedule import Timed
from avelt.core.words import tr
from avelt.window.controls.drawing import draw_rest, draw_ribbon, draw_wait, shortened
from avelt.window.theme import Theme, font
from avelt.window.timing.rows import Row
from avelt.window.timing.scale import LEFT, RIGHT, Scale

ROW = 29
HEAD = 28
VALUE_LEFT = QRectF(LEFT - 130, 0, 114, ROW)  # where a value stands in its row, from the left edge
MARK = 5.0


def ribbon_rect(scale: Scale, row: Row, place: int, width: int) -> QRectF:
    """Where a row's ribbon stands, also where it is not seen."""
    left, right = scale.x(row.timed.start, width), scale.x(row.timed.end, width)
    return QRectF(left, place * ROW + 4, max(3.0, right - left), ROW - 8)


def value_rect(side: int, place: int, width: int) -> QRectF:
    """Where a property's value stands: 0 left, 1 right."""
    if side == 0:
        return VALUE_LEFT.translated(0, place * ROW)
    return QRectF(width - RIGHT + 12, place * ROW, 134, ROW)


def keyframe_moments(when: Timed) -> list[float]:
    """When a cue's keyframes are, ms."""
    return [when.start + key.at * when.duration for key in when.keyframes]


def keyframes(scale: Scale, row: Row, place: int, width: int) -> list[QPointF]:
    """Where a row's keys stand."""
    y = place * ROW + ROW / 2
    return [QPointF(scale.x(ms, width), y) for ms in keyframe_moments(row.timed)]


def paint_row(
    painter: QPainter, theme: Theme, scale: Scale, row: Row, place: int, width: int, chosen: bool, keyframe: int
) -> None:
    """A whole row; ``keyframe`` is its chosen one, or -1."""
    top = place * ROW
    if chosen:
        painter.fillRect(QRectF(0, top, LEFT - 4, ROW), theme.chosen)
        painter.fillRect(QRectF(width - RIGHT + 4, top, RIGHT, ROW), theme.chosen)
    painter.setPen(QPen(theme.faint, 1))
    painter.drawLine(QPointF(0, top + ROW - 0.5), QPointF(width, top + ROW - 0.5))
    _paint_words(painter, theme, row, top, width)
    if not row.changes:
        return
    painter.save()
    painter.setClipRect(QRectF(LEFT - 3, top, width - LEFT - RIGHT + 6, ROW))
    rect, middle = ribbon_rect(scale, row, place, width), top + ROW / 2
    begins = scale.x(0.0, width)
    draw_wait(painter, theme, QRectF(begins, top + 9, rect.left() - begins, ROW - 18))
    draw_rest(painter, theme, rect.right() + 2, scale.x(scale.length, width), middle)
    when = row.timed
    if when.muted:
        _paint_muted(painter, theme, rect, chosen)
    else:
        own = when.own_time or when.own_curve or when.hung or bool(when.keyframes) or when.motion_path is not None
        draw_ribbon(painter, theme, rect, when.plain, row.role, own, chosen)
        for k, point in enumerate(keyframes(scale, row, place, width)):
            painter.setPen(QPen(theme.now, 1.8))
            painter.setBrush(theme.now if k == keyframe else theme.sheet)
            painter.drawLine(point + QPointF(0, -ROW / 2 + 4), point + QPointF(0, ROW / 2 - 5))
            painter.drawEllipse(point, MARK - 1, MARK - 1)
    painter.restore()


def _paint_muted(painter: QPainter, theme: Theme, rect: QRectF, chosen: bool) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.ink if chosen else theme.quiet, 1.2, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(rect.adjusted(0.5, 4.5, -0.5, -4.5), 4, 4)
    painter.setPen(theme.quiet)
    painter.setFont(font(11))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, tr("muted"))


def _paint_words(painter: QPainter, theme: Theme, row: Row, top: float, width: int) -> None:
    painter.setFont(font(12.5, 500 if not row.prop else 400))
    indent = 46 + 14 * row.depth
    painter.setPen(theme.quiet if row.prop or row.role == "enters" or not row.changes else theme.ink)
    left_width = LEFT - indent - (110 if row.prop else 16)
    painter.drawText(
        QRectF(indent, top, left_width, ROW),
        Qt.AlignmentFlag.AlignVCenter,
        shortened(painter, row.left_name, left_width),
    )
    painter.setFont(font(12.5))
    if row.prop:
        painter.setPen(theme.leaves_text)
        painter.drawText(
            VALUE_LEFT.translated(0, top), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.left_value
        )
        painter.setPen(theme.arrives_text)
        painter.drawText(QRectF(width - RIGHT + 16, top, 130, ROW), Qt.AlignmentFlag.AlignVCenter, row.right_value)
    else:
        painter.setPen(theme.quiet if row.role == "leaves" else theme.ink)
        painter.setFont(font(12.5, 400 if row.role == "leaves" else 500))
        room = RIGHT - 32
        painter.drawText(
            QRectF(width - RIGHT + 16, top, room, ROW),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            shortened(painter, row.right_name, room),
        )
    if row.opens:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.quiet)
        x, y = 30.0 + 14 * row.depth, top + ROW / 2
        shape = [(-4, -2.5), (4, -2.5), (0, 3.5)] if row.open else [(-2.5, -4), (3.5, 0), (-2.5, 4)]
        painter.drawPolygon(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in shape]))
