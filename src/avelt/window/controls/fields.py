"""Small controls: number fields that can be typed and scrubbed, labels, choices of one among several."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QBoxLayout,
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from avelt.core.errors import FormatError
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.controls.number_text import Amount, read_amount, with_sign

_SCRUB_AFTER = 3  # px of travel before a press becomes a scrub

T = TypeVar("T")


def label(text: str, role: str = "", tip: str = "") -> QLabel:
    """A label with a role of the style sheet."""
    made = QLabel(text)
    if role:
        made.setProperty("role", role)
    if role == "heading":
        made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
    if tip:
        made.setToolTip(tip)
    return made


def button(text: str, tip: str = "", role: str = "", checkable: bool = False) -> QPushButton:
    """A button; ``tip`` says what it does and its shortcut."""
    made = QPushButton(text)
    made.setCheckable(checkable)
    made.setCursor(Qt.CursorShape.PointingHandCursor)
    made.setAutoDefault(False)
    if tip:
        made.setToolTip(tip)
    if role:
        made.setProperty("role", role)
    return made


def scrolled(widget: QWidget) -> QScrollArea:
    """A widget that is scrolled, with the paper it lies on shining through."""
    made = QScrollArea()
    made.setWidgetResizable(True)
    made.setFrameShape(QFrame.Shape.NoFrame)
    made.setWidget(widget)
    for part in (made.viewport(), widget):
        part.setAutoFillBackground(False)
    return made


def panel() -> QFrame:
    """A sheet of paper on the workspace."""
    made = QFrame()
    made.setProperty("role", "panel")
    return made


def bar() -> tuple[QFrame, QHBoxLayout]:
    """The strip under the top bar, and its layout."""
    made = QFrame()
    made.setProperty("role", "bar")
    made.setFixedHeight(44)
    layout = QHBoxLayout(made)
    layout.setContentsMargins(16, 0, 16, 0)
    layout.setSpacing(10)
    return made, layout


def add_all(layout: QBoxLayout, *widgets: QWidget | None) -> None:
    """Widgets into a layout, one behind the other; ``None`` is the gap that takes what is left."""
    for widget in widgets:
        if widget is None:
            layout.addStretch(1)
        else:
            layout.addWidget(widget)


def row(*widgets: QWidget | None, spacing: int = 8) -> QHBoxLayout:
    """Widgets beside each other; ``None`` is the gap that takes what is left."""
    made = QHBoxLayout()
    made.setSpacing(spacing)
    add_all(made, *widgets)
    return made


def chosen_row(view: QAbstractItemView, entries: Sequence[T]) -> T | None:
    """Of what the rows of a list stand for, in their order, the one whose row is chosen."""
    place = view.currentIndex().row()
    return entries[place] if 0 <= place < len(entries) else None


def column(*widgets: QWidget | None, spacing: int = 6) -> QVBoxLayout:
    """Widgets under each other; ``None`` is the gap that takes what is left."""
    made = QVBoxLayout()
    made.setSpacing(spacing)
    add_all(made, *widgets)
    return made


class NumberField(QLineEdit):
    """A number: typed (arithmetic, units), scrubbed by dragging, or stepped by the arrow keys.

    ``scrubbed`` comes while it changes by dragging, ``committed`` once when the new value is meant.
    Esc restores. Shift is ten times the step, Alt a tenth.
    """

    scrubbed = Signal(float)
    committed = Signal(float)
    cancelled = Signal()  # scrubbing was given up
    refused = Signal(str)

    def __init__(
        self, unit: str = "", step: float = 1.0, low: float = -1e9, high: float = 1e9, digits: int = 2
    ) -> None:
        super().__init__()
        self.unit, self.step_size, self.low, self.high, self.digits = unit, step, low, high, digits
        self.more = ""  # what is shown behind the value and is no part of it
        self.value = 0.0
        self.amount = Amount("is", 0.0)
        self.gestures = GestureHost(self)
        self._scrubbing = False
        self.setFixedWidth(84)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.editingFinished.connect(self._typed)
        self.show_value(0.0)

    def show_value(self, value: float) -> None:
        """Show a value without telling anyone. What is being typed is left alone."""
        self.value = value
        if not (self.hasFocus() and self.isModified()):
            self.setText(self.text_of(value))
            self.setModified(False)

    def text_of(self, value: float) -> str:
        """The value as it is shown."""
        plain = f"{value:.{self.digits}f}".rstrip("0").rstrip(".") if self.digits else f"{value:.0f}"
        shown = with_sign("0" if plain in ("", "-0") else plain)
        return f"{shown}{' ' + self.unit if self.unit else ''}{self.more}"

    def _typed(self) -> None:
        if not self.isModified():
            return
        try:
            amount = read_amount(self.text().removesuffix(self.more), self.unit)
        except FormatError as error:
            self.refused.emit(str(error))
            self.setModified(False)
            self.show_value(self.value)
            return
        self.setModified(False)
        self._commit(min(self.high, max(self.low, amount.of(self.value))), amount)

    def _commit(self, value: float, amount: Amount | None = None) -> None:
        #: What was meant, for those who apply it to several values: ``1.5x`` is another length for each.
        self.amount = amount or Amount("is", value)
        self.value = value
        self.setText(self.text_of(value))
        self.committed.emit(value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setModified(False)
            self.show_value(self.value)
            self.clearFocus()
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            by = self._step(event.modifiers()) * (1.0 if event.key() == Qt.Key.Key_Up else -1.0)
            self.setModified(False)
            self._commit(min(self.high, max(self.low, self.value + by)), Amount("by", by))
            return
        super().keyPressEvent(event)

    def _step(self, keys: Qt.KeyboardModifier) -> float:
        if keys & Qt.KeyboardModifier.ShiftModifier:
            return self.step_size * 10
        return self.step_size / 10 if keys & Qt.KeyboardModifier.AltModifier else self.step_size

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        if event.button() == Qt.MouseButton.LeftButton and not self.isReadOnly() and not self.isModified():
            x, base = event.position().toPoint().x(), self.value
            self._scrubbing = False
            self.gestures.begin(Drag(lambda e: self._scrub(e, x, base), on_cancel=lambda: self._restore(base)))

    def _scrub(self, event: QMouseEvent, x: int, base: float) -> None:
        travel = event.position().toPoint().x() - x
        if not self._scrubbing and abs(travel) <= _SCRUB_AFTER:
            return
        self._scrubbing = True
        self.value = min(self.high, max(self.low, base + travel * self._step(event.modifiers())))
        self.setText(self.text_of(self.value))
        self.scrubbed.emit(self.value)

    def _restore(self, base: float) -> None:
        scrubbed, self._scrubbing = self._scrubbing, False
        self.show_value(base)
        if scrubbed:
            self.cancelled.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self.gestures.move(event):
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)
        if self._scrubbing:
            self._scrubbing = False
            self.setModified(False)
            self._commit(self.value)
            return
        super().mouseReleaseEvent(event)
        self.selectAll()


class Choice(QWidget):
    """A few buttons beside each other, one of them down."""

    picked = Signal(int)

    def __init__(self, words: Sequence[str], tips: Sequence[str] = ()) -> None:
        super().__init__()
        self._group = QButtonGroup(self)
        self._buttons: list[QPushButton] = []
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        for k, word in enumerate(words):
            made = button(word, tips[k] if k < len(tips) else "", checkable=True)
            made.setProperty("room", "narrow")
            self._group.addButton(made, k)
            self._buttons.append(made)
            layout.addWidget(made)
        self._group.idClicked.connect(self.picked)
        self.show_picked(0)

    def show_picked(self, place: int) -> None:
        """Put a button down without telling anyone."""
        found = self._group.button(place)
        if found is not None:
            found.setChecked(True)

    @property
    def index(self) -> int:
        """The place of the button that is down."""
        return self._group.checkedId()

    def button(self, place: int) -> QPushButton:
        """One of the buttons."""
        return self._buttons[place]
