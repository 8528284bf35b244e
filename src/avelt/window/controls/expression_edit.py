"""A line for an expression of inputs: names are completed, what is wrong is refused with its place."""

from __future__ import annotations

import re
from collections.abc import Sequence

from PySide6.QtCore import QStringListModel, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QLineEdit

from avelt.core.errors import FormatError
from avelt.core.model.expressions import parse, parse_value, unknown_in
from avelt.core.words import tr

_WORD = re.compile(r"[^\W\d][\w-]*$")
_PLACE = re.compile(r"\d+")  # of the letter that an error names, in every language


class ExpressionEdit(QLineEdit):
    """``meant`` comes with a text that can be read; ``refused`` with what is wrong, which stays there to be mended."""

    meant = Signal(str)
    refused = Signal(str)

    def __init__(self, is_condition: bool = True) -> None:
        super().__init__()
        self.is_condition = is_condition
        self.names: tuple[str, ...] = ()
        self._shown = ""
        self._words = QStringListModel(self)
        self._completer = QCompleter(self._words, self)
        self._completer.setWidget(self)
        self._completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self._completer.activated.connect(self._complete)
        self.textEdited.connect(self._offer)
        self.editingFinished.connect(self._typed)

    def show_text(self, text: str, names: Sequence[str]) -> None:
        """Show an expression; ``names`` are the inputs that it may read. What is being typed is left alone."""
        if tuple(names) != self.names:
            self.names = tuple(names)
            self._words.setStringList(sorted(self.names))
        self._shown = text
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)
            self.setModified(False)
            self._mark(False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.isModified():
            self.setText(self._shown)
            self.setModified(False)
            self._mark(False)
            return
        super().keyPressEvent(event)

    def wrong(self, text: str) -> tuple[str, int]:
        """What is wrong with a text and at which letter (from 0); an empty sentence when it can be read."""
        if not text.strip() and not self.is_condition:
            return tr("An expression is missing."), 0
        try:
            read = parse(text) if self.is_condition else parse_value(text)
        except FormatError as error:
            found = _PLACE.search(error.place)
            return str(error), int(found.group()) - 1 if found else 0
        name = unknown_in(read, self.names)
        if name is None:
            return "", 0
        minus = tr(" Put spaces around a minus.") if "-" in name.name else ""
        return tr(
            "There is no input “{name}”: letter {at}.{minus}", name=name.name, at=name.at + 1, minus=minus
        ), name.at

    def _typed(self) -> None:
        if not self.isModified():
            return
        text = self.text().strip()
        says, at = self.wrong(text)
        if says:
            self._mark(True)
            self.setSelection(at, max(1, len(text) - at))
            self.refused.emit(says)
            return
        self.setModified(False)
        self._mark(False)
        if text != self._shown:
            self._shown = text
            self.meant.emit(text)

    def _mark(self, wrong: bool) -> None:
        if self.property("wrong") != wrong:
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)

    def _offer(self) -> None:
        """Offer the names that begin with the word at the cursor."""
        word = _WORD.search(self.text()[: self.cursorPosition()])
        popup = self._completer.popup()
        assert popup is not None  # a completer without one completes inline
        if word is None or any(name == word.group() for name in self.names):
            popup.hide()
            return
        self._completer.setCompletionPrefix(word.group())
        if self._completer.completionCount():
            popup.setCurrentIndex(self._completer.completionModel().index(0, 0))
            self._completer.complete()
        else:
            popup.hide()

    def _complete(self, name: str) -> None:
        at = self.cursorPosition()
        word = _WORD.search(self.text()[:at])
        start = word.start() if word is not None else at
        self.setText(self.text()[:start] + name + self.text()[at:])
        self.setCursorPosition(start + len(name))
        self.setModified(True)
