"""What stands in the window before a station does: an empty project's first sentence, or how the work looked last.

It knows nothing of what draws frames, so that it is there at once.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.core.words import tr
from avelt.window.controls.empty import EmptyPlace
from avelt.window.controls.fields import button, label, row

SENTENCE = tr("There is no screen yet. Import SVG files or pictures, or drop them here.")
BUTTON = tr("Import screens…")


_RECENT = 5  # files that are offered


def _short(folder: Path) -> str:
    """A folder as people write it."""
    home = Path.home()
    return f"~/{folder.relative_to(home)}".removesuffix("/.") if folder.is_relative_to(home) else str(folder)


class Landing(QWidget):
    """The place; files can be dropped anywhere on it."""

    import_wanted = Signal()
    dropped = Signal(list)  # paths
    open_wanted = Signal()
    blank_wanted = Signal()
    demo_wanted = Signal()
    guide_wanted = Signal()
    recent_wanted = Signal(object)  # Path

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.empty = EmptyPlace(SENTENCE, BUTTON, self.import_wanted.emit)
        self.blank = button(tr("Empty frame"), tr("A frame to draw on, 360 × 640"))
        self.blank.clicked.connect(self.blank_wanted)
        self.open = button(tr("Open…"), tr("A project file (Ctrl+O)"))
        self.demo = button(tr("Try the demo"), tr("A ferry company's screens with everything that Avelt can do"))
        self.guide = button(tr("Guide me"), tr("A first transition in five short steps; it can be left at any time"))
        self.open.clicked.connect(self.open_wanted)
        self.demo.clicked.connect(self.demo_wanted)
        self.guide.clicked.connect(self.guide_wanted)
        self.files = QVBoxLayout()
        self.files.setSpacing(2)
        self.more = QWidget()
        below = QVBoxLayout(self.more)
        below.addLayout(row(None, self.open, self.blank, self.demo, self.guide, None, spacing=8))
        below.addSpacing(18)
        below.addLayout(self.files)
        below.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.empty, 3)
        layout.addWidget(self.more, 2)
        self._picture: QPixmap | None = None
        self.setFocusProxy(self.empty.button)

    def show_recent(self, paths: Sequence[Path]) -> None:
        """The files that were open last."""
        while (item := self.files.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        if paths:
            self.files.addWidget(label(tr("Open last"), "caption"), 0, Qt.AlignmentFlag.AlignHCenter)
        for path in paths[:_RECENT]:
            made = button(f"{path.stem}   {_short(path.parent)}", str(path), "quiet")
            made.clicked.connect(lambda _=False, path=path: self.recent_wanted.emit(path))
            self.files.addWidget(made, 0, Qt.AlignmentFlag.AlignHCenter)

    def show_opening(self, picture: QPixmap | None) -> None:
        """A project is being opened: show how it looked last, when that is known."""
        self._picture = picture
        self.empty.hide()
        self.more.hide()
        self.update()

    def show_empty(self) -> None:
        """Nothing is being opened."""
        self._picture = None
        self.empty.show()
        self.more.show()

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
