"""The curve in its square: what of it can be dragged, and the speed strip below."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.arrays import np
from avelt.core.curves import drawn, easing
from avelt.core.model.curves import Drawn, Handles, Hold, Line, PlainCurve, Points
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.controls.drawing import curve_path
from avelt.window.theme import Theme, font

_LOW, _HIGH = -0.30, 1.30  # the part of the value axis that is shown at least
_ROOM = 0.08  # beyond the farthest handle, in shares of the shown part
_BARS = 26
_HANDLE = 7.0


class CurveCanvas(QWidget):
    """The curve in its square, with what can be dragged, and the speed strip below."""

    shaped = Signal(object)  # the curve while it is dragged
    dropped = Signal()
    cancelled = Signal()  # a drag was given up
    menu_wanted = Signal(QPoint)  # a right click, in pixels of the screen

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.curve: PlainCurve = Line()
        self.ghost: PlainCurve | None = None
        self.share: float | None = None  # where the playhead is in the cue
        self.times = ("", "")
        self._held = -1
        self._reach: tuple[PlainCurve, float, float] = (self.curve, _LOW, _HIGH)
        self.gestures = GestureHost(self)
        self._focus = 0
        self.setMinimumSize(200, 220)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Curve"))
        self.setToolTip(
            tr(
                "Drag the handles; Tab chooses one, the arrow keys move it. Points and drawn curves: "
                "double-click for one more, Delete takes it away"
            )
        )

    def spoken(self) -> list[Spoken]:
        """The curve's handles or points, for assistive technology."""
        area = self.area()
        return [
            Spoken(
                tr("handle {k} at {x:.0%}, {y:.0%}", k=k + 1, x=x, y=y),
                QRectF(area.left() + x * area.width() - 5, area.bottom() - y * area.height() - 5, 10, 10),
                k == self._focus,
            )
            for k, (x, y) in enumerate(self._spots())
        ]

    def area(self) -> QRectF:
        """The rectangle of 0..1 by 0..1."""
        whole = QRectF(8, 4, self.width() - 16, self.height() - 62)
        low, high = self.reach()
        unit = whole.height() / (high - low)
        return QRectF(whole.left(), whole.top() + (high - 1.0) * unit, whole.width(), unit)

    def reach(self) -> tuple[float, float]:
        """The lowest and the highest value that are shown: the curve and all its handles, but nothing grows under a
        pressed button."""
        if self._reach[0] is not self.curve and self._held < 0:
            values = [*easing.at(self.curve, np.linspace(0.0, 1.0, 65)).tolist(), *(y for _, y in self._spots())]
            low, high = min(values), max(values)
            room = _ROOM * (max(high, _HIGH) - min(low, _LOW))
            low, high = (low - room if low < _LOW else _LOW), (high + room if high > _HIGH else _HIGH)
            self._reach = (self.curve, low, high)
        return self._reach[1:]

    def _spots(self) -> list[tuple[float, float]]:
        """What can be dragged, in curve coordinates."""
        if isinstance(self.curve, Handles):
            return [(self.curve.x1, self.curve.y1), (self.curve.x2, self.curve.y2)]
        if isinstance(self.curve, Points):
            return [(at, value) for at, value in self.curve.points[1:-1]]
        if isinstance(self.curve, Drawn):
            return list(self.curve.points)
        if isinstance(self.curve, Hold):
            return [(self.curve.at, 0.5)]
        return []

    def place_of(self, spot: tuple[float, float]) -> QPointF:
        """Where a spot of the curve stands in the widget."""
        area = self.area()
        return QPointF(area.left() + spot[0] * area.width(), area.bottom() - spot[1] * area.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), self.theme.sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self.area()
        painter.fillRect(area, self.theme.bar)
        painter.setPen(QPen(self.theme.line, 1))
        for k in range(5):
            x, y = area.left() + area.width() * k / 4, area.top() + area.height() * k / 4
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.ghost is not None and self.ghost != self.curve:
            pen = QPen(self.theme.quiet, 1.4, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawPath(curve_path(self.ghost, area, 65))
        if self.share is not None:
            x = area.left() + self.share * area.width()
            painter.setPen(QPen(self.theme.now, 1.6))
            painter.drawLine(QPointF(x, 4), QPointF(x, self.height() - 58))
        painter.setPen(QPen(self.theme.arrives, 2.4))
        painter.drawPath(curve_path(self.curve, area, 129))
        self._paint_ends(painter, area)
        self._paint_handles(painter)
        self._paint_speed(painter, area)

    def _paint_ends(self, painter: QPainter, area: QRectF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        for colour, point in ((self.theme.leaves, area.bottomLeft()), (self.theme.arrives, area.topRight())):
            painter.setBrush(colour)
            painter.drawEllipse(point, 5.5, 5.5)
        if self.share is not None:
            value = float(easing.at(self.curve, np.array(self.share)))
            painter.setBrush(self.theme.now)
            painter.drawEllipse(self.place_of((self.share, value)), 4.5, 4.5)
        painter.setFont(font(11))
        painter.setPen(self.theme.quiet)
        bottom = self.height() - 56
        painter.drawText(QRectF(area.left(), bottom, 120, 16), Qt.AlignmentFlag.AlignLeft, self.times[0])
        painter.drawText(QRectF(area.right() - 120, bottom, 120, 16), Qt.AlignmentFlag.AlignRight, self.times[1])

    def _paint_handles(self, painter: QPainter) -> None:
        spots = self._spots()
        if isinstance(self.curve, Handles):
            painter.setPen(QPen(self.theme.ink, 1))
            for spot, end in zip(spots, ((0.0, 0.0), (1.0, 1.0)), strict=True):
                painter.drawLine(self.place_of(end), self.place_of(spot))
        elif isinstance(self.curve, Drawn):
            painter.setPen(QPen(self.theme.ink, 1))
            for k in range(1, len(spots)):
                if k % 3 != 2:  # each handle is tied to its node, not on the other handle
                    painter.drawLine(self.place_of(spots[k - 1]), self.place_of(spots[k]))
        for k, spot in enumerate(spots):
            active = k == self._held or (self.hasFocus() and k == self._focus)
            painter.setPen(QPen(self.theme.now if active else self.theme.ink, 1.8))
            painter.setBrush(self.theme.sheet)
            place = self.place_of(spot)
            if isinstance(self.curve, Drawn) and k % 3 == 0:
                painter.drawRect(QRectF(place.x() - 4.5, place.y() - 4.5, 9, 9))
            else:
                painter.drawEllipse(place, 5.0, 5.0)

    def _paint_speed(self, painter: QPainter, area: QRectF) -> None:
        edges = easing.at(self.curve, np.linspace(0.0, 1.0, _BARS + 1))
        speed = np.abs(np.diff(edges)) * _BARS
        most = max(1.0, float(speed.max()))
        bottom, height = self.height() - 14, 24.0
        width = area.width() / _BARS
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.ribbon_from)
        for k, value in enumerate(speed.tolist()):
            tall = value / most * height
            painter.drawRect(QRectF(area.left() + k * width + 0.5, bottom - tall, width - 1.5, tall))
        painter.setFont(font(11))
        painter.setPen(self.theme.quiet)
        painter.drawText(QRectF(area.left(), bottom, 200, 14), Qt.AlignmentFlag.AlignLeft, tr("speed"))

    def _move(self, k: int, x: float, y: float) -> None:
        x, y = min(1.0, max(0.0, x)), min(4.0, max(-3.0, y))
        x, y = round(x, 3), round(y, 3)
        if isinstance(self.curve, Handles):
            c = self.curve
            self.curve = Handles(x, y, c.x2, c.y2) if k == 0 else Handles(c.x1, c.y1, x, y)
        elif isinstance(self.curve, Points):
            points = list(self.curve.points)
            low, high = points[k][0], points[k + 2][0]
            points[k + 1] = (min(high, max(low, x)), y)
            self.curve = Points(tuple(points))
        elif isinstance(self.curve, Drawn):
            self.curve = drawn.moved(self.curve, k, x, y)
        elif isinstance(self.curve, Hold):
            self.curve = Hold(x)
        self.update()
        self.shaped.emit(self.curve)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spots = self._spots()
        if event.button() != Qt.MouseButton.LeftButton or not spots:
            return
        far = [(self.place_of(spot) - event.position()).manhattanLength() for spot in spots]
        nearest = int(np.argmin(far))
        if far[nearest] <= _HANDLE * 3:
            self._held = self._focus = nearest
            self.gestures.begin(Drag(self._drag_handle, self._let_go, self._give_up))
            self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_wanted.emit(event.globalPos())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)

    def _drag_handle(self, event: QMouseEvent) -> None:
        area, point = self.area(), event.position()
        self._move(self._held, (point.x() - area.left()) / area.width(), (area.bottom() - point.y()) / area.height())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def _let_go(self, _: object) -> None:
        self._held = -1
        self.update()
        self.dropped.emit()

    def _give_up(self) -> None:
        self._held = -1
        self.update()
        self.cancelled.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """One point more where it was clicked, on curves of points or drawn ones."""
        x = (event.position().x() - self.area().left()) / self.area().width()
        if not 0.0 < x < 1.0:
            return
        if isinstance(self.curve, Drawn):
            self._take(drawn.with_node(self.curve, x))
        elif isinstance(self.curve, Points):
            value = round(float(easing.at(self.curve, np.array(x))), 3)
            self._take(Points(tuple(sorted((*self.curve.points, (round(x, 3), value)), key=lambda p: p[0]))))

    def remove_point(self) -> None:
        """Without the point that is in focus."""
        if isinstance(self.curve, Drawn):
            self._take(drawn.without_node(self.curve, self._focus))
        elif isinstance(self.curve, Points) and self._spots():
            at = min(self._focus, len(self._spots()) - 1) + 1
            self._take(Points((*self.curve.points[:at], *self.curve.points[at + 1 :])))

    def _take(self, curve: PlainCurve) -> None:
        self._held, self._focus = -1, 0
        self.curve = curve
        self.update()
        self.shaped.emit(curve)
        self.dropped.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        spots = self._spots()
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and isinstance(self.curve, Drawn | Points):
            self.remove_point()
            return
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if spots and event.key() in moves:
            step = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
            dx, dy = moves[Qt.Key(event.key())]
            x, y = spots[min(self._focus, len(spots) - 1)]
            self._move(min(self._focus, len(spots) - 1), x + dx * step, y + dy * step)
            self.dropped.emit()
        elif spots and event.key() == Qt.Key.Key_Space and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._focus = (self._focus + 1) % len(spots)
            self.update()
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, forward: bool) -> bool:
        spots = self._spots()
        if spots and forward and self._focus < len(spots) - 1:
            self._focus += 1
            self.update()
            return True
        self._focus = 0
        return super().focusNextPrevChild(forward)
