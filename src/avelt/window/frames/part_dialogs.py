"""The dialogs of parts: which one is used, and what a use says of its part."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace
from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.model.find import walk
from avelt.core.model.parts import as_stage
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Input, Layer, Part, PartChange, Project, Text, Use
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.controls.fields import label
from avelt.window.controls.forms import Form
from avelt.window.controls.painted import Pick


class UseDialog(Form):
    """Which part is put on the frame."""

    def __init__(self, parent: QWidget, parts: Sequence[Part]) -> None:
        super().__init__(parent, tr("Use a part"), tr("Use it"))
        self.parts = parts
        self.pick = Pick()
        self.pick.addItems([part.name for part in parts])
        self.fields.addRow(tr("Part"), self.pick)

    def wanted(self) -> Part:
        """The chosen part."""
        return self.parts[self.pick.currentIndex()]


class PartSettings(Record, frozen=True):
    """What the dialog gives back. ``feeds``: for each input of the part, what it gets: ``None`` is nothing."""

    name: str
    use: Use
    feeds: tuple[tuple[str, InputValue | None], ...]


_FITS = ("scale", "stretch", "keep")
_FIT_WORDS = (tr("scales to its box"), tr("stretches to its box"), tr("keeps its size"))
_MOST_WORDS = 8  # texts of a part that can be said otherwise here


class PartDialog(Form):
    """A part's name, and what one use says of it: the pose, its size, its clock, what its inputs get, other words."""

    def __init__(self, parent: QWidget, project: Project, part: Part, use: Use) -> None:
        super().__init__(parent, tr("Part {part}", part=part.name), tr("Set"))
        self.project, self.part, self.use = project, part, use
        self.name = QLineEdit(part.name)
        self.fields.addRow(tr("Name"), self.name)
        poses = as_stage(project, part).frames
        self.poses = [pose.id for pose in poses]
        self.pose = Pick()
        self.pose.addItems([pose.name for pose in poses])
        first = use.pose if use.pose in self.poses else part.first
        self.pose.setCurrentIndex(self.poses.index(first) if first in self.poses else 0)
        self.fields.addRow(tr("Begins with"), self.pose)
        self.fit = Pick()
        self.fit.addItems(_FIT_WORDS)
        self.fit.setCurrentIndex(_FITS.index(use.fit))
        self.fields.addRow(tr("Its size"), self.fit)
        self.speed = self.number(tr("Speed of its clock"), use.speed, "x", 0, 1000)
        self.offset = self.number(tr("Its clock begins at"), use.offset, "ms", -600_000, 600_000)
        self.inputs: list[tuple[Input, QLineEdit]] = []
        if part.inputs:
            self.fields.addRow(
                label(tr("Its inputs get an input of here, an expression or a value. Empty: as it is."), "quiet")
            )
        fed = {feed.input: feed.name or feed.expression or _text(feed.value) for feed in use.feeds}
        for entry in part.inputs:
            field = QLineEdit(fed.get(entry.id, ""))
            field.setPlaceholderText(
                tr(entry.kind) if entry.kind == "signal" else f"{tr(entry.kind)}, {_text(entry.start)}"
            )
            field.setAccessibleName(entry.name)
            self.inputs.append((entry, field))
            self.fields.addRow(entry.name, field)
        self.words: list[tuple[Layer, QLineEdit]] = []
        texts = {layer.origin: layer for layer in walk(poses[0].layers) if isinstance(layer.body, Text)}
        told = {change.origin: change.text for change in use.changes if change.text is not None}
        if texts:
            self.fields.addRow(label(tr("Other words here. Empty: as the part says."), "quiet"))
        for origin, layer in list(texts.items())[:_MOST_WORDS]:
            line = QLineEdit(told.get(origin, ""))
            line.setPlaceholderText(_words(layer))
            line.setAccessibleName(tr("Words of {layer}", layer=layer.name))
            self.words.append((layer, line))
            self.fields.addRow(layer.name, line)

    def wanted(self) -> PartSettings:
        """What was set; a value that is none of the input's kind goes on as text and is refused by the edit."""
        pose = self.poses[self.pose.currentIndex()]
        use = replace(
            self.use,
            pose="" if pose == self.part.first else pose,
            speed=self.speed.value,
            offset=self.offset.value,
            fit=_FITS[self.fit.currentIndex()],
            changes=self._changes(),
        )
        return PartSettings(
            self.name.text().strip(),
            use,
            tuple((entry.id, self._said(entry, field.text().strip())) for entry, field in self.inputs),
        )

    def _changes(self) -> tuple[PartChange, ...]:
        """What the use changes: other words from here, all else as it was."""
        told = {change.origin: change for change in self.use.changes}
        for layer, line in self.words:
            old = told.get(layer.origin, PartChange(layer.origin))
            told[layer.origin] = replace(old, text=line.text() or None)
        return tuple(change for change in told.values() if change != PartChange(change.origin))

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


def _words(layer: Layer) -> str:
    return layer.body.words.replace("\n", " ") if isinstance(layer.body, Text) else ""


def _text(value: InputValue) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)
