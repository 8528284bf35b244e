"""What is not saved yet is kept aside, so that a stop takes nothing: written in the background, offered again at the
next start, and put away when it was saved or given up by hand.

Every window has one record of its own: a project file in which also stands where it belongs and whose it is, and beside
it a journal of what changed since (``core/formats/journal.py``), so that keeping an edit costs what the edit touched.
Nothing is deleted before it is saved elsewhere or refused.
"""

from __future__ import annotations

import contextlib
import os
import threading
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
_ENDING, _ASIDE, _OPEN, _CHANGES = ".avelt", ".unreadable", ".open", ".changes"
_LONGEST = 2.0  # times as long as the record a journal becomes before the record is written anew
_SHORTEST = 1_000_000  # bytes that a journal may always have
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
    name: str = ""  # of the record


class Recovery:
    """The record of one window, in a folder that all windows share."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder
        self.own = f"{os.getpid()}-{_began(os.getpid())}-{next(_number)}"
        #: Records that could not be read at the last look, now put aside.
        self.unreadable: list[str] = []
        self._last: Project | None = None  # what the record and its journal hold
        self._name = ""  # of the record, for its journal
        self._room = 0  # bytes that the journal may still grow
        self._lock = threading.Lock()

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

    @property
    def journal(self) -> Path:
        """What changed since this window's record was written."""
        return self.file.with_suffix(_CHANGES)

    def keep(self, project: Project, path: Path | None) -> None:
        """Write aside what changed, or the whole project where there is no record yet or its journal is long, with
        where it belongs. Raises ``FileError`` when that cannot be done; the next time all of it is written."""
        with self._lock:
            before, self._last = self._last, None  # what fails half way is no base for the next change
            if before is None or not self._append(before, project, path):
                self._write(project, path)
            self._last = project

    def _append(self, before: Project, project: Project, path: Path | None) -> bool:
        from avelt.core.errors import FileError
        from avelt.core.formats.disk import append
        from avelt.core.formats.journal import line_of

        line = line_of(before, project, self._name, str(path) if path else None)
        if len(line) > self._room or not self.file.exists():
            return False
        try:
            append(self.journal, line)
        except FileError:
            return False
        self._room -= len(line)
        return True

    def _write(self, project: Project, path: Path | None) -> None:
        from avelt.core.formats.disk import write_atomically
        from avelt.core.formats.journal import record_of

        with contextlib.suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
        record, self._name = record_of(project, str(path) if path else None)
        write_atomically(self.file, record)
        self._room = max(_SHORTEST, round(_LONGEST * len(record)))
        with contextlib.suppress(OSError):
            self.journal.unlink(missing_ok=True)  # its lines are of another record and count for nothing

    def kept(self) -> tuple[Kept, ...]:
        """What stopped windows left and nobody decided on, the oldest first. What was saved since is put away; what
        cannot be read is put aside, and named in ``unreadable``."""
        self.unreadable = []
        found: list[Kept] = []
        for file in self._files(_CHANGES):
            if not file.with_suffix(_ENDING).exists() and not _is_alive(file.stem):
                with contextlib.suppress(OSError):
                    file.unlink()  # of a record that was put away
        for file in self._records():
            if _is_alive(file.stem):
                continue
            try:
                made = _read(file)
            except (AveltError, ValueError, OSError):
                aside = file.with_name(file.name + _ASIDE)
                for part in (file.with_suffix(_CHANGES), file):
                    with contextlib.suppress(OSError):
                        part.rename(part.with_name(part.name + _ASIDE))
                self.unreadable.append(aside.name)
                continue
            if _is_saved(made) or any(made.name and made.name == other.name for other in found):
                self.discard(made)  # the second of two links: a stop while a window took it over
            else:
                found.append(made)
        return tuple(found)

    def take_over(self, kept: Kept) -> None:
        """A record becomes this window's: it stands until the window writes its own or has saved."""
        self._last = None
        changes = kept.record.with_suffix(_CHANGES)
        with contextlib.suppress(OSError):
            # Linked, not renamed one after the other: at any moment one of both is whole.
            if changes.exists():
                os.link(changes, self.journal)
            os.link(kept.record, self.file)
            self.discard(kept)
            return
        with contextlib.suppress(AveltError):  # a disk without links
            self.keep(kept.project, kept.path)
            self.discard(kept)

    def discard(self, kept: Kept) -> None:
        """A record that was saved since, or that somebody does not want."""
        for part in (kept.record, kept.record.with_suffix(_CHANGES)):
            with contextlib.suppress(OSError):
                part.unlink()

    def clear(self) -> None:
        """This window's own: all is saved, or given up on purpose."""
        self._last = None
        for part in (self.file, self.journal):
            with contextlib.suppress(OSError):
                part.unlink()

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


def _read(file: Path) -> Kept:
    from avelt.core.formats.disk import read_bytes
    from avelt.core.formats.journal import replayed
    from avelt.core.model.limits import MAX_FILE_BYTES

    changes, at = file.with_suffix(_CHANGES), file.stat().st_mtime
    lines = b""
    if changes.exists():
        lines, at = read_bytes(changes, MAX_FILE_BYTES), max(at, changes.stat().st_mtime)
    project, note = replayed(read_bytes(file, MAX_FILE_BYTES), lines, str(file))
    return Kept(project, Path(note.path) if note.path else None, file, at, note.of)


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
