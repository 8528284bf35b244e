"""What is drawn over the frames on the board: rulers, grid, guides, outlines and handles."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Frame, Layer
from avelt.window.controls.drawing import box_polygon
from avelt.window.frames.handles import Handle
from avelt.window.theme import Theme, font

RULER = 18.0
GRIP = 4.0
_LEAST_GRID = 5.0  # widget px between the lines of a grid that is still shown


def draw_grid(painter: QPainter, theme: Theme, frame: Frame, rect: QRectF, grid: float) -> None:
    """The grid's lines over a frame; not where they would lie too close."""
    scale = rect.width() / frame.w
    if grid <= 0:
        return
    step = grid
    while step * scale < _LEAST_GRID:
        step *= 2
    tone = QColor(theme.now)
    tone.setAlphaF(0.09)
    painter.setPen(QPen(tone, 1))
    lines = []
    for k in range(1, math.ceil(frame.w / step)):
        x = rect.left() + k * step * scale
        lines.append(QLineF(x, rect.top(), x, rect.bottom()))
    for k in range(1, math.ceil(frame.h / step)):
        y = rect.top() + k * step * scale
        lines.append(QLineF(rect.left(), y, rect.right(), y))
    painter.drawLines(lines)


def draw_guides(painter: QPainter, theme: Theme, frame: Frame, rect: QRectF) -> None:
    """The frame's guides."""
    scale = rect.width() / frame.w
    painter.setPen(QPen(theme.arrives, 1))
    for at in frame.guides_x:
        painter.drawLine(
            QPointF(rect.left() + at * scale, rect.top()), QPointF(rect.left() + at * scale, rect.bottom())
        )
    for at in frame.guides_y:
        painter.drawLine(QPointF(rect.left(), rect.top() + at * scale), QPointF(rect.right(), rect.top() + at * scale))


def draw_caught(
    painter: QPainter, theme: Theme, frame: Frame, rect: QRectF, xs: tuple[float, ...], ys: tuple[float, ...]
) -> None:
    """The marks that caught what is dragged."""
    scale = rect.width() / frame.w
    painter.setPen(QPen(theme.now, 1, Qt.PenStyle.DotLine))
    for at in xs:
        x = rect.left() + at * scale
        painter.drawLine(QPointF(x, rect.top() - 6), QPointF(x, rect.bottom() + 6))
    for at in ys:
        y = rect.top() + at * scale
        painter.drawLine(QPointF(rect.left() - 6, y), QPointF(rect.right() + 6, y))


