"""What a touch may start is worked out before it comes: the first picture of a transition is there at once."""

from __future__ import annotations

from PySide6.QtCore import QObject

from avelt.core.model.values import Project
from avelt.core.timing.compile import compile_route
from avelt.window.common.jobs import Job, Latest


class Ahead(QObject):
    """Compiles the transitions that leave the frame in front, in the background; the compiler keeps what it needs."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.jobs = Latest(self)
        self._seen: tuple[Project, str] | None = None

    def look(self, project: Project, frame_id: str) -> None:
        """A frame is in front: once for each, and again after an edit."""
        if self._seen is None or self._seen[0] is not project or self._seen[1] != frame_id:
            self._seen = (project, frame_id)
            self.jobs.start(_Compile((project, frame_id)))


class _Compile(Job):
    request: tuple[Project, str]

    def work(self) -> int:
        project, frame_id = self.request
        leaving = [route for route in project.routes if route.leaves == frame_id]
        for done, route in enumerate(leaving):
            if not self.go_on(done, len(leaving)):
                return done
            compile_route(project, route)
        return len(leaving)
