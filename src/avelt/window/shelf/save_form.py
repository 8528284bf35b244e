"""Keeping motion on the shelf: what of it, its name, its tags, and what is not kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QGridLayout, QLineEdit, QWidget

from avelt.core.presets.pieces import Piece
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.controls.fields import label
from avelt.window.controls.forms import Form
from avelt.window.controls.painted import Pick, Tick

_COLUMNS = 2


class Kept(Record, frozen=True):
    """What somebody wants to keep: the place of the offer, its name and tags, and the pieces that are left out."""

    place: int
    name: str
    tags: tuple[str, ...]
    left_out: tuple[str, ...] = ()


class SaveForm(Form):
    """Asks what to keep. ``words`` and ``missing`` are of each offer, the likeliest first; ``holds`` gives the pieces
    of one: each has a tick."""

    def __init__(
        self,
        parent: QWidget,
        words: Sequence[str],
        missing: Sequence[str],
        holds: Callable[[int], Sequence[Piece]] = lambda place: (),
    ) -> None:
        super().__init__(parent, tr("Save as preset"), tr("Save"))
        self.missing, self._holds = missing, holds
        self.what = Pick()
        self.what.addItems(list(words))
        self.name, self.tags = QLineEdit(), QLineEdit()
        self.tags.setPlaceholderText(tr("words with commas between"))
        self.ticks: list[tuple[str, Tick]] = []
        self.pieces = QWidget()
        self._grid = QGridLayout(self.pieces)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(4)
        self.note = label("", "quiet")
        self.note.setWordWrap(True)
        for words_of, field in (
            (tr("What"), self.what),
            (tr("Name"), self.name),
            (tr("Tags"), self.tags),
            (tr("Carries"), self.pieces),
        ):
            self.fields.addRow(words_of, field)
        self.fields.addRow(self.note)
        self.setMinimumWidth(420)
        self.what.currentIndexChanged.connect(self._show_pieces)
        self.name.textChanged.connect(self._show)
        self.name.setFocus()
        self._show_pieces()

    @property
    def _place(self) -> int:
        return max(0, self.what.currentIndex())

    def _show_pieces(self) -> None:
        for _, tick in self.ticks:
            self._grid.removeWidget(tick)
            tick.deleteLater()
        self.ticks = []
        for k, piece in enumerate(self._holds(self._place)):
            tick = Tick(piece.words)
            tick.setChecked(True)
            tick.toggled.connect(self._show)
            self._grid.addWidget(tick, k // _COLUMNS, k % _COLUMNS)
            self.ticks.append((piece.key, tick))
        self.fields.setRowVisible(self.pieces, bool(self.ticks))
        self._show()
        self.adjustSize()

    @property
    def left_out(self) -> tuple[str, ...]:
        """The pieces whose ticks were taken away."""
        return tuple(key for key, tick in self.ticks if not tick.isChecked())

    def _show(self) -> None:
        own = tr("What is left out stays as it is where the preset is put on.") if self.left_out else ""
        self.note.setText(" ".join(words for words in (self.missing[self._place], own) if words))
        some = not self.ticks or len(self.left_out) < len(self.ticks)
        self.ok.setEnabled(bool(self.name.text().strip()) and some)

    def kept(self) -> Kept:
        """What was said."""
        tags = dict.fromkeys(word.strip() for word in self.tags.text().split(",") if word.strip())
        return Kept(self._place, self.name.text().strip(), tuple(tags), self.left_out)
