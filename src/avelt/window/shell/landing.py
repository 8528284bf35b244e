"""What stands in the window before a station does: an empty project's first sentence, or how the work looked last.

It knows nothing of what draws frames, so that it is there at once.
"""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.window.controls.empty import EmptyPlace

SENTENCE = "There is no screen yet. Import SVG files or pictures, or drop them here."
BUTTON = "Import screens…"


class Landing(QWidget):
    """The place; files can be dropped anywhere on it."""

    import_wanted = Signal()
    dropped = Signal(list)  # paths

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.empty = EmptyPlace(SENTENCE, BUTTON, self.import_wanted.emit)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.empty)
        self._picture: QPixmap | None = None
        self.setFocusProxy(self.empty.button)

    def show_opening(self, picture: QPixmap | None) -> None:
        """A project is being opened: show how it looked last, when that is known."""
        self._picture = picture
        self.empty.hide()
        self.update()

    def show_empty(self) -> None:
        """Nothing is being opened."""
        self._picture = None
        self.empty.show()

    def enter(self) -> None:
        """It comes to the front."""

    def leave(self) -> None:
        """A station comes to the front."""

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is not None:
            QPainter(self).drawPixmap(0, 0, self._picture)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(Path(url.toLocalFile()).suffix.lower() in SCREEN_ENDINGS for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.dropped.emit([Path(url.toLocalFile()) for url in event.mimeData().urls()])
