"""What a touch may start is worked out before it comes: the first picture of a transition is there at once."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

from avelt.core.model.values import Project
from avelt.core.timing.compile import compile_route
from avelt.core.timing.program import Program, Scene
from avelt.window.common.jobs import Job, Latest

_BETWEEN = 30  # ms between two pictures that are painted ahead, for what else there is to do
_EARLY = 16.0  # ms into a transition: what its first picture needs


class Ahead(QObject):
    """Compiles the transitions that leave the frame in front, in the background, and has an early picture of each
    painted, one after the other, while nothing moves: the compiler and the painter keep what they need."""

    def __init__(self, parent: QObject, paint: Callable[[Scene], object], rests: Callable[[], bool]) -> None:
        super().__init__(parent)
        self._paint, self._rests = paint, rests
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._compiled)
        self._seen: tuple[Project, str] | None = None
        self._waiting: list[Program] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._next)

    def look(self, project: Project, frame_id: str) -> None:
        """A frame is in front: once for each, and again after an edit."""
        if self._seen is None or self._seen[0] is not project or self._seen[1] != frame_id:
            self._seen = (project, frame_id)
            self._waiting.clear()
            self.jobs.start(_Compile((project, frame_id)))

    def waiting(self) -> int:
        """How many pictures are still to be painted."""
        return len(self._waiting)

    def _compiled(self, programs: tuple[Program, ...]) -> None:
        self._waiting = list(programs)
        self._turn.start(_BETWEEN)

    def _next(self) -> None:
        if not self._waiting:
            return
        if self._rests():
            program = self._waiting.pop(0)
            self._paint(program.at(min(_EARLY, program.duration / 2)))
        self._turn.start(_BETWEEN)


class _Compile(Job):
    request: tuple[Project, str]

    def work(self) -> tuple[Program, ...]:
        project, frame_id = self.request
        leaving = [route for route in project.routes if route.leaves == frame_id]
        made: list[Program] = []
        for done, route in enumerate(leaving):
            if not self.go_on(done, len(leaving)):
                break
            made.append(compile_route(project, route))
        return tuple(made)
