"""Keys by their names in UI Events."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

_NAMES = {
    Qt.Key.Key_Space: " ",
    Qt.Key.Key_Return: "Enter",
    Qt.Key.Key_Enter: "Enter",
    Qt.Key.Key_Escape: "Escape",
    Qt.Key.Key_Left: "ArrowLeft",
    Qt.Key.Key_Right: "ArrowRight",
    Qt.Key.Key_Up: "ArrowUp",
    Qt.Key.Key_Down: "ArrowDown",
    Qt.Key.Key_Backspace: "Backspace",
    Qt.Key.Key_Delete: "Delete",
    Qt.Key.Key_Home: "Home",
    Qt.Key.Key_End: "End",
    Qt.Key.Key_PageUp: "PageUp",
    Qt.Key.Key_PageDown: "PageDown",
}


def key_name(event: QKeyEvent) -> str:
    """A key by its name in UI Events KeyboardEvent key Values; empty for one that only modifies."""
    key = Qt.Key(event.key())
    if key in _NAMES:
        return _NAMES[key]
    if key in (
        Qt.Key.Key_Shift,
        Qt.Key.Key_Control,
        Qt.Key.Key_Alt,
        Qt.Key.Key_Meta,
        Qt.Key.Key_Tab,
        Qt.Key.Key_Backtab,
    ):
        return ""
    return event.text().strip() or QKeySequence(event.key()).toString()
