"""How the matrix looks: heads, cells with a route, free cells, the diagonal."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from avelt.core.model.values import Frame
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import curve_path, draw_frame, draw_wait, shortened
from avelt.window.routes.cells import RouteCell
from avelt.window.routes.glyphs import draw_glyph
from avelt.window.theme import font

_FULL, _HALF = 76.0, 34.0  # px of height: above, cells say all; above the other, the most important
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class Faces:
    """Paints the pieces of the matrix; where they stand is told."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace

    def ground(self, painter: QPainter, rect: QRectF) -> None:
        """The desk, where heads cover what scrolls under them."""
        painter.fillRect(rect, self.workspace.theme.desk)

    def corner(self, painter: QPainter, rect: QRectF) -> None:
        """What rows and columns are."""
        theme = self.workspace.theme
        painter.setFont(font(11))
        painter.setPen(theme.arrives_text)
        painter.drawText(QRectF(16, rect.bottom() - 46, rect.width() - 30, 16), _RIGHT, tr("columns arrive →"))
        painter.setPen(theme.leaves_text)
        painter.drawText(QRectF(16, rect.bottom() - 28, rect.width() - 30, 16), _RIGHT, tr("rows leave ↓"))

    def marker(self, painter: QPainter, rect: QRectF) -> None:
        """Where a dragged frame would go."""
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.workspace.theme.now)
        painter.drawRoundedRect(rect, 1, 1)

    # Heads

    def thumb(self, rect: QRectF, frame: Frame) -> QRectF:
        """Where a frame's picture stands in a row's head."""
        h = min(rect.height() - 8, 132.0)
        if h < 40:
            return QRectF()
        w = h * frame.w / frame.h
        if w > 66.0:
            w, h = 66.0, 66.0 * frame.h / frame.w
        return QRectF(rect.right() - 2 - w, rect.center().y() - h / 2, w, h)

    def row_head(self, painter: QPainter, rect: QRectF, frame: Frame, first: bool, note: str, lit: bool) -> None:
        """A row's head: name, what it is, picture."""
        theme = self.workspace.theme
        place = self.thumb(rect, frame)
        right = rect.right() - 76 if not place.isEmpty() else rect.right() - 4
        self._name(
            painter,
            QRectF(12, rect.center().y() - (19 if rect.height() > 40 else 9), right - 12, 18),
            frame.name,
            theme.leaves_text,
            lit,
            _RIGHT,
        )
        painter.setFont(font(11, 600 if first else 400))
        painter.setPen(theme.trouble if note else theme.ink if first else theme.quiet)
        words = note or (tr("starts here") if first else tr("leaves"))
        if rect.height() > 40:
            painter.drawText(QRectF(12, rect.center().y(), right - 12, 16), _RIGHT, words)
        if not place.isEmpty():
            image = self.workspace.pictures.soon(frame, place.height() / frame.h * 2)
            draw_frame(painter, image, place, theme.leaves, 2.0 if lit else 1.0, 4)

    def column_head(self, painter: QPainter, rect: QRectF, frame: Frame, lit: bool) -> None:
        """A column's head; turned words where columns are narrow."""
        theme = self.workspace.theme
        if rect.width() < 70:
            painter.save()
            painter.translate(rect.center().x(), rect.bottom() - 2)
            painter.rotate(-58)
            self._name(painter, QRectF(0, -9, 96, 18), frame.name, theme.arrives_text, lit, _LEFT)
            painter.restore()
            return
        middle = Qt.AlignmentFlag.AlignCenter
        self._name(painter, QRectF(rect.left(), 10, rect.width(), 18), frame.name, theme.arrives_text, lit, middle)
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        painter.drawText(QRectF(rect.left(), 27, rect.width(), 16), middle, tr("arrives"))
        h = rect.bottom() - 48
        w = min(rect.width(), h * frame.w / frame.h)
        w, h = (w, w * frame.h / frame.w) if w < h * frame.w / frame.h else (w, h)
        place = QRectF(rect.center().x() - w / 2, rect.bottom() - h, w, h)
        image = self.workspace.pictures.soon(frame, h / frame.h * 2)
        draw_frame(painter, image, place, theme.arrives, 2.0 if lit else 1.0, 4)

    def _name(
        self, painter: QPainter, rect: QRectF, name: str, colour: QColor, lit: bool, where: Qt.AlignmentFlag
    ) -> None:
        painter.setFont(font(12.5, 700 if lit else 600))
        painter.setPen(colour)
        painter.drawText(rect, where, shortened(painter, name, rect.width()))

    # Cells

    def free(self, painter: QPainter, rect: QRectF, hot: bool, dragging: bool, quiet: bool) -> None:
        """A cell without a route."""
        theme = self.workspace.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.now if hot else theme.faint if quiet else theme.line, 1, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        if hot and rect.width() > 60:
            painter.setFont(font(12.5))
            painter.setPen(theme.now)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, tr("drop here") if dragging else tr("make a route"))

    def diagonal(
        self,
        painter: QPainter,
        rect: QRectF,
        frame: Frame,
        routes: tuple[RouteCell, ...],
        chosen: Sequence[str],
        hot: bool,
    ) -> None:
        """What moves inside a frame, and the routes that stay in it."""
        theme = self.workspace.theme
        mine = any(cell.route_id in chosen for cell in routes)
        painter.setPen(QPen(theme.ink if mine else theme.now if hot else theme.faint, 2 if mine else 1))
        painter.setBrush(theme.faint)
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        count = len(frame.loops)
        tall = rect.height() > _FULL
        low = rect.bottom() - (38 if routes and tall else 20)
        if count and rect.height() > _HALF:
            centre = QPointF(rect.center().x(), rect.top() + (low - rect.top()) / 2 + 2)
            for k in range(min(count, 3)):
                r = min((low - rect.top()) / 2 - 6, rect.width() / 2 - 8, 40.0) - k * 8
                if r > 4:
                    self._ring(painter, centre, r, k)
        if tall:
            painter.setFont(font(11))
            painter.setPen(theme.loop_text if count else theme.quiet)
            words = tr("{n} loops", "{n} loop", count) if count else "" if routes else tr("rests")
            box = QRectF(rect.left(), low, rect.width(), 16) if count else rect
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if routes:
            line = QRectF(rect.left() + 8, rect.bottom() - 21, rect.width() - 16, 16)
            self._stays(painter, line if tall else rect.adjusted(4, 0, -4, 0), routes)

    def _ring(self, painter: QPainter, centre: QPointF, r: float, k: int) -> None:
        theme = self.workspace.theme
        ring = QRectF(centre.x() - r, centre.y() - r, 2 * r, 2 * r)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.line, 4))
        painter.drawEllipse(ring)
        painter.setPen(QPen(theme.loop, 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        painter.drawArc(ring, 90 * 16, -int((300 - k * 60) * 16))

    def _stays(self, painter: QPainter, rect: QRectF, routes: tuple[RouteCell, ...]) -> None:
        """The first route that stays in its frame, and how many more there are."""
        theme = self.workspace.theme
        first = routes[0]
        draw_glyph(painter, QPointF(rect.left() + 7, rect.center().y()), first.trigger, theme.ink, 12)
        painter.setFont(font(11))
        painter.setPen(theme.trouble if any(cell.trouble for cell in routes) else theme.ink)
        more = f" +{len(routes) - 1}" if len(routes) > 1 else ""
        room = rect.width() - 20
        painter.drawText(rect.adjusted(18, 0, 0, 0), _LEFT, shortened(painter, f"{first.does}{more}", room))

    def route(
        self,
        painter: QPainter,
        rect: QRectF,
        cell: RouteCell,
        routes: tuple[RouteCell, ...],
        pairs: tuple[int, int] | None,
        chosen: bool,
        hot: bool,
    ) -> None:
        """A cell with one route or several, one of which is shown."""
        theme = self.workspace.theme
        edge = theme.ink if chosen else theme.trouble if cell.trouble else theme.now if hot else theme.line
        if len(routes) > 1:
            painter.setBrush(theme.bar)
            painter.setPen(QPen(theme.line, 1))
            painter.drawRoundedRect(rect.adjusted(5.5, 4.5, -0.5, -0.5), 8, 8)
            rect = rect.adjusted(0, 0, -5, -4)
        painter.setBrush(theme.sheet)
        painter.setPen(QPen(edge, 2 if chosen else 1))
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        if rect.height() < _HALF or rect.width() < 56:
            tint = theme.trouble if cell.trouble else theme.ink
            draw_glyph(painter, rect.center(), cell.trigger, tint, min(16.0, rect.height() - 6))
        elif rect.height() < _FULL:
            self._half(painter, rect, cell)
        else:
            self._full(painter, rect, cell, routes, pairs)

    def _half(self, painter: QPainter, rect: QRectF, cell: RouteCell) -> None:
        theme = self.workspace.theme
        draw_glyph(painter, QPointF(rect.left() + 13, rect.top() + 14), cell.trigger, theme.ink, 14)
        painter.setFont(font(11, 600))
        painter.setPen(theme.trouble if cell.trouble else theme.ink)
        room = rect.width() - 30
        painter.drawText(
            QRectF(rect.left() + 25, rect.top() + 5, room, 18), _LEFT, shortened(painter, tr(cell.trigger), room)
        )
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        words = tr("follows") if cell.follows else f"{cell.length:g} ms"
        painter.drawText(QRectF(rect.left() + 8, rect.bottom() - 22, rect.width() - 14, 18), _LEFT, words)

    def _full(
        self,
        painter: QPainter,
        rect: QRectF,
        cell: RouteCell,
        routes: tuple[RouteCell, ...],
        pairs: tuple[int, int] | None,
    ) -> None:
        theme = self.workspace.theme
        draw_glyph(painter, rect.topLeft() + QPointF(17, 20), cell.trigger, theme.ink)
        badge = self._badge(painter, rect, cell, routes, pairs)
        painter.setFont(font(12.5, 600))
        painter.setPen(theme.ink)
        room = rect.width() - 40 - badge
        painter.drawText(
            QRectF(rect.left() + 32, rect.top() + 4, room, 18), _LEFT, shortened(painter, tr(cell.trigger), room)
        )
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        room = rect.width() - 40
        painter.drawText(QRectF(rect.left() + 32, rect.top() + 21, room, 16), _LEFT, shortened(painter, cell.on, room))
        strip = QRectF(rect.left() + 8, rect.top() + 42, rect.width() - 16, rect.height() - 69)
        self._strip(painter, strip, cell)
        low = QRectF(rect.left() + 9, rect.bottom() - 24, rect.width() - 18, 20)
        painter.setFont(font(12, 600))
        painter.setPen(theme.ink)
        length = tr("follows") if cell.follows else f"{cell.length:g} ms"
        painter.drawText(low, _LEFT, length)
        used = painter.fontMetrics().horizontalAdvance(length) + 8
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        count = tr("{n} pairs", "{n} pair", pairs[0]) if pairs is not None else "…"
        words = cell.does or count
        painter.drawText(low.adjusted(used, 0, 0, 0), _RIGHT, shortened(painter, words, low.width() - used))

    def _strip(self, painter: QPainter, strip: QRectF, cell: RouteCell) -> None:
        """The curve, behind the wait; a straight line with ends for what follows a value."""
        theme = self.workspace.theme
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.bar)
        painter.drawRoundedRect(strip, 4, 4)
        run = QRectF(strip)
        if cell.wait > 0:
            share = cell.wait / max(1e-9, cell.wait + cell.length)
            run.setLeft(strip.left() + strip.width() * min(0.7, share))
            draw_wait(painter, theme, QRectF(strip.left(), strip.top(), run.left() - strip.left(), strip.height()))
        painter.setPen(QPen(theme.arrives, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        inner = run.adjusted(4, 5, -4, -5)
        painter.drawPath(curve_path(cell.curve, inner))
        if cell.follows:
            painter.setBrush(theme.sheet)
            for point in (inner.bottomLeft(), inner.topRight()):
                painter.drawEllipse(point, 3, 3)

    def _badge(
        self,
        painter: QPainter,
        rect: QRectF,
        cell: RouteCell,
        routes: tuple[RouteCell, ...],
        pairs: tuple[int, int] | None,
    ) -> float:
        """What stands out: trouble, a stack, a condition, unsure pairs. Gives the width it takes."""
        theme = self.workspace.theme
        if cell.trouble:
            words, colour = tr("trouble"), theme.trouble
        elif len(routes) > 1:
            words, colour = tr("{nth} of {count}", nth=routes.index(cell) + 1, count=len(routes)), theme.quiet
        elif pairs is not None and pairs[1]:
            words, colour = tr("{pairs} unsure", pairs=pairs[1]), theme.leaves_text
        elif cell.condition:
            words, colour = tr("if …"), theme.quiet
        else:
            return 0.0
        painter.setFont(font(11, 600 if cell.trouble else 400))
        painter.setPen(colour)
        wide = painter.fontMetrics().horizontalAdvance(words) + 2.0
        painter.drawText(QRectF(rect.right() - wide - 8, rect.top() + 5, wide, 16), _RIGHT, words)
        return wide + 6.0

    def tip(self, cell: RouteCell) -> str:
        """All about a route in a few lines."""
        lines = [
            f"{tr(cell.trigger)}: {cell.on}",
            f"{cell.length:g} ms" + (tr(", waits {wait:g} ms", wait=cell.wait) if cell.wait else ""),
        ]
        lines += [cell.does] if cell.does else []
        lines += [tr("only if {condition}", condition=cell.condition)] if cell.condition else []
        return "\n".join([*lines, *cell.trouble])
