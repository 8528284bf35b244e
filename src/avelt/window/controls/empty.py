"""An empty place: one sentence on what to do next, with the button that does it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avelt.window.controls.fields import button, label


class EmptyPlace(QWidget):
    """A sentence and a button in the middle."""

    def __init__(self, sentence: str, action: str, do: Callable[[], object]) -> None:
        super().__init__()
        self.words = label(sentence, "quiet")
        self.words.setWordWrap(True)
        self.words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.words.setFixedWidth(380)
        self.button = button(action, "", "strong")
        self.button.clicked.connect(lambda: do())
        layout = QVBoxLayout(self)
        layout.addStretch(2)
        layout.addWidget(self.words, 0, Qt.AlignmentFlag.AlignCenter)
        layout.addSpacing(10)
        layout.addWidget(self.button, 0, Qt.AlignmentFlag.AlignCenter)
        layout.addStretch(3)

    def showEvent(self, event: QShowEvent) -> None:
        # A layout that centres a label does not ask how high its lines are together.
        self.words.setMinimumHeight(self.words.heightForWidth(self.words.width()))
        super().showEvent(event)


def lay_out(station: QWidget, strip: QWidget | None, body: QWidget, empty: EmptyPlace) -> None:
    """A station's parts under each other: its strip, and its body or what stands there while it is empty."""
    whole = QVBoxLayout(station)
    whole.setContentsMargins(0, 0, 0, 0)
    whole.setSpacing(0)
    if strip is not None:
        whole.addWidget(strip)
    whole.addWidget(body, 1)
    whole.addWidget(empty, 1)
