"""Long work away from the window's thread: a frozen request in, one frozen answer out, and always an end.

What goes wrong on purpose (``AveltError``) is told in its own words; what goes wrong otherwise is a fault of Avelt: it
goes into the log, and the person is told where that is. A late answer, to a question that another one has replaced, is
dropped by its number.
"""

from __future__ import annotations

import itertools
import logging
from threading import Event

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from avelt.core.errors import AveltError
from avelt.core.record import Record
from avelt.core.turns import going_after, others_first
from avelt.core.words import tr
from avelt.window.common.collecting import no_collecting
from avelt.window.common.faults import sentence
from avelt.window.common.pictures_first import Patience

AT_ONCE = 150_000  # bytes of a file that are read without a thread: a blink

_log = logging.getLogger(__name__)
_numbers = itertools.count(1)


class Answer(Record, frozen=True):
    """What came of the job of a number: a value, or the sentence of what went wrong."""

    number: int
    value: object = None
    trouble: str = ""


class Job(QObject):
    """One piece of work. Subclasses do it in ``work``, which gives the value, and ask ``go_on`` between its steps."""

    progressed = Signal(int, int)
    answered = Signal(object)  # Answer

    def __init__(self, request: object) -> None:
        super().__init__()
        self.request = request
        self.number = next(_numbers)
        self._stop = Event()
        self._patience = Patience()

    def start(self) -> None:
        """Begin in the background; the answer comes by signal, whatever happens."""
        QThreadPool.globalInstance().start(_Runnable(self))

    def stop(self) -> None:
        """Stop before the next step."""
        self._stop.set()

    def go_on(self, done: int, whole: int) -> bool:
        """Tell how far it is; False when it shall stop."""
        self.progressed.emit(done, whole)
        others_first()
        return not self.stopped

    def between(self) -> None:
        """Called at each point at which others may go first."""
        self._patience.wait()

    @property
    def stopped(self) -> bool:
        """Whether it shall stop."""
        return self._stop.is_set()

    def run(self) -> None:
        """What the background thread does."""
        self._patience.begin()
        try:
            with going_after(self.between):
                answer = Answer(self.number, self.work())
        except AveltError as error:
            answer = Answer(self.number, trouble=str(error))
        except MemoryError:
            answer = Answer(self.number, trouble=tr("There is not enough memory for this."))
        except Exception:
            _log.exception("job %s failed", type(self).__name__)
            answer = Answer(self.number, trouble=sentence())
        self.answered.emit(answer)

    def work(self) -> object:
        """The work itself; gives what is answered."""
        raise NotImplementedError


class Latest(QObject):
    """Runs jobs of one kind, of which only the newest counts: an older one is stopped, and its answer dropped."""

    progressed = Signal(int, int)
    answered = Signal(object)  # the value
    failed = Signal(str)
    ended = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.job: Job | None = None

    def start(self, job: Job) -> None:
        """Ask; whatever was asked before is not wanted any more."""
        self.stop()
        self.job = job
        job.progressed.connect(self.progressed)
        job.answered.connect(self.take)
        job.start()

    def stop(self) -> None:
        """Stop what is at work."""
        if self.job is not None:
            self.job.stop()

    def forget(self) -> None:
        """Stop what is at work; its answer is not wanted any more."""
        self.stop()
        self.job = None

    def take(self, answer: Answer) -> None:
        """An answer came."""
        if self.job is None or answer.number != self.job.number:
            return
        self.job = None
        if answer.trouble:
            self.failed.emit(answer.trouble)
        else:
            self.answered.emit(answer.value)
        self.ended.emit()


class _Runnable(QRunnable):
    def __init__(self, job: Job) -> None:
        super().__init__()
        self.job = job

    def run(self) -> None:
        with no_collecting():
            self.job.run()
