"""What is in files, before it is taken onto the shelf: each preset, whether it is new, what becomes of same names."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from avelt.core.errors import AveltError
from avelt.core.formats.disk import read_bytes
from avelt.core.model.limits import MAX_PACK_BYTES
from avelt.core.presets import packs
from avelt.core.presets.files import read_file
from avelt.core.presets.moves import moves
from avelt.core.presets.values import Preset, to_json
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.controls.fields import Choice, button, label, row

Same = Literal["keep", "replace", "skip"]
_SAME: tuple[Same, ...] = ("keep", "replace", "skip")


class Offered(Record, frozen=True):
    """A preset of a file, and how it stands to the shelf: new, another of the same name, or there already."""

    preset: Preset
    on_shelf: Literal["new", "same name", "there already"]


def offered(presets: list[Preset], shelf: list[Preset]) -> list[Offered]:
    """How the presets of files stand to those of the shelf."""
    known = {preset.name.casefold(): to_json(preset) for preset in shelf}
    made: list[Offered] = []
    for preset in presets:
        there = known.get(preset.name.casefold())
        on_shelf: Literal["new", "same name", "there already"] = (
            "new" if there is None else "there already" if there == to_json(preset) else "same name"
        )
        made.append(Offered(preset, on_shelf))
    return made


def read_all(paths: Sequence[Path]) -> tuple[list[Preset], str, list[str]]:
    """What is in files: their presets, what packs say of themselves, and what is none."""
    presets: list[Preset] = []
    notes: list[str] = []
    troubles: list[str] = []
    for path in paths:
        try:
            if packs.is_pack(path.name):
                manifest, inside, wrong = packs.unpack(read_bytes(path, MAX_PACK_BYTES), str(path))
                by = f" by {manifest.author}" if manifest.author else ""
                licence = f", {manifest.licence}" if manifest.licence else ""
                said = f". {manifest.notes}" if manifest.notes else ""
                notes.append(
                    tr(
                        "{path}: {count} presets{by}{licence}{said}",
                        path=path.name,
                        count=len(inside),
                        by=by,
                        licence=licence,
                        said=said,
                    )
                )
            else:
                inside, wrong = read_file(path)
        except AveltError as error:
            troubles.append(str(error))
            continue
        presets += inside
        troubles += [trouble.says for trouble in wrong]
    return presets, "\n".join(notes), troubles


class TakeForm(QDialog):
    """The list with ticks; accepted with ``wanted`` and ``same``."""

    def __init__(self, parent: QWidget, found: list[Offered], notes: str, troubles: list[str]) -> None:
        super().__init__(parent)
        self.found = found
        self.setWindowTitle(tr("Take presets onto the shelf"))
        self.resize(620, 440)
        layout = QVBoxLayout(self)
        layout.setSpacing(9)
        for words, role in ((notes, ""), (" ".join(troubles), "trouble")):
            if words:
                said = label(words, role)
                said.setWordWrap(True)
                layout.addWidget(said)
        self.list = QTreeWidget()
        self.list.setHeaderLabels([tr("Preset"), tr("Kind"), tr("Length"), tr("Moves"), tr("On the shelf")])
        self.list.setRootIsDecorated(False)
        self.list.setAccessibleName(tr("Presets in the file"))
        for entry in found:
            preset = entry.preset
            length = f"{preset.duration:g} ms" if preset.duration else ""
            item = QTreeWidgetItem(
                self.list, [preset.name, preset.kind, length, ", ".join(sorted(moves(preset))), entry.on_shelf]
            )
            item.setCheckState(
                0, Qt.CheckState.Unchecked if entry.on_shelf == "there already" else Qt.CheckState.Checked
            )
            item.setToolTip(0, preset.when or preset.note)
        for column in range(4):
            self.list.resizeColumnToContents(column)
        layout.addWidget(self.list, 1)
        self.same = Choice(
            [tr("Keep both"), tr("Replace mine"), tr("Skip")],
            [tr("The one that comes gets another name"), tr("Mine is gone then"), tr("What is mine stays as it is")],
        )
        clash = any(entry.on_shelf == "same name" for entry in found)
        asked = label(tr("Where a name is there already:"), "quiet")
        asked.setVisible(clash)
        self.same.setVisible(clash)
        cancel, self.take = button(tr("Cancel")), button(tr("Take them"), "", "strong")
        layout.addLayout(row(asked, self.same, None, spacing=8))
        layout.addLayout(row(None, cancel, self.take, spacing=8))
        cancel.clicked.connect(self.reject)
        self.take.clicked.connect(self.accept)
        self.list.itemChanged.connect(lambda *_: self.take.setEnabled(bool(self.wanted)))
        self.take.setEnabled(bool(self.wanted))

    @property
    def wanted(self) -> list[Preset]:
        """The presets that are ticked."""
        ticked = (self.list.topLevelItem(k) for k in range(self.list.topLevelItemCount()))
        return [
            entry.preset
            for entry, item in zip(self.found, ticked, strict=True)
            if item is not None and item.checkState(0) == Qt.CheckState.Checked
        ]

    @property
    def how(self) -> Same:
        """What becomes of same names."""
        return _SAME[self.same.index]
