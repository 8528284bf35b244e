"""The matrix of routes: rows leave, columns arrive. Its cells as data, and the canvas that shows them."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.curves.named import plain
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Frame, PlainCurve, Project
from avelt.core.model.wording import trigger_words
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.schedule import length_of
from avelt.window.controls.drawing import curve_path, draw_frame, draw_wait, shortened
from avelt.window.shell.desk import Desk
from avelt.window.theme import font

_CELL_W, _CELL_H, _GAP = 134.0, 102.0, 10.0
_LARGEST = 1.5
_HEAD_W, _HEAD_H = 214.0, 118.0


@dataclass(frozen=True)
class RouteCell:
    """What a cell says about one route."""

    route_id: str
    trigger: str
    on: str
    length: float
    wait: float
    curve: PlainCurve
    pairs: int
    unsure: int


def cells(project: Project) -> dict[tuple[str, str], list[RouteCell]]:
    """The routes of every couple of frames, in the project's order."""
    found: dict[tuple[str, str], list[RouteCell]] = {}
    for route in project.routes:
        pairing = pairing_of(project, route)
        trigger, on = trigger_words(project, route)
        wait = route.wait + (route.trigger.wait if isinstance(route.trigger, Timer) else 0.0)
        length, curve = length_of(route.transition), plain(project, route.transition.curve)
        unsure = sum(pair.confidence < 0.7 for pair in pairing.pairs)
        cell = RouteCell(route.id, trigger, on, length, wait, curve, len(pairing.pairs), unsure)
        found.setdefault((route.leaves, route.arrives), []).append(cell)
    return found


