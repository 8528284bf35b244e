"""Two fingers on a touch pad: what a view does when they move apart or together."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PySide6.QtCore import QEvent, QObject, QPointF, Qt
from PySide6.QtGui import QNativeGestureEvent
from PySide6.QtWidgets import QWidget

DIRECT = "touched_directly"  # the property of a view that wants a finger's press at once: it is itself what is touched
_MOST = 4.0  # times that one event makes it larger or smaller at most


class Pinch(QObject):
    """Tells a view by which factor it grows about a point of it."""

    def __init__(self, view: QWidget, zoom: Callable[[float, QPointF], object]) -> None:
        super().__init__(view)
        self._zoom = zoom
        view.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() != QEvent.Type.NativeGesture:
            return False
        gesture = cast(QNativeGestureEvent, event)
        if gesture.gestureType() != Qt.NativeGestureType.ZoomNativeGesture:
            return False
        self._zoom(min(_MOST, max(1.0 / _MOST, 1.0 + gesture.value())), gesture.position())
        return True
