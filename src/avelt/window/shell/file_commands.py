"""Files: opening, saving, bringing screens in, and what was not saved. The main window is one of these."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets  # its dialogs are made when they are first asked for
from PySide6.QtWidgets import QMainWindow

from avelt.core.errors import AveltError
from avelt.core.model.values import Project

if TYPE_CHECKING:
    from avelt.core.formats.svg_in import Imported
    from avelt.window.common.jobs import Latest
    from avelt.window.common.workspace import Workspace
    from avelt.window.shell.import_job import ImportJob, Read
    from avelt.window.shell.recovery import Keeper


class FileCommands(QMainWindow):
    """What a window does with files. What it needs of the rest of the window is named first."""

    workspace: Workspace
    keeper: Keeper
    _import: tuple[ImportJob, QtWidgets.QProgressDialog] | None = None

    def say(self, sentence: str) -> None:
        """Tell the person something."""
        raise NotImplementedError

    @cached_property
    def imports(self) -> Latest:
        """What reads screens in the background."""
        raise NotImplementedError

    def go(self, ident: str) -> None:
        """Enter a station."""
        raise NotImplementedError

    def _show_state(self) -> None:
        raise NotImplementedError

    def may_lose(self) -> bool:
        """Whether what is open may be put away: asks when it was changed."""
        if not self.workspace.session.changed:
            return True
        answer = QtWidgets.QMessageBox.StandardButton
        wanted = QtWidgets.QMessageBox.question(
            self,
            "Save changes?",
            f"“{self.workspace.project.name}” has changes that are not saved.",
            QtWidgets.QMessageBox.StandardButton.Save
            | QtWidgets.QMessageBox.StandardButton.Discard
            | QtWidgets.QMessageBox.StandardButton.Cancel,
        )
        if wanted == answer.Save:
            return self.do_save()
        return wanted == answer.Discard

    def show_project(self, project: Project, path: Path | None) -> None:
        """Put a project on the workspace in place of the one that is open."""
        self.workspace.path = path
        self.workspace.session.replace(project)
        self._show_state()
        self.go("frames")

    def offer_recovered(self) -> bool:
        """After a stop that was no closing: offer what was there; gives whether it was taken."""
        kept = self.keeper.recovery.kept()
        if kept is None:
            return False
        project, path = kept
        wanted = QtWidgets.QMessageBox.question(
            self,
            "Work that was not saved",
            f"Avelt stopped before “{project.name}” was saved. Shall what was there be opened again?",
        )
        self.keeper.recovery.clear()
        if wanted != QtWidgets.QMessageBox.StandardButton.Yes:
            return False
        self.show_project(project, path)
        self.workspace.session.unsaved()
        self._show_state()
        return True

    def open_file(self, path: Path) -> bool:
        """Open a project file; when that fails, what is open stays as it was."""
        from avelt.core.formats.project_file import open_project

        try:
            project = open_project(path)
        except AveltError as error:
            self.say(str(error))
            return False
        self.show_project(project, path)
        return True

    def save_to(self, path: Path) -> bool:
        """Save into a file."""
        from avelt.core.formats.project_file import save_project
        from avelt.core.timing.compile import compile_still
        from avelt.paint.moving import png_bytes

        project = self.workspace.project
        preview = b""
        if project.frames:
            preview = png_bytes(self.workspace.painter().render(compile_still(project.frames[0]).at(0.0), 0.5))
        try:
            save_project(project, path, preview)
        except AveltError as error:
            self.say(str(error))
            return False
        self.workspace.path = path
        self.workspace.session.saved()
        self._show_state()
        self.say(f"Saved as {path.name}.")
        return True

    def import_files(self, paths: Sequence[Path]) -> None:
        """Bring screens in as frames. Small ones at once; others are read in the background, with a way to stop."""
        from avelt.window.shell.import_job import ImportJob, read_screens, small

        if not paths or self._import is not None:
            return
        if small(paths):
            self.add_read(read_screens(paths))
            return
        job = ImportJob(paths)
        dialog = QtWidgets.QProgressDialog("Reading screens", "Stop", 0, len(paths), self)
        dialog.setWindowTitle("Import screens")
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
            self.say("Stopped. Nothing was imported.")
        else:
            self.add_read(found)

    def add_read(self, found: Read) -> None:
        """Frames into the project as one entry, and what the person should know about them."""
        from avelt.core.edits.frames import add_frames

        screens = [part for imported in found.screens for part in self._taken_apart(imported)]
        if screens:
            count = len(screens)
            words = f"import {screens[0].frame.name}" if count == 1 else f"import {count} screens"
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
            were = "s were" if notes != 1 else " was"
            told.append(f"{notes} thing{were} left out or approximated: see the import report.")
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

    def ask(self, dialog: QtWidgets.QDialog) -> bool:
        """Show a dialog until it is answered; gives whether it shall be done."""
        return dialog.exec() == QtWidgets.QDialog.DialogCode.Accepted

    def show_report(self) -> None:
        """What the imports left out, in a window of its own."""
        from avelt.window.shell.report import show_report

        show_report(self, self.workspace.project)

    def do_new(self) -> None:
        """An empty project."""
        from avelt.core.edits.project import new_project

        if self.may_lose():
            self.show_project(new_project("Untitled"), None)

    def do_open(self) -> None:
        """Open a file that is chosen."""
        if self.may_lose():
            path, _ = QtWidgets.QFileDialog.getOpenFileName(self, "Open", str(Path.home()), "Avelt projects (*.avelt)")
            if path:
                self.open_file(Path(path))

    def do_save(self) -> bool:
        """Save where it was saved last."""
        return self.save_to(self.workspace.path) if self.workspace.path is not None else self.do_save_as()

    def do_save_as(self) -> bool:
        """Save into a file that is chosen."""
        start = self.workspace.path or Path.home() / f"{self.workspace.project.name}.avelt"
        path, _ = QtWidgets.QFileDialog.getSaveFileName(self, "Save as", str(start), "Avelt projects (*.avelt)")
        if not path:
            return False
        wanted = Path(path)
        return self.save_to(wanted if wanted.suffix else wanted.with_suffix(".avelt"))

    def do_import(self) -> None:
        """Choose screen files."""
        from avelt.core.formats.disk import SCREEN_ENDINGS

        kinds = " ".join(f"*{ending}" for ending in SCREEN_ENDINGS)
        paths, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self, "Import screens", str(Path.home()), f"Screens ({kinds})"
        )
        self.import_files([Path(path) for path in paths])

    def do_open_demo(self) -> None:
        """The demo project."""
        if self.may_lose():
            from avelt.demo.shipped import shipped_demo

            self.show_project(shipped_demo(), None)
