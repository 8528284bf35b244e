"""Tapes in files: written as documents or moving pictures, and read."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtWidgets import QFileDialog, QWidget

from avelt.core.errors import AveltError
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.handoff.delivery import Wanted
from avelt.core.model.tapes import MOST_BYTES, Tape
from avelt.core.model.values import Project
from avelt.core.running.tape import read_tape
from avelt.core.words import tr
from avelt.window.common.jobs import Latest
from avelt.window.common.workspace import Workspace
from avelt.window.rehearse.tape_job import TapeGif, TapeGifJob
from avelt.window.rehearse.tape_panel import TapePanel

_SUFFIX = ".avelt-tape"


class TapeFiles:
    """Asks where, and does it."""

    def __init__(self, parent: QWidget, workspace: Workspace, panel: TapePanel, jobs: Latest) -> None:
        self.parent, self.workspace, self.panel, self.jobs = parent, workspace, panel, jobs
        self._dialog: QFileDialog | None = None

    def _ask(self, title: str, filters: str, then: Callable[[Path], None], name: str = "") -> None:
        """A dialog that does not block."""
        dialog = QFileDialog(self.parent, title)
        dialog.setNameFilter(filters)
        if name:
            dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
            dialog.selectFile(name)
        else:
            dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
        dialog.fileSelected.connect(lambda path: then(Path(path)))
        dialog.open()
        self._dialog = dialog

    def save(self, kind: str, project: Project, tape: Tape) -> None:
        """Ask where to, and write."""
        if kind == "gif":
            self._ask(
                tr("Moving picture"),
                tr("GIF (*.gif)"),
                lambda path: self.write_gif(path, project, tape),
                f"{tape.name}.gif",
            )
        else:
            self._ask(
                tr("Tape"),
                tr("Tapes (*{suffix})", suffix=_SUFFIX),
                lambda path: self.write(path, tape),
                tape.name + _SUFFIX,
            )

    def write(self, path: Path, tape: Tape) -> None:
        """Write a tape as a document."""
        try:
            write_atomically(path, msgspec.json.format(msgspec.json.encode(tape), indent=1))
        except AveltError as error:
            self.workspace.said.emit(str(error))
        else:
            self.workspace.said.emit(tr("{path} is written.", path=path.name))

    def write_gif(self, path: Path, project: Project, tape: Tape) -> None:
        """Write a tape as a moving picture, in the background."""
        self.jobs.start(TapeGifJob(TapeGif(project, tape, path, Wanted(fps=20.0, rest=600.0))))
        self.panel.show_busy(0, 1)

    def open(self, then: Callable[[Tape], None]) -> None:
        """Ask which, and read it."""
        self._ask(tr("Open a tape"), tr("Tapes (*{suffix} *.json)", suffix=_SUFFIX), lambda path: self.read(path, then))

    def read(self, path: Path, then: Callable[[Tape], None]) -> None:
        """Read a tape; what is wrong with it is said, and what is rehearsed stays."""
        try:
            tape = read_tape(read_bytes(path, MOST_BYTES), path.name)
        except AveltError as error:
            self.workspace.said.emit(str(error))
        else:
            then(tape)
