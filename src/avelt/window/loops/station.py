"""Loops: motion that repeats by itself inside a frame."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import QPoint, QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from avelt.core.edits.loops import add_loop, edit_loop, remove_loop
from avelt.core.edits.session import Change
from avelt.core.model.curves import Named
from avelt.core.model.find import layer_index, walk
from avelt.core.model.values import Layer, Loop, Pose
from avelt.core.timing.compile import compile_still
from avelt.core.timing.loops import round_duration
from avelt.window.common.menus import open_at
from avelt.window.common.picking import taken
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import SPEED_WORDS, SPEEDS, Clock
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import Choice, NumberField, bar, button, label, panel, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.loops.strip import Strip
from avelt.window.loops.view import LoopView

replace = msgspec.structs.replace
_ID = Qt.ItemDataRole.UserRole
_TIMES = ("duration", "wait", "rounds")
_POSE = ("shift_x", "shift_y", "rotation", "scale", "opacity")
_WORDS = {
    "duration": "Duration",
    "wait": "Waits",
    "rounds": "Rounds",
    "shift_x": "Shift right",
    "shift_y": "Shift down",
    "rotation": "Rotation",
    "scale": "Scale",
    "opacity": "Opacity",
}


class LoopsStation(QWidget):
    """The station: the frame running, its loops, the chosen one's settings, the unrolled strip."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.clock = Clock(self)
        self.clock.endless = True
        self.loop_id = ""
        self._make()
        self._connect()

    def _make(self) -> None:
        strip_bar, layout = bar()
        self.frames = Pick()
        self.frames.setMinimumWidth(190)
        self.frames.setToolTip("The frame whose loops are shown")
        self.summary = label("", "quiet")
        self.play = button("Run it", "Play or stop (Space)", "strong")
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS])
        for widget in (label("Frame", "quiet"), self.frames, self.summary):
            layout.addWidget(widget)
        layout.addStretch(1)
        layout.addWidget(self.speeds)
        layout.addWidget(self.play)
        self.view = LoopView(self.workspace)
        view_panel = panel()
        inside = QVBoxLayout(view_panel)
        inside.setContentsMargins(10, 10, 10, 10)
        inside.addWidget(self.view)
        view_panel.setFixedWidth(250)
        self.strip = Strip(self.workspace)
        self.strip_title = label("", "heading")
        self.strip_note = label("", "quiet")
        strip_panel = panel()
        below = QVBoxLayout(strip_panel)
        below.setContentsMargins(6, 10, 6, 8)
        heads = row(self.strip_title, None, self.strip_note)
        heads.setContentsMargins(12, 0, 12, 0)
        below.addLayout(heads)
        below.addWidget(scrolled(self.strip), 1)
        upper = QHBoxLayout()
        upper.setSpacing(12)
        upper.addWidget(self._make_list())
        upper.addWidget(self._make_settings(), 1)
        right = QVBoxLayout()
        right.setSpacing(12)
        right.addLayout(upper)
        right.addWidget(strip_panel, 1)
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(12, 12, 12, 12)
        inner.setSpacing(12)
        inner.addWidget(view_panel)
        inner.addLayout(right, 1)
        self.empty = EmptyPlace(
            "There is no frame yet. Import screens first.",
            "Go to Frames",
            lambda: self.workspace.station_wanted.emit("frames"),
        )
        lay_out(self, strip_bar, self.body, self.empty)

    def _make_list(self) -> QWidget:
        holder = panel()
        holder.setFixedWidth(300)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName("Loops of this frame")
        self.layers = Pick()
        self.layers.setToolTip("The layer that shall move by itself")
        self.add = button("New loop", "Let the chosen layer move by itself")
        self.remove = button("Remove", "Remove the chosen loop")
        layout = QVBoxLayout(holder)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.addWidget(label("Loops of this frame", "heading"))
        layout.addWidget(self.list, 1)
        layout.addLayout(row(label("on", "quiet"), self.layers))
        self.layers.setMinimumContentsLength(14)
        layout.addLayout(row(self.add, self.remove, None))
        holder.setMinimumHeight(300)
        return holder

    def _make_settings(self) -> QWidget:
        self.settings = panel()
        self.name = QLineEdit()
        self.name.setMaximumWidth(220)
        self.on_layer = label("", "quiet")
        self.fields = {
            "duration": NumberField("ms", 20.0, 1.0, 3_600_000.0, 0),
            "wait": NumberField("ms", 20.0, 0.0, 3_600_000.0, 0),
            "rounds": NumberField("", 1.0, 0.0, 1e6, 0),
            "shift_x": NumberField("px"),
            "shift_y": NumberField("px"),
            "rotation": NumberField("°"),
            "scale": NumberField("%", 1.0, -10000.0, 10000.0),
            "opacity": NumberField("%", 1.0, 0.0, 100.0),
        }
        self.fields["rounds"].setToolTip("0 is endless")
        self.way = Choice(["there and back", "one way"])
        self.wait_when = Choice(["once", "before each round"])
        self.at_rest = Choice(["jump back", "stay there"])
        self.curve = Pick()
        self.curve.setMinimumWidth(130)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(8)
        for k, key in enumerate(_TIMES):
            grid.addWidget(label(_WORDS[key], "quiet"), k, 0)
            grid.addWidget(self.fields[key], k, 1)
        grid.addWidget(self.way, 0, 2)
        grid.addWidget(self.wait_when, 1, 2)
        self.rounds_note = label("", "quiet")
        grid.addWidget(self.rounds_note, 2, 2)
        grid.addWidget(label("Curve", "quiet"), 3, 0)
        grid.addWidget(self.curve, 3, 1, 1, 2, Qt.AlignmentFlag.AlignLeft)
        self.rest_label = label("Between rounds", "quiet")
        grid.addWidget(self.rest_label, 4, 0)
        grid.addWidget(self.at_rest, 4, 1, 1, 2, Qt.AlignmentFlag.AlignLeft)
        grid.setColumnStretch(3, 1)
        pose = QGridLayout()
        pose.setHorizontalSpacing(12)
        pose.setVerticalSpacing(8)
        pose.setColumnStretch(2, 1)
        for k, key in enumerate(_POSE):
            pose.addWidget(label(_WORDS[key], "quiet"), k, 0)
            pose.addWidget(self.fields[key], k, 1)
        layout = QVBoxLayout(self.settings)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(10)
        layout.addLayout(row(self.name, self.on_layer, None))
        halves = QHBoxLayout()
        halves.setSpacing(32)
        left, right = QVBoxLayout(), QVBoxLayout()
        for part in (left, right):
            part.setAlignment(Qt.AlignmentFlag.AlignTop)
            part.setSpacing(10)
        left.addWidget(label("Time", "heading"))
        left.addLayout(grid)
        right.addWidget(label("Second pose", "heading", "How far the layer goes from its state"))
        right.addLayout(pose)
        halves.addLayout(left, 3)
        halves.addLayout(right, 2)
        halves.setAlignment(Qt.AlignmentFlag.AlignTop)
        layout.addLayout(halves)
        layout.addStretch(1)
        return self.settings

    def _connect(self) -> None:
        workspace = self.workspace
        workspace.changed.connect(self._changed)
        workspace.theme.changed.connect(lambda: self.refresh() if self.isVisible() else None)
        self.clock.ticked.connect(self._ticked)
        self.clock.played.connect(lambda on: self.play.setText("Stop" if on else "Run it"))
        self.play.clicked.connect(self.clock.toggle)
        self.speeds.picked.connect(lambda k: setattr(self.clock, "speed", SPEEDS[k]))
        self.frames.activated.connect(self._pick_frame)
        self.view.clicked.connect(self._clicked)
        self.view.menu_wanted.connect(self._menu)
        self.layers.activated.connect(lambda _: self._show_layer())
        self.list.currentItemChanged.connect(lambda item, _: self.choose(item.data(_ID)) if item else None)
        self.strip.picked.connect(self.choose)
        self.add.clicked.connect(self.make)
        self.remove.clicked.connect(self._remove)
        self.name.editingFinished.connect(self._rename)
        self.way.picked.connect(
            lambda k: self._edit("way", lambda o: replace(o, direction=("there and back", "one way")[k]))
        )
        self.wait_when.picked.connect(
            lambda k: self._edit("wait", lambda o: replace(o, wait_when=("once", "before each round")[k]))
        )
        self.at_rest.picked.connect(lambda k: self._edit("rest", lambda o: replace(o, at_rest=("jump", "hold")[k])))
        self.curve.activated.connect(self._set_curve)
        for key, field in self.fields.items():
            field.cancelled.connect(self.workspace.cancel_gesture)
            field.scrubbed.connect(lambda value, key=key: self._number(key, value, True))
            field.committed.connect(lambda value, key=key: self._number(key, value, False))
            field.refused.connect(workspace.said)

    # Showing

    def enter(self) -> None:
        """The station comes to the front and runs."""
        self.refresh()
        if self.workspace.frame is not None:
            self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.clock.stop()

    def loop(self) -> Loop | None:
        """The chosen loop."""
        frame = self.workspace.frame
        return next((entry for entry in frame.loops if entry.id == self.loop_id), None) if frame else None

    def refresh(self) -> None:
        """Take everything over from the project."""
        frame, project = self.workspace.frame, self.workspace.project
        self.body.setVisible(frame is not None)
        self.empty.setVisible(frame is None)
        if frame is None:
            return
        self.frames.clear()
        for other in project.frames:
            self.frames.addItem(other.name, other.id)
        self.frames.setCurrentIndex(self.frames.findData(frame.id))
        if self.loop() is None:
            self.loop_id = frame.loops[0].id if frame.loops else ""
        names = layer_index(frame)
        blocker = QSignalBlocker(self.list)
        self.list.clear()
        for entry in frame.loops:
            item = QListWidgetItem(f"{entry.name}\n{says(entry)}")
            item.setData(_ID, entry.id)
            self.list.addItem(item)
            if entry.id == self.loop_id:
                self.list.setCurrentItem(item)
        del blocker
        chosen_layer = self.workspace.layer
        self.layers.clear()
        for layer in walk(frame.layers):
            self.layers.addItem(layer.name, layer.id)
        if chosen_layer is not None:
            self.layers.setCurrentIndex(max(0, self.layers.findData(chosen_layer.id)))
        count = len(frame.loops)
        self.summary.setText(f"{count} loop{'s' if count != 1 else ''}" if count else "no loop yet")
        self.remove.setEnabled(bool(self.loop_id))
        self._show_loop(names)
        self.strip.show_loops(frame.loops, self.loop_id)
        self._ticked(self.clock.ms)
        self._show_layer()

    def _show_loop(self, names: dict[str, Layer]) -> None:
        loop = self.loop()
        self.settings.setEnabled(loop is not None)
        self.strip_title.setText(f"“{loop.name}” unrolled" if loop else "Choose a layer and press New loop.")
        if loop is None:
            self.name.clear()
            self.on_layer.clear()
            self.strip_note.clear()
            return
        self.strip_note.setText(f"one round is {round_duration(loop):g} ms")
        self.name.setText(loop.name)
        layer = names[loop.layer]
        self.on_layer.setText(f"on {layer.name}")
        pose = loop.offset
        values = {
            "duration": loop.duration,
            "wait": loop.wait,
            "rounds": float(loop.rounds),
            "shift_x": pose.shift_x,
            "shift_y": pose.shift_y,
            "rotation": pose.rotation,
            "scale": pose.scale_x * 100,
            "opacity": pose.opacity * 100,
        }
        for key, field in self.fields.items():
            field.show_value(values[key])
        self.way.show_picked(0 if loop.direction == "there and back" else 1)
        self.wait_when.show_picked(0 if loop.wait_when == "once" else 1)
        self.at_rest.show_picked(0 if loop.at_rest == "jump" else 1)
        for widget in (self.rest_label, self.at_rest):
            widget.setVisible(loop.direction == "one way")
        self.rounds_note.setText("endless" if not loop.rounds else "then it rests")
        show_named(self.curve, self.workspace.project, loop.curve)

    def _ticked(self, ms: float) -> None:
        frame = self.workspace.frame
        if frame is None:
            return
        program = compile_still(frame, self.workspace.project)
        self.view.show_scene(program.from_start(ms))
        self.strip.now = ms
        self.strip.update()

    # Choosing in the view

    def _show_layer(self) -> None:
        """Outline the layer that is named in the list."""
        scene, ident = self.view.scene, self.layers.currentData()
        self.view.slot = scene.program.slot_of(ident, ident) if scene is not None else -1
        self.view.update()

    def _clicked(self, x: float, y: float, deeper: bool) -> None:
        """Choose the layer there, with its loop when it has one."""
        frame, scene = self.workspace.frame, self.view.scene
        chain = self.view.slots_under(x, y)
        if frame is None or scene is None or not chain:
            return
        ident = scene.program.ends_of(taken(chain, (self.view.slot,), deeper)).from_id
        self.workspace.choose(frame.id, ident or "")
        self.loop_id = next((entry.id for entry in frame.loops if entry.layer == ident), self.loop_id)
        self.refresh()

    def _menu(self, x: float, y: float, where: QPoint) -> None:
        """A right click chooses what lies there first."""
        if self.view.slot not in self.view.slots_under(x, y):
            self._clicked(x, y, False)
        frame, layer = self.workspace.frame, self.workspace.layer
        if frame is None or layer is None:
            return
        menu = QMenu(self)
        menu.addAction(f"New loop on {layer.name}").triggered.connect(lambda _=False: self.make())
        for entry in frame.loops:
            if entry.layer == layer.id:
                menu.addAction(f"Show {entry.name}").triggered.connect(lambda _=False, e=entry: self.choose(e.id))
        menu.addSeparator()
        menu.addAction("Show in Frames").triggered.connect(lambda _=False: self.workspace.station_wanted.emit("frames"))
        open_at(menu, where)

    # Doing

    def choose(self, loop_id: str) -> None:
        """Choose a loop."""
        if loop_id != self.loop_id:
            self.loop_id = loop_id
            self.refresh()

    def _pick_frame(self, place: int) -> None:
        self.workspace.choose(self.frames.itemData(place))
        self.loop_id = ""
        self.refresh()

    def _changed(self, change: Change) -> None:
        frame, touched = self.workspace.frame, change.touched
        concerned = frame is None or frame.id in touched.frames or touched.fields & {"curves", "assets"}
        if self.isVisible() and concerned:
            self.refresh()

    def make(self) -> None:
        """A new loop on the layer that is named in the list."""
        frame, layer_id = self.workspace.frame, self.layers.currentData()
        if frame is None or layer_id is None:
            return
        made = self.workspace.make("new loop", lambda p: add_loop(p, frame.id, layer_id))
        if made is not None:
            self.loop_id = made
            self.refresh()

    def _remove(self) -> None:
        frame, loop_id = self.workspace.frame, self.loop_id
        if frame is not None and loop_id:
            self.workspace.do("remove loop", lambda p: remove_loop(p, frame.id, loop_id))

    def _edit(self, what: str, change: Callable[[Loop], Loop], gesture: bool = False) -> None:
        frame, loop = self.workspace.frame, self.loop()
        if frame is None or loop is None:
            return
        do = self.workspace.gesture if gesture else self.workspace.do
        do(f"{what} of {loop.name}", lambda p: edit_loop(p, frame.id, loop.id, change))

    def _rename(self) -> None:
        name, loop = self.name.text().strip(), self.loop()
        if loop is not None and name and name != loop.name:
            self._edit("name", lambda o: replace(o, name=name))

    def _set_curve(self, place: int) -> None:
        ident = self.curve.itemData(place)
        if ident is not None:
            self._edit("curve", lambda o: replace(o, curve=Named(ident)))

    def _number(self, key: str, value: float, scrubbing: bool) -> None:
        def change(old: Loop) -> Loop:
            if key in _TIMES:
                return replace(old, **{key: round(value) if key == "rounds" else value})
            return replace(old, offset=_with(old.offset, key, value))

        self._edit(_WORDS[key].lower(), change, True)
        if not scrubbing:
            self.workspace.end_gesture()


def _with(pose: Pose, key: str, value: float) -> Pose:
    if key == "scale":
        return replace(pose, scale_x=value / 100, scale_y=value / 100)
    return replace(pose, **{key: value / 100 if key == "opacity" else value})


def says(loop: Loop) -> str:
    """A loop in one line."""
    wait = f", waits {loop.wait:g} ms {loop.wait_when}" if loop.wait else ""
    rounds = f", {loop.rounds} rounds" if loop.rounds else ""
    return f"{loop.duration:g} ms {loop.direction}{wait}{rounds}"
