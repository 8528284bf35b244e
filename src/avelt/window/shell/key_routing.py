"""Where keys of the window go: into a text, to a command, to the station in front, or to a widget itself."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol, cast

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)
from shiboken6 import isValid

from avelt.window.shell.commands import CAUGHT, COMMANDS

if TYPE_CHECKING:
    from avelt.window.common.settings import SettingsKeeper
    from avelt.window.common.tidy import Tidy
    from avelt.window.rehearse.station import RehearseStation
    from avelt.window.shell.stations import Stations

_CONTROLS = (QAbstractButton, QComboBox, QAbstractSlider)  # what is used and left again
_RETURN = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


def is_typed_into(widget: QWidget | None) -> bool:
    """Whether letters that are typed go into a text."""
    if isinstance(widget, QComboBox):
        return widget.isEditable()
    return isinstance(widget, QLineEdit | QPlainTextEdit) and not widget.isReadOnly()


class KeyWindow(Protocol):
    """What is needed of the window."""

    current: str
    stations: Stations
    tidy: Tidy

    @property
    def settings(self) -> SettingsKeeper: ...

    def do(self, ident: str) -> None: ...

    def front(self) -> QWidget: ...

    def isActiveWindow(self) -> bool: ...


class KeyRouting(QObject):
    """Filters the keys of whichever widget of a window has the focus; ends with its parent, the window."""

    def __init__(self, window: KeyWindow, parent: QWidget) -> None:
        super().__init__(parent)
        self._window, self._parent = window, parent
        self._viewed: QWidget | None = None  # the last widget with the focus that is a view and no control
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._focused)

    def _focused(self, before: QWidget | None, now: QWidget | None) -> None:
        """Keys of the whole window are caught where they go: at the widget that has the focus."""
        if before is not None:
            before.removeEventFilter(self)
        if now is None and before is not None and isValid(before) and before.window() is self._parent:
            QTimer.singleShot(0, self, self._focus_again)
        if now is not None and now.window() is self._parent:
            now.installEventFilter(self)
            if not is_typed_into(now) and not isinstance(now, _CONTROLS):
                self._viewed = now

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        window = self._window
        if event.type() != QEvent.Type.KeyPress or not isinstance(event, QKeyEvent) or not window.isActiveWindow():
            return False
        window.tidy.touch()
        focus = QApplication.focusWidget()
        if watched is not focus:
            return False
        if is_typed_into(focus):
            if isinstance(focus, QLineEdit) and event.key() in _RETURN:
                QTimer.singleShot(0, self, lambda: self._back_to_view(focus))  # after the field has done its part
            if not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier:
                return False
        ident = self.caught(event)
        if ident is not None and not (ident == "play" and focus is not None and focus.property("ownSpace")):
            window.do(ident)
            return True
        if isinstance(focus, QAbstractItemView) and self._is_of_station(event):
            return True
        if event.modifiers():
            return False
        if event.key() in _RETURN and isinstance(focus, QAbstractButton):
            focus.click()
            return True
        if event.key() == Qt.Key.Key_Home and window.current == "rehearse":
            rehearse = cast("RehearseStation", window.stations["rehearse"])
            rehearse.start_over()
            return True
        return False

    def caught(self, event: QKeyEvent) -> str | None:
        """The command that a key is for, of those that are caught where the focus is."""
        from avelt.window.shell.key_table import written

        pressed = QKeySequence(event.keyCombination()).toString()
        for command in COMMANDS:
            if command.id in CAUGHT and pressed == written(self._window.settings.keys_of(command.id, command.keys)):
                return command.id
        return None

    def _is_of_station(self, event: QKeyEvent) -> bool:
        """Whether a key is one of the station in front; lists would take it for a search or copy their texts."""
        from avelt.window.common.station_keys import press
        from avelt.window.shell.station_keys import STATION_KEYS

        return press(STATION_KEYS.get(self._window.current, ()), self._window.front(), event)

    # Back to the view

    def _back_to_view(self, field: QLineEdit) -> None:
        """After Return in a field: the keys go to the view that had them before. A field that refused what was typed
        shows the place in it, and one that is searched in goes on: they keep them."""
        if QApplication.focusWidget() is field and not field.isModified() and not field.hasSelectedText():
            self._focus_view()

    def _focus_again(self) -> None:
        """A field that was left by Esc, or that is gone, leaves the keys to nobody: the view has them again."""
        window = self._window
        if window.isActiveWindow() and QApplication.focusWidget() is None and QApplication.activePopupWidget() is None:
            self._focus_view()

    def _focus_view(self) -> None:
        view, window = self._viewed, self._window
        (view if view is not None and isValid(view) and view.isVisibleTo(self._parent) else window.front()).setFocus()
