"""What the panels of loops and of follows have in common: their list, their layers, their numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from msgspec.structs import replace
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QComboBox, QListWidget, QListWidgetItem

from avelt.core.model.find import walk
from avelt.core.model.values import Frame, Pose
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import NumberField

ID = Qt.ItemDataRole.UserRole


def fill_list(view: QListWidget, rows: Iterable[tuple[str, str]], chosen: str) -> None:
    """Show rows of (id, words), one of them chosen, without telling anyone."""
    blocker = QSignalBlocker(view)
    view.clear()
    for ident, words in rows:
        item = QListWidgetItem(words)
        item.setData(ID, ident)
        view.addItem(item)
        if ident == chosen:
            view.setCurrentItem(item)
    del blocker


def fill_layers(pick: QComboBox, frame: Frame, workspace: Workspace) -> None:
    """Offer the layers of a frame, that which is chosen elsewhere first."""
    pick.clear()
    for layer in walk(frame.layers):
        pick.addItem(layer.name, layer.id)
    if workspace.layer is not None:
        pick.setCurrentIndex(max(0, pick.findData(workspace.layer.id)))


def pose_fields() -> dict[str, NumberField]:
    """The numbers of a second pose."""
    return {
        "shift_x": NumberField("px"),
        "shift_y": NumberField("px"),
        "rotation": NumberField("°"),
        "scale": NumberField("%", 1.0, -10000.0, 10000.0),
        "opacity": NumberField("%", 1.0, 0.0, 100.0),
    }


def pose_values(pose: Pose) -> dict[str, float]:
    """What those fields show."""
    return {
        "shift_x": pose.shift_x,
        "shift_y": pose.shift_y,
        "rotation": pose.rotation,
        "scale": pose.scale_x * 100,
        "opacity": pose.opacity * 100,
    }


def with_pose(pose: Pose, key: str, value: float) -> Pose:
    """A second pose with another number, as its field says it."""
    if key == "scale":
        return replace(pose, scale_x=value / 100, scale_y=value / 100)
    return replace(pose, **{key: value / 100 if key == "opacity" else value})


def hear_numbers(
    fields: Mapping[str, NumberField], workspace: Workspace, meant: Callable[[str, float, bool], None]
) -> None:
    """``meant`` is told which number is another, and whether that goes on (scrubbing)."""
    for key, field in fields.items():
        field.cancelled.connect(workspace.cancel_gesture)
        field.scrubbed.connect(lambda value, key=key: meant(key, value, True))
        field.committed.connect(lambda value, key=key: meant(key, value, False))
        field.refused.connect(workspace.said)
