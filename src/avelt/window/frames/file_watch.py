"""Watching the files that frames came from: read again when they change, and what is new in them kept to be offered."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from avelt.core.errors import AveltError, FormatError
from avelt.core.model.values import Frame, Project
from avelt.core.record import Mutable, Record
from avelt.core.words import tr
from avelt.window.common.jobs import AT_ONCE, Job, Latest
from avelt.window.common.workspace import Workspace

if TYPE_CHECKING:
    from avelt.core.edits.sources import SourceChange
    from avelt.core.formats.svg_in import Imported

_SETTLED = 350  # ms without another change before a file is read


class FoundChanges(Record, frozen=True):
    """What came of looking at a frame's file again."""

    frame_id: str
    imported: Imported | None = None
    changes: tuple[SourceChange, ...] = ()
    trouble: str = ""


def look(frame: Frame) -> FoundChanges:
    """Read the frame's file and compare; what is wrong with it is a sentence."""
    from avelt.core.edits.sources import differences
    from avelt.core.formats.screen_file import read_screen
    from avelt.core.formats.screens import apart, screens_in
    from avelt.paint.fonts import measure_text

    source = frame.source
    if source is None or not source.path:
        return FoundChanges(frame.id, trouble=tr("“{frame}” did not come from a file.", frame=frame.name))
    try:
        imported = read_screen(Path(source.path), measure_text)
        if source.screen:
            parts = apart(imported, screens_in(imported.frame))
            part = next((p for p in parts if p.frame.source and p.frame.source.screen == source.screen), None)
            if part is None:
                raise FormatError(
                    tr("The drawing has no screen “{screen}” any more.", screen=source.screen), source.path
                )
            imported = part
    except AveltError as error:
        return FoundChanges(frame.id, trouble=str(error))
    return FoundChanges(frame.id, imported, differences(frame, imported.frame))


def is_large(frame: Frame) -> bool:
    """Whether reading the frame's file would be felt."""
    try:
        return frame.source is not None and Path(frame.source.path).stat().st_size > AT_ONCE
    except OSError:
        return False


class CompareJob(Job):
    """Looks at frames' files in the background; the answer is a tuple of ``FoundChanges``."""

    def __init__(self, frames: tuple[Frame, ...]) -> None:
        super().__init__(frames)
        self.frames = frames

    def work(self) -> tuple[FoundChanges, ...]:
        found: list[FoundChanges] = []
        for done, frame in enumerate(self.frames):
            if not self.go_on(done, len(self.frames)):
                break
            found.append(look(frame))
        return tuple(found)


class Watcher(QObject):
    """Watches the files that frames came from; ``found`` comes when one of them says something new."""

    found = Signal(object)  # FoundChanges

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._files = QFileSystemWatcher(self)
        self._files.fileChanged.connect(self._touched)
        self._touched_paths: set[str] = set()
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_SETTLED)
        self._wait.timeout.connect(self.look_at_touched)
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._answered)
        self.jobs.failed.connect(workspace.said)
        workspace.changed.connect(lambda change: self.follow() if change.touched.frames else None)
        self.follow()

    def follow(self) -> None:
        """Watch the files of the frames that are there now."""
        wanted = {f.source.path for f in self.workspace.project.frames if f.source is not None and f.source.path}
        have = set(self._files.files())
        gone, more = have - wanted, [path for path in wanted - have if Path(path).is_file()]
        if gone:
            self._files.removePaths(sorted(gone))
        if more:
            self._files.addPaths(sorted(more))

    def _touched(self, path: str) -> None:
        self._touched_paths.add(path)
        self._wait.start()

    def look_at_touched(self) -> None:
        """Read the files that changed; programs that write a new file in place of the old are followed too."""
        paths, self._touched_paths = self._touched_paths, set()
        self.follow()
        frames = tuple(f for f in self.workspace.project.frames if f.source is not None and f.source.path in paths)
        if frames:
            self.jobs.start(CompareJob(frames))

    def _answered(self, found: tuple[FoundChanges, ...]) -> None:
        for entry in found:
            self.found.emit(entry)


class Offers(Mutable):
    """Files that said something new and were not looked at yet, by frame."""

    by_frame: dict[str, FoundChanges] = msgspec.field(default_factory=dict)

    def put(self, looked: FoundChanges) -> None:
        """One more, or none any more for that frame."""
        if looked.changes:
            self.by_frame[looked.frame_id] = looked
        else:
            self.by_frame.pop(looked.frame_id, None)

    def keep_to(self, project: Project) -> None:
        """Without frames that are gone."""
        known = {frame.id for frame in project.frames}
        self.by_frame = {k: v for k, v in self.by_frame.items() if k in known}
