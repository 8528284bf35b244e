"""The shape of all small dialogs: fields under each other, a button that does it and one that leaves it."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QFormLayout, QVBoxLayout, QWidget

from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, button, label, row


class Form(QDialog):
    """Fields under each other, with one button that does it and one that leaves it."""

    def __init__(self, parent: QWidget, title: str, does: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.fields = QFormLayout()
        self.fields.setHorizontalSpacing(14)
        self.fields.setVerticalSpacing(8)
        self.trouble = label("", "trouble")
        self.trouble.hide()
        self.ok = button(does, "", "strong")
        self.ok.setDefault(True)
        self.leave = button(tr("Leave it"), "Esc")
        self.ok.clicked.connect(self.accept)
        self.leave.clicked.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(18, 16, 18, 14)
        whole.setSpacing(12)
        whole.addLayout(self.fields)
        whole.addWidget(self.trouble)
        whole.addLayout(row(None, self.leave, self.ok))

    def number(self, words: str, value: float, unit: str, low: float, high: float) -> NumberField:
        """A number in a row of its own."""
        field = NumberField(unit, 1.0, low, high)
        field.show_value(value)
        self.fields.addRow(words, field)
        return field

    def refuse(self, sentence: str) -> None:
        """Say what is wrong and stay open."""
        self.trouble.setText(sentence)
        self.trouble.show()


def ask(parent: QWidget, title: str, words: str, does: str) -> bool:
    """Ask before something is done that takes more with it than was chosen."""
    form = Form(parent, title, does)
    form.fields.addRow(label(words))
    return bool(form.exec())
