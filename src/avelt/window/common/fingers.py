"""Touch screens: one finger is the mouse, held still it asks for the menu, two move and zoom what lies under them.

All views know the mouse, the wheel and the touch pad already; what fingers do is told to them as these. One place hears
the touches of a whole window before its widgets do, so that no view needs to know that there are fingers.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PySide6.QtCore import QElapsedTimer, QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import (
    QContextMenuEvent,
    QGuiApplication,
    QInputDevice,
    QMouseEvent,
    QNativeGestureEvent,
    QPointingDevice,
    QTouchEvent,
    QWheelEvent,
    QWindow,
)
from PySide6.QtWidgets import QApplication, QWidget

from avelt.window.common.pinch import DIRECT

_SLOP = 10.0  # px that a finger may move and still rest, unless the desktop says more
_PARTED = 40.0  # px: fingers nearer to each other do not zoom
_TURNED = 2  # what a wheel says for a px that is scrolled


def touched(root: QWidget) -> Fingers | None:
    """Hears the fingers on a window, where there is a touch screen."""
    if not any(device.type() == QInputDevice.DeviceType.TouchScreen for device in QInputDevice.devices()):
        return None
    made = Fingers(root)
    made.listen()
    return made


class Fingers(QObject):
    """What the fingers on a window do. ``mode`` is ``""`` (none), ``rests``, ``drags``, ``two`` or ``done``."""

    def __init__(self, root: QWidget) -> None:
        super().__init__(root)
        self._root = root
        self.mode = ""
        self._at = self._began = QPointF()  # in px of the window
        self._apart = 0.0
        self._held = QTimer(self)
        self._held.setSingleShot(True)
        self._held.timeout.connect(self._ask_menu)
        self._tapped = QElapsedTimer()
        self._tapped_at = QPointF()

    def listen(self) -> None:
        """From now on: the window is there."""
        window = self._root.windowHandle()
        if window is not None:
            window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind not in (QEvent.Type.TouchBegin, QEvent.Type.TouchUpdate, QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            return False
        touch = cast(QTouchEvent, event)
        if touch.pointingDevice().type() != QPointingDevice.DeviceType.TouchScreen:
            return False
        event.accept()
        if kind == QEvent.Type.TouchCancel:
            self._stop()
            return True
        down = [point.position() for point in touch.points() if point.state() != touch.points()[0].State.Released]
        if kind == QEvent.Type.TouchBegin:
            self._begin(touch.points()[0].position())
        if len(down) >= 2:
            self._two(down[0], down[1])
        elif len(down) == 1 and self.mode in ("rests", "drags"):
            self._move(down[0])
        elif not down:
            self._end(touch.points()[0].position())
        return True

    # One finger

    def _begin(self, at: QPointF) -> None:
        self._at = self._began = at
        self.mode = "rests"
        if self._directly(at):
            self._press()
            return
        self._held.start(QGuiApplication.styleHints().mousePressAndHoldInterval())

    def _directly(self, at: QPointF) -> bool:
        widget = self._under(at)
        return widget is not None and bool(widget.property(DIRECT))

    def _press(self) -> None:
        self.mode = "drags"
        self._held.stop()
        near = (self._began - self._tapped_at).manhattanLength() < 2 * self._slop()
        twice = (
            self._tapped.isValid() and self._tapped.elapsed() < QGuiApplication.styleHints().mouseDoubleClickInterval()
        )
        self._tapped.invalidate()
        self._mouse(QEvent.Type.MouseMove, self._began, Qt.MouseButton.NoButton, False)
        if near and twice:  # widgets are told of it in the place of a second press
            self._mouse(QEvent.Type.MouseButtonDblClick, self._began, Qt.MouseButton.LeftButton, True)
            return
        self._mouse(QEvent.Type.MouseButtonPress, self._began, Qt.MouseButton.LeftButton, True)
        self._tapped.start()
        self._tapped_at = self._began

    def _move(self, at: QPointF) -> None:
        self._at = at
        if self.mode == "rests" and (at - self._began).manhattanLength() > self._slop():
            self._press()
        if self.mode == "drags":
            self._mouse(QEvent.Type.MouseMove, at, Qt.MouseButton.NoButton, True)

    def _end(self, at: QPointF) -> None:
        if self.mode == "rests":
            self._press()
            at = self._began
        if self.mode == "drags":
            self._mouse(QEvent.Type.MouseButtonRelease, at, Qt.MouseButton.LeftButton, False)
        self._held.stop()
        self.mode = ""

    def _stop(self) -> None:
        """The desktop took the touch for itself."""
        if self.mode == "drags":
            self._mouse(QEvent.Type.MouseButtonRelease, self._at, Qt.MouseButton.LeftButton, False)
        self._held.stop()
        self.mode = ""

    def _ask_menu(self) -> None:
        if self.mode != "rests":
            return
        self.mode = "done"
        widget = self._under(self._at)
        if widget is not None:
            local, globally = self._in(widget, self._at)
            menu = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, local.toPoint(), globally)
            QApplication.sendEvent(widget, menu)

    # Two

    def _two(self, a: QPointF, b: QPointF) -> None:
        middle, apart = (a + b) / 2, max(1.0, ((a - b).x() ** 2 + (a - b).y() ** 2) ** 0.5)
        if self.mode == "rests":
            self._held.stop()
            self.mode = "two"
            self._at, self._apart = middle, apart
        if self.mode != "two":  # what one finger has begun it ends
            return
        widget = self._under(self._at)
        travel = middle - self._at
        if widget is not None:
            if not travel.isNull():
                self._scroll(widget, self._at, travel)
            if min(apart, self._apart) > _PARTED and apart != self._apart:
                self._zoom(widget, middle, apart / self._apart)
        self._at, self._apart = middle, apart

    def _scroll(self, widget: QWidget, at: QPointF, travel: QPointF) -> None:
        turned = QPoint(round(travel.x() * _TURNED), round(travel.y() * _TURNED))
        held, pixels = QGuiApplication.keyboardModifiers(), travel.toPoint()

        def wheel(local: QPointF, globally: QPointF) -> QEvent:
            none, phase = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
            return QWheelEvent(local, globally, pixels, turned, none, held, phase, False)

        self._tell(widget, at, wheel)

    def _zoom(self, widget: QWidget, at: QPointF, factor: float) -> None:
        device, kind = QPointingDevice.primaryPointingDevice(), Qt.NativeGestureType.ZoomNativeGesture

        def zoom(local: QPointF, globally: QPointF) -> QEvent:
            return QNativeGestureEvent(kind, device, 2, local, at, globally, factor - 1.0, QPointF())

        self._tell(widget, at, zoom)

    def _tell(self, widget: QWidget, at: QPointF, make: Callable[[QPointF, QPointF], QEvent]) -> None:
        """To the first widget from the one under the fingers up that takes it."""
        there: QWidget | None = widget
        while there is not None:
            local, globally = self._in(there, at)
            event = make(local, QPointF(globally))
            event.ignore()
            if QApplication.sendEvent(there, event) and event.isAccepted():
                return
            there = there.parentWidget() if there is not self._root else None

    # Where

    def _under(self, at: QPointF) -> QWidget | None:
        return self._root.childAt(at.toPoint()) or self._root

    def _in(self, widget: QWidget, at: QPointF) -> tuple[QPointF, QPoint]:
        """A place of the window in a widget and on the screen."""
        return QPointF(widget.mapFrom(self._root, at)), self._root.mapToGlobal(at.toPoint())

    def _slop(self) -> float:
        return max(_SLOP, float(QGuiApplication.styleHints().startDragDistance()))

    def _mouse(self, kind: QEvent.Type, at: QPointF, button: Qt.MouseButton, held: bool) -> None:
        window: QWindow | None = self._root.windowHandle()
        if window is None:
            return
        buttons = Qt.MouseButton.LeftButton if held else Qt.MouseButton.NoButton
        globally = QPointF(self._root.mapToGlobal(at.toPoint()))
        event = QMouseEvent(kind, at, at, globally, button, buttons, QGuiApplication.keyboardModifiers())
        QApplication.sendEvent(window, event)
