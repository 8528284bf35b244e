"""How a leaving or entering layer goes and comes: ready ways, mixes, numbers; for one or for all on its side."""

from __future__ import annotations

from typing import Any

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from avelt.core.model.values import Away, Frame
from avelt.core.timing.leave_enter import WAYS, leave_enter_of, mixed, taken
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import NumberField, button, label, row
from avelt.window.controls.layer_pick import add_layers
from avelt.window.controls.painted import Pick, Tick

_SIDES = ("pivot", "top", "right", "bottom", "left")
_OWN = tr("own")


class WaySheet(QWidget):
    """The fields; the signals are wishes."""

    changed = Signal(object, object)  # another pose, and the names of what of it was changed (all: empty)
    for_all = Signal()  # this way for all on the side
    reset = Signal()  # as all on the side

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.pose = Away()
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(24)
        whole.addLayout(self._ways())
        whole.addLayout(self._numbers())
        self._connect()

    def _ways(self) -> QVBoxLayout:
        """How it goes, in words."""
        self.way = Pick()
        self.way.setAccessibleName(tr("Way"))
        self.way.setMinimumWidth(190)
        self.mix = Tick(tr("mix with what is set"))
        self.mix.setToolTip(tr("Add the next one to what is set already, instead of replacing it"))
        self.side = Pick()
        self.side.addItems([tr("from the {s}", s=s) if s != "pivot" else tr("from its pivot") for s in _SIDES])
        self.side.setToolTip(tr("What stays where it is while it grows or shrinks"))
        self.behind = Pick()
        self.behind.setSizeAdjustPolicy(Pick.SizeAdjustPolicy.AdjustToContents)
        self.behind.setToolTip(tr("The layer under which it is painted while it comes or goes"))
        self.note = label("", "quiet")
        lines = QVBoxLayout()
        lines.setSpacing(6)
        lines.addLayout(row(self.way))
        lines.addWidget(self.mix)
        lines.addLayout(row(label(tr("Size"), "quiet"), self.side, None))
        lines.addLayout(row(label(tr("Behind"), "quiet"), self.behind, None))
        lines.addStretch(1)
        lines.addWidget(self.note)
        return lines

    def _numbers(self) -> QVBoxLayout:
        """The same in numbers, and for whom it counts."""
        self.fields = {
            "shift_x": NumberField("px", 1.0),
            "shift_y": NumberField("px", 1.0),
            "rotation": NumberField("°", 1.0),
            "scale_x": NumberField("%", 1.0, 0.0, 10_000.0),
            "scale_y": NumberField("%", 1.0, 0.0, 10_000.0),
            "opacity": NumberField("%", 1.0, 0.0, 100.0),
            "blur": NumberField("px", 1.0, 0.0, 1000.0),
            "cut": NumberField("%", 1.0, 0.0, 100.0),
        }
        words = {
            "shift_x": tr("Shift right"),
            "shift_y": tr("Shift down"),
            "rotation": tr("Rotation"),
            "scale_x": tr("Width"),
            "scale_y": tr("Height"),
            "opacity": tr("Opacity"),
            "blur": tr("Blur"),
            "cut": tr("Cut off"),
        }
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(5)
        grid.setHorizontalSpacing(8)
        for k, (key, field) in enumerate(self.fields.items()):
            field.setFixedWidth(72)
            field.setAccessibleName(words[key])
            grid.addWidget(label(words[key], "quiet"), k // 2, (k % 2) * 2)
            grid.addWidget(field, k // 2, (k % 2) * 2 + 1)
        self.all = button(tr("Use for all"), tr("All on this side that have none of their own go like this"))
        self.back = button(tr("Use the shared one"), tr("Forget its own"))
        lines = QVBoxLayout()
        lines.addLayout(grid)
        lines.addStretch(1)
        lines.addLayout(row(self.all, self.back))
        return lines

    def _connect(self) -> None:
        self.way.activated.connect(self._pick_way)
        self.side.activated.connect(lambda k: self._put(side="" if k == 0 else _SIDES[k]))
        self.behind.activated.connect(lambda k: self._put(behind=self.behind.itemData(k)))
        for key, field in self.fields.items():
            field.committed.connect(lambda value, key=key: self._set(key, value))
            field.refused.connect(self.workspace.said)
        self.all.clicked.connect(self.for_all)
        self.back.clicked.connect(self.reset)

    def show_pose(self, pose: Away, own: bool, leaves: bool, frame: Frame, layer_id: str) -> None:
        """Show how a layer of a frame leaves or enters."""
        self.pose = pose
        self.way.clear()
        for way in WAYS:
            self.way.addItem(way.leaves if leaves else way.enters, way.key)
        found = leave_enter_of(pose)
        if found is None:
            self.way.addItem(_OWN, "")
        self.way.setCurrentIndex(WAYS.index(found) if found is not None else self.way.count() - 1)
        self.side.setCurrentIndex(_SIDES.index(pose.side or "pivot"))
        self.behind.clear()
        self.behind.addItem(tr("nothing"), "")
        add_layers(self.behind, frame.layers, layer_id)
        at = self.behind.findData(pose.behind)
        if at < 0:
            self.behind.addItem(tr("a layer that is gone"), pose.behind)
            at = self.behind.count() - 1
        self.behind.setCurrentIndex(at)
        for key, field in self.fields.items():
            field.show_value(self._value(key))
        self.note.setText(
            tr("own")
            if own
            else tr("the shared one of all that leave")
            if leaves
            else tr("the shared one of all that enter")
        )
        self.back.setEnabled(own)

    def _value(self, key: str) -> float:
        if key == "cut":
            return max(self.pose.cut) * 100
        value = float(getattr(self.pose, key))
        return value * 100 if key in ("scale_x", "scale_y", "opacity") else value

    def _set(self, key: str, value: float) -> None:
        if key == "cut":
            share = value / 100
            cut = self.pose.cut if any(self.pose.cut) else (0.0, 1.0, 0.0, 0.0)
            most = max(cut)
            self._put(cut=tuple(c / most * share for c in cut))
        elif key in ("scale_x", "scale_y", "opacity"):
            self._put(**{key: value / 100})
        else:
            self._put(**{key: value})

    def _put(self, **own: Any) -> None:
        self.changed.emit(msgspec.structs.replace(self.pose, **own), tuple(own))

    def _pick_way(self, place: int) -> None:
        key = self.way.itemData(place)
        way = next((way for way in WAYS if way.key == key), None)
        if way is not None:
            self.changed.emit(mixed(self.pose, way) if self.mix.isChecked() else taken(self.pose, way), ())
