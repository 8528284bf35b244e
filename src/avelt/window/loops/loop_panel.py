"""The loops of a frame or pose: their list, and what the chosen one does."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QListWidget, QVBoxLayout, QWidget

from avelt.core.edits.loops import (
    add_loop,
    along_layer,
    close_seam,
    copy_loop,
    edit_loop,
    paste_loop,
    remove_loop,
    shift_phase,
)
from avelt.core.model.curves import Named
from avelt.core.model.find import layer_index
from avelt.core.model.values import Frame, Layer, Loop, Path
from avelt.core.timing.loops import round_duration
from avelt.core.timing.rounds import beside, seam
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.expression_edit import ExpressionEdit
from avelt.window.controls.fields import Choice, NumberField, button, label, panel, row, scrolled
from avelt.window.controls.lines import Lines
from avelt.window.controls.painted import Pick, Tick
from avelt.window.loops.move_list import ID, fill_layers, fill_list, hear_numbers, pose_fields, pose_values, with_pose
from avelt.window.loops.round_keys import RoundKeys

replace = msgspec.structs.replace
_TIMES = ("duration", "wait", "rounds", "jitter", "later")
_POSE = ("shift_x", "shift_y", "rotation", "scale", "opacity")
_WORDS = {
    "duration": tr("Duration"),
    "wait": tr("Waits"),
    "rounds": tr("Rounds"),
    "later": tr("Begins later"),
    "jitter": tr("Jitter of waits"),
    "shift_x": tr("Shift right"),
    "shift_y": tr("Shift down"),
    "rotation": tr("Rotation"),
    "scale": tr("Scale"),
    "opacity": tr("Opacity"),
}


class LoopPanel(QWidget):
    """``chose`` comes when another loop is chosen."""

    chose = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.loop_id = ""
        self.kept: tuple[Loop, Layer] | None = None  # what was copied, and the layer that it was on
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
        self.list.setAccessibleName(tr("Loops of this frame"))
        self.layers = Pick()
        self.layers.setToolTip(tr("The layer that shall move by itself"))
        self.copy = button(tr("Copy"), tr("The same loop on the other chosen layers, each so much later"))
        self.step = NumberField("ms", 10.0, 0.0, 60_000.0, 0)
        self.step.show_value(120.0)
        self.step.setToolTip(tr("How much later each copy begins"))
        self.add = button(tr("New loop"), tr("Let the chosen layer move by itself"))
        self.remove = button(tr("Remove"), tr("Remove the chosen loop"))
        layout = QVBoxLayout(holder)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.addWidget(label(tr("Loops of this frame"), "heading"))
        layout.addWidget(self.list, 1)
        layout.addLayout(row(label(tr("on"), "quiet"), self.layers))
        self.layers.setMinimumContentsLength(14)
        layout.addLayout(row(self.add, self.remove, None))
        copies = Lines()
        self.step.setFixedWidth(66)
        for part in (self.copy, label(tr("to the chosen, later by"), "quiet"), self.step):
            copies.addWidget(part)
        layout.addLayout(copies)
        holder.setMinimumHeight(250)
        return holder

    def _make_fields(self) -> None:
        self.name = QLineEdit()
        self.name.setAccessibleName(tr("Name"))
        self.name.setMaximumWidth(220)
        self.on_layer = label("", "quiet")
        self.fields = {
            "duration": NumberField("ms", 20.0, 1.0, 3_600_000.0, 0),
            "wait": NumberField("ms", 20.0, 0.0, 3_600_000.0, 0),
            "rounds": NumberField("", 1.0, 0.0, 1e6, 0),
            "later": NumberField("ms", 10.0, -3_600_000.0, 3_600_000.0, 0),
            "jitter": NumberField("%", 5.0, 0.0, 100.0, 0),
            **pose_fields(),
        }
        self.fields["rounds"].setToolTip(tr("0 is endless"))
        self.fields["later"].setToolTip(tr("Its phase: so much later than the frame it begins, inside its round"))
        self.fields["jitter"].setToolTip(
            tr("By how much of itself a wait may be shorter, by chance; rounds stay in step")
        )
        self.muted = Tick(tr("muted"))
        self.muted.setToolTip(tr("It does not run"))
        self.alone = Tick(tr("alone"))
        self.alone.setToolTip(tr("Watch only this loop here"))
        self.keys = RoundKeys()
        self.along = Pick()
        self.along.setSizeAdjustPolicy(Pick.SizeAdjustPolicy.AdjustToContents)
        self.along.setToolTip(tr("Straight to its second pose, or along a path layer of this frame"))
        self.rotates = Tick(tr("turned along it"))
        self.until = ExpressionEdit()
        self.until.setPlaceholderText(tr("for ever"))
        self.until.setToolTip(tr("Played, it finishes its round and rests once this holds"))
        self.until.setAccessibleName(tr("Until"))
        self.seam = label("", "quiet")
        self.seam.setWordWrap(True)
        self.close_seam = button(tr("Close the seam"), tr("The end of a round becomes its start"))
        self.pose_button = button(tr("Edit on the frame"), tr("Its second pose in Frames, like any layer"))
        self.way = Choice([tr("there and back"), tr("one way")])
        self.wait_when = Choice([tr("once"), tr("before each round")])
        self.at_rest = Choice([tr("jump back"), tr("stay there")])
        self.curve = Pick()
        self.curve.setMinimumWidth(170)

    def _time_grid(self) -> QGridLayout:
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
        after = len(_TIMES)
        grid.addWidget(label(tr("Curve"), "quiet"), after, 0)
        grid.addWidget(self.curve, after, 1, 1, 2, Qt.AlignmentFlag.AlignLeft)
        self.rest_label = label(tr("Between rounds"), "quiet")
        grid.addWidget(self.rest_label, after + 1, 0)
        grid.addWidget(self.at_rest, after + 1, 1, 1, 2, Qt.AlignmentFlag.AlignLeft)
        grid.addWidget(label(tr("Keyframes"), "quiet"), after + 2, 0)
        grid.addWidget(self.keys, after + 2, 1, 1, 2)
        grid.addWidget(label(tr("Until"), "quiet"), after + 3, 0)
        grid.addWidget(self.until, after + 3, 1, 1, 2)
        grid.setColumnStretch(3, 1)
        return grid

    def _pose_grid(self) -> QGridLayout:
        pose = QGridLayout()
        pose.setHorizontalSpacing(12)
        pose.setVerticalSpacing(8)
        pose.setColumnStretch(2, 1)
        for k, key in enumerate(_POSE):
            pose.addWidget(label(_WORDS[key], "quiet"), k, 0)
            pose.addWidget(self.fields[key], k, 1)
        return pose

    def _make_settings(self) -> QWidget:
        self.settings = panel()
        self._make_fields()
        layout = QVBoxLayout(self.settings)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(10)
        layout.addLayout(row(self.name, self.on_layer, None, self.alone, self.muted))
        inside = QWidget()  # scrolled where a drawer takes its room
        halves = QHBoxLayout(inside)
        halves.setContentsMargins(0, 0, 8, 0)
        halves.setSpacing(32)
        left, right = QVBoxLayout(), QVBoxLayout()
        for part in (left, right):
            part.setAlignment(Qt.AlignmentFlag.AlignTop)
            part.setSpacing(10)
        left.addWidget(label(tr("Time"), "heading"))
        left.addLayout(self._time_grid())
        right.addWidget(label(tr("Second pose"), "heading", tr("How far the layer goes from its state")))
        right.addLayout(self._pose_grid())
        self.also = label("", "quiet")
        self.also.setWordWrap(True)
        along = row(label(tr("Along"), "quiet"), self.along, self.rotates, None)
        right.addLayout(along)
        right.addWidget(self.also)
        right.addWidget(self.pose_button, 0, Qt.AlignmentFlag.AlignLeft)
        right.addWidget(self.seam)
        right.addWidget(self.close_seam, 0, Qt.AlignmentFlag.AlignLeft)
        halves.addLayout(left, 3)
        halves.addLayout(right, 2)
        halves.setAlignment(Qt.AlignmentFlag.AlignTop)
        layout.addWidget(scrolled(inside), 1)
        return self.settings

    def _connect(self) -> None:
        self.list.currentItemChanged.connect(lambda item, _: self.choose(item.data(ID)) if item else None)
        self.add.clicked.connect(self.make)
        self.remove.clicked.connect(self.remove_chosen)
        self.name.editingFinished.connect(self._rename)
        self.way.picked.connect(
            lambda k: self._edit("way", lambda o: replace(o, direction=("there and back", "one way")[k]))
        )
        self.wait_when.picked.connect(
            lambda k: self._edit("wait", lambda o: replace(o, wait_when=("once", "before each round")[k]))
        )
        self.at_rest.picked.connect(lambda k: self._edit("rest", lambda o: replace(o, at_rest=("jump", "hold")[k])))
        self.curve.activated.connect(self._set_curve)
        self.muted.clicked.connect(lambda on: self._edit("mute", lambda o: replace(o, muted=bool(on))))
        self.close_seam.clicked.connect(lambda: self._edit("seam", close_seam))
        self.copy.clicked.connect(self._copy)
        self.keys.meant.connect(lambda keys: self._edit("keyframes", lambda o: replace(o, keyframes=keys)))
        self.keys.refused.connect(self.workspace.said)
        self.until.meant.connect(lambda text: self._edit("until", lambda o: replace(o, until=text)))
        self.along.activated.connect(self._set_along)
        self.rotates.clicked.connect(lambda on: self._edit("turning", lambda o: replace(o, rotates=bool(on))))
        self.until.refused.connect(self.workspace.said)
        hear_numbers(self.fields, self.workspace, self._number)

    # Showing

    def loop(self) -> Loop | None:
        """The chosen loop."""
        frame = self.workspace.frame
        return next((entry for entry in frame.loops if entry.id == self.loop_id), None) if frame else None

    def refresh(self, frame: Frame) -> None:
        """Take everything over from the project."""
        if self.loop() is None:
            self.loop_id = frame.loops[0].id if frame.loops else ""
        names = layer_index(frame)
        rows = ((entry.id, f"{entry.name}\n{says(entry)}") for entry in frame.loops)
        fill_list(self.list, rows, self.loop_id)
        fill_layers(self.layers, frame, self.workspace)
        self.remove.setEnabled(bool(self.loop_id))
        self._show_loop(names)

    def _show_loop(self, names: dict[str, Layer]) -> None:
        loop = self.loop()
        self.settings.setEnabled(loop is not None)
        if loop is None:
            self.name.clear()
            for words in (self.on_layer, self.seam, self.also):
                words.clear()
            self.close_seam.hide()
            return
        self.name.setText(loop.name)
        layer = names[loop.layer]
        self.on_layer.setText(tr("on {layer}", layer=layer.name))
        values = {
            "duration": loop.duration,
            "wait": loop.wait,
            "rounds": float(loop.rounds),
            "jitter": loop.jitter * 100,
            "later": later(loop),
            **pose_values(loop.offset),
        }
        for key, field in self.fields.items():
            field.show_value(values[key])
        self.way.show_picked(0 if loop.direction == "there and back" else 1)
        self.wait_when.show_picked(0 if loop.wait_when == "once" else 1)
        self.at_rest.show_picked(0 if loop.at_rest == "jump" else 1)
        self.rest_label.setVisible(loop.direction == "one way")
        self.at_rest.setVisible(loop.direction == "one way")
        self.rounds_note.setText(tr("endless") if not loop.rounds else tr("then it rests"))
        show_named(self.curve, self.workspace.project, loop.curve)
        self.keys.show_keys(loop.keyframes)
        self._show_along(loop, names)
        inputs = self.workspace.project.inputs
        self.until.show_text(loop.until, [entry.name for entry in inputs if entry.kind != "signal"])
        self.muted.setChecked(loop.muted)
        frame = self.workspace.frame
        others = beside(frame, loop) if frame is not None else ()
        jumps = seam(layer, loop, self.workspace.project, others)
        self.seam.setText(tr("The seam jumps: {jumps}.", jumps=", ".join(jumps)) if jumps else tr("Seam closed."))
        self.close_seam.setVisible(bool(jumps))
        more = [name for name in loop.changes.__struct_fields__ if getattr(loop.changes, name) is not None]
        more += [tr("a path")] if loop.path else []
        some = ", ".join(name.replace("_", " ") for name in more)
        self.also.setText(tr("Also: {names}", names=some) if more else "")
        self.also.setVisible(bool(more))

    def _show_along(self, loop: Loop, layers: dict[str, Layer]) -> None:
        self.along.clear()
        self.along.addItem(tr("a straight line"), "")
        if loop.path:
            self.along.addItem(tr("its path"), None)
        for layer in layers.values():
            if isinstance(layer.body, Path) and layer.id != loop.layer:
                self.along.addItem(layer.name, layer.id)
        self.along.setCurrentIndex(1 if loop.path else 0)
        self.rotates.setVisible(bool(loop.path))
        self.rotates.setChecked(loop.rotates)

    # Doing

    def copy_chosen(self) -> None:
        """Keep the chosen loop, to be pasted on other layers here or in another frame."""
        loop, frame = self.loop(), self.workspace.frame
        if loop is not None and frame is not None:
            self.kept = loop, layer_index(frame)[loop.layer]
            self.workspace.said.emit(tr("{loop} is copied: choose layers and paste it.", loop=loop.name))

    def paste(self) -> None:
        """The kept loop on the chosen layers, each a little later."""
        frame, kept, step = self.workspace.frame, self.kept, self.step.value
        if frame is None or kept is None:
            self.workspace.said.emit(tr("Copy a loop first (Ctrl+C)."))
            return
        ids = self.workspace.chosen_here
        made = self.workspace.make(
            tr("paste {kept}", kept=kept[0].name), lambda p: paste_loop(p, frame.id, *kept, ids, step)
        )
        if made:
            self.choose(made[-1])

    def _set_along(self, place: int) -> None:
        frame, loop, path = self.workspace.frame, self.loop(), self.along.itemData(place)
        if frame is not None and loop is not None and path is not None:
            self.workspace.do(tr("path of {loop}", loop=loop.name), lambda p: along_layer(p, frame.id, loop.id, path))

    def choose(self, loop_id: str) -> None:
        """Choose a loop."""
        if loop_id != self.loop_id:
            self.loop_id = loop_id
            self.chose.emit(loop_id)

    def make(self) -> None:
        """A new loop on the layer that is named in the list."""
        frame, layer_id = self.workspace.frame, self.layers.currentData()
        if frame is None or layer_id is None:
            return
        made = self.workspace.make(tr("new loop"), lambda p: add_loop(p, frame.id, layer_id))
        if made is not None:
            self.choose(made)

    def _copy(self) -> None:
        """The loop also on the chosen layers, each a little later."""
        frame, loop = self.workspace.frame, self.loop()
        if frame is None or loop is None:
            return
        layers, step = [ident for ident in self.workspace.chosen_here if ident != loop.layer], self.step.value
        if not layers:
            self.workspace.said.emit(tr("Choose the other layers in the picture first: hold Ctrl and click."))
            return
        self.workspace.make(
            tr("copies of {loop}", loop=loop.name), lambda p: copy_loop(p, frame.id, loop.id, layers, step)
        )

    def remove_chosen(self) -> bool:
        """Remove the loop that is shown; whether there is one."""
        frame, loop_id = self.workspace.frame, self.loop_id
        if frame is None or not loop_id:
            return False
        self.workspace.do(tr("remove loop"), lambda p: remove_loop(p, frame.id, loop_id))
        return True

    def _edit(self, what: str, change: Callable[[Loop], Loop], gesture: bool = False) -> None:
        frame, loop = self.workspace.frame, self.loop()
        if frame is None or loop is None:
            return
        do = self.workspace.gesture if gesture else self.workspace.do
        do(tr("{what} of {loop}", what=what, loop=loop.name), lambda p: edit_loop(p, frame.id, loop.id, change))

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
            if key == "later":
                return shift_phase(old, value - later(old))
            if key == "jitter":
                return replace(old, jitter=value / 100)
            if key in _TIMES:
                return replace(old, **{key: round(value) if key == "rounds" else value})
            return replace(old, offset=with_pose(old.offset, key, value))

        self._edit(_WORDS[key].lower(), change, True)
        if not scrubbing:
            self.workspace.end_gesture()


def later(loop: Loop) -> float:
    """By how many ms a loop begins later than its frame, inside its round."""
    whole = round_duration(loop)
    return -loop.start_offset % whole if loop.rounds == 0 and whole > 0.0 else -loop.start_offset


def says(loop: Loop) -> str:
    """A loop in one line."""
    wait = tr(", waits {wait:g} ms {wait_when}", wait=loop.wait, wait_when=tr(loop.wait_when)) if loop.wait else ""
    rounds = tr(", {rounds} rounds", rounds=loop.rounds) if loop.rounds else ""
    return f"{loop.duration:g} ms {tr(loop.direction)}{wait}{rounds}"