class Matrix(QWidget):
    """The canvas. A click on an empty cell asks for a route; on a full one it chooses it."""

    wanted = Signal(str, str)
    picked = Signal(str)
    opened = Signal(str)
    removed = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.cells: dict[tuple[str, str], list[RouteCell]] = {}
        self._hover: tuple[int, int] | None = None
        self._cursor = (0, 0)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Routes")

    def refresh(self) -> None:
        """Take over the project."""
        self.cells = cells(self.desk.project)
        n = len(self.desk.project.frames)
        self.setMinimumSize(int(_HEAD_W + n * (_CELL_W + _GAP)), int(_HEAD_H + n * (_CELL_H + _GAP) + 34))
        self.update()

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell stands."""
        w, h = self.cell_size()
        return QRectF(_HEAD_W + column * (w + _GAP), _HEAD_H + row * (h + _GAP), w, h)

    def cell_size(self) -> tuple[float, float]:
        """Cells grow a little where few frames leave room."""
        n = max(1, len(self.desk.project.frames))
        parent = self.parentWidget()
        room_w, room_h = (parent.width(), parent.height()) if parent else (0, 0)
        factor = min(
            (room_w - _HEAD_W - 20) / n / (_CELL_W + _GAP), (room_h - _HEAD_H - 40) / n / (_CELL_H + _GAP), _LARGEST
        )
        return _CELL_W * max(1.0, factor), _CELL_H * max(1.0, factor)

    def _cell_at(self, point: QPointF) -> tuple[int, int] | None:
        n = len(self.desk.project.frames)
        for row in range(n):
            for column in range(n):
                if self.cell_rect(row, column).contains(point):
                    return row, column
        return None

    def _frames(self) -> tuple[Frame, ...]:
        return self.desk.project.frames

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frames = self._frames()
        for k, frame in enumerate(frames):
            self._paint_column_head(painter, k, frame)
            self._paint_row_head(painter, k, frame)
        chosen = self.desk.route
        for row, left in enumerate(frames):
            for column, right in enumerate(frames):
                rect = self.cell_rect(row, column)
                if row == column:
                    self._paint_diagonal(painter, rect, left)
                    continue
                routes = self.cells.get((left.id, right.id), [])
                is_chosen = chosen is not None and any(entry.route_id == chosen.id for entry in routes)
                if routes:
                    shown = next((e for e in routes if chosen is not None and e.route_id == chosen.id), routes[0])
                    self._paint_route(painter, rect, shown, len(routes), is_chosen)
                else:
                    self._paint_free(painter, rect, (row, column))
        painter.setPen(self.desk.theme.quiet)
        painter.setFont(font(12.5))
        bottom = self.cell_rect(len(frames) - 1, 0).bottom() + 10 if frames else 20
        painter.drawText(
            QRectF(20, bottom, 900, 22), Qt.AlignmentFlag.AlignLeft,
            "Rows leave, columns arrive. Click an empty cell to make a route.",
        )  # fmt: skip

    def _paint_column_head(self, painter: QPainter, k: int, frame: Frame) -> None:
        theme, rect = self.desk.theme, self.cell_rect(0, k)
        painter.setFont(font(12.5, 600))
        painter.setPen(theme.arrives_text)
        painter.drawText(
            QRectF(rect.left(), 8, rect.width(), 18), Qt.AlignmentFlag.AlignCenter,
            shortened(painter, frame.name, rect.width()),
        )  # fmt: skip
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        painter.drawText(QRectF(rect.left(), 26, rect.width(), 16), Qt.AlignmentFlag.AlignCenter, "arrives")
        h = 62.0
        w = min(rect.width(), h * frame.w / frame.h)
        place = QRectF(rect.center().x() - w / 2, 46, w, h)
        image = self.desk.picture(frame, h / frame.h * self.devicePixelRatioF() * 2)
        draw_frame(painter, image, place, theme.arrives, 1.0, 4)

    def _paint_row_head(self, painter: QPainter, k: int, frame: Frame) -> None:
        theme, rect = self.desk.theme, self.cell_rect(k, 0)
        first = frame.id == self.desk.project.first
        painter.setFont(font(12.5, 600))
        painter.setPen(theme.leaves_text)
        right = _HEAD_W - 76
        painter.drawText(
            QRectF(10, rect.center().y() - 20, right - 10, 18),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, shortened(painter, frame.name, right - 10),
        )  # fmt: skip
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        painter.drawText(
            QRectF(10, rect.center().y() - 1, right - 10, 16),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "starts here" if first else "leaves",
        )  # fmt: skip
        h = 86.0
        w = min(58.0, h * frame.w / frame.h)
        place = QRectF(_HEAD_W - 12 - w, rect.center().y() - h / 2, w, h)
        image = self.desk.picture(frame, h / frame.h * self.devicePixelRatioF() * 2)
        draw_frame(painter, image, place, theme.leaves, 1.0, 4)

    def _paint_diagonal(self, painter: QPainter, rect: QRectF, frame: Frame) -> None:
        theme = self.desk.theme
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.faint)
        painter.drawRoundedRect(rect, 8, 8)
        count = len(frame.loops)
        painter.setFont(font(11))
        if not count:
            painter.setPen(theme.quiet)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, "rests")
            return
        centre = rect.center() - QPointF(0, 8)
        for k in range(min(count, 3)):
            r = 33.0 - k * 9
            ring = QRectF(centre.x() - r, centre.y() - r, 2 * r, 2 * r)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.line, 4))
            painter.drawEllipse(ring)
            painter.setPen(QPen(theme.loop, 4))
            painter.drawArc(ring, 90 * 16, -int((300 - k * 60) * 16))
        painter.setPen(theme.loop_text)
        painter.drawText(
            QRectF(rect.left(), rect.bottom() - 20, rect.width(), 16), Qt.AlignmentFlag.AlignCenter,
            f"{count} loop{'s' if count != 1 else ''}",
        )  # fmt: skip

    def _paint_free(self, painter: QPainter, rect: QRectF, place: tuple[int, int]) -> None:
        theme = self.desk.theme
        hot = place == self._hover or (self.hasFocus() and place == self._cursor)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.now if hot else theme.line, 1, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        if hot:
            painter.setFont(font(12.5))
            painter.setPen(theme.now)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, "make a route")

    def _paint_route(self, painter: QPainter, rect: QRectF, cell: RouteCell, count: int, chosen: bool) -> None:
        theme = self.desk.theme
        painter.setBrush(theme.sheet)
        painter.setPen(QPen(theme.ink if chosen else theme.line, 2 if chosen else 1))
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        self._paint_trigger(painter, rect.topLeft() + QPointF(17, 20), cell.trigger)
        painter.setFont(font(12.5, 600))
        painter.setPen(theme.ink)
        painter.drawText(QRectF(rect.left() + 32, rect.top() + 5, 80, 18), Qt.AlignmentFlag.AlignVCenter, cell.trigger)
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        painter.drawText(
            QRectF(rect.left() + 32, rect.top() + 22, rect.width() - 38, 16), Qt.AlignmentFlag.AlignVCenter,
            shortened(painter, cell.on, rect.width() - 38),
        )  # fmt: skip
        strip = QRectF(rect.left() + 8, rect.top() + 43, rect.width() - 16, rect.height() - 72)
        painter.fillRect(strip, theme.bar)
        run = QRectF(strip)
        if cell.wait > 0:
            share = cell.wait / max(1e-9, cell.wait + cell.length)
            run.setLeft(strip.left() + strip.width() * min(0.8, share))
            draw_wait(painter, theme, QRectF(strip.left(), strip.center().y() - 9, run.left() - strip.left(), 18))
        painter.setPen(QPen(theme.arrives, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(curve_path(cell.curve, run.adjusted(3, 5, -3, -4)))
        painter.setFont(font(12, 600))
        painter.setPen(theme.ink)
        low = QRectF(rect.left() + 9, rect.bottom() - 24, rect.width() - 18, 18)
        painter.drawText(low, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, f"{cell.length:g} ms")
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        painter.drawText(
            low, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            f"{cell.pairs} pair{'s' if cell.pairs != 1 else ''}",
        )  # fmt: skip
        badge = f"1 of {count}" if count > 1 else f"{cell.unsure} unsure" if cell.unsure else ""
        if badge:
            painter.setPen(theme.leaves_text)
            painter.drawText(
                QRectF(rect.right() - 68, rect.top() + 5, 60, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, badge,
            )  # fmt: skip

    def _paint_trigger(self, painter: QPainter, centre: QPointF, trigger: str) -> None:
        theme = self.desk.theme
        painter.setPen(QPen(theme.ink, 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, 7.5, 7.5)
        if trigger == "tap":
            painter.setBrush(theme.ink)
            painter.drawEllipse(centre, 2.2, 2.2)
        else:
            painter.drawLine(centre, centre + QPointF(0, -4.5))
            painter.drawLine(centre, centre + QPointF(3.5, 1.5))

    # The mouse and the keyboard

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self._cell_at(event.position())
        if place is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._cursor = place
        self._use(place)

    def _use(self, place: tuple[int, int]) -> None:
        left, right = self._frames()[place[0]], self._frames()[place[1]]
        if place[0] == place[1]:
            self.desk.choose(left.id)
            self.opened.emit("loops")
            return
        routes = self.cells.get((left.id, right.id), [])
        if not routes:
            self.wanted.emit(left.id, right.id)
            return
        chosen = self.desk.route
        ids = [entry.route_id for entry in routes]
        at = ids.index(chosen.id) if chosen is not None and chosen.id in ids else -1
        self.picked.emit(ids[(at + 1) % len(ids)])

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        place = self._cell_at(event.position())
        if place is not None and place[0] != place[1]:
            self.opened.emit("timing")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        place = self._cell_at(event.position())
        if place != self._hover:
            self._hover = place
            self.setCursor(Qt.CursorShape.PointingHandCursor if place else Qt.CursorShape.ArrowCursor)
            self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {
            Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0),
        }  # fmt: skip
        n = len(self._frames())
        if event.key() in moves and n:
            dr, dc = moves[Qt.Key(event.key())]
            self._cursor = (min(n - 1, max(0, self._cursor[0] + dr)), min(n - 1, max(0, self._cursor[1] + dc)))
            left, right = self._frames()[self._cursor[0]], self._frames()[self._cursor[1]]
            routes = self.cells.get((left.id, right.id), [])
            if routes:
                self.picked.emit(routes[0].route_id)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and n:
            self._use(self._cursor)
        elif event.key() == Qt.Key.Key_Delete and self.desk.route is not None:
            self.removed.emit(self.desk.route.id)
        else:
            super().keyPressEvent(event)
