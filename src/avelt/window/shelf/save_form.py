"""Keeping motion on the shelf: what of it, its name, its tags, and what is not kept."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.record import Record
from avelt.window.controls.fields import label
from avelt.window.controls.forms import Form
from avelt.window.controls.painted import Pick


class Kept(Record, frozen=True):
    """What somebody wants to keep: the place of the offer, and its name and tags."""

    place: int
    name: str
    tags: tuple[str, ...]


class SaveForm(Form):
    """Asks what to keep. ``words`` and ``missing`` are of each offer, the likeliest first."""

    def __init__(self, parent: QWidget, words: Sequence[str], missing: Sequence[str]) -> None:
        super().__init__(parent, "Save as preset", "Save")
        self.missing = missing
        self.what = Pick()
        self.what.addItems(list(words))
        self.name, self.tags = QLineEdit(), QLineEdit()
        self.tags.setPlaceholderText("words with commas between")
        self.note = label("", "quiet")
        self.note.setWordWrap(True)
        for words_of, field in (("What", self.what), ("Name", self.name), ("Tags", self.tags)):
            self.fields.addRow(words_of, field)
        self.fields.addRow(self.note)
        self.setMinimumWidth(420)
        self.what.currentIndexChanged.connect(self._show)
        self.name.textChanged.connect(self._show)
        self.name.setFocus()
        self._show()

    def _show(self) -> None:
        self.note.setText(self.missing[max(0, self.what.currentIndex())])
        self.ok.setEnabled(bool(self.name.text().strip()))

    def kept(self) -> Kept:
        """What was said."""
        tags = dict.fromkeys(word.strip() for word in self.tags.text().split(",") if word.strip())
        return Kept(self.what.currentIndex(), self.name.text().strip(), tuple(tags))
