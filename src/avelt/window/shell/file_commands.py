"""Files: opening, saving, bringing screens in, and what was not saved. The main window is one of these."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6 import QtWidgets  # its dialogs are made when they are first asked for
from PySide6.QtWidgets import QMainWindow, QStackedWidget

from avelt.core.errors import AveltError
from avelt.core.model.values import Project
from avelt.core.record import lazy
from avelt.core.words import tr
from avelt.window.common import session

if TYPE_CHECKING:
    from avelt.core.formats.disk import Stamp
    from avelt.core.presets.values import Preset
    from avelt.window.common.jobs import Latest
    from avelt.window.common.workspace import Workspace
    from avelt.window.shell.recovery import Keeper, Kept


_COPY_OR_REPLACE = {"copy": tr("Save a copy beside it"), "replace": tr("Replace it"), "": tr("Do not save")}
_PREVIEW = 640.0  # px of a preview's longer side at most


def _free_path(path: Path) -> Path:
    """A name beside a file that is not taken."""
    number = 2
    while (made := path.with_name(f"{path.stem} {number}{path.suffix}")).exists():
        number += 1
    return made


class FileCommands(QMainWindow):
    """What a window does with files. What it needs of the rest of the window is named first."""

    workspace: Workspace
    keeper: Keeper
    stack: QStackedWidget
    _stamp: Stamp | None = None  # of the file, as it was when it was read or written here
    _told: object = ""  # the stamp of the file as somebody else wrote it, which was told
    _asking = False
    preset: Preset | None = None  # what is edited here on stand-ins

    def say(self, sentence: str) -> None:
        """Tell the person something."""
        raise NotImplementedError

    def offer(self, words: str, do: Callable[[], object]) -> None:
        """Beside what was just said: a button that does something about it."""
        raise NotImplementedError

    @lazy
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
            tr("Save changes?"),
            tr("“{whole}” has changes that are not saved.", whole=self.workspace.whole.name),
            QtWidgets.QMessageBox.StandardButton.Save
            | QtWidgets.QMessageBox.StandardButton.Discard
            | QtWidgets.QMessageBox.StandardButton.Cancel,
        )
        if wanted == answer.Save:
            return self.do_save()
        return wanted == answer.Discard

    def show_project(self, project: Project, path: Path | None) -> None:
        """Put a project on the workspace in place of the one that is open."""
        self.preset = None
        self.belongs_to(path)
        before = self.stack.currentWidget()
        self.workspace.session.replace(project)
        self._show_state()
        if self.stack.currentWidget() is before:  # else the first frames took it there
            self.go("frames")

    def belongs_to(self, path: Path | None) -> None:
        """The file that the open project is of, as it is now."""
        from avelt.core.formats.disk import stamp_of

        self.workspace.path = path
        self._stamp = stamp_of(path) if path is not None else None
        if path is not None and self.keeper.recovery.is_open_elsewhere(path):
            self.say(
                tr("{path} is open in another window too: what is saved last there or here stays.", path=path.name)
            )
        self.keeper.recovery.says_open(path)
        if path is not None:
            session.was_open(self.workspace.remembered, path)

    def is_as_in_file(self) -> bool:
        """Whether what is open is what its file holds, which nobody else wrote since."""
        from avelt.core.formats.disk import stamp_of

        path = self.workspace.path
        return path is not None and not self.workspace.session.changed and stamp_of(path) == self._stamp

    def offer_recovered(self) -> list[Project]:
        """After a stop that was no closing: offer what was there, each for itself. The first that is wanted opens here;
        gives those that were opened. What nobody decides on stays for the next start."""
        recovery = self.keeper.recovery
        kept = recovery.kept()
        if recovery.unreadable:
            self.say(
                tr(
                    "Work that was kept aside cannot be read: {unreadable} in {folder}.",
                    unreadable=", ".join(recovery.unreadable),
                    folder=recovery.folder,
                )
            )
        opened: list[Project] = []
        for entry in kept:
            where = f" ({entry.path.name})" if entry.path is not None else ""
            wanted = self.choose(
                tr("Work that was not saved"),
                tr(
                    "Avelt stopped before “{project}”{where} was saved. {entry}",
                    project=entry.project.name,
                    where=where,
                    entry=self._what_was(entry),
                ),
                {"open": tr("Open what was there"), "discard": tr("Discard it"), "": tr("Ask again later")},
            )
            if wanted == "discard":
                recovery.discard(entry)
            elif wanted == "open":
                window = self if not opened else self.another_window()
                window.open_recovered(entry)
                opened.append(entry.project)
        return opened

    def _what_was(self, entry: Kept) -> str:
        """What a record holds, and of when it is."""
        from avelt.core.formats.differences import differences
        from avelt.core.formats.project_file import open_project
        from avelt.window.shell.versions_form import when

        says = tr("What was there is of {at}", at=when(entry.at, time.time()))
        if entry.path is None:
            count = len(entry.project.frames)
            return tr("{says}: {n} frames.", "{says}: {n} frame.", count, says=says)
        try:
            found = differences(open_project(entry.path), entry.project)
        except AveltError:
            return tr("{says}; the file itself cannot be read.", says=says)
        return (
            tr("{says}. Compared with the file: {found}.", says=says, found="; ".join(found)) if found else f"{says}."
        )

    def open_recovered(self, entry: Kept) -> None:
        """Open what a stopped window left, as work that is not saved."""
        self.workspace.path = None
        self.workspace.session.replace(entry.project)
        self.workspace.session.unsaved()
        self.keeper.recovery.take_over(entry)
        self.belongs_to(entry.path)
        self.go("frames")
        self._show_state()

    def choose(self, title: str, words: str, choices: dict[str, str]) -> str:
        """Ask for one of some choices (key: what its button says); the first is the usual one, the empty one stands for
        closing the question."""
        box = QtWidgets.QMessageBox(QtWidgets.QMessageBox.Icon.Question, title, words, parent=self)
        buttons = {}
        for key, label in choices.items():
            role = QtWidgets.QMessageBox.ButtonRole.AcceptRole if key else QtWidgets.QMessageBox.ButtonRole.RejectRole
            buttons[key] = box.addButton(label, role)
        box.setDefaultButton(next(iter(buttons.values())))
        if "" in buttons:
            box.setEscapeButton(buttons[""])
        box.exec()
        pressed = box.clickedButton()
        return next((key for key, button in buttons.items() if button is pressed), "")

    def another_window(self) -> FileCommands:
        """One more window of this program."""
        raise NotImplementedError

    def take_session(self, path: Path) -> None:
        """Go on with a project where it was left."""
        raise NotImplementedError

    def take_presets(self, paths: Sequence[Path]) -> None:
        """Take presets and packs onto the shelf."""
        raise NotImplementedError

    def open_file(self, path: Path) -> bool:
        """Open a project file; when that fails, what is open stays as it was."""
        from avelt.core.formats.project_file import open_project

        try:
            project = open_project(path)
        except AveltError as error:
            self.say(str(error))
            return False
        self.show_project(project, path)
        self.take_session(path)
        self.take_changed_presets(path)
        return True

    def take_changed_presets(self, path: Path) -> None:
        """Ask about the presets that what was just opened is linked to, where they are others on the shelf now."""
        if self.workspace.whole.presets:
            from avelt.window.shelf.linked import take_changed

            self._remember_uses(path)
            take_changed(self.workspace)

    def save_to(self, path: Path) -> bool:
        """Save into a file. One that somebody else wrote meanwhile, or that is read-only, is asked about first."""
        from avelt.core.formats.project_file import refuse_to_overwrite, save_project
        from avelt.core.timing.compile import compile_still
        from avelt.paint.moving import png_bytes

        if path != self.workspace.path:
            try:
                refuse_to_overwrite(path)
            except AveltError as error:
                self.say(str(error))
                return False
        project = self.workspace.whole
        preview = b""
        if project.frames:
            first = project.frames[0]
            scale = min(0.5, _PREVIEW / max(first.w, first.h))
            preview = png_bytes(self.workspace.painter().render(compile_still(first, project).at(0.0), scale))
        chosen = self._where_to(path)
        if chosen is None:
            return False
        self._keep_version(chosen, before=True)
        try:
            save_project(project, chosen, preview, over_read_only=True)
        except AveltError as error:
            return self._elsewhere(error)
        path = chosen
        self._keep_version(path)
        self.keeper.saved()
        self.belongs_to(path)
        self.workspace.session.saved()
        self._remember_uses(path)
        self._show_state()
        self.say(tr("Saved as {path}.", path=path.name))
        return True

    def _remember_uses(self, path: Path) -> None:
        """Which presets the file uses, for the shelf to tell."""
        from avelt.core.presets.where_used import remember

        remember(path, self.workspace.whole)

    def _elsewhere(self, error: AveltError) -> bool:
        """It could not be saved: what was on the disk stays, and another place is offered."""
        self.say(tr("{error} What was saved before is as it was.", error=error))
        self.offer(tr("Save somewhere else…"), self.do_save_as)
        return False

    @property
    def versions_folder(self) -> Path:
        """Where earlier versions of files lie: beside what is kept for recovery."""
        return self.keeper.recovery.folder.parent / "versions"

    def _keep_version(self, path: Path, before: bool = False) -> None:
        """Keep the file as it lies on the disk among its versions; ``before``: it is about to be replaced."""
        from avelt.core.formats import versions

        with contextlib.suppress(AveltError, OSError):  # saving goes on without; the log of the file tells nothing more
            versions.keep(self.versions_folder, path, path.stat().st_mtime if before else time.time())

    def do_versions(self) -> None:
        """Earlier versions of the open file, to be opened beside."""
        from avelt.core.formats.versions import versions
        from avelt.window.shell.versions_form import VersionsForm

        path = self.workspace.path
        known = versions(self.versions_folder, path) if path is not None else ()
        if not known:
            self.say(tr("There is no earlier version: one is kept each time that a project is saved."))
            return
        form = VersionsForm(self, self.workspace.whole, known, time.time())
        if self.ask(form) and form.chosen is not None:
            self.open_version(form.chosen.path)

    def open_version(self, version: Path) -> None:
        """A version in a window of its own, as work that was saved nowhere."""
        from avelt.core.formats.project_file import open_project

        def read() -> Project:
            project = open_project(version)
            return replace(project, name=f"{project.name}, earlier")

        window = self._beside(read)
        if window is not None:
            window.workspace.session.unsaved()
            window._show_state()

    def _beside(self, read: Callable[[], Project]) -> FileCommands | None:
        """A window of its own with what is read; none, and why, when it cannot be."""
        try:
            project = read()
        except AveltError as error:
            self.say(str(error))
            return None
        window = self.another_window()
        window.show_project(project, None)
        return window

    def look_at_file(self) -> None:
        """When the file was written by others since: say so, once, and offer what can be done."""
        from avelt.core.formats.disk import stamp_of

        path = self.workspace.path
        now = stamp_of(path) if path is not None else None
        if path is None or self._stamp is None or now in (self._stamp, self._told) or self._asking:
            return
        self._told = now
        if now is None:
            self.say(
                tr("{path} is not there any more. What is open here is whole: save it to have it back.", path=path.name)
            )
            self.workspace.session.unsaved()
            self._show_state()
            return
        read = {"read": tr("Read it again")} if not self.workspace.session.changed else {}
        self._asking = True
        wanted = self.choose(
            tr("The file was changed"),
            self._what_differs(path),
            {**read, "beside": tr("Open it beside"), "": tr("Go on with what is open")},
        )
        self._asking = False
        if wanted == "read":
            self.open_file(path)
        elif wanted == "beside":
            self.another_window().open_file(path)

    def _where_to(self, path: Path) -> Path | None:
        """Where is saved: the file itself, a copy beside it, or nowhere (``None``), as somebody says who was asked."""
        from avelt.core.formats.disk import is_read_only, stamp_of

        now = stamp_of(path)
        if path == self.workspace.path and now is not None and self._stamp is not None and now != self._stamp:
            wanted = self.choose(tr("The file was changed"), self._what_differs(path), _COPY_OR_REPLACE)
            if wanted == "copy":
                return _free_path(path)
            if wanted != "replace":
                return None
        if is_read_only(path):
            wanted = self.choose(tr("A read-only file"), tr("{path} is read-only.", path=path.name), _COPY_OR_REPLACE)
            return _free_path(path) if wanted == "copy" else path if wanted == "replace" else None
        return path

    def _what_differs(self, path: Path) -> str:
        from avelt.core.formats.differences import differences
        from avelt.core.formats.project_file import open_project

        written = tr("{path} was written by something else since it was opened here.", path=path.name)
        try:
            found = differences(self.workspace.whole, open_project(path))
        except AveltError as error:
            return tr("{written} It cannot be read now: {sentence}", written=written, sentence=error.sentence)
        return (
            tr("{written} There, compared with here: {found}.", written=written, found="; ".join(found))
            if found
            else tr("{written} It holds the same project.", written=written)
        )

    def ask(self, dialog: QtWidgets.QDialog) -> bool:
        """Show a dialog until it is answered; gives whether it shall be done."""
        return dialog.exec() == QtWidgets.QDialog.DialogCode.Accepted

    def show_report(self) -> None:
        """What the imports left out, in a window of its own."""
        from avelt.window.shell.report import show_report

        show_report(self, self.workspace.whole)

    def do_new(self) -> None:
        """An empty project."""
        from avelt.core.edits.project import new_project

        if self.may_lose():
            self.show_project(new_project("Untitled"), None)

    def do_open(self) -> None:
        """Open a file that is chosen."""
        if self.may_lose():
            path, _ = QtWidgets.QFileDialog.getOpenFileName(
                self, tr("Open"), str(Path.home()), tr("Avelt projects (*.avelt)")
            )
            if path:
                self.open_file(Path(path))

    def edit_preset(self, preset: Preset) -> None:
        """A preset's motion on stand-ins, in a window of its own; saving it there changes the preset."""
        from avelt.core.presets.stand_in import stand_in, station_of

        window = self._beside(lambda: stand_in(preset))
        if window is None:
            return
        window.preset = preset
        window.go(station_of(preset))
        window._show_state()
        window.say(
            tr("This is {preset} on stand-ins. Save (Ctrl+S) keeps what you change on your shelf.", preset=preset.name)
        )

    def _save_preset(self, preset: Preset) -> bool:
        """What became of the stand-in is the preset again, on this person's shelf."""
        from avelt.core.presets.stand_in import edited

        try:
            made = edited(preset, self.workspace.whole)
            self.workspace.shelf.keep(made)
        except AveltError as error:
            self.say(str(error))
            return False
        self.keeper.saved()
        self.workspace.session.saved()
        self._show_state()
        self.say(tr("{made} is on your shelf as it is now. What is linked to it changes with it.", made=made.name))
        return True

    def do_save(self) -> bool:
        """Save where it was saved last."""
        if self.preset is not None and self.workspace.path is None:
            return self._save_preset(self.preset)
        return self.save_to(self.workspace.path) if self.workspace.path is not None else self.do_save_as()

    def do_save_as(self) -> bool:
        """Save into a file that is chosen."""
        start = self.workspace.path or Path.home() / f"{self.workspace.whole.name}.avelt"
        path, _ = QtWidgets.QFileDialog.getSaveFileName(self, tr("Save as"), str(start), tr("Avelt projects (*.avelt)"))
        if not path:
            return False
        wanted = Path(path)
        return self.save_to(wanted if wanted.suffix else wanted.with_suffix(".avelt"))

    def do_open_demo(self) -> None:
        """The demo project."""
        if self.may_lose():
            from avelt.demo.shipped import shipped_demo

            self.show_project(shipped_demo(), None)
