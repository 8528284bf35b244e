"""Two lists to look things up in: the keys that count here, and what the words mean."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLineEdit, QTreeWidget, QVBoxLayout, QWidget
from PySide6.QtWidgets import QTreeWidgetItem as Item

from avelt.core.words import tr
from avelt.window.common.settings import SettingsKeeper
from avelt.window.controls.fields import label, scrolled
from avelt.window.shell.glossary import WORDS
from avelt.window.shell.key_table import EVERYWHERE, KeyRow, rows


class KeysSheet(QDialog):
    """The keys that count in the station in front, and everywhere; Esc or ? closes it."""

    def __init__(self, parent: QWidget, settings: SettingsKeeper, station: str, title: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Keys"))
        self.resize(980, 640)
        body = QWidget()
        columns = QHBoxLayout(body)
        columns.setSpacing(36)
        self.shown: list[KeyRow] = []
        for heading, scope in ((tr("In {title}", title=title), station), (tr("Everywhere"), EVERYWHERE)):
            table = QGridLayout()
            table.setVerticalSpacing(5)
            table.setHorizontalSpacing(16)
            table.addWidget(label(heading, "heading"), 0, 0, 1, 2)
            mine = [entry for entry in rows() if entry.scope == scope and settings.keys_of(entry.ident, entry.usual)]
            for k, entry in enumerate(mine, 1):
                keys = settings.keys_of(entry.ident, entry.usual)
                shown = QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText) or keys
                words = label(entry.words, "quiet")
                words.setWordWrap(True)
                table.addWidget(label(shown), k, 0, Qt.AlignmentFlag.AlignTop)
                table.addWidget(words, k, 1)
            self.shown += mine
            table.setRowStretch(len(mine) + 1, 1)
            table.setColumnStretch(1, 1)
            columns.addLayout(table, 1)
        layout = QVBoxLayout(self)
        layout.addWidget(scrolled(body))

    def keyPressEvent(self, event: object) -> None:
        if getattr(event, "text", str)() == "?":
            self.reject()
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]


class WordsSheet(QDialog):
    """What each word means; it opens at one."""

    def __init__(self, parent: QWidget, word: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Words"))
        self.resize(640, 460)
        self.search = QLineEdit(word)
        self.search.setPlaceholderText(tr("What is …?"))
        self.search.setAccessibleName(tr("Find a word"))
        self.list = QTreeWidget()
        self.list.setHeaderHidden(True)
        self.list.setColumnCount(2)
        self.list.setColumnWidth(0, 130)
        self.list.setRootIsDecorated(False)
        self.list.setWordWrap(True)
        self.list.setAccessibleName(tr("Words and what they mean"))
        layout = QVBoxLayout(self)
        layout.addWidget(self.search)
        layout.addWidget(self.list, 1)
        self.search.textChanged.connect(self._fill)
        self._fill(word)

    def _fill(self, text: str) -> None:
        wanted = text.casefold().strip()
        self.list.clear()
        for word, says in sorted(WORDS, key=lambda entry: (not entry[0].startswith(wanted), entry[0])):
            if not wanted or wanted in word or wanted in says.casefold():
                item = Item(self.list, [word, says])
                item.setTextAlignment(0, Qt.AlignmentFlag.AlignTop)
                item.setToolTip(1, says)
        self.list.setCurrentIndex(self.list.model().index(0, 0))
