"""Drags as small objects: begun by a press, moved, ended by the release, or given up with Esc."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget

from avelt.core.record import Record


def _nothing(*_: object) -> None:
    """For what a drag need not do."""


class Gesture(Protocol):
    """A drag. ``cancel`` leaves everything as it was before the press."""

    def move(self, event: QMouseEvent) -> None:
        """The pointer moved, with the button down."""

    def end(self, event: QMouseEvent) -> None:
        """The button went up."""

    def cancel(self) -> None:
        """The drag was given up."""


class Drag(Record, frozen=True):
    """A gesture made of functions, for drags that keep nothing of their own."""

    on_move: Callable[[QMouseEvent], None] = _nothing
    on_end: Callable[[QMouseEvent], None] = _nothing
    on_cancel: Callable[[], None] = _nothing

    def move(self, event: QMouseEvent) -> None:
        """The pointer moved, with the button down."""
        self.on_move(event)

    def end(self, event: QMouseEvent) -> None:
        """The button went up."""
        self.on_end(event)

    def cancel(self) -> None:
        """The drag was given up."""
        self.on_cancel()


class GestureHost(QObject):
    """Holds the one gesture of a widget that is at work, and gives it up on Esc.

    Keys go to whatever has the focus, which need not be the widget that is dragged in: it is listened to there, only
    while a gesture is at work.
    """

    def __init__(self, owner: QWidget) -> None:
        super().__init__(owner)
        self._owner = owner
        self._gesture: Gesture | None = None
        self._heard: list[QObject] = []

    @property
    def active(self) -> Gesture | None:
        """The gesture at work."""
        return self._gesture

    def begin(self, gesture: Gesture) -> None:
        """A press began a gesture."""
        self.cancel()
        self._gesture = gesture
        focus = QApplication.focusWidget()
        self._heard = [self._owner] if focus is None or focus is self._owner else [self._owner, focus]
        for heard in self._heard:
            heard.installEventFilter(self)

    def move(self, event: QMouseEvent) -> bool:
        """Go on; whether a gesture is at work."""
        if self._gesture is not None:
            self._gesture.move(event)
        return self._gesture is not None

    def end(self, event: QMouseEvent) -> bool:
        """Let go; whether a gesture was at work."""
        gesture = self._leave()
        if gesture is not None:
            gesture.end(event)
        return gesture is not None

    def cancel(self) -> bool:
        """Give up; whether a gesture was at work."""
        gesture = self._leave()
        if gesture is not None:
            gesture.cancel()
        return gesture is not None

    def _leave(self) -> Gesture | None:
        gesture, self._gesture = self._gesture, None
        for heard in self._heard:
            heard.removeEventFilter(self)
        self._heard = []
        return gesture

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind not in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride) or not isinstance(event, QKeyEvent):
            return False
        if event.key() != Qt.Key.Key_Escape or self._gesture is None:
            return False
        if kind == QEvent.Type.ShortcutOverride:
            event.accept()  # the key comes here, not to a shortcut of the window
        else:
            self.cancel()
        return True
