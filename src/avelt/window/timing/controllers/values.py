"""Values of the cue sheet typed where they stand."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.edits.ends import set_end
from avelt.core.model.motion import CueKey
from avelt.core.words import tr
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.row_paint import value_rect
from avelt.window.timing.sheet_rows import SheetRows


class ValueController(Controller):
    """For the rows of a station's sheet."""

    def __init__(self, context: TimingContext, window: QWidget, rows: SheetRows) -> None:
        super().__init__(context, window)
        self.rows = rows
        rows.value_wanted.connect(self._edit_value)

    def edit(self, side: int) -> None:
        """Type the chosen property's value where it leaves (0) or arrives (1)."""
        body, key = self.rows, self.context.key
        place = next((k for k, row in enumerate(body.rows) if row.key == key), -1)
        if key is None or not key.prop or place < 0:
            self.workspace.said.emit(tr("Choose the row of a property: Return opens a layer."))
        else:
            self._edit_value(key, side, value_rect(side, place, body.width()).toRect())

    def _edit_value(self, cue: CueKey, side: int, where: QRect) -> None:
        row = next((entry for entry in self.rows.rows if entry.key == cue), None)
        if row is None:
            return
        field = _ValueField(self.rows)
        field.setText(row.left_value if side == 0 else row.right_value)
        field.setGeometry(where.adjusted(-4, 2, 4, -2))
        field.selectAll()

        def done() -> None:
            if not field.isVisible():
                return
            typed = field.text() if field.isModified() else None
            field.hide()
            field.deleteLater()
            self.rows.setFocus()
            if typed is not None:
                self.set_end(cue, side, typed)

        field.editingFinished.connect(done)
        field.show()
        field.setFocus()

    def set_end(self, cue: CueKey, side: int, text: str) -> None:
        """A value where it leaves or arrives, as typed."""
        says = self.workspace.make(
            tr("value of {cue}", cue=self.context.name(cue)), lambda p: set_end(p, self.route_id, cue, side, text)
        )
        if says is not None:
            self.workspace.said.emit(says)


class _ValueField(QLineEdit):
    """A value being typed in the sheet: Return and Esc end it and go no further."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setModified(False)
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.editingFinished.emit()
            return
        super().keyPressEvent(event)
