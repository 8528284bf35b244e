"""The field for a value that an input can have."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QLineEdit, QSlider, QWidget

from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Input
from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, row
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
        pick.addItems([tr("no"), tr("yes")])
        pick.activated.connect(lambda k: put(bool(k)))
        return pick, lambda value: pick.setCurrentIndex(int(bool(value)))
    line = QLineEdit()
    line.editingFinished.connect(lambda: put(line.text()) if line.isModified() else None)
    return line, lambda value: line.setText(value if isinstance(value, str) else "")


_STEPS = 1000


def number_slider(entry: Input, put: Callable[[InputValue], None]) -> tuple[QWidget, Show]:
    """A slider with its number, from 0 to what was shown so far at most (1 to begin with), and what shows a value."""
    holder = QWidget()
    slide, number = QSlider(Qt.Orientation.Horizontal), NumberField("", 0.05, -1e12, 1e12)
    slide.setRange(0, _STEPS)
    number.setFixedWidth(58)
    holder.setLayout(row(slide, number))
    holder.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
    slide.setAccessibleName(tr("{entry}, slider", entry=entry.name))
    number.setAccessibleName(tr("{entry}, number", entry=entry.name))
    reach = [0.0, max(1.0, float(entry.start) if isinstance(entry.start, int | float) else 1.0)]

    def show(value: InputValue) -> None:
        found = 0.0 if isinstance(value, str) else float(value)
        reach[:] = [min(reach[0], found), max(reach[1], found)]
        number.show_value(found)
        blocker = QSignalBlocker(slide)
        slide.setValue(round((found - reach[0]) / (reach[1] - reach[0]) * _STEPS))
        del blocker

    def slid(place: int) -> None:
        value = round(reach[0] + place / _STEPS * (reach[1] - reach[0]), 3)
        number.show_value(value)
        put(value)

    def typed(value: float) -> None:
        show(value)
        put(value)

    slide.valueChanged.connect(slid)
    number.committed.connect(typed)
    number.scrubbed.connect(typed)
    return holder, show
