"""Files that are taken into what is open: screens, tapes, presets; by dialog, by drop, by double click. The main window
is one of these."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6 import QtWidgets  # its dialogs are made when they are first asked for
from PySide6.QtGui import QDragEnterEvent, QDropEvent

from avelt.core.errors import AveltError
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.shell.file_commands import FileCommands

if TYPE_CHECKING:
    from avelt.core.formats.svg_in import Imported
    from avelt.window.shell.import_job import ImportJob, Read

#: Endings of files that are no projects, and are taken into the open one or onto the shelf.
TAKEN = (".avelt-preset", ".avelt-pack", ".avelt-tape", ".css", ".json")
DROPPED = (".avelt", ".avelt-preset", ".avelt-pack", ".avelt-tape")


def _is_lottie(path: Path) -> bool:
    from avelt.core.formats.lottie_in import is_lottie

    try:
        with path.open("rb") as stream:
            return is_lottie(stream.read(2**20))
    except OSError:
        return False


class TakeCommands(FileCommands):
    """What a window does with files that are no projects."""

    _import: tuple[ImportJob, QtWidgets.QProgressDialog] | None = None

    def take_files(self, paths: Sequence[Path]) -> None:
        """Take files in that are no projects: tapes into the open one, presets and packs onto the shelf."""
        from avelt.core.edits.tapes import keep_tape
        from avelt.core.formats.disk import read_bytes
        from avelt.core.model.tapes import MOST_BYTES
        from avelt.core.running.tape import read_tape

        for path in paths:
            if path.suffix != ".avelt-tape":
                continue
            if not self.workspace.whole.frames:
                self.say(tr("{path} plays on a project: open that first, then bring the tape.", path=path.name))
                continue
            try:
                tape = read_tape(read_bytes(path, MOST_BYTES), str(path))
            except AveltError as error:
                self.say(str(error))
                continue
            tape = replace(tape, name=tape.name or path.stem)
            words = tr("keep tape {tape}", tape=tape.name)
            if self.workspace.make(words, lambda project, kept=tape: keep_tape(project, kept)):  # type: ignore[misc]
                self.go("rehearse")
        moving = [path for path in paths if path.suffix == ".json" and _is_lottie(path)]
        if moving:
            self.import_files(moving)
        presets = [path for path in paths if path.suffix != ".avelt-tape" and path not in moving]
        if presets:
            self.take_presets(presets)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() and Path(url.toLocalFile()).suffix in DROPPED for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Projects open (the first here), presets, packs and tapes are taken in."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        projects = [path for path in paths if path.suffix == ".avelt"]
        if projects and self.may_lose():
            self.open_file(projects[0])
        for path in projects[1:]:
            self.another_window().open_file(path)
        self.take_files([path for path in paths if path.suffix in DROPPED and path.suffix != ".avelt"])
        event.acceptProposedAction()

    def import_files(self, paths: Sequence[Path]) -> None:
        """Bring screens in as frames. Small ones at once; others are read in the background, with a way to stop."""
        from avelt.window.shell.import_job import ImportJob, read_screens, small

        if not paths or self._import is not None:
            return
        if small(paths):
            self.add_read(read_screens(paths))
            return
        job = ImportJob(paths)
        dialog = QtWidgets.QProgressDialog(tr("Reading screens"), tr("Stop"), 0, len(paths), self)
        dialog.setWindowTitle(tr("Import screens"))
        dialog.setMinimumDuration(300)
        job.progressed.connect(lambda done, whole: dialog.setValue(done))
        dialog.canceled.connect(job.stop)
        self._import = (job, dialog)
        self.imports.start(job)

    def _import_ended(self) -> None:
        if self._import is not None:
            _, dialog = self._import
            self._import = None
            dialog.reset()
            dialog.deleteLater()

    def _read(self, found: Read) -> None:
        """The background has read the files."""
        self._import_ended()
        if found.stopped:
            self.say(tr("Stopped. Nothing was imported."))
        else:
            self.add_read(found)

    def add_read(self, found: Read) -> None:
        """Frames into the project as one entry, and what the person should know about them."""
        from avelt.core.edits.frames import add_frames

        screens = [part for imported in found.screens for part in self._taken_apart(imported)]
        if screens:
            count = len(screens)
            words = (
                tr("import {frame}", frame=screens[0].frame.name)
                if count == 1
                else tr("import {count} screens", count=count)
            )
            assets = [asset for imported in screens for asset in imported.assets]

            def edit(project: Project) -> tuple[Project, str]:
                made = add_frames(project, [imported.frame for imported in screens], assets)
                return made, made.frames[len(project.frames)].id

            first = self.workspace.make(words, edit)
            if first is not None:
                self.workspace.choose(first)
        notes = sum(len(imported.report.notes) for imported in screens)
        told = [*found.troubles]
        if notes:
            told.append(
                tr(
                    "{n} things were left out or approximated: see the import report.",
                    "{n} thing was left out or approximated: see the import report.",
                    notes,
                )
            )
        if told:
            self.say(" ".join(told))

    def _taken_apart(self, imported: Imported) -> list[Imported]:
        """One screen, or those that a drawing holds when the person wants frames of them."""
        from avelt.core.formats.screens import apart, screens_in
        from avelt.window.frames.apart import ApartDialog

        screens = screens_in(imported.frame)
        if not screens:
            return [imported]
        dialog = ApartDialog(self, self.workspace.theme, imported, screens)
        return apart(imported, dialog.wanted()) if self.ask(dialog) else [imported]

    def do_import(self) -> None:
        """Choose screen files."""
        from avelt.core.formats.disk import SCREEN_ENDINGS

        kinds = " ".join(f"*{ending}" for ending in SCREEN_ENDINGS)
        paths, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self, tr("Import screens"), str(Path.home()), tr("Screens ({kinds})", kinds=kinds)
        )
        self.import_files([Path(path) for path in paths])
