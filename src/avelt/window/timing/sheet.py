"""The cue sheet: values where it leaves, ribbons of time, values where it arrives; and the ruler above them."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from avelt.core.model.motion import CueKey
from avelt.core.words import tr
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.pinch import Pinch
from avelt.window.theme import Theme, font
from avelt.window.timing.context import TimingContext
from avelt.window.timing.row_paint import HEAD, ROW
from avelt.window.timing.scale import LEFT, RIGHT, Scale
from avelt.window.timing.sheet_gestures import free_of
from avelt.window.timing.sheet_rows import SheetRows

_NEAR = 6.0  # px
_CLICK = 2.0  # px that a click may wander


class SheetHead(QWidget):
    """The ruler over the sheet: dragging in it scrubs, its last line is the length, its marks are the part played."""

    scrubbed = Signal(float)
    stretched = Signal(float, bool)  # another length; whether only the end moves
    dropped = Signal()
    range_wanted = Signal(object)  # (in, out) in ms, or None for all
    cancelled = Signal()  # a stretch was given up
    menu_wanted = Signal(QPoint)  # a right click, in pixels of the screen

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.scale = Scale()
        self.now = 0.0
        self.trail: float | None = None  # where a motion is that comes after the playhead
        self.end = 300.0  # the transition's length; cues may go on beyond it
        self.play_range: tuple[float, float] | None = None
        self.marks: Callable[[], list[float]] = list  # moments that the playhead snaps to
        self.gestures = GestureHost(self)
        self.setFixedHeight(HEAD)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setToolTip(
            tr(
                "Drag to scrub; it snaps to cues and keyframes (not with Alt). Drag the line at the "
                "end to stretch all (Alt: only the end). I and O mark the part played"
            )
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.bar)
        painter.setFont(font(12.5, 600))
        painter.setPen(self.theme.leaves_text)
        painter.drawText(QRectF(14, 0, 200, HEAD), Qt.AlignmentFlag.AlignVCenter, tr("leaves from"))
        painter.setPen(self.theme.arrives_text)
        painter.drawText(
            QRectF(self.width() - 214, 0, 200, HEAD),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            tr("arrives as"),
        )
        painter.setClipRect(QRectF(LEFT - 22, 0, self.width() - LEFT - RIGHT + 44, HEAD))
        if self.play_range is not None:
            low, high = (self.scale.x(ms, self.width()) for ms in self.play_range)
            tint = QColor(self.theme.now)
            tint.setAlphaF(0.14)
            painter.fillRect(QRectF(low, 0, high - low, HEAD), tint)
            painter.setPen(QPen(self.theme.now, 2))
            for x in (low, high):
                painter.drawLine(QPointF(x, 3), QPointF(x, HEAD - 3))
        painter.setFont(font(11))
        painter.setPen(self.theme.quiet)
        for ms in self.scale.ticks(self.width()):
            x = self.scale.x(ms, self.width())
            painter.drawText(QRectF(x - 40, 0, 80, HEAD), Qt.AlignmentFlag.AlignCenter, f"{ms:g}")
        x = self.scale.x(self.end, self.width())
        painter.setPen(QPen(self.theme.ink, 1.6))
        painter.drawLine(QPointF(x, HEAD - 10), QPointF(x, HEAD))
        x = self.scale.x(self.now, self.width())
        if self.trail is not None:
            there = self.scale.x(self.trail, self.width())
            painter.setPen(QPen(self.theme.leaves, 2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(there, HEAD - 4), QPointF(x, HEAD - 4))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.leaves)
            painter.drawEllipse(QPointF(there, HEAD - 5), 4, 4)
        if LEFT - 1 <= x <= self.width() - RIGHT + 1:
            self._paint_playhead(painter, x)

    def _paint_playhead(self, painter: QPainter, x: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.now)
        painter.drawPolygon(
            QPolygonF(
                [
                    QPointF(x - 6, HEAD - 14),
                    QPointF(x + 6, HEAD - 14),
                    QPointF(x + 6, HEAD - 7),
                    QPointF(x, HEAD),
                    QPointF(x - 6, HEAD - 7),
                ]
            )
        )

    def _what(self, x: float) -> str:
        """What is held at a place: a mark of the part, the end, or the playhead."""
        if self.play_range is not None:
            for name, ms in zip(("in", "out"), self.play_range, strict=True):
                if abs(self.scale.x(ms, self.width()) - x) <= _NEAR:
                    return name
        at_end = abs(self.scale.x(self.end, self.width()) - x) <= _NEAR
        return "end" if at_end and abs(self.scale.x(self.now, self.width()) - x) > _NEAR else "now"

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x = event.position().x()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        what = self._what(x)
        if what == "now":
            before = self.now
            self.gestures.begin(Drag(self._scrub, on_cancel=lambda: self.scrubbed.emit(before)))
            self._scrub(event)
        elif what == "end":
            self.gestures.begin(_Stretch(self, x))
        elif self.play_range is not None:
            known = self.play_range
            self.gestures.begin(
                Drag(lambda e: self._mark(e, what, known), on_cancel=lambda: self.range_wanted.emit(known))
            )

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.scrubbed.emit(self._place(event.pos().x(), free=False))
        self.menu_wanted.emit(event.globalPos())

    def _scrub(self, event: QMouseEvent) -> None:
        self.scrubbed.emit(self._place(event.position().x(), free_of(event)))

    def _place(self, x: float, free: bool) -> float:
        """The moment at a place: whole ms, near a mark that mark unless ``free``."""
        ms = self.scale.ms(x, self.width())
        mark = None if free else self.scale.mark_near(ms, (0.0, self.end, *self.marks()), _NEAR, self.width())
        return float(round(ms if mark is None else mark))

    def _mark(self, event: QMouseEvent, what: str, known: tuple[float, float]) -> None:
        ms = self.scale.ms(event.position().x(), self.width())
        low, high = known
        self.range_wanted.emit((min(ms, high - 1), high) if what == "in" else (low, max(ms, low + 1)))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self.gestures.move(event):
            shapes = {"now": Qt.CursorShape.IBeamCursor}
            self.setCursor(shapes.get(self._what(event.position().x()), Qt.CursorShape.SplitHCursor))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    @property
    def held(self) -> bool:
        """Whether the end is being dragged."""
        return isinstance(self.gestures.active, _Stretch)


class _Stretch:
    """The end being dragged: the scale changes under the hand, so what counts is ms a px as it was at the press.

    A press that never went anywhere is a click: the playhead goes to the end.
    """

    def __init__(self, head: SheetHead, x: float) -> None:
        self.head, self.x = head, x
        self.end_then, self.rate = head.end, head.scale.span(1.0, head.width())
        self.moved = False

    def move(self, event: QMouseEvent) -> None:
        """Another duration, or with Alt only another end."""
        self.moved = self.moved or abs(event.position().x() - self.x) > _CLICK
        if not self.moved:
            return
        travel = (event.position().x() - self.x) * self.rate
        only_end = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        self.head.stretched.emit(max(1.0, round(self.end_then + travel)), only_end)

    def end(self, event: QMouseEvent) -> None:
        """One entry of undo, or none for a click."""
        if self.moved:
            self.head.dropped.emit()
        else:
            self.head.scrubbed.emit(self.end_then)

    def cancel(self) -> None:
        """As it was before the press."""
        self.head.cancelled.emit()


class Sheet(QWidget):
    """The head and the scrolled rows."""

    resized = Signal()

    def __init__(self, theme: Theme, context: TimingContext) -> None:
        super().__init__()
        self.head = SheetHead(theme)
        self.body = SheetRows(theme, self.head.scale, context)
        self.head.marks = self.body.moments
        scale = self.head.scale
        Pinch(self.body, lambda by, at: self.magnify(by, scale.ms(at.x(), self.body.width())))
        self.scroller = QScrollArea()
        self.scroller.setWidgetResizable(True)
        self.scroller.setWidget(self.body)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroller.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.scroller.setFrameShape(QScrollArea.Shape.NoFrame)
        self.scroller.viewport().installEventFilter(self)
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
        self.resized.emit()

    def set_duration(self, length: float, end: float | None = None) -> None:
        """The time that the sheet shows, and the transition's own end in it."""
        scale = self.head.scale
        # While an end is dragged the time shown does not shrink, so that what is held stays under the mouse.
        held = self.head.held or self.body.held
        scale.length = max(1.0, length, scale.length if held else 0.0)
        scale.move_to(scale.first)
        self.head.end = length if end is None else end
        self.head.update()
        self.body.update()

    def set_now(self, ms: float, trail: float | None = None) -> None:
        """Move the playhead; ``trail``: where the motion is that comes after it."""
        body, head = self.body, self.head
        head.trail = trail
        old = body.scale.x(body.now, body.width())
        new = body.scale.x(ms, body.width())
        body.now = head.now = ms
        for x in (old, new):
            body.update(int(x) - 3, 0, 7, body.height())
        head.update()

    def magnify(self, factor: float, ms: float | None = None) -> None:
        """More or less time at once, about a moment (the playhead's unless told)."""
        self.head.scale.magnify(factor, self.body.now if ms is None else ms)
        self.head.update()
        self.body.update()

    def fit(self) -> None:
        """All of the time."""
        self.head.scale.fit()
        self.head.update()
        self.body.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """What turns sideways, or with Ctrl or Shift, is about time: the rows would scroll by it, or swallow it."""
        if event.type() != QEvent.Type.Wheel:
            return False
        turned = cast(QWheelEvent, event)
        held = turned.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if not held and abs(turned.angleDelta().x()) <= abs(turned.angleDelta().y()):
            return False
        self.wheelEvent(turned)
        return True

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Ctrl zooms the time; Shift moves along it, and so does what turns sideways (two fingers, a second wheel)."""
        across, down = event.angleDelta().x(), event.angleDelta().y()
        turned = across if abs(across) > abs(down) else down
        scale = self.head.scale
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.magnify(1.25 if turned > 0 else 0.8, scale.ms(event.position().x(), self.body.width()))
            event.accept()
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(across) > abs(down):
            scale.move_to(scale.first - turned / 120 * scale.shown / 8)
            self.head.update()
            self.body.update()
            event.accept()
        else:
            super().wheelEvent(event)

    def reveal(self, key: CueKey) -> None:
        """Scroll to a row."""
        for place, row in enumerate(self.body.rows):
            if row.key == key:
                self.scroller.ensureVisible(0, place * ROW + ROW // 2, 0, ROW)


__all__ = ["HEAD", "LEFT", "RIGHT", "ROW", "Scale", "Sheet", "SheetHead", "SheetRows"]
