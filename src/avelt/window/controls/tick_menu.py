"""A menu of ticks that stays open while they are set."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QMenu, QWidget


class TickMenu(QMenu):
    """Entries that are ticked or not; ``ticked`` says that one changed."""

    ticked = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._keys: list[str] = []

    def show_entries(self, entries: Sequence[tuple[str, str]]) -> None:
        """Other entries (what each is known by, and its words), all ticked."""
        self.clear()
        self._keys = [key for key, _ in entries]
        for _, words in entries:
            action = self.addAction(words)
            action.setCheckable(True)
            action.setChecked(True)
            action.toggled.connect(lambda _: self.ticked.emit())

    @property
    def unticked(self) -> tuple[str, ...]:
        """What is not ticked."""
        return tuple(key for key, action in zip(self._keys, self.actions(), strict=True) if not action.isChecked())

    def _toggle(self) -> bool:
        action = self.activeAction()
        if action is None:
            return False
        action.toggle()
        return True

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not self._toggle():
            super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space)
        if event.key() not in keys or not self._toggle():
            super().keyPressEvent(event)
