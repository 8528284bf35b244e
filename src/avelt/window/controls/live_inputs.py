"""The inputs of what is rehearsed, to be set while it runs: what waits for them begins."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Input
from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, button, label
from avelt.window.controls.input_field import input_field, number_slider


class LiveInputs(QWidget):
    """A row an input; a signal has a button. Hidden when there is none."""

    wanted = Signal(str, object)  # an input's name, and the value that it shall have
    sent = Signal(str)  # a signal's name
    refused = Signal(str)

    def __init__(self, sliders: bool = False) -> None:
        super().__init__()
        self.sliders = sliders  # whether numbers have one, and yes and no is a switch
        self.rows: dict[str, QWidget] = {}
        self._known: tuple[Input, ...] = ()
        self._shows: dict[str, Callable[[InputValue], None]] = {}
        self._now: dict[str, InputValue] = {}
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 6)
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(6)
        self.grid.setColumnStretch(1, 1)
        self.hide()

    def show_inputs(self, inputs: tuple[Input, ...], values: Mapping[str, InputValue]) -> None:
        """Take over which inputs there are and what they are now. What somebody types is left alone."""
        if inputs != self._known:
            self._build(inputs)
        for name, show in self._shows.items():
            value = values.get(name)
            if value is not None and self._now.get(name) != value:
                self._now[name] = value
                show(value)

    def _build(self, inputs: tuple[Input, ...]) -> None:
        while self.grid.count():
            item = self.grid.takeAt(0)
            gone = item.widget() if item is not None else None
            if gone is not None:
                gone.hide()
                gone.deleteLater()
        self._known, self.rows, self._shows, self._now = inputs, {}, {}, {}
        for place, entry in enumerate(inputs):
            made = self.rows[entry.name] = self._row(entry)
            made.setAccessibleName(entry.name)
            self.grid.addWidget(label(entry.name), place, 0)
            self.grid.addWidget(made, place, 1)
        self.setVisible(bool(inputs))

    def _row(self, entry: Input) -> QWidget:
        name = entry.name
        if entry.kind == "signal":
            send = button(tr("Send"), tr("Send {name} now", name=name))
            send.clicked.connect(lambda: self.sent.emit(name))
            return send
        if self.sliders and entry.kind == "number":
            slide, self._shows[name] = number_slider(entry, lambda value: self._want(name, value))
            return slide
        if self.sliders and entry.kind == "yes/no":
            switch = button(tr("no"), tr("Switch {name}", name=name), checkable=True)

            def show(value: InputValue) -> None:
                switch.setChecked(bool(value))
                switch.setText(tr("yes") if value else tr("no"))

            switch.clicked.connect(show)
            switch.clicked.connect(lambda on: self._want(name, bool(on)))
            self._shows[name] = show
            return switch
        field, self._shows[name] = input_field(entry.kind, lambda value: self._want(name, value))
        if isinstance(field, NumberField):
            field.scrubbed.connect(lambda value: self._want(name, value))
            field.refused.connect(self.refused)
        return field

    def _want(self, name: str, value: InputValue) -> None:
        if self._now.get(name) != value:
            self._now[name] = value
            self.wanted.emit(name, value)
