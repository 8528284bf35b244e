"""Fields made from a row of the tables of triggers and actions: one editor for each kind of field."""

from __future__ import annotations

from typing import Any

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QLineEdit, QSizePolicy, QWidget

from avelt.core.edits.inputs import input_by_id
from avelt.core.model.find import frame_by_id, route_title, walk
from avelt.core.model.limits import MAX_MS
from avelt.core.model.triggers import Drag, Field, InputValue, Row, ShowOver
from avelt.core.model.values import Layer, Path, Project, Route
from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, label
from avelt.window.controls.key_names import key_name
from avelt.window.controls.layer_pick import add_layers
from avelt.window.controls.painted import Pick, Tick

SCRIMS = (
    (tr("none"), ""),
    (tr("dark"), "rgb(10 24 28 / 0.45)"),
    (tr("deep"), "rgb(10 24 28 / 0.7)"),
    (tr("light"), "rgb(255 255 255 / 0.6)"),
)


class KeyField(QLineEdit):
    """Takes the next key that is pressed."""

    caught = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setReadOnly(True)
        self.setToolTip(tr("Press the key that shall start it"))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        name = key_name(event)
        if name:
            self.setText(name)
            self.caught.emit(name)
        else:
            super().keyPressEvent(event)


class TableForm(QWidget):
    """The fields of one trigger or action. ``changed`` carries the new value of the whole."""

    changed = Signal(object)
    refused = Signal(str)
    input_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setVerticalSpacing(6)
        self.grid.setHorizontalSpacing(10)
        self.grid.setColumnStretch(1, 1)
        self.grid.setColumnMinimumWidth(0, 92)
        self.fields: dict[str, QWidget] = {}
        self._shown: tuple[object, ...] = ()
        self._value: Any = None

    def show_value(self, project: Project, route: Route, row: Row, value: Any) -> None:
        """Show a trigger's or action's fields; built anew when the kind or the project's things changed."""
        self._value = value
        key = (row, project.frames, project.inputs, project.routes, value, route.id)
        if key == self._shown:
            return
        self._shown = key
        self._clear()
        for place, field in enumerate(f for f in row.fields if _applies(f, value)):
            made = self._make(project, route, field, getattr(value, field.name))
            made.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            made.setAccessibleName(field.words)
            self.grid.addWidget(label(field.words, "quiet"), place, 0)
            self.grid.addWidget(made, place, 1)
            self.fields[field.name] = made

    def _clear(self) -> None:
        self.fields = {}
        while self.grid.count():
            item = self.grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()

    def _tell(self, name: str, value: object) -> None:
        if value != getattr(self._value, name):
            self.changed.emit(msgspec.structs.replace(self._value, **{name: value}))

    def _make(self, project: Project, route: Route, field: Field, value: Any) -> QWidget:
        if field.kind in ("ms", "px", "share"):
            return self._number(field, float(value))
        if field.kind == "yes":
            tick = Tick(" ".join(tr(words) for words in field.choices))
            tick.setChecked(bool(value))
            tick.toggled.connect(lambda on: self._tell(field.name, on))
            return tick
        if field.kind == "key":
            caught = KeyField()
            caught.setText(str(value))
            caught.caught.connect(lambda name: self._tell(field.name, name))
            return caught
        if field.kind == "value":
            return self._any_value(project, field, value)
        entries = self._entries(project, route, field)
        return self._pick(field, entries, value, frame_by_id(project, route.leaves).layers)

    def _number(self, field: Field, value: float) -> NumberField:
        share = field.kind == "share"
        made = NumberField("%" if share else field.kind, 10.0 if field.kind == "ms" else 1.0, -1e6, 1e6)
        if field.kind == "ms":
            made.low, made.high = 0.0, MAX_MS
        made.setMinimumWidth(60)
        made.setMaximumWidth(16_777_215)
        made.show_value(value * 100 if share else value)
        made.committed.connect(lambda new: self._tell(field.name, new / 100 if share else new))
        made.refused.connect(self.refused)
        return made

    def _pick(self, field: Field, entries: list[tuple[str, Any]], value: Any, layers: tuple[Layer, ...] = ()) -> Pick:
        made = Pick()
        made.setMinimumContentsLength(10)
        for words, entry in entries:
            made.addItem(words, entry)
        if field.kind == "layer":
            add_layers(made, layers)
        found = next((k for k in range(made.count()) if made.itemData(k) == value), -1)
        if found < 0:
            made.addItem(_gone(field), value)
            found = made.count() - 1
        made.setCurrentIndex(found)

        def picked(place: int) -> None:
            chosen = made.itemData(place)
            if chosen == "+":
                self.input_wanted.emit()
            else:
                self._tell(field.name, chosen)

        made.activated.connect(picked)
        return made

    def _entries(self, project: Project, route: Route, field: Field) -> list[tuple[str, Any]]:
        frame = frame_by_id(project, route.leaves)
        if field.kind == "layer":
            return [(tr("anywhere"), "")]  # the layers themselves are put in with their depth
        if field.kind == "path":
            paths = [layer for layer in walk(frame.layers) if isinstance(layer.body, Path)]
            return [(layer.name, layer.id) for layer in paths]
        if field.kind in ("input", "signal"):
            wanted = [e for e in project.inputs if (e.kind == "signal") == (field.kind == "signal")]
            return [*((entry.name, entry.id) for entry in wanted), (tr("New {kind}…", kind=tr(field.kind)), "+")]
        if field.kind == "motion":
            arriving = [r for r in project.routes if r.arrives == route.leaves and r.id != route.id]
            return [
                *((route_title(project, r).replace(" > ", " → "), r.id) for r in arriving),
                *((tr("loop {loop}", loop=loop.name), loop.id) for loop in frame.loops),
            ]
        if field.name == "scrim":
            return list(SCRIMS)
        return [(tr(choice), choice) for choice in field.choices]

    def _any_value(self, project: Project, field: Field, value: InputValue) -> QWidget:
        """The editor that fits the kind of the input which is compared or set."""
        entry = input_by_id(project, getattr(self._value, "input", ""))
        kind = entry.kind if entry is not None else "yes/no" if isinstance(value, bool) else "number"
        if kind == "yes/no":
            return self._pick(
                field, [(tr("yes"), True), (tr("no"), False)], value if isinstance(value, bool) else bool(value)
            )
        if kind == "number":
            number = NumberField("", 1.0, -1e12, 1e12)
            number.setMaximumWidth(16_777_215)
            number.show_value(float(value) if not isinstance(value, str) else 0.0)
            number.committed.connect(lambda new: self._tell(field.name, float(new)))
            number.refused.connect(self.refused)
            return number
        line = QLineEdit(str(value) if isinstance(value, str) else "")
        line.editingFinished.connect(lambda: self._tell(field.name, line.text()))
        return line


def _applies(field: Field, value: object) -> bool:
    """Whether a field means something now."""
    if isinstance(value, Drag):
        if field.name == "path":
            return value.along == "path"
        if field.name == "travel":
            return value.along != "path"
    if isinstance(value, ShowOver) and field.name in ("x", "y"):
        return value.at == "by hand"
    return True


def _gone(field: Field) -> str:
    return {"layer": tr("gone: choose another"), "input": tr("choose an input"), "signal": tr("choose a signal")}.get(
        field.kind, tr("choose one")
    )