def draw_outline(
    painter: QPainter, theme: Theme, frame: Frame, layer: Layer, to: QTransform, solid: bool, width: float = 1.8
) -> None:
    """A layer's box, dashed for a relative."""
    flat = flatten(frame)
    i = flat.index[layer.id]
    painter.setPen(QPen(theme.now, width, Qt.PenStyle.SolidLine if solid else Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(box_polygon(flat.to_frame(i), layer.w, layer.h, to))


def draw_path_line(painter: QPainter, theme: Theme, frame: Frame, layer_id: str, to: QTransform) -> None:
    """A path's own line while its nodes are edited."""
    from avelt.core.timing.compile import compile_still
    from avelt.core.timing.items import items
    from avelt.paint.outlines import outline_path, own_transform

    def visit(level: list, matrix: QTransform) -> QPainterPath | None:  # type: ignore[type-arg]
        for item in level:
            here = own_transform(item) * matrix
            if item.layer.id == layer_id:
                return here.map(outline_path(item))
            found = visit(item.children, here)
            if found is not None:
                return found
        return None

    path = visit(items(compile_still(frame).at(0.0)), to)
    if path is not None:
        painter.setPen(QPen(theme.now, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)


def draw_handles(
    painter: QPainter, theme: Theme, found: list[Handle], to: QTransform, colours: list[QColor], node: object
) -> None:
    """The handles, each by its own mark; ``colours`` are those of a gradient's stops."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    by_kind: dict[str, list[Handle]] = {}
    for handle in found:
        by_kind.setdefault(handle.kind, []).append(handle)
    _draw_lines(painter, theme, by_kind, to)
    for handle in by_kind.get("corner", []):
        _dot(painter, to.map(QPointF(*handle.at)), 3.2, theme.sheet, theme.now)
    for handle in by_kind.get("grip", []):
        _square(painter, to.map(QPointF(*handle.at)), GRIP, theme.sheet, theme.now)
    for handle in by_kind.get("rotation", []):
        _dot(painter, to.map(QPointF(*handle.at)), 4.4, theme.sheet, theme.now)
    for handle in by_kind.get("pivot", []):
        _pivot(painter, theme, to.map(QPointF(*handle.at)))
    for handle in by_kind.get("handle", []):
        _dot(painter, to.map(QPointF(*handle.at)), 3.4, theme.sheet, theme.now)
    for handle in by_kind.get("node", []):
        fill = theme.now if handle.data == node else theme.sheet
        _square(painter, to.map(QPointF(*handle.at)), GRIP, fill, theme.now)
    for handle in (*by_kind.get("start", []), *by_kind.get("end", [])):
        _dot(painter, to.map(QPointF(*handle.at)), 7.0, QColor(0, 0, 0, 0), theme.now)
    for handle in by_kind.get("stop", []):
        tone = colours[handle.data] if handle.data < len(colours) else theme.sheet
        _dot(painter, to.map(QPointF(*handle.at)), 5.0, tone, theme.sheet)
        painter.setPen(QPen(theme.ink, 1))
        painter.drawEllipse(to.map(QPointF(*handle.at)), 6.0, 6.0)


def _draw_lines(painter: QPainter, theme: Theme, by_kind: dict[str, list[Handle]], to: QTransform) -> None:
    painter.setPen(QPen(theme.now, 1.2))
    ends = [*by_kind.get("start", []), *by_kind.get("end", [])]
    if len(ends) == 2:
        painter.drawLine(to.map(QPointF(*ends[0].at)), to.map(QPointF(*ends[1].at)))
    for handle in by_kind.get("rotation", []):
        top = next((h for h in by_kind.get("grip", []) if h.data == (0.5, 0)), None)
        if top is not None:
            painter.drawLine(to.map(QPointF(*top.at)), to.map(QPointF(*handle.at)))
    at = {h.data: h.at for h in by_kind.get("node", [])}
    for handle in by_kind.get("handle", []):
        sub, _, anchor = handle.data
        point = at.get((sub, anchor // 3)) or at.get((sub, 0))
        if point is not None:
            painter.drawLine(to.map(QPointF(*point)), to.map(QPointF(*handle.at)))


def _square(painter: QPainter, at: QPointF, size: float, fill: QColor, edge: QColor) -> None:
    painter.setPen(QPen(edge, 1.4))
    painter.setBrush(fill)
    painter.drawRect(QRectF(at.x() - size + 0.5, at.y() - size + 0.5, 2 * size - 1, 2 * size - 1))


def _dot(painter: QPainter, at: QPointF, radius: float, fill: QColor, edge: QColor) -> None:
    painter.setPen(QPen(edge, 1.5))
    painter.setBrush(fill)
    painter.drawEllipse(at, radius, radius)


def _pivot(painter: QPainter, theme: Theme, at: QPointF) -> None:
    for pen in (QPen(theme.sheet, 3.6), QPen(theme.now, 1.5)):
        painter.setPen(pen)
        painter.drawLine(at - QPointF(5, 0), at + QPointF(5, 0))
        painter.drawLine(at - QPointF(0, 5), at + QPointF(0, 5))


def draw_rulers(
    painter: QPainter, theme: Theme, size: QRectF, frame: Frame | None, rect: QRectF, pointer: QPointF
) -> None:
    """Rulers along the top and the left, counted from the chosen frame's corner."""
    top, left = QRectF(0, 0, size.width(), RULER), QRectF(0, 0, RULER, size.height())
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    for band in (top, left):
        painter.fillRect(band, theme.bar)
    painter.setPen(QPen(theme.line, 1))
    painter.drawLine(QPointF(0, RULER - 0.5), QPointF(size.width(), RULER - 0.5))
    painter.drawLine(QPointF(RULER - 0.5, 0), QPointF(RULER - 0.5, size.height()))
    if frame is None or rect.width() <= 0:
        return
    scale = rect.width() / frame.w
    step = _ruler_step(scale)
    painter.setFont(font(9))
    painter.setPen(theme.quiet)
    for k in range(0, int(frame.w / step) + 1):
        x = rect.left() + k * step * scale
        if x >= RULER:
            painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER - 1))
            painter.drawText(QPointF(x + 3, RULER - 6), f"{k * step:g}")
    for k in range(0, int(frame.h / step) + 1):
        y = rect.top() + k * step * scale
        if y >= RULER:
            painter.drawLine(QPointF(RULER - 6, y), QPointF(RULER - 1, y))
            painter.save()
            painter.translate(RULER - 8, y + 3)
            painter.rotate(90)
            painter.drawText(QPointF(0, 0), f"{k * step:g}")
            painter.restore()
    painter.setPen(QPen(theme.now, 1))
    painter.drawLine(QPointF(pointer.x(), 0), QPointF(pointer.x(), RULER - 1))
    painter.drawLine(QPointF(0, pointer.y()), QPointF(RULER - 1, pointer.y()))


def _ruler_step(scale: float) -> float:
    """A round number of px that is about 60 widget px long."""
    step = 60.0 / scale
    size = 10.0 ** math.floor(math.log10(step))
    return next(size * k for k in (1, 2, 5, 10) if size * k >= step)
