"""What is not saved yet is kept aside, so that a crash takes nothing: written in the background, offered again
at the next start, and put away when the window is closed in order."""

from __future__ import annotations

import contextlib
from pathlib import Path

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer

from avelt.core.errors import AveltError
from avelt.core.model.values import Project
from avelt.window.common.workspace import Workspace

EVERY = 15_000  # ms between two looks whether there is something to keep


def default_folder() -> Path:
    """Where it is kept: under the XDG state folder."""
    from platformdirs import user_state_path

    return Path(user_state_path("avelt", appauthor=False))


class Recovery:
    """One project kept aside in a folder, with the file it belongs to."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or default_folder()
        self._file, self._note = self.folder / "recovery.avelt", self.folder / "recovery.json"

    def keep(self, project: Project, path: Path | None) -> None:
        """Write the project aside; raises ``FileError`` when that cannot be done."""
        import json

        from avelt.core.formats.disk import write_atomically
        from avelt.core.formats.project_file import save_project

        with contextlib.suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
        save_project(project, self._file)
        write_atomically(self._note, json.dumps({"path": str(path) if path else None}).encode())

    def kept(self) -> tuple[Project, Path | None] | None:
        """What was kept and not put away; ``None`` when there is nothing, or nothing that can be read."""
        if not self._file.exists():
            return None
        import json

        from avelt.core.formats.disk import read_bytes
        from avelt.core.formats.project_file import open_project

        try:
            project = open_project(self._file)
            note = json.loads(read_bytes(self._note, 65_536)) if self._note.exists() else {}
        except (AveltError, ValueError):
            return None
        named = note.get("path") if isinstance(note, dict) else None
        return project, Path(named) if isinstance(named, str) else None

    def clear(self) -> None:
        """Put it away: all is saved, or given up on purpose."""
        for path in (self._file, self._note):
            with contextlib.suppress(OSError):
                path.unlink()


class Keeper(QObject):
    """Keeps the open project aside from time to time, when it has changed since it was saved or kept."""

    def __init__(self, workspace: Workspace, recovery: Recovery) -> None:
        super().__init__()
        self.workspace, self.recovery = workspace, recovery
        self._last: Project | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def look(self) -> bool:
        """Keep the project if it wants to be kept; gives whether it does. The writing goes on in the background."""
        session = self.workspace.session
        if not session.changed or session.project is self._last:
            return False
        self._last = session.project
        QThreadPool.globalInstance().start(_Write(self.recovery, session.project, self.workspace.path))
        return True

    def stop(self) -> None:
        """The window closes in order: wait for what is being written, then put it away."""
        self._timer.stop()
        QThreadPool.globalInstance().waitForDone(30_000)
        self.recovery.clear()


class _Write(QRunnable):
    def __init__(self, recovery: Recovery, project: Project, path: Path | None) -> None:
        super().__init__()
        self.recovery, self.project, self.path = recovery, project, path

    def run(self) -> None:
        # A full disk must not disturb the work; the next look tries again, and saving says what is wrong.
        with contextlib.suppress(AveltError):
            self.recovery.keep(self.project, self.path)
