"""The cue sheet: values where it leaves, ribbons of time, values where it arrives."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from avelt.window.controls.drawing import draw_rest, draw_ribbon, draw_wait, shortened
from avelt.window.theme import Theme, font
from avelt.window.timing.rows import Row

ROW = 29
HEAD = 28
LEFT, RIGHT = 300, 240  # px for names and values on either side
_EDGE = 6  # px near a ribbon's end that stretch it
_SNAP = 6  # px within which an end snaps
_STEPS = (1, 2, 5, 10, 20, 30, 60, 100, 120, 200, 300, 500, 1000, 2000, 5000, 10000, 30000, 60000, 300000, 600000)


class Grip(Enum):
    """What part of a ribbon is held."""

    ALL = 0
    START = 1
    END = 2


@dataclass
class _Drag:
    """A ribbon being dragged: where it was and what is held."""

    row: Row
    grip: Grip
    x: float
    start: float
    end: float
    moved: bool = False


class SheetHead(QWidget):
    """The ruler over the sheet; dragging in it scrubs."""

    scrubbed = Signal(float)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.scale = Scale()
        self.now = 0.0
        self.setFixedHeight(HEAD)
        self.setCursor(Qt.CursorShape.IBeamCursor)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.bar)
        painter.setFont(font(12.5, 600))
        painter.setPen(self.theme.leaves_text)
        painter.drawText(QRectF(14, 0, 200, HEAD), Qt.AlignmentFlag.AlignVCenter, "leaves from")
        painter.setPen(self.theme.arrives_text)
        painter.drawText(
            QRectF(self.width() - 214, 0, 200, HEAD),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "arrives as",
        )  # fmt: skip
        painter.setFont(font(11))
        painter.setPen(self.theme.quiet)
        for ms in self.scale.ticks(self.width()):
            x = self.scale.x(ms, self.width())
            painter.drawText(QRectF(x - 40, 0, 80, HEAD), Qt.AlignmentFlag.AlignCenter, f"{ms:g}")
        x = self.scale.x(self.now, self.width())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.now)
        painter.drawPolygon(
            QPolygonF([
                QPointF(x - 6, HEAD - 14), QPointF(x + 6, HEAD - 14), QPointF(x + 6, HEAD - 7), QPointF(x, HEAD),
                QPointF(x - 6, HEAD - 7),
            ])
        )  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.scrubbed.emit(self.scale.ms(event.position().x(), self.width()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.scrubbed.emit(self.scale.ms(event.position().x(), self.width()))


class Scale:
    """From ms to x and back, over a widget's width."""

    def __init__(self) -> None:
        self.length = 300.0

    def x(self, ms: float, width: int) -> float:
        """Where a moment stands."""
        return LEFT + ms / max(self.length, 1e-9) * max(1, width - LEFT - RIGHT)

    def ms(self, x: float, width: int) -> float:
        """Which moment stands there, inside the sheet's time."""
        share = (x - LEFT) / max(1, width - LEFT - RIGHT)
        return min(self.length, max(0.0, share * self.length))

    def span(self, dx: float, width: int) -> float:
        """How many ms a travel in px is."""
        return dx / max(1, width - LEFT - RIGHT) * self.length

    def ticks(self, width: int) -> list[float]:
        """The moments that the ruler names: about every 80 px."""
        wanted = self.span(72, width)
        step = next((s for s in _STEPS if s >= wanted), _STEPS[-1])
        return [k * float(step) for k in range(int(self.length / step) + 1)]


