"""Long work away from the window's thread: a frozen request in, progress and one answer out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from threading import Event

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from avelt.core.errors import AveltError, Stopped
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.paint.moving import Moving, save_gif


@dataclass(frozen=True)
class GifRequest:
    """Everything that making the GIF needs."""

    program: Program
    project: Project
    path: Path
    wanted: Moving


class GifJob(QObject):
    """Makes one GIF in the background."""

    progressed = Signal(int, int)
    done = Signal(str)  # a sentence
    failed = Signal(str)
    ended = Signal()

    def __init__(self, request: GifRequest) -> None:
        super().__init__()
        self.request = request
        self._stop = Event()

    def start(self) -> None:
        """Begin; the answer comes by signal."""
        QThreadPool.globalInstance().start(_Runnable(self))

    def stop(self) -> None:
        """Stop at the next picture; nothing is written."""
        self._stop.set()

    def run(self) -> None:
        """What the background thread does."""
        try:
            size = save_gif(
                self.request.program, self.request.project, self.request.path, self.request.wanted, self._report
            )
        except Stopped:
            self.failed.emit("Stopped. Nothing was written.")
        except (AveltError, MemoryError, ValueError, OSError) as error:
            self.failed.emit(str(error))
        else:
            self.done.emit(f"{self.request.path.name} is written, {size / 1000:.0f} kB.")
        self.ended.emit()

    def _report(self, done: int, whole: int) -> bool:
        self.progressed.emit(done, whole)
        return not self._stop.is_set()


class _Runnable(QRunnable):
    def __init__(self, job: GifJob) -> None:
        super().__init__()
        self.job = job

    def run(self) -> None:
        self.job.run()
