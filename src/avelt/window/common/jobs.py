"""Long work away from the window's thread: it reports how far it is, can be stopped, and says when it is over."""

from __future__ import annotations

from threading import Event

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal


class Job(QObject):
    """One piece of work. Subclasses do it in ``work`` and ask ``go_on`` between its steps."""

    progressed = Signal(int, int)
    ended = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._stop = Event()

    def start(self) -> None:
        """Begin in the background; answers come by signal."""
        QThreadPool.globalInstance().start(_Runnable(self))

    def stop(self) -> None:
        """Stop before the next step."""
        self._stop.set()

    def go_on(self, done: int, whole: int) -> bool:
        """Tell how far it is; False when it shall stop."""
        self.progressed.emit(done, whole)
        return not self._stop.is_set()

    def run(self) -> None:
        """What the background thread does."""
        self.work()
        self.ended.emit()

    def work(self) -> None:
        """The work itself."""
        raise NotImplementedError


class _Runnable(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self.job = job

    def run(self) -> None:
        self.job.run()