class SheetBody(QWidget):
    """The rows. Emits what the person does; changes nothing itself."""

    picked = Signal(object)  # row key
    picked_also = Signal(object)  # row key, put to the chosen ones or taken out
    toggled = Signal(object)  # ends
    dragged = Signal(object, object, object)  # row key, start or None, end or None
    dropped = Signal()
    reset = Signal(object)
    nudged = Signal(object, float)

    def __init__(self, theme: Theme, scale: Scale) -> None:
        super().__init__()
        self.theme, self.scale = theme, scale
        self.rows: tuple[Row, ...] = ()
        self.chosen: tuple[str | None, str | None, str] | None = None
        self.also: frozenset[tuple[str | None, str | None, str]] = frozenset()
        self.now = 0.0
        self._drag: _Drag | None = None
        self._alone: tuple[str | None, str | None, str] | None = None
        self._kept: tuple[object, QPixmap] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Cue sheet")

    def show_rows(self, rows: tuple[Row, ...]) -> None:
        """Show other rows."""
        self.rows = rows
        self.setMinimumHeight(len(rows) * ROW + 4)
        self.update()

    def row_at(self, y: float) -> Row | None:
        """The row at a height."""
        place = int(y // ROW)
        return self.rows[place] if 0 <= place < len(self.rows) else None

    def ribbon_rect(self, place: int) -> QRectF:
        """Where a row's ribbon stands."""
        row = self.rows[place]
        left, right = self.scale.x(row.timed.start, self.width()), self.scale.x(row.timed.end, self.width())
        return QRectF(left, place * ROW + 4, max(3.0, right - left), ROW - 8)

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        # Playing moves nothing but the playhead: the rows are painted once an edit and kept.
        key = (self.rows, self.chosen, self.also, self.scale.length, self.size().toTuple(), self.theme.dark)
        if self._kept is None or self._kept[0] != key:
            self._kept = (key, self._painted_rows())
        painter = QPainter(self)
        area = event.rect()
        ratio = self.devicePixelRatioF()
        source = QRectF(area.x() * ratio, area.y() * ratio, area.width() * ratio, area.height() * ratio)
        painter.drawPixmap(QRectF(area), self._kept[1], source)
        now = self.scale.x(self.now, self.width())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.theme.now, 1.6))
        painter.drawLine(QPointF(now, area.top()), QPointF(now, area.bottom()))

    def _painted_rows(self) -> QPixmap:
        """All rows as a picture."""
        ratio = self.devicePixelRatioF()
        made = QPixmap(self.size() * ratio)
        made.setDevicePixelRatio(ratio)
        made.fill(self.theme.sheet)
        painter = QPainter(made)
        painter.setPen(QPen(self.theme.faint, 1))
        for ms in self.scale.ticks(self.width()):
            x = self.scale.x(ms, self.width())
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        for place in range(len(self.rows)):
            self._paint_row(painter, place)
        painter.end()
        return made

    def _paint_row(self, painter: QPainter, place: int) -> None:
        row, top = self.rows[place], place * ROW
        chosen = row.key == self.chosen or row.key in self.also
        if chosen:
            painter.fillRect(QRectF(0, top, LEFT - 4, ROW), self.theme.chosen)
            painter.fillRect(QRectF(self.width() - RIGHT + 4, top, RIGHT, ROW), self.theme.chosen)
        painter.setPen(QPen(self.theme.faint, 1))
        painter.drawLine(QPointF(0, top + ROW - 0.5), QPointF(self.width(), top + ROW - 0.5))
        self._paint_words(painter, row, top)
        middle = top + ROW / 2
        rect = self.ribbon_rect(place)
        draw_wait(painter, self.theme, QRectF(LEFT, top + 9, rect.left() - LEFT, ROW - 18))
        draw_rest(painter, self.theme, rect.right() + 2, self.scale.x(self.scale.length, self.width()), middle)
        own = row.timed.own_time or row.timed.own_curve
        draw_ribbon(painter, self.theme, rect, row.timed.plain, row.role, own, chosen)

    def _paint_words(self, painter: QPainter, row: Row, top: float) -> None:
        painter.setFont(font(12.5, 500 if not row.prop else 400))
        indent = 46 + 14 * row.depth
        ink = self.theme.quiet if row.prop or row.role == "enters" else self.theme.ink
        painter.setPen(ink)
        left_width = LEFT - indent - (110 if row.prop else 16)
        painter.drawText(
            QRectF(indent, top, left_width, ROW), Qt.AlignmentFlag.AlignVCenter,
            shortened(painter, row.left_name, left_width),
        )  # fmt: skip
        painter.setFont(font(12.5))
        if row.prop:
            painter.setPen(self.theme.leaves_text)
            painter.drawText(
                QRectF(LEFT - 130, top, 114, ROW), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                row.left_value,
            )  # fmt: skip
            painter.setPen(self.theme.arrives_text)
            painter.drawText(
                QRectF(self.width() - RIGHT + 16, top, 130, ROW), Qt.AlignmentFlag.AlignVCenter, row.right_value
            )
        else:
            painter.setPen(self.theme.quiet if row.role == "leaves" else self.theme.ink)
            painter.setFont(font(12.5, 400 if row.role == "leaves" else 500))
            width = RIGHT - 32
            painter.drawText(
                QRectF(self.width() - RIGHT + 16, top, width, ROW),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                shortened(painter, row.right_name, width),
            )  # fmt: skip
        if row.opens:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.quiet)
            x, y = 30.0 + 14 * row.depth, top + ROW / 2
            shape = [(-4, -2.5), (4, -2.5), (0, 3.5)] if row.open else [(-2.5, -4), (3.5, 0), (-2.5, 4)]
            painter.drawPolygon(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in shape]))

    # The mouse

    def _grip_at(self, place: int, x: float) -> Grip | None:
        rect = self.ribbon_rect(place)
        if not rect.left() - _EDGE <= x <= rect.right() + _EDGE:
            return None
        edge = min(_EDGE, rect.width() / 4)
        if x <= rect.left() + edge:
            return Grip.START
        return Grip.END if x >= rect.right() - edge else Grip.ALL

    def mousePressEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        row = self.row_at(position.y())
        if row is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if row.opens and position.x() < 44 + 14 * row.depth:
            self.toggled.emit(row.ends)
            return
        if event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier):
            self.picked_also.emit(row.key)
            return
        self._alone = row.key if row.key in self.also or (self.also and row.key == self.chosen) else None
        if self._alone is None:
            self.picked.emit(row.key)
        grip = self._grip_at(int(position.y() // ROW), position.x())
        if grip is not None:
            self._drag = _Drag(row, grip, position.x(), row.timed.start, row.timed.end)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        position = event.position()
        if self._drag is None:
            place = int(position.y() // ROW)
            grip = self._grip_at(place, position.x()) if 0 <= place < len(self.rows) else None
            shapes = {
                None: Qt.CursorShape.ArrowCursor, Grip.ALL: Qt.CursorShape.OpenHandCursor,
                Grip.START: Qt.CursorShape.SplitHCursor, Grip.END: Qt.CursorShape.SplitHCursor,
            }  # fmt: skip
            self.setCursor(shapes[grip])
            return
        drag = self._drag
        travel = self.scale.span(position.x() - drag.x, self.width())
        if not drag.moved and abs(position.x() - drag.x) < 2:
            return
        drag.moved = True
        free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        start, end = self._dragged_to(drag, travel, free)
        self.dragged.emit(drag.row.key, start, end)

    def _dragged_to(self, drag: _Drag, travel: float, free: bool) -> tuple[float | None, float | None]:
        """New start and end; whole ms, snapped to the playhead and other ends unless ``free``."""
        if drag.grip is Grip.ALL:
            length = drag.end - drag.start
            start = self._snapped(drag.start + travel, drag.row, free)
            if start == round(drag.start + travel) and not free:
                end = self._snapped(drag.start + travel + length, drag.row, free)
                start = end - length
            start = max(0.0, start)
            return start, start + length
        if drag.grip is Grip.START:
            return min(drag.end, max(0.0, self._snapped(drag.start + travel, drag.row, free))), drag.end
        return drag.start, max(drag.start, self._snapped(drag.end + travel, drag.row, free))

    def _snapped(self, ms: float, own: Row, free: bool) -> float:
        if free:
            return round(ms)
        near = self.scale.span(_SNAP, self.width())
        marks = [self.now, 0.0, self.scale.length]
        for row in self.rows:
            if row.key != own.key:
                marks += [row.timed.start, row.timed.end]
        best = min(marks, key=lambda mark: abs(mark - ms))
        return best if abs(best - ms) <= near else float(round(ms))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None and self._drag.moved:
            self.dropped.emit()
        elif self._alone is not None:
            self.picked.emit(self._alone)  # a click on one of several that was no drag chooses it alone
        self._alone = None
        self._drag = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        row = self.row_at(event.position().y())
        if row is not None and row.opens and event.position().x() < LEFT:
            self.toggled.emit(row.ends)

    # The keyboard

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = [row.key for row in self.rows]
        place = keys.index(self.chosen) if self.chosen in keys else -1
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and keys:
            step = -1 if event.key() == Qt.Key.Key_Up else 1
            other = keys[min(len(keys) - 1, max(0, place + step))]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and other != self.chosen:
                self.picked_also.emit(other)
            else:
                self.picked.emit(other)
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and place >= 0:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                row = self.rows[place]
                if row.opens and row.open != (event.key() == Qt.Key.Key_Right):
                    self.toggled.emit(row.ends)
                return
            by = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            self.nudged.emit(keys[place], by if event.key() == Qt.Key.Key_Right else -by)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and place >= 0:
            self.reset.emit(keys[place])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and place >= 0 and self.rows[place].opens:
            self.toggled.emit(self.rows[place].ends)
        else:
            super().keyPressEvent(event)


class Sheet(QWidget):
    """The head and the scrolled rows."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.head = SheetHead(theme)
        self.body = SheetBody(theme, self.head.scale)
        self.scroller = QScrollArea()
        self.scroller.setWidgetResizable(True)
        self.scroller.setWidget(self.body)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroller.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.scroller.setFrameShape(QScrollArea.Shape.NoFrame)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.head)
        layout.addWidget(self.scroller)

    def resizeEvent(self, event: object) -> None:
        # The ruler leaves out what the scroll bar takes, so that both have one scale.
        bar = self.scroller.verticalScrollBar().sizeHint().width()
        self.head.setContentsMargins(0, 0, bar, 0)
        self.head.setFixedWidth(max(1, self.width() - bar))

    def set_length(self, length: float) -> None:
        """The time that the sheet shows."""
        self.head.scale.length = max(1.0, length)
        self.head.update()
        self.body.update()

    def set_now(self, ms: float) -> None:
        """Move the playhead."""
        body, head = self.body, self.head
        old = body.scale.x(body.now, body.width())
        new = body.scale.x(ms, body.width())
        body.now = head.now = ms
        for x in (old, new):
            body.update(int(x) - 3, 0, 7, body.height())
        head.update()

    def reveal(self, key: tuple[str | None, str | None, str]) -> None:
        """Scroll to a row."""
        for place, row in enumerate(self.body.rows):
            if row.key == key:
                self.scroller.ensureVisible(0, place * ROW + ROW // 2, 0, ROW)
