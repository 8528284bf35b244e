"""What follows a value in a frame: the list, and what the chosen one follows and where it goes."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QListWidget, QVBoxLayout, QWidget

from avelt.core.edits.follows import add_follow, edit_follow, remove_follow
from avelt.core.model.curves import Named
from avelt.core.model.find import layer_index, walk
from avelt.core.model.follows import ByDrag, ByInput, ByPointer, ByScroll, Source
from avelt.core.model.triggers import MOST_LAG
from avelt.core.model.values import Follow, Frame, Layer, Path
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.fields import NumberField, button, label, panel, row
from avelt.window.controls.layer_pick import add_layers
from avelt.window.controls.painted import Pick, Tick
from avelt.window.loops.move_list import ID, fill_layers, fill_list, hear_numbers, pose_fields, pose_values, with_pose

_SOURCES: tuple[tuple[str, type], ...] = (
    (tr("the scrolling"), ByScroll),
    (tr("a drag"), ByDrag),
    (tr("the pointer"), ByPointer),
    (tr("an input"), ByInput),
)
_WAYS: dict[type, tuple[str, ...]] = {
    ByScroll: ("down", "right"),
    ByDrag: ("right", "left", "down", "up", "path"),
    ByPointer: ("right", "down"),
}
_LET_GO = ("nearer", "speed", "back", "stay")
_UNITS = {ByScroll: "px", ByDrag: "px", ByPointer: "", ByInput: ""}
_POSE = (
    ("shift_x", tr("Shift right")),
    ("shift_y", tr("Shift down")),
    ("rotation", tr("Rotation")),
    ("scale", tr("Scale")),
)


def says(follow: Follow, frame: Frame) -> str:
    """What follows, in one line."""
    by, names = follow.by, layer_index(frame)
    if isinstance(by, ByScroll):
        word = tr("scrolling {axis}", axis=tr(by.axis))
    elif isinstance(by, ByDrag):
        word = tr(
            "drag of {also}, {along}",
            also=names[by.layer].name if by.layer in names else tr("anywhere"),
            along=tr(by.along),
        )
    elif isinstance(by, ByPointer):
        word = tr("pointer over {also}", also=names[by.layer].name if by.layer in names else tr("the frame"))
    else:
        word = tr("an input")
    lag = tr(", lag {lag:g} ms", lag=follow.lag) if follow.lag else ""
    return tr("{word}, {start:g} to {end:g}{lag}", word=word, start=follow.start, end=follow.end, lag=lag)


class FollowPanel(QWidget):
    """``chose`` comes when another one is chosen."""

    chose = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.follow_id = ""
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(12)
        layout.addWidget(self._make_list())
        layout.addWidget(self._make_settings(), 1)
        self._connect()

    def _make_list(self) -> QWidget:
        holder = panel()
        holder.setFixedWidth(300)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName(tr("What follows a value in this frame"))
        self.layers = Pick()
        self.layers.setMinimumContentsLength(14)
        self.layers.setToolTip(tr("The layer that shall follow a value"))
        self.add = button(tr("New follow"), tr("Let the chosen layer go with a value"))
        self.remove = button(tr("Remove"), tr("Remove the chosen one"))
        layout = QVBoxLayout(holder)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.addWidget(label(tr("What follows a value"), "heading"))
        layout.addWidget(self.list, 1)
        layout.addLayout(row(label(tr("on"), "quiet"), self.layers))
        layout.addLayout(row(self.add, self.remove, None))
        return holder

    def _make_settings(self) -> QWidget:
        self.settings = panel()
        self.name = QLineEdit()
        self.name.setAccessibleName(tr("Name"))
        self.name.setFixedWidth(220)
        self.name.setAccessibleName(tr("Name"))
        self.on_layer = label("", "quiet")
        self.muted = Tick(tr("muted"))
        self.muted.setToolTip(tr("It stays where it is"))
        self.source = Pick()
        for words, _ in _SOURCES:
            self.source.addItem(words)
        self.way, self.layer, self.path, self.let_go, self.input = Pick(), Pick(), Pick(), Pick(), Pick()
        for value in _LET_GO:
            self.let_go.addItem(tr(value), value)
        self.let_go.setToolTip(
            tr("Where it goes when it is let go: to the nearer end, by its speed, back, or it may stay")
        )
        self.start, self.end = NumberField("", 10.0), NumberField("", 10.0)
        self.lag = NumberField("ms", 10.0, 0.0, MOST_LAG, 0)
        self.lag.setToolTip(tr("It comes after the value by so much; the curve stays as it is"))
        self.curve = Pick()
        self.curve.setMinimumWidth(170)
        self.pose = pose_fields()
        self.also = label("", "quiet")
        self.also.setWordWrap(True)
        self.pose_button = button(tr("Edit on the frame"), tr("Its second pose in Frames, like any layer"))
        layout = QVBoxLayout(self.settings)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(10)
        layout.addLayout(row(self.name, self.on_layer, None, self.muted))
        halves = QHBoxLayout()
        halves.setSpacing(32)
        halves.addLayout(self._value_half(), 3)
        halves.addLayout(self._pose_half(), 2)
        layout.addLayout(halves)
        layout.addStretch(1)
        return self.settings

    def _value_half(self) -> QVBoxLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(1, 1)
        self.names: dict[str, QWidget] = {}
        fields: tuple[tuple[str, str, QWidget], ...] = (
            ("source", tr("Follows"), self.source),
            ("way", tr("Along"), self.way),
            ("path", tr("Path"), self.path),
            ("layer", tr("Of"), self.layer),
            ("input", tr("Input"), self.input),
            ("let_go", tr("Let go, it goes"), self.let_go),
            ("start", tr("From"), self.start),
            ("end", tr("To"), self.end),
            ("lag", tr("Lag"), self.lag),
            ("curve", tr("Curve"), self.curve),
        )
        for k, (key, words, field) in enumerate(fields):
            self.names[key] = label(words, "quiet")
            field.setAccessibleName(words)
            grid.addWidget(self.names[key], k, 0)
            grid.addWidget(field, k, 1, Qt.AlignmentFlag.AlignLeft)
        made = QVBoxLayout()
        made.setSpacing(10)
        made.setAlignment(Qt.AlignmentFlag.AlignTop)
        made.addWidget(label(tr("Value"), "heading"))
        made.addLayout(grid)
        return made

    def _pose_half(self) -> QVBoxLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(2, 1)
        for k, (key, words) in enumerate((*_POSE, ("opacity", tr("Opacity")))):
            grid.addWidget(label(words, "quiet"), k, 0)
            grid.addWidget(self.pose[key], k, 1)
            self.pose[key].setAccessibleName(words)
        made = QVBoxLayout()
        made.setSpacing(10)
        made.addWidget(label(tr("Second pose"), "heading", tr("Where the layer is at the end")))
        made.addLayout(grid)
        made.addWidget(self.also)
        made.addWidget(self.pose_button, 0, Qt.AlignmentFlag.AlignLeft)
        made.addStretch(1)
        return made

    def _connect(self) -> None:
        self.list.currentItemChanged.connect(lambda item, _: self.choose(item.data(ID)) if item else None)
        self.add.clicked.connect(self.make)
        self.remove.clicked.connect(self.remove_chosen)
        self.name.editingFinished.connect(self._rename)
        self.muted.clicked.connect(lambda on: self._edit("mute", lambda o: replace(o, muted=bool(on))))
        self.source.activated.connect(self._set_source)
        self.way.activated.connect(lambda _: self._set_by("axis", self.way.currentData()))
        self.path.activated.connect(lambda _: self._set_by("path", self.path.currentData()))
        self.layer.activated.connect(lambda _: self._set_by("layer", self.layer.currentData()))
        self.input.activated.connect(lambda _: self._set_by("input", self.input.currentData()))
        self.let_go.activated.connect(lambda _: self._set_by("let_go", self.let_go.currentData()))
        self.curve.activated.connect(self._set_curve)
        numbers = {"start": self.start, "end": self.end, "lag": self.lag, **self.pose}
        hear_numbers(numbers, self.workspace, self._number)

    # Showing

    def follow(self) -> Follow | None:
        """The chosen one."""
        frame = self.workspace.frame
        return next((entry for entry in frame.follows if entry.id == self.follow_id), None) if frame else None

    def refresh(self, frame: Frame) -> None:
        """Take everything over from the project."""
        if self.follow() is None:
            self.follow_id = frame.follows[0].id if frame.follows else ""
        rows = ((entry.id, f"{entry.name}\n{says(entry, frame)}") for entry in frame.follows)
        fill_list(self.list, rows, self.follow_id)
        fill_layers(self.layers, frame, self.workspace)
        self.remove.setEnabled(bool(self.follow_id))
        self._show(frame)

    def _show(self, frame: Frame) -> None:
        follow = self.follow()
        self.settings.setEnabled(follow is not None)
        if follow is None:
            self.name.clear()
            self.on_layer.clear()
            self.also.clear()
            return
        by = follow.by
        self.name.setText(follow.name)
        self.name.setCursorPosition(0)
        self.on_layer.setText(tr("on {frame}", frame=layer_index(frame)[follow.layer].name))
        self.muted.setChecked(follow.muted)
        self.source.setCurrentIndex(next(k for k, (_, kind) in enumerate(_SOURCES) if isinstance(by, kind)))
        self._show_source(frame, by)
        for field, value in ((self.start, follow.start), (self.end, follow.end), (self.lag, follow.lag)):
            field.show_value(value)
        values = pose_values(follow.offset)
        for key, field in self.pose.items():
            field.show_value(values[key])
        show_named(self.curve, self.workspace.project, follow.curve)
        more = [name for name in follow.changes.__struct_fields__ if getattr(follow.changes, name) is not None]
        some = ", ".join(name.replace("_", " ") for name in more)
        self.also.setText(tr("Also: {names}", names=some) if more else "")
        self.also.setVisible(bool(more))

    def _show_source(self, frame: Frame, by: Source) -> None:
        ways = _WAYS.get(type(by), ())
        self.way.clear()
        for value in ways:
            self.way.addItem(tr(value), value)
        along = getattr(by, "along", getattr(by, "axis", ""))
        self.way.setCurrentIndex(ways.index(along) if along in ways else -1)
        self.path.clear()
        for layer in walk(frame.layers):
            if isinstance(layer.body, Path):
                self.path.addItem(layer.name, layer.id)
        self.path.setCurrentIndex(self.path.findData(getattr(by, "path", "")))
        self.layer.clear()
        self.layer.addItem(tr("anywhere"), "")
        add_layers(self.layer, frame.layers)
        self.layer.setCurrentIndex(max(0, self.layer.findData(getattr(by, "layer", ""))))
        self.input.clear()
        for entry in self.workspace.project.inputs:
            if entry.kind in ("number", "yes/no"):
                self.input.addItem(entry.name, entry.id)
        self.input.setCurrentIndex(self.input.findData(getattr(by, "input", "")))
        self.let_go.setCurrentIndex(_LET_GO.index(by.let_go) if isinstance(by, ByDrag) else 0)
        visible = {
            "way": bool(ways),
            "path": along == "path",
            "layer": isinstance(by, ByDrag | ByPointer),
            "input": isinstance(by, ByInput),
            "let_go": isinstance(by, ByDrag),
        }
        for key, on in visible.items():
            self.names[key].setVisible(on)
            getattr(self, key).setVisible(on)

    # Doing

    def choose(self, follow_id: str) -> None:
        """Choose one."""
        if follow_id != self.follow_id:
            self.follow_id = follow_id
            self.chose.emit(follow_id)

    def make(self) -> None:
        """A new one on the layer that is named under the list."""
        frame, layer_id = self.workspace.frame, self.layers.currentData()
        if frame is None or layer_id is None:
            return
        made = self.workspace.make(tr("new follow"), lambda p: add_follow(p, frame.id, layer_id))
        if made is not None:
            self.choose(made)

    def remove_chosen(self) -> bool:
        """Remove the follow that is shown; whether there is one."""
        frame, follow_id = self.workspace.frame, self.follow_id
        if frame is None or not follow_id:
            return False
        self.workspace.do(tr("remove follow"), lambda p: remove_follow(p, frame.id, follow_id))
        return True

    def _edit(self, what: str, change: Callable[[Follow], Follow], gesture: bool = False) -> None:
        frame, follow = self.workspace.frame, self.follow()
        if frame is None or follow is None:
            return
        do = self.workspace.gesture if gesture else self.workspace.do
        if not do(
            tr("{what} of {follow}", what=what, follow=follow.name),
            lambda p: edit_follow(p, frame.id, follow.id, change),
        ):
            self.refresh(frame)

    def _rename(self) -> None:
        name, follow = self.name.text().strip(), self.follow()
        if follow is not None and name and name != follow.name:
            self._edit("name", lambda o: replace(o, name=name))

    def _set_source(self, place: int) -> None:
        kind, follow = _SOURCES[place][1], self.follow()
        if follow is None or isinstance(follow.by, kind):
            return
        layer = getattr(follow.by, "layer", follow.layer)
        made: Source = kind(layer=layer) if kind in (ByDrag, ByPointer) else kind()
        if isinstance(made, ByInput) and self.input.count():
            made = ByInput(self.input.itemData(0))
        small = kind in (ByPointer, ByInput)
        start, end = (0.0, 1.0) if small else (0.0, 160.0)
        self._edit("value", lambda o: replace(o, by=made, start=start, end=end))

    def _set_by(self, name: str, value: str | None) -> None:
        follow = self.follow()
        if follow is None or value is None:
            return
        name = "along" if name == "axis" and isinstance(follow.by, ByDrag) else name
        self._edit("value", lambda o: replace(o, by=replace(o.by, **{name: value})))

    def _set_curve(self, place: int) -> None:
        ident = self.curve.itemData(place)
        if ident is not None:
            self._edit("curve", lambda o: replace(o, curve=Named(ident)))

    def _number(self, key: str, value: float, scrubbing: bool) -> None:
        def change(old: Follow) -> Follow:
            if key in ("start", "end", "lag"):
                return replace(old, **{key: value})
            return replace(old, offset=with_pose(old.offset, key, value))

        self._edit(key.replace("_", " "), change, True)
        if not scrubbing:
            self.workspace.end_gesture()


def layer_of(frame: Frame, follow: Follow) -> Layer | None:
    """The layer that follows."""
    return layer_index(frame).get(follow.layer)
