"""A label that says as much as it has room for; the whole of it is its tip."""

from __future__ import annotations

import re

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel, QSizePolicy

_MARK = re.compile(r"<[^>]*>")
_LEAST = 40  # px


class ShortLabel(QLabel):
    """One line of plain text, or of text whose marks are around its first part."""

    def __init__(self, role: str = "") -> None:
        super().__init__()
        self.whole = ""
        self.setMinimumWidth(0)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        if role:
            self.setProperty("role", role)

    def setText(self, text: str) -> None:
        self.whole = text
        super().setText(text)
        self.updateGeometry()
        self._shorten()

    def minimumSizeHint(self) -> QSize:
        return QSize(min(_LEAST, self.sizeHint().width()), super().minimumSizeHint().height())

    @property
    def plain(self) -> str:
        """The words without the marks of a text that has some."""
        return _MARK.sub("", self.whole) if self.whole.startswith("<") else self.whole

    def sizeHint(self) -> QSize:
        return QSize(self.fontMetrics().horizontalAdvance(self.plain) + 2, super().sizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._shorten()

    def _shorten(self) -> None:
        """Take away at the end what has no room."""
        plain, metrics = self.plain, self.fontMetrics()
        if metrics.horizontalAdvance(plain) <= self.width():
            shown, tip = self.whole, ""
        else:
            kept = metrics.elidedText(plain, Qt.TextElideMode.ElideRight, self.width())
            shown, tip = kept if plain == self.whole else _with_marks(self.whole, kept), plain
        if super().text() != shown:
            super().setText(shown)
        if tip or self.toolTip():
            self.setToolTip(tip)


def _with_marks(whole: str, kept: str) -> str:
    """The marks of a text around what is kept of it.

    >>> _with_marks("<b>From</b> Sailings", "From Sa…")
    '<b>From</b> Sa…'
    """
    made, left = [], kept.removesuffix("…")
    for piece in re.split(r"(<[^>]*>)", whole):
        if _MARK.fullmatch(piece):
            made.append(piece)
        else:
            made.append(left[: len(piece)])
            left = left[len(piece) :]
    return "".join(made) + ("…" if kept.endswith("…") else "")
