"""What is not saved yet is kept aside, so that a stop takes nothing: written in the background, offered again at the
next start, and put away when it was saved or given up by hand.

Every window has one record of its own: a project file in which also stands where it belongs and whose it is, written
whole. Nothing is deleted before it is saved elsewhere or refused.
"""

from __future__ import annotations

import contextlib
import os
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer

from avelt.core.errors import AveltError
from avelt.core.record import Record
from avelt.window.common.collecting import no_collecting

if TYPE_CHECKING:
    from avelt.core.edits.session import Change
    from avelt.core.model.values import Project
    from avelt.window.common.workspace import Workspace

EVERY = 15_000  # ms between two looks whether there is something to keep
_ENDING, _ASIDE, _OPEN = ".avelt", ".unreadable", ".open"
_number = count(1)


def default_folder() -> Path:
    """Where it is kept: under the XDG state folder."""
    from platformdirs import user_state_path

    return Path(user_state_path("avelt", appauthor=False)) / "recovery"


class Kept(Record, frozen=True):
    """A record that a stop left: its project, the file that it belongs to, and its own place."""

    project: Project
    path: Path | None
    record: Path
    at: float = 0.0  # s since 1970 when it was kept


class Recovery:
    """The record of one window, in a folder that all windows share."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder
        self.own = f"{os.getpid()}-{_began(os.getpid())}-{next(_number)}"
        #: Records that could not be read at the last look, now put aside.
        self.unreadable: list[str] = []

    @property
    def folder(self) -> Path:
        """Where the records are."""
        if self._folder is None:
            self._folder = default_folder()
        return self._folder

    @property
    def file(self) -> Path:
        """This window's record."""
        return self.folder / f"{self.own}{_ENDING}"

    def keep(self, project: Project, path: Path | None) -> None:
        """Write the project aside with where it belongs, as one file; raises ``FileError`` when that cannot be done."""
        import json

        from avelt.core.formats.disk import write_atomically
        from avelt.core.formats.project_file import pack

        with contextlib.suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
        note = json.dumps({"path": str(path) if path else None}).encode()
        write_atomically(self.file, pack(project, more={_NOTE: note}))

    def kept(self) -> tuple[Kept, ...]:
        """What stopped windows left and nobody decided on, the oldest first. What was saved since is put away; what
        cannot be read is put aside, and named in ``unreadable``."""
        self.unreadable = []
        found = []
        for file in self._records():
            if _is_alive(file.stem):
                continue
            try:
                made = _read(file)
            except (AveltError, ValueError, OSError):
                aside = file.with_name(file.name + _ASIDE)
                with contextlib.suppress(OSError):
                    file.rename(aside)
                self.unreadable.append(aside.name)
                continue
            if _is_saved(made):
                self.discard(made)
            else:
                found.append(made)
        return tuple(found)

    def take_over(self, kept: Kept) -> None:
        """A record becomes this window's: it stands until the window writes its own or has saved."""
        with contextlib.suppress(OSError):
            kept.record.rename(self.file)

    def discard(self, kept: Kept) -> None:
        """A record that was saved since, or that somebody does not want."""
        with contextlib.suppress(OSError):
            kept.record.unlink()

    def clear(self) -> None:
        """This window's own: all is saved, or given up on purpose."""
        with contextlib.suppress(OSError):
            self.file.unlink()

    # Which files are open in windows

    def says_open(self, path: Path | None) -> None:
        """Tell other windows which file this one has open."""
        mark = self.folder / f"{self.own}{_OPEN}"
        with contextlib.suppress(OSError):
            if path is None:
                mark.unlink()
            else:
                self.folder.mkdir(parents=True, exist_ok=True)
                mark.write_text(str(path.resolve()), encoding="utf-8")

    def is_open_elsewhere(self, path: Path) -> bool:
        """Whether another window that runs has a file open."""
        wanted = str(path.resolve())
        for mark in self._files(_OPEN):
            if mark.stem == self.own:
                continue
            if not _is_alive(mark.stem):
                with contextlib.suppress(OSError):
                    mark.unlink()
                continue
            with contextlib.suppress(OSError):
                if mark.read_text(encoding="utf-8") == wanted:
                    return True
        return False

    def _records(self) -> list[Path]:
        return [file for file in self._files(_ENDING) if file.stem != self.own]

    def _files(self, ending: str) -> list[Path]:
        with contextlib.suppress(OSError):
            found = [entry for entry in self.folder.iterdir() if entry.name.endswith(ending)]
            return sorted(found, key=lambda entry: (entry.stat().st_mtime_ns, entry.name))
        return []


