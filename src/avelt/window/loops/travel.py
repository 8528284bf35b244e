"""A value as a line that is driven by hand: where each layer that follows it begins and ends, and how far each is."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.model.values import Follow
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import shortened
from avelt.window.theme import font

_LEFT, _RIGHT, _ROW, _TOP = 150.0, 22.0, 34.0, 30.0
_BAR = 16.0
_NEAR = 6.0
_BEYOND = 0.15  # of the way, shown before and after it


class Travel(QWidget):
    """A row a follow. Drag beside the bars to drive the value, their ends to change from where to where they follow."""

    driven = Signal(float)
    picked = Signal(str)
    dragging = Signal(str, str, float)  # a follow, "start" or "end", its new value
    dropped = Signal()
    cancelled = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.follows: tuple[Follow, ...] = ()
        self.chosen = ""
        self.value = 0.0
        self.shares: Mapping[str, float] = {}
        self.low, self.high = 0.0, 1.0
        self.gestures = GestureHost(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("The value, driven by hand"))

    def show_follows(self, follows: tuple[Follow, ...], chosen: str) -> None:
        """Those of one value."""
        self.follows, self.chosen = follows, chosen
        ends = [mark for follow in follows for mark in (follow.start, follow.end)] or [0.0, 1.0]
        low, high = min(*ends, 0.0), max(ends)
        room = max(high - low, 1e-9) * _BEYOND
        if not self.gestures.active:
            self.low, self.high = low - (room if low < 0.0 else 0.0), high + room
        self.value = min(self.high, max(self.low, self.value))
        self.setMinimumHeight(int(_TOP + _ROW * max(1, len(follows)) + 8))
        self.update()

    def spoken(self) -> list[Spoken]:
        """The follows for assistive technology."""
        return [
            Spoken(
                tr("{follow}, from {start:g} to {end:g}", follow=follow.name, start=follow.start, end=follow.end),
                QRectF(0, _TOP + k * _ROW, self.width(), _ROW),
                follow.id == self.chosen,
            )
            for k, follow in enumerate(self.follows)
        ]

    def show_shares(self, shares: Mapping[str, float]) -> None:
        """How far each is now (by its id)."""
        self.shares = shares
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, 160)

    def x_of(self, value: float) -> float:
        """Where a value stands."""
        return _LEFT + (value - self.low) / (self.high - self.low) * (self.width() - _LEFT - _RIGHT)

    def value_at(self, x: float) -> float:
        """The value at a place."""
        share = (x - _LEFT) / max(1.0, self.width() - _LEFT - _RIGHT)
        return self.low + min(1.0, max(0.0, share)) * (self.high - self.low)

    def y_of(self, place: int) -> float:
        """The middle of a row."""
        return _TOP + _ROW * place + _ROW / 2

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        marks = sorted({mark for follow in self.follows for mark in (follow.start, follow.end)})
        last = -1e9
        for mark in marks:
            x = self.x_of(mark)
            if x - last > 44:
                painter.drawText(QRectF(x - 40, 6, 80, 16), Qt.AlignmentFlag.AlignCenter, f"{mark:g}")
                last = x
        for k, follow in enumerate(self.follows):
            self._paint_row(painter, k, follow)
        painter.setPen(QPen(theme.now, 2))
        x = self.x_of(self.value)
        painter.drawLine(QPointF(x, 22), QPointF(x, self.height() - 4))
        painter.setBrush(theme.now)
        painter.drawEllipse(QPointF(x, 22), 4, 4)

    def _paint_row(self, painter: QPainter, k: int, follow: Follow) -> None:
        theme, y = self.workspace.theme, self.y_of(k)
        chosen = follow.id == self.chosen
        painter.setFont(font(12.5, 600 if chosen else 400))
        painter.setPen(theme.quiet if follow.muted else theme.ink)
        place = QRectF(4, y - 10, _LEFT - 16, 20)
        words = shortened(painter, follow.name, _LEFT - 18)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, words)
        left, right = self.x_of(follow.start), self.x_of(follow.end)
        box = QRectF(min(left, right), y - _BAR / 2, abs(right - left), _BAR)
        painter.setPen(QPen(theme.ink if chosen else theme.line, 1.4 if chosen else 1.0))
        painter.setBrush(theme.faint)
        painter.drawRoundedRect(box, 4, 4)
        share = self.shares.get(follow.id, 0.0)
        reached = left + (right - left) * share
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.loop)
        painter.drawRoundedRect(QRectF(min(left, reached), y - _BAR / 2, abs(reached - left), _BAR), 4, 4)
        wanted = min(max(self.value, min(follow.start, follow.end)), max(follow.start, follow.end))
        if abs(self.x_of(wanted) - reached) > 1.0:  # what is still to come after the value: its trail
            painter.setPen(QPen(theme.leaves, 2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(reached, y), QPointF(self.x_of(wanted), y))

    def _end_at(self, x: float, y: float) -> tuple[Follow, str] | None:
        for k, follow in enumerate(self.follows):
            if abs(y - self.y_of(k)) <= _BAR / 2 + 2:
                for name in ("start", "end"):
                    if abs(self.x_of(getattr(follow, name)) - x) <= _NEAR:
                        return follow, name
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        x, y = event.position().x(), event.position().y()
        place = int((y - _TOP) // _ROW)
        if 0 <= place < len(self.follows):
            self.picked.emit(self.follows[place].id)
        found = self._end_at(x, y)
        if found is not None:
            follow, name = found

            def drag(moved: QMouseEvent) -> None:
                self.dragging.emit(follow.id, name, round(self.value_at(moved.position().x()), 2))

            self.gestures.begin(Drag(drag, lambda _: self.dropped.emit(), self.cancelled.emit))
        elif x >= _LEFT - _NEAR:
            was = self.value

            def drive(moved: QMouseEvent) -> None:
                self.drive(self.value_at(moved.position().x()))

            self.gestures.begin(Drag(drive, drive, lambda: self.drive(was)))
            self.drive(self.value_at(x))

    def drive(self, value: float) -> None:
        """The value is elsewhere."""
        self.value = min(self.high, max(self.low, value))
        self.driven.emit(self.value)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)
        if not event.buttons():
            at_end = self._end_at(event.position().x(), event.position().y()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if at_end else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = (self.high - self.low) / 50.0
        by = {Qt.Key.Key_Left: -step, Qt.Key.Key_Right: step}.get(Qt.Key(event.key()))
        if by is None:
            super().keyPressEvent(event)
        else:
            self.drive(self.value + by)
