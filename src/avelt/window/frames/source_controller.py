"""Frames that came from files: compared with them, and what differs is offered and taken over."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QDialog, QWidget

from avelt.core.words import tr
from avelt.window.common.jobs import Latest
from avelt.window.common.workspace import Workspace
from avelt.window.frames.file_watch import CompareJob, FoundChanges, Offers, Watcher, is_large, look


class SourceController(QObject):
    """Watches the files of frames. ``offered`` tells how many wait to be looked at."""

    offered = Signal(int)

    def __init__(self, workspace: Workspace, ask: Callable[[QDialog], bool], parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace, self._window = workspace, parent
        self.ask = ask
        self.watcher, self.offers = Watcher(workspace), Offers()
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._answered)
        self.jobs.failed.connect(workspace.said)
        self.watcher.found.connect(self._found_changes)

    def look_again(self) -> None:
        """Compare the chosen frame with its file, and offer what differs."""
        frame = self.workspace.frame
        if frame is None:
            return
        if is_large(frame):
            self.workspace.said.emit(tr("Reading the file of {frame}…", frame=frame.name))
            self.jobs.start(CompareJob((frame,)))
        else:
            self._looked(look(frame))

    def _answered(self, found: tuple[FoundChanges, ...]) -> None:
        for entry in found:
            self._looked(entry)

    def _looked(self, looked: FoundChanges) -> None:
        frame = next((f for f in self.workspace.project.frames if f.id == looked.frame_id), None)
        if frame is None:
            return
        if looked.trouble:
            self.workspace.said.emit(looked.trouble)
        elif not looked.changes:
            self.workspace.said.emit(tr("The file of {frame} says nothing new.", frame=frame.name))
        else:
            self._found_changes(looked)
            self.offer(looked)

    def _found_changes(self, looked: FoundChanges) -> None:
        if looked.trouble:
            self.workspace.said.emit(looked.trouble)
            return
        self.offers.put(looked)
        self.offered.emit(len(self.offers.by_frame))

    def show_changes(self) -> None:
        """Offer what changed in the files, frame by frame."""
        for looked in list(self.offers.by_frame.values()):
            self.offer(looked)

    def offer(self, looked: FoundChanges) -> None:
        """Show what a file says that its frame does not, and take in what is ticked."""
        from avelt.core.edits.sources import update_from_file
        from avelt.window.frames.changes import ChangesDialog

        frame = next((f for f in self.workspace.project.frames if f.id == looked.frame_id), None)
        imported = looked.imported
        if frame is None or imported is None:
            return
        dialog = ChangesDialog(self._window, self.workspace, frame, looked)
        if self.ask(dialog):
            keys = dialog.keys()
            self.workspace.do(
                tr("update {frame}", frame=frame.name),
                lambda p: update_from_file(p, frame.id, imported.frame, imported.assets, keys),
            )
            self.offers.put(FoundChanges(frame.id))
            self.offered.emit(len(self.offers.by_frame))