_NOTE = "recovery.json"


def _read(file: Path) -> Kept:
    import json
    import zipfile

    from avelt.core.formats.project_file import open_project

    project = open_project(file)
    with zipfile.ZipFile(file) as archive:
        note = json.loads(archive.read(_NOTE)) if _NOTE in archive.namelist() else {}
    named = note.get("path") if isinstance(note, dict) else None
    return Kept(project, Path(named) if isinstance(named, str) else None, file, file.stat().st_mtime)


def _is_saved(kept: Kept) -> bool:
    """Whether the file that a record belongs to holds just what the record holds."""
    if kept.path is None:
        return False
    from avelt.core.formats.project_file import open_project

    with contextlib.suppress(AveltError):
        return open_project(kept.path) == kept.project
    return False


def _began(pid: int) -> str:
    """When a process began, in the kernel's ticks: numbers of processes are given again. Empty when there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text(encoding="ascii", errors="replace").rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


def _is_alive(owner: str) -> bool:
    """Whether the window that a record names still runs."""
    pid, _, rest = owner.partition("-")
    began = rest.partition("-")[0]
    if not pid.isdigit() or (int(pid) == os.getpid() and began == _began(os.getpid()) and owner not in _LIVE):
        return False  # a window of this very process that is gone
    return bool(began) and _began(int(pid)) == began


_LIVE: set[str] = set()  # the windows of this process


class Keeper(QObject):
    """Keeps the open project aside from time to time, when it has changed since it was saved or kept."""

    def __init__(self, workspace: Workspace, recovery: Recovery) -> None:
        super().__init__()
        self.workspace, self.recovery = workspace, recovery
        _LIVE.add(recovery.own)
        self._last: Project | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.look)
        self._timer.start()
        workspace.changed.connect(self._heard)

    def keep_every(self, seconds: float) -> None:
        """Look so often whether there is something to keep."""
        self._timer.setInterval(round(seconds * 1000))

    def _heard(self, change: Change) -> None:
        if not change.label and not self.workspace.session.changed:
            self.saved()  # another project was opened: what was there was saved, or given up by hand

    def look(self) -> bool:
        """Keep the project if it wants to be kept; gives whether it does. The writing goes on in the background."""
        session = self.workspace.session
        if not session.changed or session.project is self._last:
            return False
        self._last = session.project
        QThreadPool.globalInstance().start(_Write(self, session.project, self.workspace.path))
        return True

    def failed(self) -> None:
        """It could not be written (a full disk, say): the next look tries again."""
        self._last = None

    def saved(self) -> None:
        """What is open is saved: nothing is to be kept aside."""
        QThreadPool.globalInstance().waitForDone(30_000)
        self._last = None
        self.recovery.clear()

    def stop(self) -> None:
        """The window closes in order: wait for what is being written, then put it away."""
        self._timer.stop()
        self.saved()
        self.recovery.says_open(None)
        _LIVE.discard(self.recovery.own)

    def abandon(self) -> None:
        """The window stops without closing, as after a crash: its record stays."""
        self._timer.stop()
        QThreadPool.globalInstance().waitForDone(30_000)
        _LIVE.discard(self.recovery.own)


class _Write(QRunnable):
    def __init__(self, keeper: Keeper, project: Project, path: Path | None) -> None:
        super().__init__()
        self.keeper, self.project, self.path = keeper, project, path

    def run(self) -> None:
        # It must not disturb the work; the next look tries again, and saving says what is wrong.
        try:
            with no_collecting():
                self.keeper.recovery.keep(self.project, self.path)
        except AveltError:
            self.keeper.failed()
