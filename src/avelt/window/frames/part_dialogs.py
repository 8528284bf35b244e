"""The dialogs of parts: which one is used, and what a use says of its part."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.model.parts import as_stage
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Input, Part, Project, Use
from avelt.core.record import Record
from avelt.window.controls.fields import label
from avelt.window.controls.forms import Form
from avelt.window.controls.painted import Pick


class UseDialog(Form):
    """Which part is put on the frame."""

    def __init__(self, parent: QWidget, parts: Sequence[Part]) -> None:
        super().__init__(parent, "Use a part", "Use it")
        self.parts = parts
        self.pick = Pick()
        self.pick.addItems([part.name for part in parts])
        self.fields.addRow("Part", self.pick)

    def wanted(self) -> Part:
        """The chosen part."""
        return self.parts[self.pick.currentIndex()]


class PartSettings(Record, frozen=True):
    """What the dialog gives back. ``feeds``: for each input of the part, what it gets: ``None`` is nothing."""

    name: str
    use: Use
    feeds: tuple[tuple[str, InputValue | None], ...]


class PartDialog(Form):
    """A part's name, and what one use says of it: the pose, its clock, what its inputs get."""

    def __init__(self, parent: QWidget, project: Project, part: Part, use: Use) -> None:
        super().__init__(parent, f"Part {part.name}", "Set")
        self.project, self.part, self.use = project, part, use
        self.name = QLineEdit(part.name)
        self.fields.addRow("Name", self.name)
        poses = as_stage(project, part).frames
        self.poses = [pose.id for pose in poses]
        self.pose = Pick()
        self.pose.addItems([pose.name for pose in poses])
        first = use.pose if use.pose in self.poses else part.first
        self.pose.setCurrentIndex(self.poses.index(first) if first in self.poses else 0)
        self.fields.addRow("Begins with", self.pose)
        self.speed = self.number("Speed of its clock", use.speed, "x", 0, 1000)
        self.offset = self.number("Its clock begins at", use.offset, "ms", -600_000, 600_000)
        self.inputs: list[tuple[Input, QLineEdit]] = []
        if part.inputs:
            self.fields.addRow(label("Its inputs get an input of here, by name, or a value. Empty: as it is.", "quiet"))
        fed = {feed.input: feed.name or _text(feed.value) for feed in use.feeds}
        for entry in part.inputs:
            field = QLineEdit(fed.get(entry.id, ""))
            field.setPlaceholderText(entry.kind if entry.kind == "signal" else f"{entry.kind}, {_text(entry.start)}")
            field.setAccessibleName(entry.name)
            self.inputs.append((entry, field))
            self.fields.addRow(entry.name, field)

    def wanted(self) -> PartSettings:
        """What was set; a value that is none of the input's kind goes on as text and is refused by the edit."""
        pose = self.poses[self.pose.currentIndex()]
        use = Use(
            self.use.part, "" if pose == self.part.first else pose, self.use.feeds, self.speed.value, self.offset.value
        )
        return PartSettings(
            self.name.text().strip(),
            use,
            tuple((entry.id, self._said(entry, field.text().strip())) for entry, field in self.inputs),
        )

    def _said(self, entry: Input, text: str) -> InputValue | None:
        if not text:
            return None
        if any(text == known.name for known in self.project.inputs):
            return text
        if entry.kind == "number":
            try:
                return float(text.replace(",", "."))
            except ValueError:
                return text
        if entry.kind == "yes/no" and text.lower() in ("yes", "no"):
            return text.lower() == "yes"
        return text


def _text(value: InputValue) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)
