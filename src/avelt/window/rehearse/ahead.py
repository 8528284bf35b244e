"""What a touch may start is worked out before it comes: the first picture of a transition is there at once."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

from avelt.core.cache import Cache
from avelt.core.model.values import Project
from avelt.core.timing.compile import compile_route
from avelt.core.timing.program import Program, Scene
from avelt.window.common.jobs import Job, Latest

_BETWEEN = 30  # ms between two pictures that are painted ahead, for what else there is to do
_KNOWN = 24  # transitions that are known to be painted
_EARLY = 16.0  # ms into a transition: what its first picture needs


class Ahead(QObject):
    """Compiles the transitions that leave the frame in front, in the background, and has an early picture of each
    painted, one after the other, while nothing moves: the compiler and the painter keep what they need."""

    def __init__(
        self, parent: QObject, paint: Callable[[Scene], object], rests: Callable[[], bool], wide: Callable[[], float]
    ) -> None:
        """``paint`` paints a scene, ``wide`` px wide; ``rests``: whether nothing moves."""
        super().__init__(parent)
        self._paint, self._rests, self._wide = paint, rests, wide
        self._painted: Cache[bool] = Cache(_KNOWN)
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
        wide = self._wide()
        self._waiting = [program for program in programs if not self._painted.has((program,), wide)]
        self._turn.start(_BETWEEN)

    def _next(self) -> None:
        if not self._waiting:
            return
        if self._rests():
            program = self._waiting.pop(0)
            self._paint(program.at(min(_EARLY, program.duration / 2)))
            self._painted.get((program,), self._wide(), lambda: True)
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
