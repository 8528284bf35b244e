"""The field for a value that an input can have."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.model.triggers import InputValue
from avelt.window.controls.fields import NumberField
from avelt.window.controls.painted import Pick

Show = Callable[[InputValue], None]


def input_field(kind: str, put: Callable[[InputValue], None]) -> tuple[QWidget, Show]:
    """A field for a number, yes or no, or a text, and what shows a value in it; ``put`` takes what somebody sets."""
    if kind == "number":
        number = NumberField("", 1.0, -1e12, 1e12)
        number.committed.connect(put)
        return number, lambda value: number.show_value(0.0 if isinstance(value, str) else float(value))
    if kind == "yes/no":
        pick = Pick()
        pick.addItems(["no", "yes"])
        pick.activated.connect(lambda k: put(bool(k)))
        return pick, lambda value: pick.setCurrentIndex(int(bool(value)))
    line = QLineEdit()
    line.editingFinished.connect(lambda: put(line.text()) if line.isModified() else None)
    return line, lambda value: line.setText(value if isinstance(value, str) else "")
